"""The variables that expressions and steps read, and the variables that they change."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from .expressions import AllOf, AnyOf, AtLeast, Expression, Is, Negated, Within
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

# Some of this is asked of every move of every level, so that it is quick where a guard or a step is
# a plain one.

_SINGLE = (Is, AtLeast)
_JOINED = (AllOf, AnyOf)
CHANGING = (Set, Add, AddUpTo, TakeUpTo, Flip)
_PLAIN = (*CHANGING, Require)
_ALL_CHANGING = frozenset(CHANGING)


def leaves(expression: Expression, positive: bool = True) -> Iterator[tuple[Expression, bool]]:
    """Yield the atoms of an expression, and whether the expression wants each to be true, or false.

    Args:
        positive: Whether the expression itself is wanted to be true.

    Example:
        >>> from ukemi.rules.expressions import AllOf, AtLeast, Is, Negated
        >>> [(type(leaf).__name__, way) for leaf, way in leaves(AllOf((AtLeast(3, 1), Negated(Is(4, 1)))))]
        [('AtLeast', True), ('Is', False)]
    """
    match expression:
        case AllOf(parts) | AnyOf(parts):
            for part in parts:
                yield from leaves(part, positive)
        case Negated(part):
            yield from leaves(part, not positive)
        case _:
            yield expression, positive


def variables(expression: Expression) -> list[int]:
    """Yield the variables of an expression, each as often as it occurs."""
    if isinstance(expression, _SINGLE):  # most are
        return [expression.variable]
    if isinstance(expression, _JOINED):
        return [variable for part in expression.parts for variable in variables(part)]
    if isinstance(expression, Negated):
        return variables(expression.part)
    if isinstance(expression, Within):
        return [variable for variable, _ in expression.terms]
    raise TypeError(f"not a guard: {expression!r}")


def each_step(steps: Iterable[Step]) -> Iterator[Step]:
    """Every step, those within others too, the outer ones first."""
    for step in steps:
        yield step
        if isinstance(step, _PLAIN):
            continue
        match step:
            case When(_, inner) | Attempt(inner) | UntilSettled(inner):
                yield from each_step(inner)
            case ByValue(_, cases):
                for case in cases.values():
                    yield from each_step(case)


def looked_at(steps: Sequence[Step]) -> set[int]:
    """The variables that decide what steps do, but for those they change by a fixed amount."""
    found: set[int] = set()
    if len(steps) == 1 and isinstance(steps[0], Set):  # most are
        return found
    if _ALL_CHANGING.issuperset(map(type, steps)):
        return found
    for step in each_step(steps):
        if isinstance(step, Require | When):
            found.update(variables(step.expression))
        elif isinstance(step, ByValue):
            found.add(step.variable)
    return found


def changed(steps: Sequence[Step]) -> set[int]:
    """The variables that steps may change."""
    if len(steps) == 1 and isinstance(steps[0], Set):
        return {steps[0].variable}
    if _ALL_CHANGING.issuperset(map(type, steps)):  # most are
        return {step.variable for step in steps}  # type: ignore[attr-defined]
    return {step.variable for step in each_step(steps) if isinstance(step, CHANGING)}
