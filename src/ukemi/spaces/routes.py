"""Routes: listed moves, shown as evidence only after the rules have replayed them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ..rules import Move, Position, Rules
from ..rules.words import move_words
from ..values import dataclass
from .limits import Limits
from .positions import Positions


class ReplayError(RuntimeError):
    """A route that the rules do not allow; a bug in Ukemi, never in a level."""


@dataclass(frozen=True, eq=False)
class Route:
    """Moves from the start, with the position before the first and after each.

    Attributes:
        moves: The chosen moves, in order.
        positions: One position more than moves.
        at_least: A proven lower bound on the cost of any route to the same end.
    """

    moves: tuple[Move, ...]
    positions: Sequence[Position]
    at_least: int = 0

    @property
    def shortest(self) -> bool:
        """Whether it is proven that none costs less."""
        return self.steps <= self.at_least

    @property
    def steps(self) -> int:
        """The cost of the route."""
        return sum(move.cost for move in self.moves)

    @property
    def whats(self) -> list[dict[str, Any]]:
        """The moves as reports write them."""
        return [move.what for move in self.moves]

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Route):
            return NotImplemented
        return self.whats == other.whats and self.at_least == other.at_least

    def __hash__(self) -> int:
        return hash((len(self.moves), self.steps, self.at_least))

    def __repr__(self) -> str:
        words = ", ".join(move_words(what) for what in self.whats)
        return f"<Route of {self.steps} step{'' if self.steps == 1 else 's'}: {words}>"


def replay(
    rules: Rules,
    moves: Sequence[Move],
    start: Position | None = None,
    at_least: int = 0,
    limits: Limits | None = None,
) -> Route:
    """Play moves by the rules, one after another.

    Args:
        rules: The rules.
        moves: The moves.
        start: Where to start, if not where the level does.
        at_least: A proven lower bound on the cost of any route to the same end.
        limits: How long it may take; ``None`` for as long as it takes.

    Returns:
        The route, which the rules allow.

    Raises:
        ReplayError: A move cannot be made.
        CutShortError: The time was over first.
    """
    position = rules.start() if start is None else start
    positions = Positions(position)
    for number, move in enumerate(moves, 1):
        if limits is not None:
            limits.check()
        after = rules.after(position, move)
        if after is None:
            raise ReplayError(f"move {number} of a route cannot be made: {move.what}")
        position = after
        positions.add(position, (*move.changes, *rules.changes_by_itself))
    return Route(tuple(moves), positions, at_least)
