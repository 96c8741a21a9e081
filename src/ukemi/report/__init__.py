"""Write a finished check as text, JSON, tables or a page."""

from .as_json import report_dict
from .as_text import Line, plain_text, report_lines, summary_lines, summary_row, table_lines
from .table import measures_table

__all__ = [
    "Line",
    "measures_table",
    "plain_text",
    "report_dict",
    "report_lines",
    "summary_lines",
    "summary_row",
    "table_lines",
]
