"""Guards: truth over the values of a position's variables."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import TypeVar

from ..values import dataclass

Values = Sequence[int]

T = TypeVar("T")


class Expression:
    """The base of all guards."""

    __slots__ = ()

    def holds(self, values: Values) -> bool:
        """Whether the expression is true of these values."""
        raise NotImplementedError


@dataclass(eq=False, repr=False, slots=True)
class AtLeast(Expression):
    """The variable's value is ``least`` or more."""

    variable: int
    least: int

    def holds(self, values: Values) -> bool:  # noqa: D102
        return values[self.variable] >= self.least


@dataclass(eq=False, repr=False, slots=True)
class Is(Expression):
    """The variable has this value."""

    variable: int
    value: int

    def holds(self, values: Values) -> bool:  # noqa: D102
        return values[self.variable] == self.value


@dataclass(eq=False, repr=False, slots=True)
class Within(Expression):
    """The weighted sum of some variables does not exceed a limit."""

    terms: tuple[tuple[int, int], ...]
    limit: int

    def holds(self, values: Values) -> bool:  # noqa: D102
        return sum(values[variable] * weight for variable, weight in self.terms) <= self.limit


@dataclass(eq=False, repr=False, slots=True)
class Negated(Expression):
    """The part is false."""

    part: Expression

    def holds(self, values: Values) -> bool:  # noqa: D102
        return not self.part.holds(values)


@dataclass(eq=False, repr=False, slots=True)
class AllOf(Expression):
    """Every part is true; with no parts, always."""

    parts: tuple[Expression, ...]

    def holds(self, values: Values) -> bool:  # noqa: D102
        for part in self.parts:  # a plain loop: this is where a search spends its time
            if not part.holds(values):
                return False
        return True


@dataclass(eq=False, repr=False, slots=True)
class AnyOf(Expression):
    """At least one part is true; with no parts, never."""

    parts: tuple[Expression, ...]

    def holds(self, values: Values) -> bool:  # noqa: D102
        return any(part.holds(values) for part in self.parts)


#: The guard of what can always be done.
TRUE = AllOf(())


def fold(
    expression: Expression,
    atom: Callable[[Expression, bool], T],
    every: Callable[[Iterable[T]], T],
    some: Callable[[Iterable[T]], T],
    positive: bool = True,
) -> T:
    """Work out something of an expression from its atoms.

    Negations are carried down to the atoms: "not both" becomes "one not, or the other not".

    Args:
        atom: Gives the result for an atom, and whether the atom has to be true or false.
        every: Joins the results of the parts of a conjunction. It may stop reading early, as ``all`` does.
        some: Joins the results of the parts of a disjunction.
        positive: ``False`` for the negation of the expression.

    Example:
        >>> both = AllOf((AtLeast(3, 1), Negated(AnyOf((Is(4, 1), Is(5, 0))))))
        >>> fold(both, lambda one, yes: f"{'' if yes else '!'}{one.variable}", " ".join, "|".join)
        '3 !4 !5'
    """
    if isinstance(expression, AllOf | AnyOf):
        join = every if isinstance(expression, AllOf) == positive else some
        return join(fold(part, atom, every, some, positive) for part in expression.parts)
    if isinstance(expression, Negated):
        return fold(expression.part, atom, every, some, not positive)
    return atom(expression, positive)


def conjuncts(guard: Expression) -> tuple[Expression, ...]:
    """Return the conjuncts of a guard."""
    if not isinstance(guard, AllOf):
        return (guard,)
    return tuple(one for part in guard.parts for one in conjuncts(part))


def all_of(*parts: Expression) -> Expression:
    """The conjunction of some expressions, without the ones that always hold."""
    needed = tuple(part for part in parts if part is not TRUE) if TRUE in parts else parts
    if len(needed) == 1:
        return needed[0]
    return AllOf(needed) if needed else TRUE


def any_of(*parts: Expression) -> Expression:
    """The disjunction of some expressions."""
    return parts[0] if len(parts) == 1 else AnyOf(parts)
