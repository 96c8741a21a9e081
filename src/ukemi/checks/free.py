"""Whether nothing in a level, or in a part of it, is ever lost, and what every run must do then."""

from __future__ import annotations

from functools import cached_property

from ..rules import Rules
from ..search import Limits
from ..search.reduced.landmarks import Landmarks, UncountedError
from ..search.reduced.macro import Explored, explore_regions
from ..search.reduced.regions import Regions
from .answers import Answer, settled
from .case import Case

#: The most regions to come to for one question.
MOST_REGIONS = 3_000


class Free:
    """The regions of a level under check, or of what of it matters to a question.

    Args:
        whole: The level under check.
        rules: Its rules, or what of them matters.
        limits: How far the search may go.

    Attributes:
        looked: How many regions were looked at so far.
    """

    def __init__(self, whole: Case, rules: Rules, limits: Limits) -> None:
        self.whole = whole
        self.rules = rules
        self.limits = limits
        self.looked = 0

    def explore(self, finder: Regions) -> Explored:
        """Explore regions from the start, as far as the limits allow."""
        found = explore_regions(finder, finder.rules.start(), MOST_REGIONS, self.limits)
        self.looked += len(found.regions)
        return found

    @cached_property
    def regions(self) -> Explored:
        """The regions."""
        return self.explore(self.finder)

    @cached_property
    def finder(self) -> Regions:
        """What finds the regions."""
        return Regions(self.rules)

    @property
    def known(self) -> bool:
        """Whether regions tell anything, and all of them are known."""
        return self.finder.safety.able and self.regions.complete

    @property
    def plainly(self) -> bool:
        """Whether one look tells that nothing is ever lost."""
        return self.finder.nothing_is_lost(self.rules.start())

    @cached_property
    def all_is_free(self) -> Answer:
        """Whether nothing that can be done is ever lost, whatever the player does."""
        if not self.finder.safety.able:
            return Answer.UNKNOWN
        found = self.regions
        playing = [one for one in found.regions if not one.over]
        dead = len(found.regions) - len(playing) - len(found.finished)
        free = found.complete and len(playing) == 1 and not dead
        return settled(free and not self.finder.passed_over(playing[0]), found.complete)

    @cached_property
    def landmarks(self) -> Landmarks | None:
        """What every run must do, where nothing is ever lost."""
        if self.all_is_free != Answer.YES:
            return None
        safety = self.finder.safety
        (playing,) = [one for one in self.regions.regions if not one.over]
        last = [(move, after) for move, _, after in self.finder.ways_on(playing)]
        if any(move.what["do"] not in ("walk", "finish") for move, _ in last):
            return None
        about = {move.number for move, _ in last if move.what["do"] == "walk"}
        about |= self.finder.ways_about(playing)
        ending = frozenset(self.finder.ending_in(playing))
        watched: dict[int, int] = {}
        for subject in self.whole.subjects:
            watched[subject.variable] = self.whole.bits[subject.name]
        try:
            free = safety.safe | safety.giving
            return Landmarks(self.rules, watched, free, about - free, ending)
        except UncountedError:
            return None
