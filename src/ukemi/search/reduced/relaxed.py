"""What could come to pass at most, were nothing ever lost: quick, and never too little.

Each variable is given the interval of all values it could have; moves only make the intervals wider
(delete relaxation: B. Bonet and H. Geffner, "Planning as heuristic search", Artificial Intelligence
129 (2001); intervals: P. Cousot and R. Cousot, "Abstract interpretation", POPL 1977). What cannot
come to pass even so cannot at all.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from ...rules import END, FINISHED, PLACE, Rules
from ...rules.branches import shifted
from ...rules.expressions import TRUE, AllOf, AnyOf, AtLeast, Expression, Is, Negated, Within
from ...rules.reads import looked_at, variables
from ...rules.steps import (
    Add,
    AddUpTo,
    Attempt,
    ByValue,
    Flip,
    Require,
    Set,
    Step,
    TakeUpTo,
    UntilSettled,
    When,
)

#: More than any number a level asks for.
MANY = 1 << 40


@dataclass(eq=False, slots=True)
class Reach:
    """What can come to pass at most.

    Attributes:
        low: The least value of each variable.
        high: The greatest.
        rooms: The rooms that can be come to.
        ends: The ways the run can end.
    """

    low: list[int]
    high: list[int]
    rooms: set[int]
    ends: set[int]

    def copy(self) -> Reach:
        """One that can be widened while this stays as it is."""
        return Reach(self.low.copy(), self.high.copy(), self.rooms.copy(), self.ends.copy())

    @property
    def finishes(self) -> bool:
        """Whether the level can be finished at most."""
        return FINISHED in self.ends


@dataclass(eq=False, slots=True)
class _Happening:
    """Something that can happen in a room: a move, or what happens by itself."""

    place: int
    guard: Expression
    steps: tuple[Step, ...]
    move: int | None


class Relaxed:
    """Tells what can come to pass at most.

    Args:
        rules: The rules.
    """

    def __init__(self, rules: Rules) -> None:
        self.rules = rules
        self._all: list[_Happening] = []
        self._watching: dict[int, list[int]] = {}
        self._at: list[list[int]] = [[] for _ in rules.places]
        for move in rules.moves:
            for place in move.places:
                self._add(place, move.guard, move.steps, move.number)
        if rules.settling:
            for place in range(len(rules.places)):
                self._add(place, TRUE, rules.settling, None)

    def _add(
        self, place: int, asked: Expression, steps: tuple[Step, ...], move: int | None
    ) -> None:
        guard = shifted(asked, {PLACE: place}, {})
        if guard is False:
            return
        guard = TRUE if isinstance(guard, bool) else guard
        number = len(self._all)
        self._all.append(_Happening(place, guard, steps, move))
        self._at[place].append(number)
        for variable in {*variables(guard), *looked_at(steps)} - {PLACE}:
            self._watching.setdefault(variable, []).append(number)

    def reach(self, values: Sequence[int], without: Collection[int] = ()) -> Reach:
        """What can come to pass at most from some values.

        Args:
            values: The values.
            without: Moves that are not made, by number.
        """
        found = Reach(list(values), list(values), set(), {values[END]})
        ahead: list[int] = []
        self._enter(found, values[PLACE], ahead)
        self._widen(found, ahead, without)
        return found

    def with_more(self, known: Reach, values: Sequence[int]) -> Reach:
        """What can come to pass at most when variables can have other values too.

        Args:
            known: What can come to pass without.
            values: The values.

        Returns:
            That; what was known where it is no more.
        """
        found = known
        ahead: list[int] = []
        for variable, value in enumerate(values):
            if variable == PLACE and value in known.rooms:
                continue
            if variable != PLACE and known.low[variable] <= value <= known.high[variable]:
                continue
            found = known.copy() if found is known else found
            if variable == PLACE:
                self._enter(found, value, ahead)
            else:
                self._extend(found, variable, value, ahead)
        self._widen(found, ahead)
        return found

    def _widen(self, found: Reach, ahead: list[int], without: Collection[int] = ()) -> None:
        """Let happen what can, until that changes nothing."""
        queued = set(ahead)
        while ahead:
            number = ahead.pop()
            queued.discard(number)
            one = self._all[number]
            there = one.place in found.rooms and one.move not in without
            if not there or not _may(one.guard, found, one.place):
                continue
            woken: list[int] = []
            self._apply(one.steps, found, one.place, woken)
            for other in woken:
                if other not in queued:
                    queued.add(other)
                    ahead.append(other)

    def _enter(self, found: Reach, place: int, ahead: list[int]) -> None:
        if place not in found.rooms:
            found.rooms.add(place)
            ahead += self._at[place]

    def _extend(self, found: Reach, variable: int, value: int, ahead: list[int]) -> None:
        if value < found.low[variable]:
            found.low[variable] = value
        elif value > found.high[variable]:
            found.high[variable] = value
        else:
            return
        ahead += self._watching.get(variable, ())

    def _apply(self, steps: Sequence[Step], found: Reach, place: int, ahead: list[int]) -> None:
        for step in steps:
            match step:
                case Require(expression):
                    # What was added before it may be what it asks for: the steps are not undone.
                    if not _may(expression, found, place):
                        return
                case Set(variable, value) if variable == PLACE:
                    self._enter(found, value, ahead)
                    place = value
                case Set(variable, value) if variable == END:
                    found.ends.add(value)
                case Set(variable, value):
                    self._extend(found, variable, value, ahead)
                case Add(variable, amount):
                    self._extend(found, variable, MANY if amount > 0 else 0, ahead)
                case AddUpTo(variable, _, most):
                    self._extend(found, variable, most, ahead)
                case TakeUpTo(variable, _):
                    self._extend(found, variable, 0, ahead)
                case Flip(variable):
                    self._extend(found, variable, 0, ahead)
                    self._extend(found, variable, 1, ahead)
                case When(expression, inner):
                    if _may(expression, found, place):
                        self._apply(inner, found, place, ahead)
                case Attempt(inner) | UntilSettled(inner):
                    self._apply(inner, found, place, ahead)
                case ByValue(variable, cases):
                    for value, inner in cases.items():
                        if variable == PLACE:
                            chosen = value == place
                        else:
                            chosen = found.low[variable] <= value <= found.high[variable]
                        if chosen:
                            self._apply(inner, found, place, ahead)


def _may(expression: Expression, found: Reach, place: int, positive: bool = True) -> bool:
    """Whether an expression can come to hold at most, or to fail where it is asked negatively."""
    match expression:
        case AllOf(parts) if positive:
            return all(_may(part, found, place) for part in parts)
        case AllOf(parts):
            return any(_may(part, found, place, False) for part in parts)
        case AnyOf(parts) if positive:
            return any(_may(part, found, place) for part in parts)
        case AnyOf(parts):
            return all(_may(part, found, place, False) for part in parts)
        case Negated(part):
            return _may(part, found, place, not positive)
        case Is(variable, value) if variable == PLACE:
            return (value == place) == positive
        case Is(variable, value):
            low, high = found.low[variable], found.high[variable]
            return low <= value <= high if positive else not low == high == value
        case AtLeast(variable, least):
            return found.high[variable] >= least if positive else found.low[variable] < least
        case Within(terms, limit):
            ends = found.low if positive else found.high
            total = sum(ends[variable] * weight for variable, weight in terms)
            return total <= limit if positive else total > limit
    raise TypeError(f"not a guard: {expression!r}")
