"""Moves worked out symbolically: under which conditions each changes what.

Symbolic execution: J. C. King, "Symbolic execution and program testing", Communications of the ACM
19 (1976). This module alone interprets guards and steps; all others that need the effects of moves read
the branches.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from types import MappingProxyType

from ..values import dataclass, field, replace
from .expressions import AnyOf, AtLeast, Expression, Is, Negated, Within, all_of, any_of, fold
from .position import END, PLACE, PLAYING
from .reads import each_step
from .rules import Move, Rules
from .steps import (
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

#: More outcomes of one move than any hand-made level has.
MOST_BRANCHES = 2_000


#: Called now and then by a long piece of work; it may raise an error to end it.
Tick = Callable[[], None]


class TooManyBranchesError(ValueError):
    """A move can turn out in more ways than are worth telling apart."""


@dataclass(frozen=True, eq=False)
class Branch:
    """One way for a move to turn out.

    Attributes:
        conditions: The conditions before it.
        becomes: The values of variables after it, where they do not depend on those before.
        adds: The amounts added to other variables.
        most: The most that some variables can ever be.
    """

    conditions: tuple[Expression, ...] = ()
    becomes: Mapping[int, int] = field(default_factory=dict)
    adds: Mapping[int, int] = field(default_factory=dict)
    most: Mapping[int, int] = field(default_factory=dict)

    def given(self, condition: Expression | bool) -> Branch | None:
        """The branch where one more condition holds; ``None`` where that cannot be."""
        if condition is False:
            return None
        if condition is True:
            return self
        return replace(self, conditions=(*self.conditions, condition))

    def where(self, expression: Expression) -> Expression | bool:
        """Return what must hold before the move so that an expression holds at this point."""
        return shifted(expression, self.becomes, self.adds, self.most)

    def set(self, variable: int, value: int) -> Branch:
        """The branch after a variable is given a value."""
        adds = {one: amount for one, amount in self.adds.items() if one != variable}
        return replace(self, becomes={**self.becomes, variable: value}, adds=adds)

    def add(self, variable: int, amount: int) -> Branch:
        """The branch after something is added to a variable."""
        if variable in self.becomes:
            return self.set(variable, self.becomes[variable] + amount)
        adds = {**self.adds, variable: self.adds.get(variable, 0) + amount}
        if not adds[variable]:
            del adds[variable]
        return replace(self, adds=adds)

    def changes_as(self, other: Branch) -> bool:
        """Whether it changes what another does."""
        return self.becomes == other.becomes and self.adds == other.adds


def shifted(
    expression: Expression,
    becomes: Mapping[int, int],
    adds: Mapping[int, int],
    most: Mapping[int, int] = MappingProxyType({}),
) -> Expression | bool:
    """An expression about the values after some changes, as one about those before.

    Args:
        becomes: Values that variables are given.
        adds: The amounts added to others.
        most: The most that some variables can be before.

    Returns:
        The expression, or its truth where the changes alone decide it.

    Example:
        >>> shifted(AtLeast(2, 3), {}, {2: 1}).least
        2
        >>> from ukemi.rules.expressions import AllOf
        >>> shifted(AllOf((AtLeast(2, 3), Is(4, 1))), {2: 5, 4: 0}, {})
        False
    """

    def atom(one: Expression, positive: bool) -> Expression | bool:
        before = _atom_before(one, becomes, adds, most)
        return before if positive else _not(before)

    return fold(expression, atom, _every, _some)


def _every(parts: Iterable[Expression | bool]) -> Expression | bool:
    left = []
    for part in parts:
        if part is False:
            return False
        if part is not True:
            left.append(part)
    return all_of(*left) if left else True


def _some(parts: Iterable[Expression | bool]) -> Expression | bool:
    left = []
    for part in parts:
        if part is True:
            return True
        if part is not False:
            left.append(part)
    return any_of(*left) if left else False


def _atom_before(
    atom: Expression, becomes: Mapping[int, int], adds: Mapping[int, int], most: Mapping[int, int]
) -> Expression | bool:
    match atom:
        case AtLeast(variable, least):
            if variable in becomes:
                return becomes[variable] >= least
            least -= adds.get(variable, 0)
            if least <= 0 or least > most.get(variable, least):
                return least <= 0
            return AtLeast(variable, least)
        case Is(variable, value):
            if variable in becomes:
                return becomes[variable] == value
            before = value - adds.get(variable, 0)
            may_be = 0 <= before <= most.get(variable, before)
            return Is(variable, before) if may_be else False
        case Within(terms, limit):
            limit -= sum(w * becomes[v] for v, w in terms if v in becomes)
            limit -= sum(w * adds.get(v, 0) for v, w in terms)
            left = tuple((v, w) for v, w in terms if v not in becomes)
            return Within(left, limit) if left else limit >= 0
    raise TypeError(f"not a guard: {atom!r}")


def _not(condition: Expression | bool) -> Expression | bool:
    return not condition if isinstance(condition, bool) else Negated(condition)


def bounds(rules: Rules) -> dict[int, int]:
    """The greatest value of each variable to which nothing is ever added."""
    most = dict(enumerate(rules.initial))
    for step in each_step([*rules.settling, *(one for move in rules.moves for one in move.steps)]):
        match step:
            case Set(variable, value) if variable in most:
                most[variable] = max(most[variable], value)
            case Flip(variable) if variable in most:
                most[variable] = max(most[variable], 1)
            case Add(variable, amount) if amount > 0:
                most.pop(variable, None)
            case AddUpTo(variable, _, _):
                most.pop(variable, None)
    return most


def never_ends() -> None:
    """Check no limits: for a search that has none."""


def move_branches(
    rules: Rules,
    move: Move,
    place: int,
    most: Mapping[int, int] | None = None,
    tick: Tick = never_ends,
) -> list[Branch]:
    """Every way for a move to turn out in a room, all that happens by itself included.

    Args:
        place: The room it is made in.
        most: The :func:`bounds` of the rules, if they are at hand.
        tick: Called for each step of each branch; it raises an error of its own to end the work.

    Returns:
        The branches; at most one of them applies in a position. Each says where the player is and
        whether the run has ended.

    Raises:
        TooManyBranchesError: There are too many.
    """
    most = bounds(rules) if most is None else most
    here = Branch(becomes={PLACE: place, END: PLAYING}, most=most)
    begun = here.given(here.where(move.guard))
    if begun is None:
        return []
    try:
        return _run(rules.settling, _run(move.steps, [begun], tick), tick)
    except TooManyBranchesError:
        message = f"the move {move.what} turns out in too many ways"
        raise TooManyBranchesError(message) from None


def _run(steps: Sequence[Step], branches: Iterable[Branch], tick: Tick) -> list[Branch]:
    now = list(branches)
    for step in steps:
        tick()
        now = [after for one in now for after in _apply(step, one, tick)]
        if len(now) > MOST_BRANCHES:
            raise TooManyBranchesError
    return now


def _apply(step: Step, branch: Branch, tick: Tick) -> Iterator[Branch]:
    tick()
    match step:
        case Set(variable, value):
            yield branch.set(variable, value)
        case Add(variable, amount):
            yield branch.add(variable, amount)
        case Require(expression):
            yield from _kept(branch.given(branch.where(expression)))
        case AddUpTo(variable, amount, most):
            over = branch.where(AtLeast(variable, most - amount + 1))
            yield from (one.set(variable, most) for one in _kept(branch.given(over)))
            yield from (one.add(variable, amount) for one in _kept(branch.given(_not(over))))
        case TakeUpTo(variable, amount):
            enough = branch.where(AtLeast(variable, amount))
            yield from (one.add(variable, -amount) for one in _kept(branch.given(enough)))
            yield from (one.set(variable, 0) for one in _kept(branch.given(_not(enough))))
        case Flip(variable):
            on = branch.where(Is(variable, 1))
            yield from (one.set(variable, 0) for one in _kept(branch.given(on)))
            yield from (one.set(variable, 1) for one in _kept(branch.given(_not(on))))
        case When(expression, steps):
            holds = branch.where(expression)
            yield from _run(steps, _kept(branch.given(holds)), tick)
            yield from _kept(branch.given(_not(holds)))
        case Attempt(steps):
            yield from _attempt(steps, branch, tick)
        case UntilSettled(steps):
            for after in _run(steps, [branch], tick):
                if after.changes_as(branch):
                    yield after
                else:
                    yield from _apply(step, after, tick)
        case ByValue(variable, cases) if variable in branch.becomes:
            yield from _run(cases.get(branch.becomes[variable], ()), [branch], tick)
        case ByValue(variable, cases):
            for value, some in cases.items():
                here = branch.where(Is(variable, value))
                yield from _run(some, _kept(branch.given(here)), tick)
            elsewhere = Negated(AnyOf(tuple(Is(variable, value) for value in cases)))
            yield from _kept(branch.given(branch.where(elsewhere)))
        case _:
            raise TypeError(f"not a step: {step!r}")


def _attempt(steps: Sequence[Step], branch: Branch, tick: Tick) -> Iterator[Branch]:
    done = _run(steps, [branch], tick)
    yield from done
    count = len(branch.conditions)
    asked = [all_of(*one.conditions[count:]) for one in done]
    if all(one.conditions[count:] for one in done):
        yield from _kept(branch.given(Negated(AnyOf(tuple(asked))) if asked else True))


def _kept(branch: Branch | None) -> list[Branch]:
    return [] if branch is None else [branch]


def turned_both_ways(branches: Iterable[Branch]) -> set[int]:
    """The variables that branches set to different values; numbers that they add to are left out."""
    values: dict[int, set[int]] = {}
    added: set[int] = {PLACE, END}
    for branch in branches:
        added.update(branch.adds)
        for variable, value in branch.becomes.items():
            values.setdefault(variable, set()).add(value)
    return {one for one, some in values.items() if len(some) > 1} - added
