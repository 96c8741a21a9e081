"""Compare two versions of a level and their answers."""

from .compare import Comparison, Remark, compare_reports

__all__ = ["Comparison", "Remark", "compare_reports"]
