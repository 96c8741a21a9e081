"""Effects: what a move does to the values of a position's variables, one step after another."""

from __future__ import annotations

from collections.abc import Iterable

from ..values import dataclass
from .expressions import Expression


class Step:
    """The base of all steps."""

    __slots__ = ()

    def apply(self, values: list[int]) -> bool:
        """Change the values in place; false where the whole move cannot be made after all."""
        raise NotImplementedError


def run(steps: Iterable[Step], values: list[int]) -> bool:
    """Apply steps in order, up to the first impossible step.

    Args:
        steps: The steps.
        values: The values, changed in place.

    Returns:
        Whether all steps were applied.

    Example:
        >>> from ukemi.rules.expressions import AtLeast
        >>> values = [2, 0]
        >>> run([Add(0, -1), Set(1, 1), Require(AtLeast(0, 1))], values), values
        (True, [1, 1])
        >>> run([Add(0, -1), Require(AtLeast(0, 1))], values)
        False
    """
    for step in steps:
        if not step.apply(values):
            return False
    return True


@dataclass(eq=False, repr=False, slots=True)
class Require(Step):
    """The move can only be made if the expression holds at this point."""

    expression: Expression

    def apply(self, values: list[int]) -> bool:  # noqa: D102
        return self.expression.holds(values)


@dataclass(eq=False, repr=False, slots=True)
class Set(Step):
    """Give the variable a value."""

    variable: int
    value: int

    def apply(self, values: list[int]) -> bool:  # noqa: D102
        values[self.variable] = self.value
        return True


@dataclass(eq=False, repr=False, slots=True)
class Add(Step):
    """Add to the variable; the amount may be negative."""

    variable: int
    amount: int

    def apply(self, values: list[int]) -> bool:  # noqa: D102
        values[self.variable] += self.amount
        return True


@dataclass(eq=False, repr=False, slots=True)
class AddUpTo(Step):
    """Add to the variable; what goes beyond ``most`` is lost."""

    variable: int
    amount: int
    most: int

    def apply(self, values: list[int]) -> bool:  # noqa: D102
        values[self.variable] = min(values[self.variable] + self.amount, self.most)
        return True


@dataclass(eq=False, repr=False, slots=True)
class TakeUpTo(Step):
    """Take from the variable; if it has too little, take all."""

    variable: int
    amount: int

    def apply(self, values: list[int]) -> bool:  # noqa: D102
        values[self.variable] = max(values[self.variable] - self.amount, 0)
        return True


@dataclass(eq=False, repr=False, slots=True)
class Flip(Step):
    """Turn a variable of 0 or 1 over."""

    variable: int

    def apply(self, values: list[int]) -> bool:  # noqa: D102
        values[self.variable] = 1 - values[self.variable]
        return True


@dataclass(eq=False, repr=False, slots=True)
class When(Step):
    """Apply steps if the expression holds."""

    expression: Expression
    steps: tuple[Step, ...]

    def apply(self, values: list[int]) -> bool:  # noqa: D102
        return not self.expression.holds(values) or run(self.steps, values)


@dataclass(eq=False, repr=False, slots=True)
class Attempt(Step):
    """Apply all steps, or none if one is impossible."""

    steps: tuple[Step, ...]

    def apply(self, values: list[int]) -> bool:  # noqa: D102
        tried = values.copy()
        if run(self.steps, tried):
            values[:] = tried
        return True


@dataclass(eq=False, repr=False, slots=True)
class UntilSettled(Step):
    """Apply steps again and again until they change nothing."""

    steps: tuple[Step, ...]

    def apply(self, values: list[int]) -> bool:  # noqa: D102
        before: list[int] = []
        while before != values:
            before = values.copy()
            run(self.steps, values)
        return True


@dataclass(eq=False, repr=False, slots=True)
class ByValue(Step):
    """Apply the steps that belong to the variable's value, if any do."""

    variable: int
    cases: dict[int, tuple[Step, ...]]

    def apply(self, values: list[int]) -> bool:  # noqa: D102
        return run(self.cases.get(values[self.variable], ()), values)
