"""The levels of a campaign: is each entered, with what, and with too little?

A position does not show which levels were entered before it. So these formulas are about the moves
that lead into a level, and about the ways there.
"""

from __future__ import annotations

from collections.abc import Iterator, Set
from typing import Generic, NamedTuple

from ..level.joined import Joined
from ..rules import Move
from ..rules.expressions import AtLeast, Expression, Negated, Within
from ..spaces import CutShortError, Route
from ..spaces.space import S
from .answers import LevelAnswer
from .context import Context
from .named_sets import Sets
from .verdict import Answer, status


class LeftBehind(NamedTuple):
    """A level that can be entered with too little to finish.

    Attributes:
        item: The item that is short.
        least: How many it takes.
        route: A run that enters the level with fewer.
    """

    stage: str
    item: str
    least: int
    route: Route


class _Load(NamedTuple):
    """What is carried of an item.

    Attributes:
        variables: The counts of those who carry it, which are summed up.
        starts: For each level, how many it adds when it is entered.
    """

    item: str
    variables: tuple[int, ...]
    starts: dict[str, int]

    def at_least(self, count: int) -> Expression:
        """The guard that so many are carried."""
        if len(self.variables) == 1:
            return AtLeast(self.variables[0], count)
        return Negated(Within(tuple((number, 1) for number in self.variables), count - 1))


def ask(context: Context[S]) -> dict[str, LevelAnswer]:
    """Return, for each level of a campaign, whether it is entered and with what."""
    level = context.level
    if not isinstance(level, Joined):
        return {}
    stages = _Stages(level, context.sets)
    return {name: stages.answer(name) for name in level.campaign.stages}


def left_behind(context: Context[S]) -> list[LeftBehind]:
    """Return the levels that a player can enter with too little, until the time ends."""
    level = context.level
    found: list[LeftBehind] = []
    if not isinstance(level, Joined) or not context.sets.complete:
        return found
    stages = _Stages(level, context.sets)
    try:
        for stage in level.campaign.stages:
            for one in stages.left_behind(stage, {one.item for one in found}):
                found.append(one)
    except (CutShortError, MemoryError):
        pass  # what was found so far is so
    return found


