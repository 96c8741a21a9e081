"""The fastest search of all positions there is for some rules."""

from __future__ import annotations

from ..rules import Rules
from .explore import Exploration, explore
from .limits import Limits


def explore_fast(rules: Rules, limits: Limits, most_work: int | None = None) -> Exploration | None:
    """Explore every position that can be reached: packed, or where that cannot be, plainly.

    Args:
        rules: The variables and moves.
        limits: How far to go.
        most_work: The most work before giving up, about that of finding so many moves; ``None`` for any.

    Returns:
        What was found; ``None`` where it was given up before it was begun: packing cannot be done.
    """
    from .packed import TooLargeError, explore_packed  # NumPy is loaded for large levels only

    try:
        return explore_packed(rules, limits, most_work)
    except TooLargeError:
        return None if most_work is not None else explore(rules, limits)
