"""Find one finishing run from a position, by the plain search."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator

from ..graph import CheapestWays
from ..rules import END, FINISHED, Move, Position, Rules
from ..spaces.limits import CutShortError, Limits


def find_finish(
    rules: Rules,
    start: Position,
    budget: int,
    hopeless: Callable[[Position], bool] = lambda position: False,
    limits: Limits | None = None,
) -> list[Move] | None:
    """A shortest finishing run from a position, by uniform-cost search.

    E. W. Dijkstra, "A note on two problems in connexion with graphs", Numerische Mathematik 1
    (1959), 269-271.

    Args:
        start: Where to start: a position, which has settled. To settle once more could change it.
        budget: The greatest number of positions to search.
        hopeless: Positions known to lead nowhere.
        limits: Says when the time is over.

    Returns:
        The moves of a run with the fewest steps, or ``None`` where there is none.

    Raises:
        CutShortError: The budget or the time was used up before either was certain.
    """

    def leads(position: Position) -> Iterator[tuple[Position, int, Move]]:
        for move, after in rules.successors(position):
            if after in ways.costs or not hopeless(after):
                yield after, move.cost, move

    ways = CheapestWays(start, leads)
    for position in ways:
        if position[END] == FINISHED:
            return ways.to(position)
        if len(ways.costs) > budget or (limits is not None and limits.over):
            raise CutShortError
    return None


def finishes_by(rules: Rules, start: Position, moves: Iterable[Move]) -> bool:
    """Whether all of some moves can be made from a position, and the last of them finishes."""
    here: Position | None = start
    for move in moves:
        here = None if here is None else rules.after(here, move)
    return here is not None and here[END] == FINISHED
