"""The positions of what matters to a question of a large level."""

from __future__ import annotations

from collections.abc import Collection, Hashable, Iterable
from functools import cached_property

from ..rules import Rules
from ..rules.reads import changed
from ..search import Limits
from ..search.explore import bytes_of
from ..search.reduced.alike import find_alike
from ..search.reduced.counting import Counting
from ..search.reduced.prospects import Prospects
from ..search.reduced.slices import Slicer
from .answers import Answer
from .case import Case
from .free import MOST_REGIONS, Free

#: The most positions for one question: all of them; where what is lost is not followed; where wings
#: that are alike are counted, so that fewer say more; and for the cheapest run with every reward.
EACH, EACH_PRUNED, EACH_COUNTED, MOST_TOGETHER = 20_000, 20_000, 50_000, 6_000

#: From so many positions on that matter to finishing, other questions do not look at all of theirs
#: where they can do with fewer.
LARGE = 5_000

#: The most moves, each counted once for each room it can be made in, to compare wings by.
MOST_COMPARED = 20_000

#: The memory for the positions of all questions, in bytes, where no other bound is given.
MOST_KEPT = 2_000_000_000

#: What tells the cases of one level apart: the moves, the variables, and how they were searched.
Key = tuple[Hashable, ...]


class Slices:
    """Searches what matters to each question, once.

    Args:
        whole: The level under check, whose search was cut short.
        limits: How far the search may go; its time has begun.
        free: The regions of the level.

    Attributes:
        large: Whether much matters to finishing; then so it does to whatever else is asked.
        positions: How many positions were looked at so far.
    """

    def __init__(self, whole: Case, limits: Limits, free: Free) -> None:
        self.whole = whole
        self.limits = limits
        self.free = free
        self.large = False
        self.positions = 0
        self._cases: dict[Key, Case] = {}

    @cached_property
    def slicer(self) -> Slicer:
        """What cuts the level down to what matters to a question."""
        return Slicer(self.whole.rules)

    @cached_property
    def goal_rules(self) -> Rules:
        """The moves that matter to finishing and to getting stuck."""
        return self.slicer.slice(())

    def case(
        self,
        rules: Rules,
        wanted: Iterable[int] = (),
        rooms: Iterable[int] = (),
        prune: bool = True,
    ) -> Case:
        """The positions of what matters to a question.

        Args:
            rules: What matters.
            wanted: The variables, and
            rooms: the rooms asked for; their wings are not counted with others.
            prune: Whether what follows where nothing finishes may be left out.
        """
        prune &= self.free.all_is_free != Answer.YES
        key = ("all", *_key(rules))
        case = self._cases.get(key)
        if case is None and not (prune and self.large):
            case = self._keep(key, Case(self.whole.level, self.most(EACH), rules, self.whole.rules))
            if rules is self.goal_rules:
                self.large = not case.complete or len(case.found.positions) > LARGE
        if case is not None and case.complete:
            return case
        counted = self.counted(rules, wanted, rooms)
        if counted is not None:
            return counted
        if case is not None and not prune:
            return case
        # What follows where all is lost counts for some questions: they share no case with others.
        key = ("pruned", *_key(rules))
        case = self._cases.get(key)
        return case or self._keep(key, self._pruned(rules, (), EACH_PRUNED))

    def counted(self, rules: Rules, wanted: Iterable[int], rooms: Iterable[int]) -> Case | None:
        """The positions with wings that are alike counted, where there are any, and if that is all."""
        if size(rules) > MOST_COMPARED:
            return None
        counting = Counting(rules, find_alike(rules, wanted, rooms))
        if not counting.groups:
            return None
        key = ("counted", *_key(rules), counting.merged)
        case = self._cases.get(key)
        if case is None:
            limits = self.most(EACH_COUNTED)
            level, original = self.whole.level, self.whole.rules
            found = Case(level, limits, counting.rules, original, counting=counting)
            case = self._keep(key, found)
        return case if case.complete else None

    def together(self, rules: Rules, wanted: Collection[int]) -> Case:
        """The positions from which a run still finishes with all of some variables changed."""
        counted = self.counted(rules, (), ())
        if counted is not None and counted.counting is not None and counted.counting.closed(wanted):
            return counted
        # Of a run that has them all in the end, no position is lost to having them all.
        key = ("together", *_key(rules))
        case = self._cases.get(key)
        return case or self._keep(key, self._pruned(rules, wanted, MOST_TOGETHER))

    def prospects(self, rules: Rules, wanted: Iterable[int] = ()) -> Prospects:
        """What tells whether a run finishes, having changed some variables."""
        return Prospects(rules, MOST_REGIONS, self.limits, wanted)

    def most(self, positions: int) -> Limits:
        """The limits of one question."""
        return self.limits.at_most(positions, len(self.whole.rules.variables))

    def _pruned(self, rules: Rules, wanted: Iterable[int], most: int) -> Case:
        prospects = self.prospects(rules, wanted)
        return Case(self.whole.level, self.most(most), rules, self.whole.rules, prospects)

    def _keep(self, key: Key, case: Case) -> Case:
        case.share(self.whole)
        self.positions += len(case.found.positions)
        self._cases[key] = case
        memory = self.limits.memory // 4 if self.limits.memory else MOST_KEPT
        each = bytes_of(self.whole.rules)
        kept = sum(len(one.found.positions) for one in self._cases.values())
        for old, one in list(self._cases.items())[1:-1]:  # the first is of the goal
            if kept * each <= memory:
                break
            kept -= len(one.found.positions)
            del self._cases[old]  # it is searched again if it is asked for
        return case


def size(rules: Rules) -> int:
    """How many moves there are, each counted once for each room it can be made in."""
    return sum(len(move.places) for move in rules.moves)


def _key(rules: Rules) -> Key:
    """The same for rules with the same moves and variables."""
    tracked = {variable for move in rules.moves for variable in move.changes}
    tracked |= changed(rules.settling)
    return tuple(move.number for move in rules.moves), frozenset(tracked)
