"""Which variables expressions and steps look at, and which they change."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator

from ...rules import PLACE
from ...rules.expressions import AllOf, AnyOf, AtLeast, Expression, Is, Negated, Within
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


def leaves(expression: Expression, positive: bool = True) -> Iterator[tuple[Expression, bool]]:
    """The parts of an expression that look at variables, and whether each counts for it or against.

    Args:
        expression: The expression.
        positive: Whether the expression itself counts for or against.

    Yields:
        Each leaf, with ``True`` where making it true can only help.

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


def variables(expression: Expression) -> Iterator[int]:
    """The variables an expression looks at."""
    if isinstance(expression, Is | AtLeast):  # most guards are single
        yield expression.variable
        return
    for leaf, _ in leaves(expression):
        match leaf:
            case AtLeast(variable, _) | Is(variable, _):
                yield variable
            case Within(terms, _):
                yield from (variable for variable, _ in terms)
            case _:
                raise TypeError(f"not a guard: {leaf!r}")


def rooms_named(expression: Expression) -> Iterator[int]:
    """The rooms an expression names."""
    for leaf, _ in leaves(expression):
        if isinstance(leaf, Is) and leaf.variable == PLACE:
            yield leaf.value


# These are asked of every move of every level, so they are quick where a step is a plain one.

_CHANGING = (Set, Add, AddUpTo, TakeUpTo, Flip)
_PLAIN = (*_CHANGING, Require)


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


def looked_at(steps: Collection[Step]) -> set[int]:
    """The variables that decide what steps do, but for those they change by a fixed amount."""
    found: set[int] = set()
    if all(isinstance(step, _CHANGING) for step in steps):
        return found
    for step in each_step(steps):
        if isinstance(step, Require | When):
            found.update(variables(step.expression))
        elif isinstance(step, ByValue):
            found.add(step.variable)
    return found


def changed(steps: Iterable[Step]) -> set[int]:
    """The variables that steps may change."""
    return {step.variable for step in each_step(steps) if isinstance(step, _CHANGING)}
