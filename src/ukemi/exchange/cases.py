"""The moves of a level as cases: what must hold before, and what each variable is after.

A move's steps are carried out on symbols: each variable is what it was, more or less, or a number. Where a
step looks at a value, there are two cases. J. C. King, "Symbolic execution and program testing",
Communications of the ACM 19 (1976), 385-394.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from typing import NamedTuple

from ..rules import END, PLAYING, Move, Rules
from ..rules.expressions import TRUE, AllOf, AnyOf, AtLeast, Expression, Is, Negated, Within
from ..rules.steps import (
    Add,
    AddUpTo,
    Attempt,
    ByValue,
    Flip,
    Require,
    Set,
    Step,
    TakeUpTo,
    When,
)

#: More cases of one move than this are more than anyone reads.
MOST = 256
#: What never holds.
FALSE = AnyOf(())


class CannotBeSaidError(ValueError):
    """Something of a level that another form has no words for."""


class Change(NamedTuple):
    """What a variable is afterwards: a number, or so much more than it was."""

    fixed: bool
    value: int


@dataclass(frozen=True, eq=False)
class Case:
    """One way a move turns out.

    Attributes:
        holds: What holds before.
        changes: The variables that are changed.
    """

    holds: tuple[Expression, ...] = ()
    changes: dict[int, Change] = field(default_factory=dict)

    def where(self, expression: Expression) -> Case | None:
        """The case in which something holds now; ``None`` where it cannot."""
        now = before(expression, self.changes)
        if now is FALSE:
            return None
        return self if now is TRUE else Case((*self.holds, now), self.changes)

    def set(self, variable: int, change: Change) -> Case:
        """The case with a variable changed."""
        return Case(self.holds, {**self.changes, variable: change})

    def add(self, variable: int, amount: int) -> Case:
        """The case with so much added to a variable."""
        fixed, value = self.changes.get(variable, Change(False, 0))
        return self.set(variable, Change(fixed, value + amount))


def cases(rules: Rules, move: Move) -> list[Case]:
    """The ways a move turns out, what happens by itself after it with it.

    Args:
        rules: The rules.
        move: The move.

    Raises:
        CannotBeSaidError: It has too many, or things happen by themselves again and again.
    """
    first = Case().where(Is(END, PLAYING))
    first = first and first.where(move.guard)
    found = list(_run((*move.steps, *rules.settling), [first] if first else []))
    if len(found) > MOST:
        raise CannotBeSaidError(f"the move {move.what} turns out in more than {MOST} ways")
    return found


def _run(steps: Iterable[Step], some: list[Case]) -> list[Case]:
    for step in steps:
        some = [after for case in some for after in _after(step, case)]
        if len(some) > MOST:
            break
    return some


def _after(step: Step, case: Case) -> Iterator[Case]:
    match step:
        case Require(expression=expression):
            yield from _if(case, expression)
        case Set(variable=variable, value=value):
            yield case.set(variable, Change(True, value))
        case Add(variable=variable, amount=amount):
            yield case.add(variable, amount)
        case AddUpTo(variable=variable, amount=amount, most=most):
            full = AtLeast(variable, most - amount + 1)
            yield from (one.set(variable, Change(True, most)) for one in _if(case, full))
            yield from (one.add(variable, amount) for one in _if(case, Negated(full)))
        case TakeUpTo(variable=variable, amount=amount):
            enough = AtLeast(variable, amount)
            yield from (one.add(variable, -amount) for one in _if(case, enough))
            few = _if(case, Negated(enough))
            yield from (one.set(variable, Change(True, 0)) for one in few)
        case Flip(variable=variable):
            for old in (0, 1):
                same = _if(case, Is(variable, old))
                yield from (one.set(variable, Change(True, 1 - old)) for one in same)
        case When(expression=expression, steps=steps):
            yield from _run(steps, list(_if(case, expression)))
            yield from _if(case, Negated(expression))
        case ByValue(variable=variable, cases=by_value):
            for value, steps in by_value.items():
                yield from _run(steps, list(_if(case, Is(variable, value))))
            others = AllOf(tuple(Negated(Is(variable, value)) for value in by_value))
            yield from _if(case, others)
        case Attempt(steps=steps):
            done = _run(steps, [case])
            yield from done
            own = [AllOf(one.holds[len(case.holds) :]) for one in done]
            if not any(not one.parts for one in own):
                holds = (*case.holds, *(Negated(one) for one in own))
                yield Case(holds, case.changes)
        case _:
            message = (
                "what happens by itself again and again (`pickup: touch`, events) has no words"
            )
            raise CannotBeSaidError(message)


def _if(case: Case, expression: Expression) -> Iterator[Case]:
    found = case.where(expression)
    if found is not None:
        yield found


def before(expression: Expression, changes: dict[int, Change]) -> Expression:
    """What must have held before some changes for something to hold after them."""
    match expression:
        case AtLeast(variable=variable, least=least):
            fixed, value = changes.get(variable, Change(False, 0))
            if fixed or least - value <= 0:
                return TRUE if value >= least or not fixed else FALSE
            return AtLeast(variable, least - value)
        case Is(variable=variable, value=wanted):
            fixed, value = changes.get(variable, Change(False, 0))
            if fixed:
                return TRUE if value == wanted else FALSE
            return Is(variable, wanted - value) if wanted >= value else FALSE
        case Within(terms=terms, limit=limit):
            left = []
            for variable, weight in terms:
                fixed, value = changes.get(variable, Change(False, 0))
                limit -= weight * value
                left += [] if fixed else [(variable, weight)]
            if not left:
                return TRUE if limit >= 0 else FALSE
            return Within(tuple(left), limit)
        case Negated(part=part):
            inner = before(part, changes)
            return FALSE if inner is TRUE else TRUE if inner is FALSE else Negated(inner)
        case AllOf(parts=parts):
            return _joined([before(one, changes) for one in parts], AllOf, TRUE, FALSE)
        case AnyOf(parts=parts):
            return _joined([before(one, changes) for one in parts], AnyOf, FALSE, TRUE)
    raise TypeError(f"no way to look at {expression!r}")


def _joined(
    parts: list[Expression], join: type[AllOf] | type[AnyOf], none: Expression, all_: Expression
) -> Expression:
    """Parts joined, where some are settled already."""
    if all_ in parts:
        return all_
    left = tuple(one for one in parts if one is not none)
    return left[0] if len(left) == 1 else join(left) if left else none
