"""Looking for one finishing run from some position, in as little as it takes."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from ..rules import END, FINISHED, Move, Position, Rules


class OutOfBudgetError(Exception):
    """The search for a run was cut short: there may be one or not."""


def find_finish(
    rules: Rules,
    values: Sequence[int],
    budget: int,
    hopeless: Callable[[Position], bool] = lambda position: False,
) -> list[Move] | None:
    """A finishing run from given values, by breadth-first search.

    Args:
        rules: The rules.
        values: Where to start; they settle first.
        budget: The most positions to look at.
        hopeless: Positions known to lead nowhere.

    Returns:
        The moves of a run with the fewest moves, or ``None`` where there is none.

    Raises:
        OutOfBudgetError: The budget was used up before either was certain.
    """
    start = rules.settle(list(values))
    came: dict[Position, tuple[Position, Move] | None] = {start: None}
    ahead = [start]
    for position in ahead:
        if position[END] == FINISHED:
            moves = []
            step = came[position]
            while step is not None:
                moves.append(step[1])
                step = came[step[0]]
            return moves[::-1]
        if len(came) > budget:
            raise OutOfBudgetError
        for move, after in rules.successors(position):
            if after not in came and not hopeless(after):
                came[after] = (position, move)
                ahead.append(after)
    return None