class _Stages(Generic[S]):
    """The formulas of one campaign."""

    def __init__(self, level: Joined, sets: Sets[S]) -> None:
        self.level = level
        self.sets = sets

    def answer(self, stage: str) -> LevelAnswer:
        """Whether a level is entered, and with what."""
        sets = self.sets
        entered = sets.in_time(lambda: self._status(stage), Answer.UNKNOWN)
        enters = sets.in_time(lambda: self._enters(stage), None) if sets.complete else None
        return LevelAnswer(entered, enters)

    def _status(self, stage: str) -> Answer:
        sets = self.sets
        sets.space.limits.check()
        places = {sets.rules.places.index(room) for room in self.level.rooms_of[stage]}
        inside = sets.joined(
            sets.space.at(place) for place in places & sets.space.places(sets.space.reachable)
        )
        without = bool(sets.never_in(inside) & sets.finished)
        return status(bool(inside & sets.can_finish), without, bool(inside), sets.complete)

    def _ways_into(self, stage: str) -> set[int]:
        """The moves that lead into a level, by number."""
        return {
            move.number
            for move in self.sets.rules.moves
            if move.what["do"] == "finish" and move.what.get("to") == stage
        }

    def _enters(self, stage: str) -> dict[str, tuple[int, int]]:
        """The least and the most of each item that is carried in, before anything happens there."""
        sources = self._leaving_for(stage, self.sets.space.reachable)
        first = stage == self.level.campaign.start.name
        found: dict[str, tuple[int, int]] = {}
        for name, load in self._loads().items():
            carried = sum(self.sets.rules.initial[number] for number in load.variables)
            amounts = [(carried, carried)] if first else []
            amounts += [self._carried_in(stage, load, sources)] if sources else []
            if amounts:
                found[name] = min(one for one, _ in amounts), max(one for _, one in amounts)
        return found

    def _loads(self) -> dict[str, _Load]:
        """Return what is carried, by item; of several players, as ``ada: lantern``."""
        level, rules = self.level, self.sets.rules
        if not level.several or level.inventory.shared:
            return {one: self._all_of(one) for one in level.items}
        found: dict[str, _Load] = {}
        for number, player in enumerate(level.players):
            starts = {
                name: stage.level.begins(player)[1] for name, stage in level.campaign.stages.items()
            }
            for item in level.items:
                own = {name: start.get(item, 0) for name, start in starts.items()}
                found[f"{player}: {item}"] = _Load(item, (rules.carried(item)[number],), own)
        return found

    def _all_of(self, item: str) -> _Load:
        """Return how much of an item all players together carry."""
        own = {
            name: sum(start.get(item, 0) for start in stage.level.starts())
            for name, stage in self.level.campaign.stages.items()
        }
        return _Load(item, tuple(self.sets.rules.carried(item)), own)

    def _leaving_for(self, stage: str, entered: S) -> S:
        """The positions from which a way into a level leads to one of some positions."""
        sets = self.sets
        return sets.joined(self._by_ways(stage, sets.space.reachable, entered).values())

    def _by_ways(self, stage: str, sources: S, targets: S) -> dict[Move, S]:
        """The moves into a level that lead from some positions to others."""
        ways = self._ways_into(stage)
        leading = self.sets.space.leading(sources, targets)
        return {move: some for move, some in leading.items() if move.number in ways}

    def _added(self, stage: str, load: _Load, sources: S) -> Iterator[tuple[S, int]]:
        """Positions from which a level is entered, with the units that it adds to what is brought."""
        start = load.starts[stage]
        entered = self.sets.rules.index.get(("entered", stage))
        if entered is None:
            yield sources, start
        else:  # a level that keeps adds its own once
            yield self.sets.space.having(entered, 0, sources), start
            yield self.sets.space.having(entered, 1, sources), 0

    def _carried_in(self, stage: str, load: _Load, sources: S) -> tuple[int, int]:
        """The least and the most of an item that is carried into a level from some positions."""
        kind = self.level.items[load.item]
        brings = self.level.campaign.stages[stage].brings_along(load.item)
        amounts = []
        for some, added in self._added(stage, load, sources):
            if some:
                least, most = self._range(load, some) if brings else (0, 0)
                amounts += [least + added, most + added]
        if kind.kind == "supply" and kind.max is not None:
            amounts = [min(one, kind.max) for one in amounts]
        return min(amounts), max(amounts)

    def _with_fewer(self, stage: str, load: _Load, least: int, sources: S) -> S:
        """Return the positions from which the player enters a level with fewer than ``least`` of an item."""
        brings = self.level.campaign.stages[stage].brings_along(load.item)
        found = self.sets.nothing
        for some, added in self._added(stage, load, sources):
            if least > added:
                enough = self.sets.space.where(load.at_least(least - added))
                found = found | (some - enough if brings else some)
        return found

    def _range(self, load: _Load, positions: S) -> tuple[int, int]:
        """The least and the most of an item that are carried in some positions."""
        least = most = 0
        while True:
            more = positions & self.sets.space.where(load.at_least(most + 1))
            if not more:
                return least, most
            most += 1
            if least == most - 1 and not positions - more:
                least = most

    def left_behind(self, stage: str, reported: Set[str]) -> Iterator[LeftBehind]:
        """Yield what a level can be entered with too little of, by a way that loses the campaign.

        If the campaign was lost before that, only items not reported of another level are reported.
        """
        sets = self.sets
        good, bad = (self._leaving_for(stage, some) for some in (sets.can_finish, sets.lost))
        if not good or not bad:
            return
        for item, kind in self.level.items.items():
            load = self._all_of(item)
            if len(load.variables) > 1 and kind.kind == "supply":
                continue  # what is over is lost by each player alone: the sum says little
            least = self._carried_in(stage, load, good)[0]
            if not least:
                continue
            fewer = self._with_fewer(stage, load, least, bad)
            losing = self._by_ways(stage, sets.can_finish & fewer, sets.lost)
            if found := sets.quickest(losing):
                route = sets.route(*found, certain=sets.complete)
                yield LeftBehind(stage, item, least, route)
            elif item not in reported and (
                found := sets.quickest(self._by_ways(stage, fewer, sets.lost))
            ):
                yield LeftBehind(stage, item, least, sets.route(*found))
