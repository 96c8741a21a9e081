"""Runs that finish from a changed position, or in a changed level, found within one budget."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import cached_property
from typing import TYPE_CHECKING

from ..facts.find_finish import find_finish, finishes_by
from ..facts.relaxed import Reach, Relaxed
from ..level import Level
from ..questions import ahead
from ..questions.context import AnyContext
from ..questions.verdict import Answer
from ..rules import Move, Position, compile_level
from ..spaces import CutShortError

if TYPE_CHECKING:
    from ..facts.relaxed_plan import Planner

#: Positions to plan from in each search, and in all searches of one check.
BUDGET, TOTAL_BUDGET = 80, 10_000

#: A short search plans from one position of so many.
SHORT = 8

#: The number of actions that plans go through which count as one more plan.
ACTIONS = 400

#: Positions to search in a changed level, before any plan.
NEARBY = 1_000

#: How many of the runs that were found are tried from other positions, before a search.
KEPT_RUNS = 4


class FinishingRuns:
    """Looks for finishing runs in one level.

    Attributes:
        relaxed: The relaxed level.
        short: Whether each search is a short one.
    """

    def __init__(self, context: AnyContext) -> None:
        self.context = context
        self.rules, self.limits = context.rules, context.limits
        self.relaxed = Relaxed(self.rules, self.limits)
        self.short = False
        # Plans for several players have many more moves.
        share = max(1, len(context.level.players)) ** 2
        self._left, self._budget = TOTAL_BUDGET // share // share, BUDGET // share
        self._reach: Reach | None = None
        self._found: list[list[Move]] = []  # the latest ones that finish with one change

    @property
    def over(self) -> bool:
        """Whether the budget is spent, or the time is over."""
        return self._left <= 0 or self.limits.over

    def begin(self, position: Position) -> None:
        """Set the position that is changed from now on; nothing finishes from it as it is."""
        self._reach = self.relaxed.reach(position)

    def finishes_from(self, values: Sequence[int]) -> bool:
        """Whether something is known to finish from some values."""
        start = self.rules.settle(list(values))
        return ahead.ask(self.context, start) == Answer.YES or self.run_from(values) is not None

    def run_from(self, values: Sequence[int]) -> list[Move] | None:
        """Return a finishing run from some values; ``None`` if none was found."""
        if self.over:
            return None
        start = self.rules.settle(list(values))
        if not self.context.may_finish(start) or self._changes_nothing(values):
            return None
        if self.context.few and 2 * self.context.positions <= NEARBY:
            try:
                return find_finish(self.rules, start, NEARBY, self._hopeless, self.limits)
            except CutShortError:
                pass
        for run in self._found:
            if finishes_by(self.rules, start, run):
                return run
        found = self._plan(self._planner, values, self._hopeless)
        if found is not None:
            self._found = [found, *self._found[: KEPT_RUNS - 1]]
        return found

    def finishes_in(self, level: Level, position: Position | None) -> bool:
        """Whether a run was found that finishes in a changed level: from a position, or from its start."""
        if self.over:
            return False
        # A position that was hopeless may not be so under other rules. A plan costs more than many
        # positions here.
        rules = compile_level(level)
        position = rules.start() if position is None else position
        self._left -= BUDGET // 10
        try:
            return find_finish(rules, position, NEARBY, limits=self.limits) is not None
        except CutShortError:
            planner = self._planner_of(Relaxed(rules, self.limits))
            return self._plan(planner, position, _nothing_known) is not None

    def _plan(
        self, planner: Planner | None, values: Sequence[int], hopeless: Callable[[Position], bool]
    ) -> list[Move] | None:
        self._left -= BUDGET // 10  # a small search costs little, but not nothing
        if planner is None:
            return None
        from ..facts.guided import find_run  # for large levels only

        before = planner.work
        most = max(self._budget // SHORT, 4) if self.short else self._budget
        try:
            return find_run(planner, planner.rules.settle(list(values)), most, hopeless)
        except CutShortError:
            self._left -= most
            return None
        finally:
            self._left -= (planner.work - before) // ACTIONS

    @cached_property
    def _planner(self) -> Planner | None:
        return self._planner_of(self.relaxed)

    def _planner_of(self, relaxed: Relaxed) -> Planner | None:
        from ..facts.relaxed_plan import Planner  # for large levels only

        try:
            return Planner(relaxed)
        except CutShortError:
            return None

    def _hopeless(self, position: Position) -> bool:
        return ahead.hopeless(self.context, position) or not self.context.may_finish(position)

    def _changes_nothing(self, values: Sequence[int]) -> bool:
        """Whether it is plain that nothing finishes from given values either."""
        assert self._reach is not None
        return not self.relaxed.with_more(self._reach, values).finishes


def _nothing_known(position: Position) -> bool:
    """Whether a position is known to be lost in a changed level: none is."""
    return False
