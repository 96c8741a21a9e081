"""Guards of which part is known already."""

from __future__ import annotations

from collections.abc import Mapping

from ...rules.expressions import (
    AllOf,
    AnyOf,
    AtLeast,
    Expression,
    Is,
    Negated,
    Within,
    all_of,
    any_of,
)


def with_known(expression: Expression, known: Mapping[int, int]) -> Expression | bool:
    """What is left of an expression when the values of some variables are known.

    Args:
        expression: The expression.
        known: The values, by variable.

    Returns:
        An expression over the other variables, or whether it holds.

    Example:
        >>> from ukemi.rules.expressions import AllOf, AtLeast, Is
        >>> left = with_known(AllOf((Is(3, 1), AtLeast(4, 2))), {3: 1})
        >>> (left.variable, left.least)
        (4, 2)
        >>> with_known(AllOf((Is(3, 1), AtLeast(4, 2))), {3: 0})
        False
    """
    match expression:
        case AtLeast(variable, least) if variable in known:
            return known[variable] >= least
        case Is(variable, value) if variable in known:
            return known[variable] == value
        case Within(terms, limit):
            return _within(terms, limit, known)
        case Negated(part):
            inner = with_known(part, known)
            return not inner if isinstance(inner, bool) else Negated(inner)
        case AllOf(parts):
            needed = [with_known(part, known) for part in parts]
            if any(part is False for part in needed):
                return False
            open_parts = [part for part in needed if not isinstance(part, bool)]
            return all_of(*open_parts) if open_parts else True
        case AnyOf(parts):
            ways = [with_known(part, known) for part in parts]
            if any(way is True for way in ways):
                return True
            open_ways = [way for way in ways if not isinstance(way, bool)]
            return any_of(*open_ways) if open_ways else False
    return expression


def _within(
    terms: tuple[tuple[int, int], ...], limit: int, known: Mapping[int, int]
) -> Expression | bool:
    left = tuple((variable, weight) for variable, weight in terms if variable not in known)
    limit -= sum(known[variable] * weight for variable, weight in terms if variable in known)
    return Within(left, limit) if left else limit >= 0
