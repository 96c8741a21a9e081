"""Compare two versions of a level: what changed, and what that does to the answers."""

from .compare import Comparison, Remark, compare_reports

__all__ = ["Comparison", "Remark", "compare_reports"]
