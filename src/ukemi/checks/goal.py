"""What of a large level matters to finishing and to getting stuck."""

from __future__ import annotations

from functools import cached_property

from ..rules import Position, Rules
from ..search.reduced.commuting import commutes
from ..search.reduced.landmarks import Landmarks
from ..search.reduced.prospects import Prospects
from .answers import Answer, settled
from .case import Case
from .free import Free
from .slices import Slices
from .without import Without
from .wrong import wrong_choices


class Goal:
    """What matters to finishing and to getting stuck: its positions, and its regions.

    Args:
        whole: The level under check.
        slices: Searches what matters to each question.
        everything: The regions of the whole level.
    """

    def __init__(self, whole: Case, slices: Slices, everything: Free) -> None:
        self.whole = whole
        self.slices = slices
        self.everything = everything

    @cached_property
    def case(self) -> Case:
        """Its positions, as far as they are looked at, with what regions tell of them."""
        case = self.slices.case(self.rules)
        if case.finish == Answer.UNKNOWN:
            free = self.everything.all_is_free == Answer.YES
            found = self.everything.regions if free else self.free.regions
            case.finish = settled(bool(found.finished), found.complete)
        if case.stuck == Answer.UNKNOWN and case.finish == Answer.YES:
            case.stuck = self._stuck
        if case.stuck == Answer.POSSIBLE and not case.complete and self.free.known:
            case.wrong, case.all_wrong = wrong_choices(self.free)
        return case

    @property
    def _stuck(self) -> Answer:
        """Whether anyone can get stuck, as far as regions tell."""
        if self._nothing_is_lost:
            return Answer.NEVER
        if not self.free.known:
            return Answer.UNKNOWN
        found = self.free.regions
        able = found.reaching(found.finished)
        if any(not can and not one.over for can, one in zip(able, found.regions, strict=True)):
            return Answer.POSSIBLE
        return Answer.NEVER if commutes(self.free.finder) else Answer.UNKNOWN

    @property
    def _nothing_is_lost(self) -> bool:
        """Whether nothing that matters to finishing is ever lost."""
        if self.everything.all_is_free == Answer.YES:
            return True
        return self.free.plainly

    @cached_property
    def free(self) -> Free:
        """Its regions."""
        return Free(self.whole, self.rules, self.slices.limits)

    @cached_property
    def marks(self) -> Landmarks | None:
        """What every finishing run must do, where nothing that matters to finishing is ever lost."""
        if self.everything.all_is_free == Answer.YES:
            return self.everything.landmarks
        return self.free.landmarks if self.free.plainly else None

    @property
    def rules(self) -> Rules:
        """The moves that matter."""
        return self.slices.goal_rules

    def marked(self, variable: int) -> bool:
        """Whether what every finishing run must do, and regions of the goal, tell a variable."""
        return self.everything.all_is_free == Answer.YES or variable in self.tracked

    @cached_property
    def changes(self) -> frozenset[int]:
        """The variables that moves which matter to finishing change."""
        kept = {move.number for move in self.rules.moves}
        moves = (move for move in self.whole.rules.moves if move.number in kept)
        return frozenset(variable for move in moves for variable in move.changes)

    @cached_property
    def tracked(self) -> frozenset[int]:
        """Those of them that matter to finishing themselves, so that regions tell them."""
        return frozenset(v for move in self.rules.moves for v in move.changes)

    @cached_property
    def reads(self) -> frozenset[int]:
        """The variables that matter to finishing, so that positions tell them apart."""
        return frozenset(variable for move in self.rules.moves for variable in move.reads)

    @cached_property
    def without(self) -> Without:
        """What can be done without some one thing."""
        things = {
            one.variable: one.before for one in self.whole.subjects if one.variable in self.tracked
        }
        return Without(self.free, self.whole.rules, things, self._can_finish)

    def _can_finish(self, position: Position) -> bool | None:
        return self._prospects.finishes(position)

    @cached_property
    def _prospects(self) -> Prospects:
        return self.slices.prospects(self.rules)
