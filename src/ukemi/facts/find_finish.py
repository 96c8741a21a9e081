"""Looking for one finishing run from some position, in as little as it takes."""

from __future__ import annotations

from collections.abc import Callable
from heapq import heappop, heappush

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
        rules: The rules.
        start: Where to start: a position, which has settled. To settle once more could change it.
        budget: The greatest number of positions to search.
        hopeless: Positions known to lead nowhere.
        limits: Says when the time is over.

    Returns:
        The moves of a run with the fewest steps, or ``None`` where there is none.

    Raises:
        CutShortError: The budget or the time was used up before either was certain.
    """
    costs: dict[Position, int] = {start: 0}
    came: dict[Position, tuple[Position, Move]] = {}
    ahead: list[tuple[int, int, Position]] = [(0, 0, start)]
    while ahead:
        cost, _, position = heappop(ahead)
        if cost > costs[position]:
            continue
        if position[END] == FINISHED:
            moves = []
            while position in came:
                position, move = came[position]
                moves.append(move)
            return moves[::-1]
        if len(costs) > budget or (limits is not None and limits.over):
            raise CutShortError
        for move, after in rules.successors(position):
            reached = cost + move.cost
            known = costs.get(after)
            if (known is None or reached < known) and not hopeless(after):
                costs[after] = reached
                came[after] = (position, move)
                heappush(ahead, (reached, len(came), after))
    return None
