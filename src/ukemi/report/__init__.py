"""A finished check as text and in the formats other tools read."""

from .as_json import report_dict
from .as_text import Line, plain_text, report_lines

__all__ = ["Line", "plain_text", "report_dict", "report_lines"]
