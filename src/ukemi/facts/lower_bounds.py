"""Lower bounds on what runs cost, each with its evidence.

The evidence is a list of disjoint sets of moves (disjunctive action landmarks): every run makes a move
of each set, so it costs at least the sum of their cheapest moves. M. Helmert and C. Domshlak,
"Landmarks, critical paths and abstractions: what's the difference anyway?", ICAPS 2009.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable
from typing import NamedTuple

from ..rules import END, PLACE, Rules
from .walking_graph import WalkingGraph


class Landmark(NamedTuple):
    """A set of moves; every run makes at least one.

    Attributes:
        moves: The moves, by number.
        cost: The cost of the cheapest move.
    """

    moves: frozenset[int]
    cost: int


class LowerBound:
    """A lower bound on the cost of every run that changes some variables, enters some rooms and ends in
    others.

    Two kinds of sets are counted. A variable that changed was changed by one of the moves that change
    it. A room behind a bridge (a passage without which it is cut off from the start) is entered over
    that bridge; a run that ends on the near side also comes back over it.

    Args:
        rules: The rules, of one player.
        walking: Their rooms and passages.
        variables: Variables that every run changes. Those that had changed before the first move, or
            may change without a move, are left out of the count.
        rooms: Rooms that every run enters.
        ends: The rooms in which a run may end; empty for any room.

    Attributes:
        least: The cost, in steps.
        ends: The rooms in which a run may end.
    """

    def __init__(
        self,
        rules: Rules,
        walking: WalkingGraph,
        variables: Iterable[int],
        rooms: Collection[int],
        ends: Collection[int],
    ) -> None:
        self.ends = frozenset(ends) or frozenset(range(len(rules.places)))
        self._rules = rules
        self._walking = walking
        self._changing = self._landmarks_of(variables)
        self._cross(rooms)
        parts = {self._parts[room] for room in self.ends} & self._extra.keys()
        ways = self._both_ways + min(self._extra[part] for part in parts) if parts else 0
        self.least = sum(one.cost for one in self._changing) + ways

    def landmarks(self, end: int) -> list[Landmark]:
        """The evidence: disjoint sets of moves; every run that ends in a room makes a move from each set."""
        path = set()
        part = self._parts[end]
        while part in self._before and self._before[part] != part:
            path.add(part)
            part = self._before[part]
        there = [self._walks(self._before[one], one) for one in self._needed | path]
        back = [self._walks(one, self._before[one]) for one in self._needed - path]
        walks = [one for one in (*there, *back) if one.moves]
        return [*self._changing, *walks]

    def _landmarks_of(self, variables: Iterable[int]) -> list[Landmark]:
        """For each variable, the moves that change it; of sets that overlap, only the first."""
        rules = self._rules
        start = rules.start()
        by_itself = {PLACE, END, *rules.changes_by_itself}
        makers: dict[int, list[int]] = {
            variable: []
            for variable in variables
            if variable not in by_itself and start[variable] == rules.initial[variable]
        }
        for number, move in enumerate(rules.moves):
            for variable in move.changes:
                if variable in makers:
                    makers[variable].append(number)
        found: list[Landmark] = []
        counted: set[int] = set()
        for numbers in makers.values():
            walks = any(PLACE in rules.moves[number].changes for number in numbers)
            if (
                numbers and not walks and counted.isdisjoint(numbers)
            ):  # walks are counted by bridges
                counted.update(numbers)
                found.append(self._landmark(numbers))
        return found

    def _landmark(self, numbers: Collection[int]) -> Landmark:
        costs = (self._rules.moves[number].cost for number in numbers)
        return Landmark(frozenset(numbers), min(costs, default=0))

    def _cross(self, rooms: Collection[int]) -> None:
        """Find the bridges that every run crosses, in the tree of parts whose root is the part of the start."""
        walking, parts = self._walking, self._walking.parts
        self._parts = parts
        start = parts[self._rules.initial[PLACE]]
        self._before = walking.tree(start)
        order = [*self._before]
        needed = {parts[room] for room in rooms} & self._before.keys()
        for part in reversed(order):
            if part in needed:
                needed.add(self._before[part])
        self._needed = needed - {start}
        # A run that ends in a part does not come back from there: it crosses more, or less, than
        # the bridges to all that is needed, there and back.
        self._both_ways = 0
        self._extra = {start: 0}
        for part in order[1:]:
            before = self._before[part]
            there, back = self._walks(before, part).cost, self._walks(part, before).cost
            more = -back if part in self._needed else there
            self._extra[part] = self._extra[before] + more
            self._both_ways += there + back if part in self._needed else 0

    def _walks(self, here: int, there: int) -> Landmark:
        """The walks from one part to the next, over the bridge between them."""
        return self._landmark(self._walking.over.get((here, there), ()))
