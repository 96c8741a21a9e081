"""Sets of positions as binary decision diagrams."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ...rules import Rules
from ..limits import Limits

if TYPE_CHECKING:
    from .space import SymbolicSpace


def symbolic_space(rules: Rules, limits: Limits) -> SymbolicSpace | None:
    """The symbolic space of a level; ``None`` where diagrams are not good for it.

    Args:
        rules: The rules.
        limits: How far the search may go.
    """
    from ...rules.branches import TooManyBranchesError
    from .effects import TooLargeError
    from .space import SymbolicSpace

    try:
        return SymbolicSpace(rules, limits)
    except (TooManyBranchesError, TooLargeError):
        return None
