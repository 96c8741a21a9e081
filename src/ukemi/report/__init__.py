"""Write a finished check as text, JSON, tables or a page."""

from .as_text import Line, plain_text, report_lines, summary_lines, summary_row, table_lines

__all__ = [
    "Line",
    "plain_text",
    "report_lines",
    "summary_lines",
    "summary_row",
    "table_lines",
]
