"""Bound the cost of every run into some positions from below, by the variables that every run changes."""

from __future__ import annotations

from ..rules import END, Rules
from ..spaces.space import S, Space
from .lower_bounds import LowerBound
from .walking_graph import WalkingGraph


def costs_at_least(rules: Rules, space: Space[S], positions: S) -> LowerBound:
    """Return a lower bound on the cost of the runs into some positions.

    If none of the positions has the first value of a variable, every run changes that variable.

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
