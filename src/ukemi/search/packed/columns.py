"""Guards and steps on columns: one value of a variable for each of many positions."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import numpy as np
import numpy.typing as npt

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

Column = npt.NDArray[np.int16]
Mask = npt.NDArray[np.bool_]


class Columns:
    """The values of variables in many positions, unpacked when they are looked at.

    Args:
        size: How many positions there are.
        unpack: Gives the column of a variable.
    """

    def __init__(self, size: int, unpack: Callable[[int], Column]) -> None:
        self.size = size
        self.changed: set[int] = set()
        self._unpack = unpack
        self._known: dict[int, Column] = {}

    def __getitem__(self, variable: int) -> Column:
        column = self._known.get(variable)
        if column is None:
            column = self._known[variable] = self._unpack(variable)
        return column

    def change(self, variable: int, column: Column, active: Mask | None) -> None:
        """Give a variable other values, in the active positions."""
        if active is not None:
            column = np.where(active, column, self[variable])
        self._known[variable] = column
        self.changed.add(variable)

    def copy(self) -> Columns:
        """Columns that can be changed without changing these."""
        copied = Columns(self.size, self._unpack)
        copied._known = self._known.copy()
        copied.changed = self.changed.copy()
        return copied

    def chosen(self, which: npt.NDArray[np.int64]) -> Columns:
        """The columns of some of the positions; only those that were changed are known."""
        chosen = Columns(len(which), self._unpack)
        chosen._known = {variable: self[variable].take(which) for variable in self.changed}
        chosen.changed = self.changed.copy()
        return chosen


def holds(expression: Expression, columns: Columns) -> Mask | bool:
    """Where an expression holds; a plain truth value where that is the same for all."""
    match expression:
        case AtLeast(variable, least):
            enough: Mask = columns[variable] >= least
            return enough
        case Is(variable, value):
            equal: Mask = columns[variable] == value
            return equal
        case Within(terms, limit):
            total = np.zeros(columns.size, dtype=np.int64)
            for variable, weight in terms:
                total += columns[variable].astype(np.int64) * weight
            within: Mask = total <= limit
            return within
        case Negated(part):
            inner = holds(part, columns)
            return not inner if isinstance(inner, bool) else ~inner
        case AllOf(parts):
            every: Mask | bool = True
            for part in parts:
                every = every & holds(part, columns)
            return every
        case AnyOf(parts):
            some: Mask | bool = False
            for part in parts:
                some = some | holds(part, columns)
            return some
    raise TypeError(f"not a guard: {expression!r}")


def run(steps: Iterable[Step], columns: Columns, active: Mask | None) -> Mask | None:
    """Apply steps to the active positions, as :func:`ukemi.rules.steps.run` does to one.

    Args:
        steps: The steps.
        columns: The columns; those that change are replaced, never written to.
        active: The positions to apply them to; ``None`` for all.

    Returns:
        The active positions for which all steps were applied; ``None`` for all.
    """
    for step in steps:
        match step:
            case Require(expression):
                active = _both(active, holds(expression, columns), columns.size)
                if active is not None and not active.any():
                    return active
            case Set(variable, value):
                columns.change(variable, np.full(columns.size, value, dtype=np.int16), active)
            case Add(variable, amount):
                columns.change(variable, columns[variable] + np.int16(amount), active)
            case AddUpTo(variable, amount, most):
                more = np.minimum(columns[variable] + np.int16(amount), np.int16(most))
                columns.change(variable, more, active)
            case TakeUpTo(variable, amount):
                less = np.maximum(columns[variable] - np.int16(amount), np.int16(0))
                columns.change(variable, less, active)
            case Flip(variable):
                columns.change(variable, np.int16(1) - columns[variable], active)
            case When(expression, inner):
                chosen = _both(active, holds(expression, columns), columns.size)
                if chosen is None or chosen.any():
                    active = _but(active, chosen, run(inner, columns, chosen))
            case Attempt(inner):
                _attempt(inner, columns, active)
            case UntilSettled(inner):
                _until_settled(inner, columns, active)
            case ByValue(variable, cases):
                values = columns[variable]
                for value in np.unique(values if active is None else values[active]).tolist():
                    if value in cases:
                        chosen = _both(active, values == value, columns.size)
                        active = _but(active, chosen, run(cases[value], columns, chosen))
            case _:
                raise TypeError(f"not a step: {step!r}")
    return active


def _both(active: Mask | None, chosen: Mask | bool, size: int) -> Mask | None:
    if isinstance(chosen, bool):
        return active if chosen else np.zeros(size, dtype=bool)
    return chosen if active is None else active & chosen


def _but(active: Mask | None, chosen: Mask | None, done: Mask | None) -> Mask | None:
    """The active positions without those chosen for which not all was done."""
    if done is None:
        return active
    failed = ~done if chosen is None else chosen & ~done
    return ~failed if active is None else active & ~failed


def _attempt(inner: tuple[Step, ...], columns: Columns, active: Mask | None) -> None:
    tried = columns.copy()
    tried.changed.clear()
    done = run(inner, tried, active)
    for variable in tried.changed:
        columns.change(variable, tried[variable], done)


def _until_settled(inner: tuple[Step, ...], columns: Columns, active: Mask | None) -> None:
    while active is None or active.any():
        before = columns.copy()
        run(inner, columns, active)
        changed = np.zeros(columns.size, dtype=bool)
        for variable in columns.changed:
            changed |= columns[variable] != before[variable]
        active = changed if active is None else active & changed
