"""Two versions of a level beside each other: what a change did."""

from .compare import Comparison, Remark, compare_reports

__all__ = ["Comparison", "Remark", "compare_reports"]
