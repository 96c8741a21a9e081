"""Propose changes to a level that a check proves to help."""

from .listing import (
    Mends,
    add_mends,
    gravest,
    mends_of,
    mends_of_finding,
    mends_of_report,
    mends_of_text,
)
from .mend import Mend
from .trial import MOST_CHECKED

__all__ = [
    "MOST_CHECKED",
    "Mend",
    "Mends",
    "add_mends",
    "gravest",
    "mends_of",
    "mends_of_finding",
    "mends_of_report",
    "mends_of_text",
]
