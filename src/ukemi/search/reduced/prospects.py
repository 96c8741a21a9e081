"""Whether a position can still finish, by searching regions; what is found out is kept."""

from __future__ import annotations

from ...rules import END, FINISHED, PLAYING, Position, Rules
from ..limits import Limits
from .regions import Region, Regions

#: The regions to look at in all, for each that may be looked at for one position.
TOTAL = 20


class Prospects:
    """Tells which positions can still finish.

    Args:
        rules: The rules.
        most: The most regions to search for one position.
        limits: Says when the time is over.
    """

    def __init__(self, rules: Rules, most: int, limits: Limits) -> None:
        self.regions = Regions(rules)
        self.most = most
        self.limits = limits
        self._left = most * TOTAL
        self._known: dict[Position, bool] = {}
        self._seen: dict[Position, bool] = {}

    def lost(self, position: Position) -> bool:
        """Whether it is proven that nothing finishes from a position."""
        if position[END] != PLAYING:
            return position[END] != FINISHED
        known = self._seen.get(position)
        if known is None:
            known = self._seen[position] = self._lost(position)
        return known

    def _lost(self, position: Position) -> bool:
        """Search depth first until something is known to finish, or nothing is left."""
        first = self.regions.region(position)
        came: dict[Position, Position | None] = {first.position: None}
        ahead: list[Region] = [first]
        while ahead:
            region = ahead.pop()
            here = region.position
            if self._known.get(here, here[END] == FINISHED):
                self._can_finish(here, came)
                return False
            if here in self._known:
                continue  # nothing finishes from there
            if len(came) > self.most or self._left <= 0 or self.limits.over:
                return False  # it is not known
            for _, _, after in self.regions.ways_on(region):
                following = self.regions.region(after)
                self._left -= 1
                if following.position not in came:
                    came[following.position] = here
                    ahead.append(following)
        self._known.update(dict.fromkeys(came, False))
        return True

    def _can_finish(self, position: Position, came: dict[Position, Position | None]) -> None:
        """Keep that a region can finish, and so can those it was come to from."""
        here: Position | None = position
        while here is not None:
            self._known[here] = True
            here = came[here]
