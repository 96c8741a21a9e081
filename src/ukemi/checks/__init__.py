"""The questions a check asks, one a file, each returning findings."""

from .answers import Answer
from .check import check_level
from .result import Answers, Finding, Mistake, Report

__all__ = ["Answer", "Answers", "Finding", "Mistake", "Report", "check_level"]
