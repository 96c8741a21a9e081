"""Whether a position can still finish, by searching regions; what is found out is kept."""

from __future__ import annotations

from ...rules import END, FINISHED, PLAYING, Position, Rules
from .macro import explore_regions
from .regions import Regions


class Prospects:
    """Tells which positions can still finish.

    Args:
        rules: The rules.
        most: The most regions to search for one position.
        deadline: When to stop at the latest, on the clock of :func:`time.perf_counter`.
    """

    def __init__(self, rules: Rules, most: int, deadline: float | None = None) -> None:
        self.regions = Regions(rules)
        self.most = most
        self.deadline = deadline
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
        region = self.regions.region(position)
        can = self._known.get(region.position)
        if can is None:
            found = explore_regions(self.regions, position, self.most, self.deadline)
            able = found.reaching(found.finished)
            for number, one in enumerate(found.regions):
                if found.complete or able[number]:
                    self._known[one.position] = bool(able[number])
            can = self._known.get(region.position, True)  # where it is not known, it may
        return not can
