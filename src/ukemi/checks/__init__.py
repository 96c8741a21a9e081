"""Answer the questions of a check, and report findings with their reasons and routes."""

from .answers import Answer
from .check import check_level
from .result import Answers, Finding, Mistake, Report

__all__ = ["Answer", "Answers", "Finding", "Mistake", "Report", "check_level"]
