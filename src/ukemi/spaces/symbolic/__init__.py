"""Sets of positions as binary decision diagrams."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from ...rules import Rules
from ..limits import CutShortError, Limits

#: How many nodes to ask for at first, and where those are too few. The first are enough for most levels: to release
#: unused nodes takes a second, and forgets what was worked out.
NODES = (1 << 24, 1 << 26)

if TYPE_CHECKING:
    from .diagram_space import SymbolicSpace


def symbolic_space(
    rules: Rules,
    limits: Limits,
    on_finish: Callable[[], None] = lambda: None,
    meanwhile: Callable[[], None] = lambda: None,
) -> SymbolicSpace | None:
    """The symbolic space of a level; ``None`` where diagrams are not good for it.

    Args:
        on_finish: Called as soon as a finished position is known, long before all positions are.
        meanwhile: Called once if the positions take long; what it does need not be about them.
    """
    from ...rules.branches import TooManyBranchesError
    from .diagram_space import SymbolicSpace
    from .encoding import TooLargeError

    try:
        for nodes in NODES:
            space = SymbolicSpace(rules, limits, nodes, on_finish, meanwhile)
            if space.complete or limits.over or space.nodes < nodes:
                break  # it is all there, or more nodes would not help
    except (CutShortError, TooManyBranchesError, TooLargeError, MemoryError):
        return None
    return space
