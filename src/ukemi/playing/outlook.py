"""Decide, for a position of a play, whether and how the level can still be finished."""

from __future__ import annotations

from functools import cached_property

from ..checks import Answer
from ..facts.find_finish import find_finish
from ..level import Level
from ..questions import ahead, can_finish, get_stuck
from ..questions.context import AnyContext
from ..questions.evidence import gather
from ..reasons.reason import Reason, Reasons
from ..rules import END, FINISHED, PLAYING, Move, Position, Rules
from ..spaces import CutShortError, Limits, Route
from ..spaces.limits import PLAYED


class LookAhead:
    """Says what is still possible; the level is explored when first asked.

    Args:
        limits: How far to search for each question; if its time has begun, it bounds all of them.
        budget: The greatest number of positions to search in total, besides those of the whole level;
            after that, an answer may be ``unknown``.
    """

    def __init__(
        self, level: Level, rules: Rules, limits: Limits | None = None, budget: int = 5_000_000
    ) -> None:
        self.level = level
        self.rules = rules
        self._limits = (limits or PLAYED).a_part((limits and limits.seconds) or PLAYED.seconds or 0)
        self._left = budget
        self._known: dict[Position, Answer] = {}

    @cached_property
    def context(self) -> AnyContext:
        """The context for questions about the level, within the limits."""
        return gather(self.level, self._limits)

    @cached_property
    def _reasons(self) -> Reasons:
        return Reasons(self.context)

    def _asked(self) -> None:
        """Restart the time limit: a question in the middle of a play gets all of it."""
        if self._limits.deadline:
            self._limits.deadline.renew()

    @cached_property
    def mistakes(self) -> list[Move] | None:
        """Every kind of move that loses the level; ``None`` where not all are known."""
        self._asked()
        if not get_stuck.all_mistakes_known(self.context):
            return None
        try:
            return list(get_stuck.losing_moves(self.context))
        except CutShortError:
            return None

    @property
    def shortest_of_all(self) -> int | None:
        """The steps of the shortest finishing run of the level, where that is proven."""
        self._asked()
        route = can_finish.run(self.context)
        return route.steps if route is not None and route.shortest else None

    def can_finish(self, position: Position) -> Answer:
        """Whether the level can still be finished: ``unknown`` where that is undecided.

        Args:
            position: A position that play has led to.
        """
        if position[END] != PLAYING:
            return Answer.YES if position[END] == FINISHED else Answer.NO
        known = self._known.get(position)
        if known is None:
            self._asked()
            known = self._known[position] = self._look(position)
        return known

    def _look(self, position: Position) -> Answer:
        known = ahead.ask(self.context, position)
        if known.proven:
            return known
        budget = min(self._limits.positions, self._left)
        self._left -= budget // 20  # a small search costs little, but not nothing
        try:
            return Answer.NO if self._search(position, budget) is None else Answer.YES
        except CutShortError:
            self._left = max(0, self._left - budget)
            return Answer.UNKNOWN

    def shortest(self, position: Position) -> list[Move] | None:
        """The moves of a shortest finishing run from a position.

        Returns:
            The moves; ``None`` where there is none.

        Raises:
            CutShortError: That is undecided.
        """
        if self.can_finish(position) == Answer.NO:
            return None
        self._asked()
        return self._search(position, self._limits.positions)

    def _search(self, position: Position, budget: int) -> list[Move] | None:
        return find_finish(self.rules, position, budget, self._hopeless, self._limits)

    def _hopeless(self, position: Position) -> bool:
        return ahead.ask(self.context, position) == Answer.NO

    def reason(self, route: Route) -> Reason | None:
        """Why nothing finishes from the end of a route.

        Args:
            route: The route; its last position is stuck.

        Returns:
            The reason, or ``None`` where the search did not get that far.
        """
        self._asked()
        known = ahead.ask(self.context, route.positions[-1])
        return self._reasons.explain(route) if known.proven else None
