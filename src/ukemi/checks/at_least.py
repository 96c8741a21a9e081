"""What every run into some positions costs at least, by what has been done in all of them."""

from __future__ import annotations

from typing import Any

from ..facts.bridges import WalkingGraph
from ..facts.lower_bounds import LowerBound
from ..rules import END, Rules
from ..spaces.space import Space


def costs_at_least(rules: Rules, space: Space, positions: Any) -> LowerBound:
    """Return a lower bound on the cost of the runs into some positions.

    A variable that has its first value in none of them was changed on every run.

    Args:
        rules: The rules of a level for one player.
        space: The space that holds the positions.
        positions: The positions.

    Returns:
        The bound, with its evidence.
    """
    start = rules.start()
    changed = [
        variable
        for variable in range(END + 1, len(rules.variables))
        if not space.having(variable, start[variable], positions)
    ]
    made_in: dict[int, set[int]] = {variable: set() for variable in changed}
    for move in rules.moves:
        for variable in made_in.keys() & {*move.changes}:
            made_in[variable].update(move.places)
    by_itself = {*rules.changes_by_itself}
    rooms = {
        room
        for one, some in made_in.items()
        if len(some) == 1 and one not in by_itself
        for room in some
    }
    return LowerBound(rules, WalkingGraph(rules), changed, rooms, space.places(positions))
