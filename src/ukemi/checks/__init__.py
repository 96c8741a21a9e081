"""Answer the questions of a check, and report findings with their reasons and routes."""

from ..findings.finding import Finding, Mistake
from ..questions.answers import Answers
from ..questions.verdict import Answer
from .check import check_level
from .result import Report

__all__ = ["Answer", "Answers", "Finding", "Mistake", "Report", "check_level"]
