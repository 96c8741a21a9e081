"""What every run into some positions costs at least, by what has been done in all of them."""

from __future__ import annotations

from typing import Any

from ..level import Level
from ..level.joined import Joined
from ..rules import END, PLACE, Rules
from ..search.reduced.bounds import takes_at_least
from ..search.reduced.ground import Ground
from ..search.space import Space


def costs_at_least(level: Level, rules: Rules, space: Space, positions: Any) -> int:
    """The steps that no run into some positions has fewer than; 0 for campaigns and several players.

    A variable that is not in any of them what it was at the start was changed by a move.
    """
    if isinstance(level, Joined) or level.several:
        return 0
    start = rules.start()
    by_itself = {PLACE, END, *rules.changes_by_itself}
    changed = [
        variable
        for variable in range(len(rules.variables))
        if variable not in by_itself and not space.having(variable, start[variable], positions)
    ]
    made_in: dict[int, set[int]] = {variable: set() for variable in changed}
    for move in rules.moves:
        for variable in made_in.keys() & {*move.changes}:
            made_in[variable].update(move.places)
    places = space.places(positions)
    ends = places if len(places) == 1 else set()
    rooms = ends.union(*(some for some in made_in.values() if len(some) == 1))
    return takes_at_least(rules, Ground(rules), changed, rooms, ends)
