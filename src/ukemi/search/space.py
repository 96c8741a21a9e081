"""Spaces: what can come to pass in a level, as sets of positions.

Every question of a check is a short formula over these sets, whatever holds them.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..rules import Move


@dataclass(frozen=True, eq=False)
class Run:
    """Moves from the start, with what is known of how few steps would do.

    Attributes:
        moves: The moves.
        at_least: What any run to the same end costs at least.
    """

    moves: tuple[Move, ...]
    at_least: int

    @property
    def cost(self) -> int:
        """What it costs."""
        return sum(move.cost for move in self.moves)

    @property
    def shortest(self) -> bool:
        """Whether it is proven that none costs less."""
        return self.cost <= self.at_least
