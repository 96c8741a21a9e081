"""Every question of a campaign, as formulas over sets of positions.

What was done in a level is forgotten with it, so that a position does not tell what was done in
levels before. So these formulas are about the ways there: something was done on every way to some
positions where none of them is come to by ways that keep out of where it is done.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator
from dataclasses import replace
from functools import cached_property
from typing import Any

from ..level.joined import Joined
from ..rules import Move, Rules, compile_level
from ..rules.expressions import AtLeast
from ..spaces import CutShortError, Route, replay
from ..spaces.space import Space
from .answers import Answer
from .order import GATE, ROOM
from .over_sets import OverSets
from .questions import Questions
from .result import LevelAnswer
from .statuses import status
from .subjects import Subject
from .unless_cut import unless_cut

#: What answers the questions of rules.
Answering = Callable[[Rules], OverSets]


class OverCampaign(OverSets):
    """Answers questions of a campaign from the sets of a space.

    Args:
        answering: What answers questions of a level of which more is remembered.
    """

    level: Joined

    def __init__(
        self,
        level: Joined,
        rules: Rules,
        space: Space,
        answering: Answering,
        witness: list[Move] | None = None,
    ) -> None:
        super().__init__(level, rules, space, witness)
        self._answering = answering

    # -- what runs do -------------------------------------------------------------------------

    def status(self, subject: Subject) -> Answer:
        return self._status_of(self.done(subject.name), lambda: self.not_yet(subject.name))

    def status_of_any(self, names: list[str]) -> Answer:
        done = self.finished - self.finished
        for name in names:
            done = done | self.done(name)
        return self._status_of(done, lambda: self._never_in(done))

    @unless_cut(Answer.UNKNOWN)
    def _status_of(self, done: Any, undone: Callable[[], Any]) -> Answer:
        self.space.limits.check()
        some = bool(done & self.can_finish)
        without = bool(undone() & self.finished)
        return status(some, without, bool(done), self.complete)

    def done_in_all(self, name: str, positions: Any) -> bool:
        if name.endswith((ROOM, GATE)):
            return super().done_in_all(name, positions)
        return not positions & self.not_yet(name)

    def _coming_without(self, room: str, names: Collection[str]) -> Any:
        done = self.finished - self.finished
        for name in names:
            done = done | self.done(name)
        return self._never_in(done) & self.can_finish & self.at(room)

    # -- what is asked of more than a position tells -------------------------------------------

    def _remembering(self, names: list[str]) -> Questions:
        """What answers questions where it is remembered whether some things were done."""
        subjects = [self.subject(name) for name in names]
        rules = compile_level(self.level, sorted({one.variable for one in subjects}))
        questions = self._answering(rules)
        for one in subjects:
            changed = rules.index["changed", str(one.variable)]
            questions.see_by(replace(one, variable=changed, before=0))
        return questions

    @cached_property
    def _with_rewards(self) -> Questions:
        return self._remembering(list(self.rewards.values())) if self.rewards else self

    def _told(self, route: Route | None) -> Route | None:
        """A route of rules by which more is remembered, by those of the campaign."""
        if route is None:
            return None
        moves = [self.rules.moves[move.number] for move in route.moves]
        return replay(self.rules, moves, at_least=route.at_least)

    def with_every_reward(self) -> tuple[Answer, Route | None]:
        if not self.rewards:
            return super().with_every_reward()
        answer, route = self._with_rewards.with_every_reward()
        return answer, self._told(route)

    def missable(self, subject: str) -> tuple[Answer, Route | None]:
        answer, route = self._with_rewards.missable(subject)
        return answer, self._told(route)

    def excluding(self) -> list[str]:
        return self._with_rewards.excluding() if self.rewards else []

    def finishing_without(self, names: list[str]) -> Route | None:
        return self._told(self._remembering(names).finishing_without(names))

    def most_left(self, item: str) -> tuple[int, int] | None:
        return None  # a level that is come to anew has its keys anew

    # -- from level to level ------------------------------------------------------------------

    def _ways_into(self, stage: str) -> set[int]:
        return {
            move.number
            for move in self.rules.moves
            if move.what["do"] == "finish" and move.what.get("to") == stage
        }

    def levels(self) -> dict[str, LevelAnswer]:
        return {name: self._level(name) for name in self.level.campaign.stages}

    def _level(self, stage: str) -> LevelAnswer:
        inside = self.finished - self.finished
        places = {self.rules.places.index(room) for room in self.level.rooms_of[stage]}
        for place in places & self.space.places(self.space.reachable):
            inside = inside | self.space.at(place)
        answer = self._status_of(inside, lambda: self._never_in(inside))
        return LevelAnswer(answer, self._enters(stage) if self.complete else None)

    @unless_cut(None)
    def _enters(self, stage: str) -> dict[str, tuple[int, int]]:
        """The least and the most of each item that is carried in, before anything happens there."""
        sources = self._leaving_for(stage, self.space.reachable)
        first = stage == self.level.campaign.start.name
        found: dict[str, tuple[int, int]] = {}
        for item in self.level.items:
            carried = self.rules.initial[self.rules.index["carried", item]]
            amounts = [(carried, carried)] if first else []
            amounts += [self._carried_in(stage, item, sources)] if sources else []
            if amounts:
                found[item] = min(one for one, _ in amounts), max(one for _, one in amounts)
        return found

    def _leaving_for(self, stage: str, entered: Any) -> Any:
        """The positions from which a way leads into a level, such that it is entered in some."""
        ways = self._ways_into(stage)
        found = self.finished - self.finished
        for move, sources in self.space.leading(self.space.reachable, entered).items():
            if move.number in ways:
                found = found | sources
        return found

    def _added(self, stage: str, item: str, sources: Any) -> Iterator[tuple[Any, int]]:
        """Positions from which a level is entered, with the units that it adds to what is brought."""
        start = self.level.campaign.stages[stage].level.inventory.start.get(item, 0)
        entered = self.rules.index.get(("entered", stage))
        if entered is None:
            yield sources, start
        else:  # a level that keeps adds its own once
            yield self.space.having(entered, 0, sources), start
            yield self.space.having(entered, 1, sources), 0

    def _carried_in(self, stage: str, item: str, sources: Any) -> tuple[int, int]:
        """The least and the most of an item that is carried into a level from some positions."""
        kind = self.level.items[item]
        brings = self.level.campaign.stages[stage].brings_along(item)
        amounts = []
        for some, added in self._added(stage, item, sources):
            if some:
                least, most = self._range(item, some) if brings else (0, 0)
                amounts += [least + added, most + added]
        if kind.kind == "supply" and kind.max is not None:
            amounts = [min(one, kind.max) for one in amounts]
        return min(amounts), max(amounts)

    def _with_fewer(self, stage: str, item: str, least: int, sources: Any) -> Any:
        """The positions from which a level is entered with fewer of an item than so many."""
        carried = self.rules.index["carried", item]
        brings = self.level.campaign.stages[stage].brings_along(item)
        found = self.finished - self.finished
        for some, added in self._added(stage, item, sources):
            if least <= added:
                continue
            enough = self.space.where(AtLeast(carried, least - added))
            found = found | (some - enough if brings else some)
        return found

    def _range(self, item: str, positions: Any) -> tuple[int, int]:
        """The least and the most of an item that are carried in some positions."""
        least = most = 0
        carried = self.rules.index["carried", item]
        while True:
            more = positions & self.space.where(AtLeast(carried, most + 1))
            if not more:
                return least, most
            most += 1
            if least == most - 1 and not positions - more:
                least = most

    def left_behind(self) -> list[tuple[str, str, int, Route]]:
        found: list[tuple[str, str, int, Route]] = []
        if not self.complete:
            return found
        try:
            for stage in self.level.campaign.stages:
                for one in self._left_behind(stage, {item for _, item, _, _ in found}):
                    found.append(one)
        except (CutShortError, MemoryError):
            pass  # what was found so far is so
        return found

    def _left_behind(self, stage: str, told: set[str]) -> Iterator[tuple[str, str, int, Route]]:
        """What a level can be entered with too little of, by a way that loses the campaign.

        Where it was lost before, that is told only of items not told of another level.
        """
        ways = self._ways_into(stage)
        good, bad = (self._leaving_for(stage, some) for some in (self.can_finish, self.lost))
        if not good or not bad:
            return
        for item in self.level.items:
            least = self._carried_in(stage, item, good)[0]
            if not least:
                continue
            fewer = self._with_fewer(stage, item, least, bad)
            losing = self.space.leading(self.can_finish & fewer, self.lost)
            found = self._quickest(
                {move: sources for move, sources in losing.items() if move.number in ways}
            )
            if found is not None:
                run, move = found
                yield stage, item, least, self._route(run, move, certain=self.complete)
            elif item not in told and (found := self._quickest(self._ways_from(stage, fewer))):
                run, move = found
                yield stage, item, least, self._route(run, move)

    def _ways_from(self, stage: str, sources: Any) -> dict[Move, Any]:
        """The moves into a level that lose the campaign, or find it lost, from some positions."""
        ways = self._ways_into(stage)
        losing = self.space.leading(sources, self.lost)
        return {move: some for move, some in losing.items() if move.number in ways}
