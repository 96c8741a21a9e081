"""The fastest search of all positions there is for some rules."""

from __future__ import annotations

from ..rules import Rules
from .explore import Exploration, explore
from .limits import Limits


def explore_fast(rules: Rules, limits: Limits) -> Exploration:
    """Explore every position that can be reached: packed, or where that cannot be, plainly.

    Args:
        rules: The variables and moves.
        limits: How far to go.

    Returns:
        What was found.
    """
    from .packed import TooLargeError, explore_packed  # NumPy is loaded for large levels only

    try:
        return explore_packed(rules, limits)
    except TooLargeError:
        return explore(rules, limits)
