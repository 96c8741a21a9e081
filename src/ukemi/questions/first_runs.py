"""Runs that are found without sets of positions, and what they and the relaxed level prove.

One run is looked for first. The others are looked for only if the sets take long: if those do not end, the runs
answer what they can.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

from ..facts.find_finish import finishes_by
from ..facts.one_each import TooFew, too_few
from ..facts.relaxed import Relaxed
from ..level import Level
from ..level.joined import Joined
from ..rules import Move, Rules, compile_level
from ..rules.expressions import Is, Negated, all_of
from ..spaces import Limits, Route, replay
from .subjects import Subject
from .verdict import Answer

#: Positions to plan from to find a run that finishes, at first and if sets take long. Most levels of 20 to 160 rooms take
#: fewer than 40, a few up to 70. For several players, plans are longer to make, and sets are often quicker: there are
#: fewer at first, by the square of the players.
PLANS, MORE_PLANS = 100, 300

#: Positions to plan from for a run that takes one reward.
PLANS_A_REWARD = 30

#: The most time to look longer, in seconds; each kind of run has a part of it.
LONGEST = 40.0


class FirstRuns:
    """Looks for runs of one level, each of which proves something.

    Args:
        limits: How long to take; they also say whom to tell an answer.
        subjects: The things that runs can do.
        rewards: The things that hand over a reward, by name.

    Attributes:
        finishing: The finishing runs that were found.
        stuck: A run that gets stuck, and whether its last move is the mistake.
        too_few: Items of which more players must carry one than there are units: they prove that nothing finishes.
        statuses: The status of each thing for which it is proven.
        room_statuses: The same of each room.
    """

    def __init__(
        self,
        level: Level,
        rules: Rules,
        limits: Limits,
        subjects: Sequence[Subject],
        rewards: Collection[str],
    ) -> None:
        self._level, self._rules, self._limits = level, rules, limits
        self._subjects, self._rewards = {one.name: one for one in subjects}, rewards
        self.finishing: list[Route] = []
        self.stuck: tuple[Route, bool] | None = None
        self.too_few: list[TooFew] = []
        self.statuses: Mapping[str, Answer] = {}
        self.room_statuses: Mapping[str, Answer] = {}
        self._did: list[set[str]] = []
        self._looked_longer = False

    @property
    def witness(self) -> Route | None:
        """The first finishing run that was found."""
        return self.finishing[0] if self.finishing else None

    def with_all(self, names: Collection[str]) -> Route | None:
        """A finishing run that was found and that does all of some things."""
        known = zip(self.finishing, self._did, strict=True)
        return next((run for run, did in known if did.issuperset(names)), None)

    # -- looking ------------------------------------------------------------------------------

    def look(self) -> None:
        """Look for a run that finishes, for a short time, or for a simple reason why none does."""
        plans = PLANS // max(1, len(self._rules.players)) ** 2
        if not self._find_finish(self._rules, plans, self._limits.share(3)) and self._level.several:
            self.too_few = too_few(self._level, Relaxed(self._rules, self._limits.share(3)))
            if self.too_few:
                self.cannot_finish()

    def cannot_finish(self) -> None:
        """Note that nothing finishes: every player is stuck from the start."""
        self._limits.answered("finish", Answer.NO)
        self._found_stuck(replay(self._rules, []), False)

    def look_longer(self) -> None:
        """Look for a run that finishes, one that gets stuck, and runs that take rewards; once."""
        if self._looked_longer or self._limits.over:
            return
        self._looked_longer = True
        limits = self._limits.a_part(LONGEST)
        if not self.finishing and self.stuck is None:
            self._find_finish(self._rules, MORE_PLANS, limits.share(3))
        if self.stuck is None:
            self._find_stuck(limits.share(12))
        if self.finishing:
            relaxed = Relaxed(self._rules, self._limits)
            self._find_rewards(relaxed, limits.share(3))
            if self.with_all(self._rewards) is not None:
                self._limits.answered("all_rewards", Answer.YES)
            self._prove(relaxed)

    def _find_finish(self, rules: Rules, plans: int, limits: Limits) -> bool:
        """Whether a run was found that finishes by these rules, and so by those of the level."""
        from ..facts.guided import finishing_run  # for large levels only

        run = finishing_run(rules, limits, plans)
        run = run and [self._rules.moves[move.number] for move in run]
        if not run or not finishes_by(self._rules, self._rules.start(), run):
            return False
        if not self.finishing:
            self._limits.answered("finish", Answer.YES)
        self._keep(replay(self._rules, run))
        return True

    def _keep(self, run: Route) -> None:
        changed = (
            {name for name, one in self._subjects.items() if position[one.variable] != one.before}
            for position in run.positions
        )
        self.finishing.append(run)
        self._did.append(set().union(*changed))

    def _find_stuck(self, limits: Limits) -> None:
        from ..facts.find_stuck import (  # for large levels only
            find_stuck,
            finishes_but_for_the_last,
        )

        relaxed = Relaxed(self._rules, limits)
        run = find_stuck(relaxed) if relaxed.able else None
        if run:
            self._found_stuck(replay(self._rules, run), finishes_but_for_the_last(relaxed, run))

    def _found_stuck(self, run: Route, by_the_last: bool) -> None:
        self.stuck = run, by_the_last
        self._limits.answered("stuck", Answer.POSSIBLE)

    def _find_rewards(self, relaxed: Relaxed, limits: Limits) -> None:
        """Find a finishing run with all rewards; if there is none soon, one for each reward."""
        if isinstance(self._level, Joined):
            return  # its last position does not show what was done in the levels before
        reach = relaxed.reach(self._rules.initial)
        rewards = [self._subjects[name] for name in self._rewards]
        possible = [one for one in rewards if reach.low[one.variable] != reach.high[one.variable]]
        if not possible or self.with_all([one.name for one in possible]) is not None:
            return
        if self._find_finish(self._asking(possible), MORE_PLANS, limits.share(3)):
            return
        for one in possible:
            if limits.over:
                break
            if self.with_all([one.name]) is None:
                self._find_finish(self._asking([one]), PLANS_A_REWARD, limits)

    def _asking(self, things: Sequence[Subject]) -> Rules:
        """The rules of the level, if finishing asks for some things to be done."""
        done = (Negated(Is(one.variable, one.before)) for one in things)
        return compile_level(self._level, goal=all_of(*done))

    # -- proving ------------------------------------------------------------------------------

    def _prove(self, relaxed: Relaxed) -> None:
        """Work out the statuses: what runs do and leave out, and what the relaxed level cannot do or do without."""
        rules, start = self._rules, self._rules.initial
        reach = relaxed.reach(start)

        def status(
            did: Sequence[bool], can: bool, without: Sequence[Move], kept: dict[int, int]
        ) -> Answer:
            if not can:
                return Answer.NEVER
            if any(did) != all(did):
                return Answer.OPTIONAL
            numbers = [move.number for move in without]
            required = all(did) and not relaxed.reach(start, numbers, kept).finishes
            return Answer.REQUIRED if required else Answer.UNKNOWN

        self.statuses = {
            name: status(
                [name in did for did in self._did],
                reach.low[one.variable] != reach.high[one.variable],
                [],
                {one.variable: one.before},
            )
            for name, one in self._subjects.items()
        }
        entered = [
            {room for one in run.positions for room in rules.rooms_of(one)}
            for run in self.finishing
        ]
        into: dict[str, list[Move]] = {}
        for move in rules.moves:
            if move.leads_to is not None and not self._level.several:
                into.setdefault(rules.places[move.leads_to], []).append(move)
        places = {rules.places[place] for place in reach.rooms}
        self.room_statuses = {
            room: status(
                [room in rooms for rooms in entered], room in places, into.get(room, []), {}
            )
            for room in rules.places
        }
        self.room_statuses |= dict.fromkeys(rules.rooms_of(rules.start()), Answer.REQUIRED)
