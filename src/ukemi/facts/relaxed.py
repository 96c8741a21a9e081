"""Reach in the relaxed level, in which nothing is ever lost: quick, and never too little.

Each variable is given the interval of all values it could have, and the room of each player the set of
rooms it could be; moves only make them wider (delete relaxation: B. Bonet and H. Geffner, "Planning as
heuristic search", Artificial Intelligence 129 (2001); intervals: P. Cousot and R. Cousot, "Abstract
interpretation", POPL 1977). If the relaxed level cannot do something, the level cannot either.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from types import MappingProxyType

from ..rules import DEAD, END, FINISHED, PLACE, PLAYING, Rules
from ..rules.branches import Branch, TooManyBranchesError, bounds, move_branches
from ..rules.expressions import AtLeast, Expression, Is, Within, fold
from ..rules.reads import variables
from ..spaces.limits import CutShortError, Limits
from ..values import dataclass

#: More than any number a level asks for.
MANY = 1 << 40


@dataclass(eq=False, slots=True)
class Reach:
    """The reach of the relaxed level.

    Attributes:
        low: The least value of each variable.
        high: The greatest.
        standing: The rooms of each player, by the variable of the player's room.
        ends: The ways the run can end.
    """

    low: list[int]
    high: list[int]
    standing: dict[int, set[int]]
    ends: set[int]

    def copy(self) -> Reach:
        """Return a copy: widening it leaves this as it is."""
        standing = {variable: rooms.copy() for variable, rooms in self.standing.items()}
        return Reach(self.low.copy(), self.high.copy(), standing, self.ends.copy())

    @property
    def rooms(self) -> set[int]:
        """The rooms that any player can be in."""
        return set().union(*self.standing.values())

    @property
    def finishes(self) -> bool:
        """Whether the level may be finished. If not, it is proven that nothing finishes."""
        return FINISHED in self.ends


class Relaxed:
    """Find the reach of the relaxed level.

    If moves turn out in too many ways, or the time is over first, that is anything at all.

    Args:
        limits: How long it may take; it is ticked by all that is asked, too.

    Attributes:
        able: Whether every way was found in which moves turn out.
        branches: Those ways: the number of the move, the room it is made in, and what it changes.
    """

    def __init__(self, rules: Rules, limits: Limits | None = None) -> None:
        self.rules = rules
        self.limits = limits or Limits()
        self.able = True
        self.branches: list[tuple[int, int, Branch]] = []
        self._conditions: list[tuple[int, ...]] = []
        self._numbers: dict[Expression, int] = {}
        self._asked: list[Expression] = []
        #: For each variable, the branches that ask for it to be lower, and those that ask for it to be higher.
        self._watching: tuple[dict[int, set[int]], dict[int, set[int]]] = {}, {}
        self._at: list[set[int]] = [set() for _ in rules.places]
        # The items on the floor of a room never increase; all other variables may be tried above the
        # values of the level.
        most = {one: n for one, n in bounds(rules).items() if rules.variables[one][0] == "lying"}
        try:
            for move in rules.moves:
                for place in move.places:
                    for branch in move_branches(rules, move, place, most, self.limits.check):
                        self._add(move.number, place, branch)
        except (TooManyBranchesError, CutShortError):
            self.able = False

    def _anything(self) -> Reach:
        """The widest reach there is: every room, and every value of every variable."""
        many = len(self.rules.variables)
        standing = {one: set(range(len(self.rules.places))) for one in self.rules.standing}
        return Reach([0] * many, [MANY] * many, standing, {PLAYING, FINISHED, DEAD})

    def _add(self, move: int, place: int, branch: Branch) -> None:
        number = len(self.branches)
        self.branches.append((move, place, branch))
        self._at[place].add(number)
        # Many ways ask for the same: each condition is worked out once for all of them.
        self._conditions.append(tuple(self._numbered(one) for one in branch.conditions))
        for variable, higher in {side for asked in branch.conditions for side in _sides(asked)}:
            self._watching[higher].setdefault(variable, set()).add(number)

    def _numbered(self, condition: Expression) -> int:
        number = self._numbers.setdefault(condition, len(self._asked))
        if number == len(self._asked):
            self._asked.append(condition)
        return number

    def reach(
        self,
        values: Sequence[int],
        without: Collection[int] = (),
        keeping: Mapping[int, int] = MappingProxyType({}),
    ) -> Reach:
        """Return the reach from some values, without some moves, given by number.

        The values are taken as they are and as they settle: a position that has settled already
        could change if it settled once more, and must not be forgotten for that.

        Args:
            keeping: Variables that no move changes to another value than this.
        """
        standing: dict[int, set[int]] = {one: set() for one in self.rules.standing}
        found = Reach(list(values), list(values), standing, {values[END]})
        return self._joined(found, values, without, keeping)

    def _joined(
        self,
        found: Reach,
        values: Sequence[int],
        without: Collection[int] = (),
        keeping: Mapping[int, int] = MappingProxyType({}),
    ) -> Reach:
        if not self.able:
            return self._anything()
        ahead: set[int] = set()
        self._join(found, values, ahead)
        try:
            self._widen(found, ahead, without, keeping)
        except CutShortError:
            return self._anything()
        return found

    def _join(self, found: Reach, values: Sequence[int], ahead: set[int]) -> None:
        """Widen what is known by some values and by what they settle to."""
        for some in (values, self.rules.settle(list(values))):
            found.ends.add(some[END])
            self._enter(found, some[PLACE], ahead)
            for variable in range(END + 1, len(some)):
                self._extend(found, variable, some[variable], ahead)

    def with_more(self, known: Reach, values: Sequence[int]) -> Reach:
        """Return the reach if variables can also have other values than the known ones."""
        return self._joined(known.copy(), values)

    def _widen(
        self, found: Reach, ahead: set[int], without: Collection[int], keeping: Mapping[int, int]
    ) -> None:
        """Make every move that may be made, until nothing gets wider."""
        rooms, made = found.standing[PLACE], set[int]()
        here = set[int]().union(*(self._at[place] for place in rooms))
        ahead &= here
        # What may hold once may hold for good; what may not is asked again only after a change.
        holds: set[int] = set()
        fails: set[int] = set()
        while ahead:
            number = ahead.pop()
            move, _, branch = self.branches[number]
            if move in without:
                continue
            if any(
                variable in branch.adds or branch.becomes.get(variable, value) != value
                for variable, value in keeping.items()
            ):
                continue
            if not self._may_all(self._conditions[number], found, holds, fails):
                continue
            made.add(number)
            woken: set[int] = set()
            found.ends.add(branch.becomes[END])
            self._enter(found, branch.becomes[PLACE], woken)
            here |= woken
            for variable, value in branch.becomes.items():
                if variable > END:
                    self._extend(found, variable, value, woken)
            for variable, amount in branch.adds.items():
                self._extend(found, variable, MANY if amount > 0 else 0, woken)
            if woken:
                self.limits.check()
                fails.clear()
            ahead |= (woken - made) & here

    def _may_all(
        self, conditions: Iterable[int], found: Reach, holds: set[int], fails: set[int]
    ) -> bool:
        """Whether some conditions, by number, may all hold; records those that do, and one that does not."""
        for one in conditions:
            if one in holds:
                continue
            if one in fails or not _may(self._asked[one], found):
                fails.add(one)
                return False
            holds.add(one)
        return True

    def _enter(self, found: Reach, place: int, ahead: set[int]) -> None:
        if place not in found.standing[PLACE]:
            found.standing[PLACE].add(place)
            ahead |= self._at[place]

    def _extend(self, found: Reach, variable: int, value: int, ahead: set[int]) -> None:
        rooms = found.standing.get(variable)
        entered = rooms is not None and value not in rooms
        if rooms is not None:
            rooms.add(value)
        higher = value > found.high[variable]
        if value < found.low[variable]:
            found.low[variable] = value
        elif higher:
            found.high[variable] = value
        elif not entered:
            return
        ahead |= self._watching[higher].get(variable, set())


def _sides(expression: Expression) -> frozenset[tuple[int, bool]]:
    """The variables that can make an expression hold, each with whether it has to be higher or lower."""

    def atom(one: Expression, positive: bool) -> frozenset[tuple[int, bool]]:
        match one:
            case AtLeast(variable):
                return frozenset([(variable, positive)])
            case Within(terms):
                return frozenset((variable, not positive) for variable, _ in terms)
        return frozenset((variable, side) for variable in variables(one) for side in (False, True))

    def joined(parts: Iterable[frozenset[tuple[int, bool]]]) -> frozenset[tuple[int, bool]]:
        return frozenset[tuple[int, bool]]().union(*parts)

    return fold(expression, atom, joined, joined)


def _may(expression: Expression, found: Reach) -> bool:
    """Whether an expression can hold in the relaxed level."""

    def atom(one: Expression, positive: bool) -> bool:
        match one:
            case Is(variable, value) if variable in found.standing:
                rooms = found.standing[variable]
                return value in rooms if positive else rooms != {value}
            case Is(variable, value):
                low, high = found.low[variable], found.high[variable]
                return low <= value <= high if positive else not low == high == value
            case AtLeast(variable, least):
                return found.high[variable] >= least if positive else found.low[variable] < least
            case Within(terms, limit):
                ends = found.low if positive else found.high
                total = sum(ends[variable] * weight for variable, weight in terms)
                return total <= limit if positive else total > limit
        raise TypeError(f"not a guard: {one!r}")

    return fold(expression, atom, all, any)
