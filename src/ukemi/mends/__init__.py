"""Propose changes to a level, and offer those that a check proves to help."""

from .mend import Mend
from .offers import Offer, mends_of, mends_of_report
from .proving import Budget, add_mends, find_mends, tries_for, with_mends
from .unreadable import mends_of_reading

__all__ = [
    "Budget",
    "Mend",
    "Offer",
    "add_mends",
    "find_mends",
    "mends_of",
    "mends_of_reading",
    "mends_of_report",
    "tries_for",
    "with_mends",
]
