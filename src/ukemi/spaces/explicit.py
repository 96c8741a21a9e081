"""The explicit space: every position by itself, and sets as sets of their numbers.

The reference that the symbolic space is compared with, and the one for small levels.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Sequence
from functools import cached_property
from itertools import compress, count

from ..graph import CheapestWays
from ..rules import Move, Position, Rules
from ..rules.expressions import Expression
from .alike import Alike
from .estimate import MakeEstimate
from .explore import explore
from .limits import Limits
from .space import Run, Space

Numbers = frozenset[int]


class ExplicitSpace(Space[Numbers]):
    """The positions of a level, one by one."""

    by_position = True

    def __init__(self, rules: Rules, limits: Limits) -> None:
        super().__init__(rules, limits)
        self.found = explore(rules, limits)
        self.alike = Alike(rules) if rules.alike else None
        self.reachable: Numbers = frozenset(range(len(self.found.positions)))
        self.unexplored: Numbers = frozenset(
            number for number, explored in enumerate(self.found.explored) if not explored
        )
        self.start: Numbers = frozenset((0,))

    # -- closures and moves -------------------------------------------------------------------

    def before(self, targets: Numbers, within: Numbers | None = None) -> Numbers:
        return self._closed(targets, self.found.before, within)

    def after(
        self,
        sources: Numbers,
        around: int | None = None,
        without: Collection[int] = (),
        avoiding: Numbers | None = None,
    ) -> Numbers:
        within = None if around is None else self.reachable - self.at(around)
        if avoiding is not None:
            within = (self.reachable if within is None else within) - avoiding
        following = self.found.following
        if without:
            following = [
                [after for move, after in moves if move.number not in without]
                for moves in self.found.moves
            ]
        return self._closed(sources, following, within)

    def _closed(self, begin: Numbers, next_to: list[list[int]], within: Numbers | None) -> Numbers:
        known = set(begin)
        ahead = list(begin)
        while ahead:
            self.limits.check()
            for other in next_to[ahead.pop()]:
                if other not in known and (within is None or other in within):
                    known.add(other)
                    ahead.append(other)
        return frozenset(known)

    def leading(
        self, sources: Numbers, targets: Numbers, changing: tuple[int, int] | None = None
    ) -> dict[Move, Numbers]:
        found: dict[Move, set[int]] = {}
        for number, move, after in self._transitions(sources, targets, changing):
            if number in sources and after in targets:
                found.setdefault(move, set()).add(number)
        return {move: frozenset(found[move]) for move in sorted(found, key=lambda one: one.number)}

    def _transitions(
        self, sources: Numbers, targets: Numbers, changing: tuple[int, int] | None
    ) -> Iterator[tuple[int, Move, int]]:
        """The moves from one position to another that may be asked for."""
        self.limits.check()
        if changing is not None:
            variable, value = changing
            column = self._columns[variable]
            yield from (one for one in self._changing.get(variable, ()) if column[one[0]] == value)
            return
        moves = self.found.moves
        if len(sources) < len(targets):
            yield from ((one, move, after) for one in sources for move, after in moves[one])
            return
        for number in {one for target in targets for one in self.found.before[target]}:
            yield from ((number, move, after) for move, after in moves[number])

    @cached_property
    def _changing(self) -> dict[int, list[tuple[int, Move, int]]]:
        """For each variable, the moves that change it, from one position to another."""
        found: dict[int, list[tuple[int, Move, int]]] = {}
        positions, by_itself = self.found.positions, self.rules.changes_by_itself
        for number, moves in enumerate(self.found.moves):
            here = positions[number]
            for move, after in moves:
                there = positions[after]
                for variable in {*move.changes, *by_itself}:
                    if here[variable] != there[variable]:
                        found.setdefault(variable, []).append((number, move, after))
        return found

    # -- sets ---------------------------------------------------------------------------------

    def where(self, guard: Expression) -> Numbers:
        positions = self.found.positions
        return frozenset(number for number, one in enumerate(positions) if guard.holds(one))

    def ended(self, end: int) -> Numbers:
        return frozenset(compress(count(), map(end.__eq__, self.found.ends)))

    def at(self, place: int) -> Numbers:
        return frozenset(compress(count(), map(place.__eq__, self.found.places)))

    def places(self, positions: Iterable[int]) -> set[int]:
        return {self.found.places[number] for number in positions}

    @cached_property
    def _columns(self) -> list[tuple[int, ...]]:
        """For each variable, its values in all positions."""
        return list(zip(*self.found.positions, strict=True))

    def having(self, variable: int, value: int, within: Numbers) -> Numbers:
        column = self._columns[variable]
        return frozenset(number for number in within if column[number] == value)

    def count(self, positions: Numbers) -> int:
        return len(positions)

    def contains(self, positions: Numbers, position: Position) -> bool:
        return self._number(position) in positions

    def _number(self, position: Position) -> int | None:
        shown = position if self.alike is None else self.alike.standing_for(position)
        return self.found.numbers.get(shown)

    def only(self, position: Position) -> Numbers:
        number = self._number(position)
        return frozenset(() if number is None else (number,))

    # -- runs ---------------------------------------------------------------------------------

    def run_to(
        self,
        targets: Numbers,
        within: Numbers | None = None,
        estimate: MakeEstimate | None = None,
    ) -> Run | None:
        if within is not None:
            targets = targets & within
        if not targets:
            return None
        costs = self.found.costs
        number = min(targets, key=lambda one: (costs[one], one))
        known = int(min(costs[number], self.found.bound))
        route = self.found.route_to(number)
        if within is None or self._stays(route, within):
            return Run(tuple(route), known)
        return self._run_within(targets, within)

    def _stays(self, route: Sequence[Move], within: Numbers) -> bool:
        """Whether a run stays within a set."""
        here = 0
        for move in route:
            if here not in within:
                return False
            here = next(after for one, after in self.found.moves[here] if one is move)
        return here in within

    def _run_within(self, targets: Numbers, within: Numbers) -> Run | None:
        """A cheapest run that stays within a set (Dijkstra 1959)."""

        def leads(here: int) -> Iterator[tuple[int, int, Move]]:
            self.limits.check()
            return ((after, move.cost, move) for move, after in moves[here] if after in within)

        moves = self.found.moves
        ways = CheapestWays(0, leads)
        end = next((here for here in ways if here in targets), None) if 0 in within else None
        if end is None:
            return None
        return Run(tuple(ways.to(end)), ways.costs[end] if self.complete else 0)
