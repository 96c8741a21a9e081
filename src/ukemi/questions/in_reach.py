"""What can be walked to and done from a position of a run."""

from __future__ import annotations

import json
from collections.abc import Sequence

from ..rules import PLACE, Move, Position, Rules
from ..rules.steps import run
from ..spaces import CutShortError, Limits

#: The greatest number of positions to walk to in order to count the choices along one run.
MOST_WALKED = 200_000

#: For each variable, the moves that read it.
Watching = Sequence[Sequence[Move]]


def watching_of(rules: Rules) -> Watching:
    """For each variable, the moves that read it."""
    watching: list[list[Move]] = [[] for _ in rules.variables]
    for one in rules.moves:
        for variable in one.reads:
            watching[variable].append(one)
    return watching


def things_of(rules: Rules) -> Sequence[int]:
    """For each move, the first move that a player would call the same: a thing may lie there and be put down there."""
    first: dict[str, int] = {}
    return [first.setdefault(json.dumps(move.what), move.number) for move in rules.moves]


class Around:
    """The options after any free walking, updated along a run.

    Attributes:
        rooms: The rooms that can be walked to.
        things: The moves that can be made in them, but for walks, by number.
        plain: Whether the walks change nothing but the room; otherwise the options are not known.
    """

    def __init__(
        self, rules: Rules, watching: Watching, position: Position, limits: Limits
    ) -> None:
        self.rules = rules
        self._limits = limits
        self.rooms = {position[PLACE]}
        self.things: set[int] = set()
        self.plain = not rules.settling
        self._watching = watching
        self._here = position[PLACE]
        self._values = list(position)
        if self.plain:
            self._walk_on([self._here])

    def walk(self, move: Move) -> bool:
        """Make a walk; return whether it can be walked back: then what is in reach stays the same."""
        to = _leads(move)
        if not self.plain or to is None:
            return False
        here, self._here = self._here, to
        return any(_leads(back) == here and self._can(back, to) for back in self.rules.moves_at(to))

    def make(self, move: Move) -> bool:
        """Make a move that is no walk; return whether it is still known what is in reach."""
        values = self._values
        if not self.plain or PLACE in move.changes:
            return False
        before = {variable: values[variable] for variable in move.changes}
        values[PLACE] = self._here
        run(move.steps, values)
        for variable in before:
            if values[variable] != before[variable]:
                for one in self._watching[variable]:
                    if not self._look_again(one):
                        return False
        return self.plain

    def _look_again(self, move: Move) -> bool:
        places = [place for place in move.places if place in self.rooms]
        if move.what["do"] != "walk":
            self.things.discard(move.number)
            for place in places:
                self._look(move, place, [])
            return True
        rooms: list[int] = []
        for place in places:
            if not self._can(move, place) and _leads(move) in self.rooms:
                return False  # there may be no other way there
            self._look(move, place, rooms)
        self._walk_on(rooms)
        return True

    def _walk_on(self, rooms: list[int]) -> None:
        for room in rooms:  # grows as it is walked
            self._limits.check()
            for move in self.rules.moves_at(room):
                self._look(move, room, rooms)

    def _look(self, move: Move, room: int, rooms: list[int]) -> None:
        """Add a move to what can be done, if it can be made in a room; of a walk, add the room that it leads to."""
        if move.number in self.things or not self._can(move, room):
            return
        if move.what["do"] != "walk":
            if run(move.steps, self._values.copy()):
                self.things.add(move.number)
            return
        to = _leads(move)
        if to is None:
            self.plain = False
        elif to not in self.rooms:
            self.rooms.add(to)
            rooms.append(to)

    def _can(self, move: Move, room: int) -> bool:
        self._values[PLACE] = room
        return move.guard.holds(self._values)


def _leads(move: Move) -> int | None:
    """Where a walk leads that changes nothing else."""
    return move.leads_to if move.is_plain_walk else None


def by_walking(
    rules: Rules, position: Position, most: int, limits: Limits
) -> tuple[set[Position], set[int]]:
    """The positions that walking leads to, and the moves but for walks that can be made in them, by number.

    Raises:
        CutShortError: There are more positions than that, or the time was over first.
    """
    seen = {position}
    ahead = [position]
    things: set[int] = set()
    for here in ahead:
        limits.check()
        if len(seen) > most:
            raise CutShortError
        for option, after in rules.successors(here):
            if option.what["do"] != "walk":
                things.add(option.number)
            elif after not in seen:
                seen.add(after)
                ahead.append(after)
    return seen, things
