"""An estimate of what runs still cost, by position, that is never too high."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

from ..rules import PLACE, Position
from ..rules.expressions import Expression
from ..values import dataclass


class Term(NamedTuple):
    """A cost that is still to come in some positions.

    Attributes:
        rooms: The rooms that the player has to be in for that; ``None`` for any room.
        guard: What has to hold besides.
    """

    cost: int
    rooms: frozenset[int] | None
    guard: Expression

    def due(self, position: Position) -> bool:
        """Whether the cost is still to come in a position."""
        return (self.rooms is None or position[PLACE] in self.rooms) and self.guard.holds(position)


@dataclass(frozen=True)
class Estimate:
    """A lower bound on the cost of every run from a position into some targets.

    It is consistent: no move lowers it by more than the move costs. In the targets it is 0. So searching in
    order of cost and estimate together finds a cheapest run: P. E. Hart, N. J. Nilsson and B. Raphael,
    "A formal basis for the heuristic determination of minimum cost paths", IEEE Transactions on Systems
    Science and Cybernetics 4 (1968). A space relies on neither property before it has checked it.

    Attributes:
        terms: The costs that are summed up.
        first: Moves, by number, that some cheapest run makes at once wherever it can.
    """

    terms: Sequence[Term]
    first: frozenset[int]

    def of(self, position: Position) -> int:
        """The estimate for a position."""
        return sum(term.cost for term in self.terms if term.due(position))


#: Makes an estimate for the targets that are asked for, if it is needed.
MakeEstimate = Callable[[], Estimate]
