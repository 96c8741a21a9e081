"""Propose changes to a level, and offer those that a check proves to help."""

from .mend import Mend
from .offers import Offer, Offers, mends_of, mends_of_report, mends_of_text
from .proving import Budget, add_mends, find_mends, tries_for, with_mends

__all__ = [
    "Budget",
    "Mend",
    "Offer",
    "Offers",
    "add_mends",
    "find_mends",
    "mends_of",
    "mends_of_report",
    "mends_of_text",
    "tries_for",
    "with_mends",
]
