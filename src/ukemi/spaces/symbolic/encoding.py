"""The values of a position as bits of a decision diagram, and guards as diagrams over them.

Reduced ordered binary decision diagrams: R. E. Bryant, "Graph-based algorithms for Boolean function
manipulation", IEEE Transactions on Computers C-35 (1986).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import reduce
from operator import and_, or_

from oxidd.bdd import BDDFunction, BDDManager

from ...rules import END, PLACE, Position, Rules
from ...rules.actions import Action, Key
from ...rules.expressions import AtLeast, Expression, Is, Within, fold
from ...rules.most import most_values
from ...rules.reads import variables
from ..limits import Limits
from .diagrams import Added
from .implied import implied
from .variable_order import force_directed


class TooLargeError(ValueError):
    """The level has values that are not worth a diagram."""


#: More values of one variable than are worth telling apart bit by bit.
MOST_OF_ONE = 255

#: The cache for the results of operations has 2 ** LEAST_POWER entries, and twice as many for each BITS_TO_DOUBLE bits
#: of a position. The largest cache takes as long to set up as a whole check of a small level.
LEAST_POWER, BITS_TO_DOUBLE = 16, 8

#: The greatest number of entries to a room for its moves to depend on them.
FEW_WAYS = 3


class Encoding:
    """Which bits stand for which variables.

    Args:
        actions: The actions of the moves.
        nodes: How many nodes the diagrams may have.
        limits: Say when the time is over.

    Attributes:
        bits: For each variable that has any, its bits by where they stand in the diagrams, the lowest first.
        count: How many bits there are.

    Raises:
        TooLargeError: A variable has too many values.
    """

    def __init__(self, rules: Rules, actions: Sequence[Action], nodes: int, limits: Limits) -> None:
        self.rules = rules
        self._limits = limits
        self.start = rules.start()
        self.implied = implied(rules, actions)
        most = most_values(rules, actions)
        self.most: dict[int, int] = {}
        changing = {variable for action in actions for variable in action.changed}
        kept = sorted(changing - self.implied.keys())
        self.bits: dict[int, tuple[int, ...]] = {}
        count = 0
        for variable in kept:
            value = most[variable]
            if value is None or value > MOST_OF_ONE:
                raise TooLargeError(f"{rules.variables[variable]} has too many values")
            self.most[variable] = value
            width = max(1, value.bit_length())
            self.bits[variable] = tuple(range(count, count + width))
            count += width
        self.count = count
        self._fixed = [
            variable
            for variable in range(END + 1, len(self.start))
            if variable not in self.bits and variable not in self.implied
        ]
        at = {bit: place for place, bit in enumerate(self._order(actions))}
        self.bits = {
            variable: tuple(at[bit] for bit in bits) for variable, bits in self.bits.items()
        }
        cached = min(nodes // 4, 1 << (LEAST_POWER + count // BITS_TO_DOUBLE))
        self.manager = BDDManager(nodes, cached, 1)
        if count:
            self.manager.add_vars(count)  # in the order of their numbers
        self.true, self.false = self.manager.true(), self.manager.false()
        self._sums: dict[tuple[tuple[tuple[int, int], ...], int], BDDFunction] = {}
        self._guards: dict[tuple[int, Key | None], tuple[Expression, BDDFunction]] = {}
        self._added: dict[tuple[tuple[int, int], ...], Added] = {}

    def _order(self, actions: Sequence[Action]) -> list[int]:
        """The bits in the order in which their diagrams are small.

        The rooms of the other players come first. Most moves ask for them, so that they would draw all bits together.
        """
        rooms = [bit for variable in self.rules.standing for bit in self.bits.get(variable, ())]
        looked = [self._bits_of(action) for action in actions]
        into: dict[int, list[set[int]]] = {}
        for action, bits in zip(actions, looked, strict=True):
            if (
                action.source[0] != action.target[0]
                and bits
                and bits not in into.setdefault(action.target[0], [])
            ):
                into[action.target[0]].append(bits)
        together = list(looked)
        here: dict[int, set[int]] = {}
        for action, bits in zip(actions, looked, strict=True):
            changed = {bit for variable in action.changed for bit in self.bits.get(variable, ())}
            here.setdefault(action.source[0], set()).update(changed)
            ways = into.get(action.source[0], [])
            if (
                bits and len(ways) <= FEW_WAYS
            ):  # what is done in a room hangs on how one comes there
                together += [bits | way for way in ways]
        # As declared, or as a walk through the rooms comes by them: both begin with what is near.
        walked = dict.fromkeys(
            bit for place in self._by_distance(actions) for bit in sorted(here.get(place, ()))
        )
        order = force_directed(
            [list(range(self.count)), [*walked, *(set(range(self.count)) - walked.keys())]],
            [bits.difference(rooms) for bits in together],
            self._limits,
        )
        return [*rooms, *(bit for bit in order if bit not in rooms)]

    def _by_distance(self, actions: Sequence[Action]) -> list[int]:
        """The rooms in the order of how far they are from the start, were every way open."""
        ways: dict[int, list[int]] = {}
        for action in actions:
            ways.setdefault(action.source[0], []).append(action.target[0])
        found = dict.fromkeys([self.start[PLACE]])
        ahead = list(found)
        for place in ahead:
            for to in ways.get(place, ()):
                if to not in found:
                    found[to] = None
                    ahead.append(to)
        return ahead

    def _bits_of(self, action: Action) -> set[int]:
        """The bits that an action reads or changes."""
        seen = {
            variable for condition in action.branch.conditions for variable in variables(condition)
        }
        bits = {bit for variable in seen for bit in self._bits_behind(variable)}
        return bits | {bit for one in action.changed for bit in self.bits.get(one, ())}

    def _bits_behind(self, variable: int) -> Iterable[int]:
        if variable in self.implied:
            for other in self.implied[variable].terms:
                yield from self.bits.get(other, ())
        yield from self.bits.get(variable, ())

    # -- guards -------------------------------------------------------------------------------

    def guard(self, expression: Expression, at: Key) -> BDDFunction:
        """Return the positions in which an expression holds, in a given room with a given end of the run."""
        key: tuple[int, Key | None] = (id(expression), at)
        if key not in self._guards:
            anywhere = {PLACE, END}.isdisjoint(variables(expression))
            kept = (id(expression), None if anywhere else at)
            known = self._guards.get(kept) or (expression, self._guard(expression, at))
            self._guards[kept] = self._guards[key] = known
        return self._guards[key][1]

    def _guard(self, expression: Expression, at: Key) -> BDDFunction:
        def atom(one: Expression, positive: bool) -> BDDFunction:
            match one:
                case AtLeast(variable, least):
                    found = self._sum_at_least(((variable, 1),), least)
                case Is(variable, value):
                    found = self.equal(variable, value, at)
                case Within(terms, limit):
                    found = ~self._sum_at_least(terms, limit + 1)
                case _:
                    raise TypeError(f"not a guard: {one!r}")
            return found if positive else ~found

        def every(parts: Iterable[BDDFunction]) -> BDDFunction:
            return reduce(and_, parts, self.true)

        def some(parts: Iterable[BDDFunction]) -> BDDFunction:
            return reduce(or_, parts, self.false)

        return fold(expression, atom, every, some)

    def equal(self, variable: int, value: int, at: Key) -> BDDFunction:
        """Where a variable has a value, in a given room with a given end of the run."""
        if variable in (PLACE, END):
            return self.true if value == at[variable] else self.false
        if variable in self.bits:
            return self.cube({variable: value}) if value <= self.most[variable] else self.false
        return self.between(variable, value, value)

    def between(self, variable: int, least: int, most: int) -> BDDFunction:
        """Where a variable has a value from the least to the most."""
        terms = ((variable, 1),)
        return self._sum_at_least(terms, least) & ~self._sum_at_least(terms, most + 1)

    def added(self, amounts: Mapping[int, int]) -> Added:
        """Amounts that are added to some variables."""
        key = tuple(sorted(amounts.items()))
        if key not in self._added:
            onward, back = (
                self.true.make_substitution(
                    [pair for one, amount in key for pair in self._sums_of(one, way * amount)]
                )
                for way in (-1, 1)
            )
            self._added[key] = Added(onward, back)
        return self._added[key]

    def _sums_of(self, variable: int, amount: int) -> Iterator[tuple[int, BDDFunction]]:
        """For each bit of a variable, the same bit of its sum with an amount; what is carried over is lost."""
        bits = self.bits[variable]
        cubes = [self.cube({variable: value}) for value in range(1 << len(bits))]
        for power, bit in enumerate(bits):
            ones = (one for value, one in enumerate(cubes) if value + amount >> power & 1)
            yield bit, reduce(or_, ones, self.false)

    def _sum_at_least(self, terms: tuple[tuple[int, int], ...], least: int) -> BDDFunction:
        """Return the positions in which a weighted sum of variables is at least so much."""
        known = self._sums.get((terms, least))
        if known is None:
            known = self._sums[terms, least] = self._sum(terms, least)
        return known

    def _sum(self, terms: tuple[tuple[int, int], ...], least: int) -> BDDFunction:
        weights: dict[int, int] = {}
        for variable, weight in terms:
            implied_sum = self.implied.get(variable)
            if implied_sum is None:
                least -= self._weigh(variable, weight, weights)
            else:
                least -= weight * implied_sum.constant
                for other, times in implied_sum.terms.items():
                    least -= self._weigh(other, weight * times, weights)
        ordered = sorted(
            ((weight, bit) for bit, weight in weights.items() if weight),
            key=lambda one: one[1],
        )
        return self._at_least(ordered, least)

    def _weigh(self, variable: int, weight: int, weights: dict[int, int]) -> int:
        """Add the weights of a variable's bits; return the part of its value that is certain."""
        bits = self.bits.get(variable)
        if bits is None:
            return weight * self.start[variable]
        for power, bit in enumerate(bits):
            weights[bit] = weights.get(bit, 0) + (weight << power)
        return 0

    def _at_least(self, weighed: Sequence[tuple[int, int]], least: int) -> BDDFunction:
        """Return the assignments in which the weights of the bits that are set sum up to at least so much."""
        most, fewest = [0], [0]  # what the last bits can add, from none of them to all
        for weight, _ in reversed(weighed):
            most.append(most[-1] + max(weight, 0))
            fewest.append(fewest[-1] + min(weight, 0))
        missing = [{least}]  # what may be missing before each bit
        for (weight, _), up, down in zip(weighed, most[-2::-1], fewest[-2::-1], strict=True):
            less = {one - each for one in missing[-1] for each in (0, weight)}
            missing.append({one for one in less if down < one <= up})

        found: dict[int, BDDFunction] = {}

        def known(one: int, up: int) -> BDDFunction:
            return found.get(one, self.false if one > up else self.true)

        for (weight, bit), before, up in zip(
            reversed(weighed), missing[-2::-1], most, strict=False
        ):
            var = self.manager.var(bit)
            found = {one: var.ite(known(one - weight, up), known(one, up)) for one in before}
        return known(least, most[-1])

    # -- values -------------------------------------------------------------------------------

    def cube(self, values: Mapping[int, int]) -> BDDFunction:
        """The conjunction that says what some variables are; those without bits are left out."""
        wanted = {
            bit: value >> power & 1
            for variable, value in values.items()
            for power, bit in enumerate(self.bits.get(variable, ()))
        }
        found = self.true
        # From below, so that each bit is put on top of what is there.
        for bit in sorted(wanted, reverse=True):
            found = found & (self.manager.var(bit) if wanted[bit] else self.manager.not_var(bit))
        return found

    def over(self, variables: Iterable[int]) -> BDDFunction:
        """The bits of some variables, to be quantified over."""
        found = self.true
        for variable in variables:
            for bit in self.bits.get(variable, ()):
                found = found & self.manager.var(bit)
        return found

    def holds(self, diagram: BDDFunction, position: Position) -> bool:
        """Whether a position is one of a diagram's."""
        if any(position[variable] != self.start[variable] for variable in self._fixed):
            return False
        return self._as_expected(position) and self._evaluated(diagram, position)

    def may_hold(self, diagram: BDDFunction, position: Position) -> bool:
        """Whether a position may be one of a diagram's, by the variables that have bits.

        Of values that the encoding does not expect, nothing is known.
        """
        return not self._as_expected(position) or self._evaluated(diagram, position)

    def _as_expected(self, position: Position) -> bool:
        """Whether values are no greater than they can be, and as implied by others."""
        if any(position[variable] > self.most[variable] for variable in self.bits):
            return False
        return all(
            position[variable]
            == implied_sum.constant + sum(n * position[v] for v, n in implied_sum.terms.items())
            for variable, implied_sum in self.implied.items()
        )

    def _evaluated(self, diagram: BDDFunction, position: Position) -> bool:
        bits = [
            (bit, bool(position[variable] >> power & 1))
            for variable, numbers in self.bits.items()
            for power, bit in enumerate(numbers)
        ]
        return bool(diagram.eval(bits))
