"""What is still possible from a position: finishing, and how."""

from __future__ import annotations

from functools import cached_property

from ..checks import Answer
from ..checks.over_sets import OverSets
from ..checks.reason import Reason
from ..level import Level
from ..rules import END, FINISHED, PLAYING, Move, Position, Rules
from ..search import CutShortError, Limits, OutOfBudgetError, Route, find_finish
from ..search.explicit import ExplicitSpace

#: How far the whole level is explored for a play, and how far each position beyond that.
WHOLE = Limits(positions=150_000, seconds=10.0)
EACH = 50_000


class Outlook:
    """Says what is still possible; the level is explored when first asked.

    Args:
        level: The level.
        rules: Its rules.
        budget: The most positions to look at, in all, beyond those of the whole level; after that,
            what is not known is ``unknown``.
    """

    def __init__(self, level: Level, rules: Rules, budget: int = 5_000_000) -> None:
        self.level = level
        self.rules = rules
        self._left = budget
        self._known: dict[Position, Answer] = {}

    @cached_property
    def sets(self) -> OverSets:
        """The level, explored as far as :data:`WHOLE` allows."""
        return OverSets(self.level, self.rules, ExplicitSpace(self.rules, WHOLE.begin()))

    @cached_property
    def mistakes(self) -> list[Move] | None:
        """Every kind of move that loses the level; ``None`` where not all are known."""
        if not self.sets.complete:
            return None
        try:
            return list(self.sets.losing_moves())
        except CutShortError:
            return None

    @property
    def shortest_of_all(self) -> int | None:
        """The steps of the shortest finishing run of the level, where that is proven."""
        route = self.sets.finishing()
        return route.steps if route is not None and route.shortest else None

    def can_finish(self, position: Position) -> Answer:
        """Whether the level can still be finished: ``unknown`` where that is not settled.

        Args:
            position: A position that play has led to.

        Returns:
            The answer.
        """
        if position[END] != PLAYING:
            return Answer.YES if position[END] == FINISHED else Answer.NO
        known = self._known.get(position)
        if known is None:
            known = self._known[position] = self._look(position)
        return known

    def _look(self, position: Position) -> Answer:
        if self.sets.space.contains(self.sets.can_finish, position):
            return Answer.YES
        if self.sets.space.contains(self.sets.lost, position):
            return Answer.NO
        try:
            return Answer.NO if self._search(position) is None else Answer.YES
        except OutOfBudgetError:
            return Answer.UNKNOWN

    def shortest(self, position: Position) -> list[Move] | None:
        """The moves of a shortest finishing run from a position.

        Args:
            position: The position.

        Returns:
            The moves; ``None`` where there is none.

        Raises:
            OutOfBudgetError: That is not settled.
        """
        if self.can_finish(position) == Answer.NO:
            return None
        return self._search(position)

    def _search(self, position: Position) -> list[Move] | None:
        if self.sets.complete:
            return find_finish(self.rules, position, self.sets.positions, self._hopeless)
        budget = min(EACH, self._left)
        self._left -= budget // 20  # a small search costs little, but not nothing
        try:
            return find_finish(self.rules, position, budget, self._hopeless)
        except OutOfBudgetError:
            self._left = max(0, self._left - budget)
            raise

    def _hopeless(self, position: Position) -> bool:
        return bool(self.sets.space.contains(self.sets.lost, position))

    def reason(self, route: Route) -> Reason | None:
        """Why nothing finishes from the end of a route.

        Args:
            route: The route; its last position is stuck.

        Returns:
            The reason, or ``None`` where the search did not get that far.
        """
        known = self.sets.space.only(route.positions[-1])
        return self.sets.explain(route) if known else None
