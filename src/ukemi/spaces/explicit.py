"""The explicit space: every position by itself, and sets as sets of their numbers.

The reference that the symbolic space is compared with, and the one for small levels.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from functools import cached_property, reduce
from operator import and_, itemgetter, or_

from ..bits import bits_of, bits_where, flags_of
from ..graph import CheapestWays
from ..rules import END, PLACE, Move, Position, Rules
from ..rules.expressions import AtLeast, Expression, Is, fold
from .alike import Alike
from .estimate import MakeEstimate
from .explore import explore
from .limits import Limits
from .number_sets import NumberSet
from .space import Run, Space


class ExplicitSpace(Space[NumberSet]):
    """The positions of a level, one by one."""

    by_position = True

    def __init__(self, rules: Rules, limits: Limits) -> None:
        super().__init__(rules, limits)
        self.found = explore(rules, limits)
        self.alike = Alike(rules) if rules.alike else None
        self._size = len(self.found.positions)
        self.reachable = NumberSet((1 << self._size) - 1)
        self.unexplored = NumberSet(bits_where(self.found.explored, 0))
        self.start = NumberSet(1)
        self._with_value: dict[int, dict[int, int]] = {}

    # -- closures and moves -------------------------------------------------------------------

    def before(self, targets: NumberSet, within: NumberSet | None = None) -> NumberSet:
        return self._closed(
            targets, self.found.before, self.reachable if within is None else within
        )

    def after(
        self,
        sources: NumberSet,
        around: int | None = None,
        without: Collection[int] = (),
        avoiding: NumberSet | None = None,
    ) -> NumberSet:
        within = self.reachable if around is None else self.reachable - self.at(around)
        following = self.found.following
        if without:
            following = [
                [after for move, after in moves if move.number not in without]
                for moves in self.found.moves
            ]
        return self._closed(sources, following, within if avoiding is None else within - avoiding)

    def _closed(self, begin: NumberSet, next_to: list[list[int]], within: NumberSet) -> NumberSet:
        left = flags_of((within - begin).bits, self._size)
        ahead = list(begin)
        while ahead:
            self.limits.check()
            for other in next_to[ahead.pop()]:
                if left[other]:
                    left[other] = 0
                    ahead.append(other)
        return begin | (within - NumberSet(bits_where(left)))

    def leading(
        self, sources: NumberSet, targets: NumberSet, changing: tuple[int, int] | None = None
    ) -> dict[Move, NumberSet]:
        found: dict[Move, list[int]] = {}
        among, into = flags_of(sources.bits, self._size), flags_of(targets.bits, self._size)
        for number, move, after in self._transitions(sources, targets, changing):
            if among[number] and into[after]:
                found.setdefault(move, []).append(number)
        return {
            move: NumberSet(bits_of(found[move], self._size))
            for move in sorted(found, key=lambda one: one.number)
        }

    def _transitions(
        self, sources: NumberSet, targets: NumberSet, changing: tuple[int, int] | None
    ) -> Iterator[tuple[int, Move, int]]:
        """The moves from one position to another that may be asked for."""
        self.limits.check()
        if changing is not None:
            variable, value = changing
            column = self._column(variable)
            by_itself = variable in self.rules.changes_by_itself
            for move, pairs in self._made.items():
                if by_itself or variable in move.changes:
                    for number, after in pairs:
                        if column[number] == value != column[after]:
                            yield number, move, after
            return
        moves = self.found.moves
        if len(sources) > len(targets):
            before = self.found.before
            sources = NumberSet(bits_of((n for one in targets for n in before[one]), self._size))
        for number in sources:
            for move, after in moves[number]:
                yield number, move, after

    @cached_property
    def _made(self) -> dict[Move, list[tuple[int, int]]]:
        """For each move, each position that it is made from, with the one that it leads to."""
        found: dict[Move, list[tuple[int, int]]] = {}
        for number, moves in enumerate(self.found.moves):
            for move, after in moves:
                found.setdefault(move, []).append((number, after))
        return found

    # -- sets ---------------------------------------------------------------------------------

    def where(self, guard: Expression) -> NumberSet:
        def atom(one: Expression, positive: bool) -> int:
            match one:
                case Is(variable, value):
                    found = self._bits(variable).get(value, 0)
                case AtLeast(variable, least):
                    values = self._bits(variable).items()
                    found = reduce(or_, (bits for value, bits in values if value >= least), 0)
                case _:
                    found = bits_where(bytes(map(one.holds, self.found.positions)))
            return found if positive else every & ~found

        every = self.reachable.bits
        return NumberSet(
            fold(
                guard,
                atom,
                lambda all_: reduce(and_, all_, every),
                lambda some: reduce(or_, some, 0),
            )
        )

    def _bits(self, variable: int) -> dict[int, int]:
        """For each value of a variable, the positions in which it has it."""
        known = self._with_value.get(variable)
        if known is None:
            column = self._column(variable)
            values = set(column)
            if max(values) < 256:
                flags = bytes(column)
                known = {value: bits_where(flags, value) for value in values}
            else:
                known = {value: bits_where(bytes(map(value.__eq__, column))) for value in values}
            self._with_value[variable] = known
        return known

    def ended(self, end: int) -> NumberSet:
        return NumberSet(self._bits(END).get(end, 0))

    def at(self, place: int) -> NumberSet:
        return NumberSet(self._bits(PLACE).get(place, 0))

    def places(self, positions: NumberSet) -> set[int]:
        return {place for place, bits in self._bits(PLACE).items() if bits & positions.bits}

    def _column(self, variable: int) -> list[int]:
        """The values of a variable in all positions."""
        return list(map(itemgetter(variable), self.found.positions))

    def having(self, variable: int, value: int, within: NumberSet) -> NumberSet:
        return within & NumberSet(self._bits(variable).get(value, 0))

    def count(self, positions: NumberSet) -> int:
        return len(positions)

    def contains(self, positions: NumberSet, position: Position) -> bool:
        number = self._number(position)
        return number is not None and number in positions

    def _number(self, position: Position) -> int | None:
        shown = position if self.alike is None else self.alike.standing_for(position)
        return self.found.numbers.get(shown)

    def only(self, position: Position) -> NumberSet:
        number = self._number(position)
        return NumberSet(0 if number is None else 1 << number)

    # -- runs ---------------------------------------------------------------------------------

    def run_to(
        self,
        targets: NumberSet,
        within: NumberSet | None = None,
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

    def _stays(self, route: Sequence[Move], within: NumberSet) -> bool:
        """Whether a run stays within a set."""
        here = 0
        for move in route:
            if here not in within:
                return False
            here = next(after for one, after in self.found.moves[here] if one is move)
        return here in within

    def _run_within(self, targets: NumberSet, within: NumberSet) -> Run | None:
        """A cheapest run that stays within a set (Dijkstra 1959)."""

        def leads(here: int) -> Iterator[tuple[int, int, Move]]:
            self.limits.check()
            return ((after, move.cost, move) for move, after in moves[here] if inside[after])

        moves = self.found.moves
        inside, ends = (flags_of(one.bits, self._size) for one in (within, targets))
        ways = CheapestWays(0, leads)
        end = next((here for here in ways if ends[here]), None) if inside[0] else None
        if end is None:
            return None
        return Run(tuple(ways.to(end)), ways.costs[end] if self.complete else 0)
