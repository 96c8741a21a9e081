"""What a run can do before, or without, some one thing: told by regions, where positions are too many."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

from ..rules import END, FINISHED, PLACE, Position, Rules
from ..search.reduced.macro import Explored, explore_regions
from ..search.reduced.regions import Regions
from .answers import Answer, settled
from .free import MOST_REGIONS, Free

#: A thing that shows in a variable, by the number of the variable; or a room, numbered after those.
Node = int


class Without:
    """Plays on without ever doing one thing, or entering one room, as far as that leads.

    Args:
        free: The regions of what matters to finishing.
        whole: All rules of the level.
        things: The variables that show what was done, with the value each has until then.
        can_finish: Whether a run finishes from a position; ``None`` where that is not settled.
    """

    def __init__(
        self,
        free: Free,
        whole: Rules,
        things: Mapping[int, int],
        can_finish: Callable[[Position], bool | None],
    ) -> None:
        self.free = free
        self.whole = whole
        self.things = things
        self.looked = 0
        self._can_finish = can_finish
        self._first_room = len(free.rules.variables)
        self._before: dict[Node, int | None] = {}

    def room(self, place: int) -> Node:
        """The node of a room."""
        return self._first_room + place

    def finishes(self, node: Node) -> Answer:
        """Whether a run finishes without a thing, or without entering a room."""
        if self.free.limits.over:
            return Answer.UNKNOWN
        finder, doing = self._but(node)
        found = self._explore(finder, lambda position: position[END] == FINISHED)
        if not found.finished and found.complete:
            self._before[node] = self._done(found, doing)
        return settled(bool(found.finished), found.complete)

    def before(self, node: Node) -> int | None:
        """What finishing runs can do before a thing, or before entering a room, or by the same move.

        Returns:
            The nodes, as bits; ``None`` where that is not settled.
        """
        if node not in self._before:
            start = self.free.rules.start()
            begins = self._nodes(start, [start[PLACE]])
            if begins >> node & 1:
                self._before[node] = begins
            else:
                finder, doing = self._but(node)
                self._before[node] = self._done(self._explore(finder), doing)
        return self._before[node]

    def _explore(
        self, finder: Regions, enough: Callable[[Position], bool] | None = None
    ) -> Explored:
        start = finder.rules.start()
        found = explore_regions(finder, start, MOST_REGIONS, self.free.limits, enough)
        self.looked += len(found.regions)
        return found

    def _but(self, node: Node) -> tuple[Regions, set[int]]:
        """What finds regions without a thing or a room, and the moves that are left out of them."""
        finder = self.free.finder
        if node < self._first_room:
            doing = {move.number for move in self.whole.moves if node in move.changes}
            return finder.but(without=doing), doing
        place = node - self._first_room
        doing = {move.number for move in self.free.rules.moves if finder.leads(move) == place}
        return finder.but(closed=[place]), doing

    def _done(self, found: Explored, doing: set[int]) -> int | None:
        """What is done in the regions that were found, and by the moves that lead on from them."""
        if not found.complete:
            return None
        whole = self.free.finder
        done = 0
        for region in found.regions:
            can = self._can_finish(region.position)
            if can is None:
                return None
            if not can:
                continue
            done |= self._nodes(region.position, region.rooms)
            for room in () if region.over else region.rooms:
                for move in self.free.rules.moves_at(room):
                    if move.number not in doing:
                        continue
                    after = whole.after(list(region.position), move, room)
                    if after is None:
                        continue
                    can = self._can_finish(tuple(after))
                    if can is None:
                        return None
                    if can:
                        done |= self._nodes(after, [after[PLACE]])
        return done

    def _nodes(self, values: Iterable[int], rooms: Iterable[int]) -> int:
        """The things done and the rooms, as bits."""
        values = list(values)
        done = 0
        for variable, before in self.things.items():
            if values[variable] != before:
                done |= 1 << variable
        for room in rooms:
            done |= 1 << self.room(room)
        return done
