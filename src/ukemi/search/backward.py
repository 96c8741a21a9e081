"""Looking back: from which positions can others be reached?"""

from __future__ import annotations

from collections.abc import Iterable

from .explore import Exploration


def reaching(found: Exploration, targets: Iterable[int]) -> bytearray:
    """Mark the positions from which at least one target can be reached.

    Breadth-first search against the moves.

    Args:
        found: The positions and moves.
        targets: Numbers of positions; each reaches itself.

    Returns:
        One byte a position: 1 if it reaches a target by the moves that were found.
    """
    return found.reaching(targets)


def reached_from(found: Exploration, number: int) -> list[int]:
    """The positions that can be reached from one, itself first.

    Args:
        found: The positions and moves.
        number: Where to start.

    Returns:
        Their numbers.
    """
    seen = {number}
    ahead = [number]
    for current in ahead:
        for _, after in found.moves[current]:
            if after not in seen:
                seen.add(after)
                ahead.append(after)
    return ahead
