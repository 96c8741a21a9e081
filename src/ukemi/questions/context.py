"""A level with its evidence, and the one way to decide a question by it."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import replace
from functools import cached_property
from typing import TYPE_CHECKING, Any, Generic, TypeVar

from ..level import Level
from ..rules import Position, Rules, compile_level
from ..spaces import Limits, Route
from ..spaces.space import S, Space
from .gates import gates
from .in_time import in_time, or_cut
from .named_sets import Sets
from .subjects import Subject, rewards, subjects
from .verdict import Answer

if TYPE_CHECKING:
    from ..facts.projection import Projection  # loaded for large levels only
    from .first_runs import FirstRuns
    from .free_level import FreeLevel

T = TypeVar("T")

#: Gathers sets of positions for rules that remember more.
MakeSpace = Callable[[Rules], Space[S]]


class Context(Generic[S]):
    """A level, and the evidence that decides questions about it.

    The evidence, cheapest first: a finishing run; the relaxed level, if it is the level; sets of
    positions. Every question goes through :meth:`decide`.

    Args:
        limits: The time, memory and positions that all questions together may take.
        space: The space of its positions, unless nothing is ever lost in the level.
        free: The facts about the level, if nothing is ever lost in it.
        runs: The runs that were found without the space.
        projection: The level with only the variables that moves turn both ways, if it is large.
        remember: Makes the space of rules that remember more; for a campaign.
        shown_by: The rules that routes are replayed by, if these rules remember more than they do.

    Attributes:
        subjects: The doors, chests, acts, placed items and events of the level.
        rewards: For each reward by name, the subject that hands it over.
    """

    def __init__(
        self,
        level: Level,
        rules: Rules,
        limits: Limits,
        space: Space[S] | None = None,
        *,
        free: FreeLevel | None = None,
        runs: FirstRuns | None = None,
        projection: Projection | None = None,
        remember: MakeSpace[S] | None = None,
        shown_by: Rules | None = None,
    ) -> None:
        self.level = level
        self.rules = rules
        self.limits = limits
        self.subjects: list[Subject] = subjects(level, rules)
        self.by_name = {subject.name: subject for subject in self.subjects}
        self.rewards: dict[str, str] = rewards(level)
        self.free = free
        self.space = space
        self.projection = projection
        self.runs = runs
        self._remember = remember
        self._shown_by = shown_by

    @cached_property
    def gates(self) -> dict[str, frozenset[int]]:
        """For each gate by name, the moves that walk through it, by number."""
        return gates(self.level, self.rules)

    # -- the evidence -------------------------------------------------------------------------

    @property
    def witness(self) -> Route | None:
        """A finishing run that was found without sets of positions."""
        return None if self.runs is None else self.runs.witness

    @cached_property
    def finish_known(self) -> Answer:
        """Whether the level can be finished, so far as that is known without sets of positions."""
        if self.witness is not None:
            return Answer.YES
        if self.runs is not None and self.runs.too_few:
            return Answer.NO
        return Answer.UNKNOWN if self.may_finish(self.rules.start()) else Answer.NO

    def may_finish(self, position: Position) -> bool:
        """Return whether a run may finish from a position: false only if the projection proves that none does."""
        return self.projection is None or self.projection.may_finish(position)

    @property
    def stuck_route(self) -> Route | None:
        """A route that gets stuck, found without sets of positions."""
        return None if self.runs is None or self.runs.stuck is None else self.runs.stuck[0]

    @property
    def last_is_mistake(self) -> bool:
        """Whether the last move of :attr:`stuck_route` is its mistake: the level could be finished before it."""
        return self.runs is not None and self.runs.stuck is not None and self.runs.stuck[1]

    @cached_property
    def sets(self) -> Sets[S]:
        """The named sets of positions."""
        assert self.space is not None, "nothing is ever lost in this level: it needs no sets"
        return Sets(self.level, self.space, self.by_name, self.gates, self._shown_by)

    @property
    def all_seen(self) -> bool:
        """Whether the answers come from every position that can be reached."""
        return self.free is None and self.sets.complete

    @property
    def few(self) -> bool:
        """Whether the positions are so few that any question about them is soon answered."""
        space = self.space
        return self.free is None and space is not None and space.by_position and space.complete

    @property
    def positions(self) -> int:
        """The number of positions searched."""
        if self.free is not None:
            return 1 + len(self.free.marks.made)  # those of one run that does all there is to do
        return self.sets.space.count(self.sets.space.reachable)

    def remembering(self, names: Collection[str]) -> Context[S]:
        """Return a context in which every position shows whether some things were done.

        In a level each does. A campaign forgets the levels that it leaves, so a variable is added for
        each of the things.
        """
        if self._remember is None or not names:
            return self
        things = [self.by_name[name] for name in names]
        rules = compile_level(self.level, sorted({one.variable for one in things}))
        more = Context(self.level, rules, self.limits, self._remember(rules), shown_by=self.rules)
        for one in things:
            changed = rules.index["changed", str(one.variable)]
            more.by_name[one.name] = replace(one, variable=changed, before=0)
        return more

    @cached_property
    def remembering_rewards(self) -> Context[S]:
        """The context in which every position shows which rewards were taken."""
        return self.remembering(list(self.rewards.values()))

    # -- deciding -----------------------------------------------------------------------------

    def decide(
        self, undecided: T, free: Callable[[FreeLevel], T], sets: Callable[[Sets[S]], T]
    ) -> T:
        """Decide a question by the cheapest evidence that settles it.

        Args:
            undecided: The answer if time or memory ends first; it claims nothing.
            free: Answers it by the relaxed level, if nothing is ever lost.
            sets: Answers it by sets of positions.
        """
        return in_time(lambda: self._asked(free, sets), undecided, self.tidy)

    def decide_or_cut(self, free: Callable[[FreeLevel], T], sets: Callable[[Sets[S]], T]) -> T:
        """Decide a question that has no answer for undecided.

        Raises:
            CutShortError: Time or memory ended first.
        """
        return or_cut(lambda: self._asked(free, sets), self.tidy)

    def _asked(self, free: Callable[[FreeLevel], T], sets: Callable[[Sets[S]], T]) -> T:
        if self.free is not None:
            return free(self.free)
        return sets(self.sets)

    def tidy(self) -> None:
        """Release unused memory."""
        if self.space is not None:
            self.space.tidy()


#: A context, whichever kind of space it has.
AnyContext = Context[Any]
