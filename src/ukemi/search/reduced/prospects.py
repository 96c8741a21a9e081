"""Whether a position can still finish, by searching regions; what is found out is kept."""

from __future__ import annotations

from collections.abc import Iterable

from ...rules import END, FINISHED, PLAYING, Move, Position, Rules
from ..limits import Limits
from .macro import explore_regions
from .regions import Region, Regions
from .relaxed import Relaxed
from .runs import run_to

#: The regions to look at in all, for each that may be looked at for one position.
TOTAL = 20

#: The regions to look at before it is asked whether there is any hope at all.
AT_FIRST = 8


class Prospects:
    """Tells which positions can still finish.

    Args:
        rules: The rules.
        most: The most regions to search for one position.
        limits: Says when the time is over.
        wanted: Variables that a finished position counts with only where they have changed.
    """

    def __init__(
        self,
        rules: Rules,
        most: int,
        limits: Limits,
        wanted: Iterable[int] = (),
    ) -> None:
        self.regions = Regions(rules)
        self.most = most
        self.limits = limits
        self._wanted = {variable: rules.initial[variable] for variable in wanted}
        self._relaxed = Relaxed(rules)
        self._left = most * TOTAL
        self._known: dict[Position, bool] = {}
        self._tried: set[Position] = set()
        self._seen: dict[Position, bool | None] = {}

    def lost(self, position: Position, by: Move | None = None) -> bool:
        """Whether it is proven that nothing finishes from a position.

        Args:
            position: The position.
            by: The move it was come to by, from one that is not lost; ``None`` if not known.
        """
        if by is not None and position[END] == PLAYING and self.free(position, by):
            return False
        return self.finishes(position) is False

    def free(self, position: Position, by: Move) -> bool:
        """Whether all that could be done before a move can be done from the position after it.

        Args:
            position: The position after the move; still playing.
            by: The move.
        """
        return self.regions.keeps_all(position, by)

    def finishes(self, position: Position) -> bool | None:
        """Whether a run finishes from a position; ``None`` where that is not settled."""
        if position[END] != PLAYING:
            return self._finished(position)
        if position not in self._seen:
            self._seen[position] = self._search(position)
        return self._seen[position]

    def run(self, position: Position) -> list[Move]:
        """A run that finishes from a position, of which it is known that there is one."""
        found = explore_regions(self.regions, position, self.most, self.limits, self._finished)
        for number, region in enumerate(found.regions):
            if self._finished(region.position):
                return run_to(self.regions, found, number, position)
        return []

    def _finished(self, position: Position) -> bool:
        return position[END] == FINISHED and all(
            position[variable] != before for variable, before in self._wanted.items()
        )

    def _hopeless(self, position: Position) -> bool:
        """Whether nothing finishes even were nothing ever lost."""
        reach = self._relaxed.reach(position)
        return not reach.finishes or not all(
            reach.changes(variable, before) for variable, before in self._wanted.items()
        )

    def _search(self, position: Position) -> bool | None:
        """Search depth first until something is known to finish, or nothing is left."""
        first = self.regions.region(position)
        came: dict[Position, Position | None] = {first.position: None}
        ahead: list[Region] = [first]
        while ahead:
            region = ahead.pop()
            here = region.position
            if self._known.get(here, self._finished(here)):
                self._can_finish(here, came)
                return True
            if here in self._known:
                continue  # nothing finishes from there
            if len(came) > self.most or self._left <= 0 or self.limits.over:
                return None
            if len(came) > AT_FIRST and first.position not in self._tried:
                self._tried.add(first.position)
                if self._hopeless(position):
                    self._known[first.position] = False
                    return False
            for _, _, after in self.regions.ways_on(region):
                following = self.regions.region(after)
                self._left -= 1
                if following.position not in came:
                    came[following.position] = here
                    ahead.append(following)
        self._known.update(dict.fromkeys(came, False))
        return False

    def _can_finish(self, position: Position, came: dict[Position, Position | None]) -> None:
        """Keep that a region can finish, and so can those it was come to from."""
        here: Position | None = position
        while here is not None:
            self._known[here] = True
            here = came[here]

    def nothing_is_lost(self, position: Position) -> bool:
        """Whether it is plain that whatever is done from a position, nothing is lost by it."""
        return self.regions.nothing_is_lost(position)
