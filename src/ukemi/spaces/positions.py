"""The positions along a route."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import overload

from ..rules import Position


class Positions(Sequence[Position]):
    """The positions along a route, kept as what each move changes.

    A position of a large level has thousands of values, and a move changes a few: stored whole, the
        positions of a long route would take gigabytes.

    Example:
        >>> positions = Positions((0, 0, 1))
        >>> positions.add((2, 0, 1), changes=[0])
        >>> positions[1], positions[-2], len(positions)
        ((2, 0, 1), (0, 0, 1), 2)
    """

    def __init__(self, start: Position) -> None:
        self._last = start
        self._steps: list[list[tuple[int, int, int]]] = []
        # Routes are mostly read in order: the next position is near the last one read.
        self._at = 0
        self._values = list(start)

    def add(self, position: Position, changes: Iterable[int]) -> None:
        """Add the position after the last, with the variables in which it may differ from that."""
        last = self._last
        self._steps.append(
            [(v, last[v], position[v]) for v in {*changes} if last[v] != position[v]]
        )
        self._last = position

    def __len__(self) -> int:
        return len(self._steps) + 1

    @overload
    def __getitem__(self, index: int) -> Position: ...

    @overload
    def __getitem__(self, index: slice) -> list[Position]: ...

    def __getitem__(self, index: int | slice) -> Position | list[Position]:
        if isinstance(index, slice):
            return [self[number] for number in range(len(self))[index]]
        number = range(len(self))[index]
        if number == len(self._steps):
            return self._last
        self._go_to(number)
        return tuple(self._values)

    def __iter__(self) -> Iterator[Position]:
        return (self[number] for number in range(len(self)))

    def _go_to(self, number: int) -> None:
        values = self._values
        while self._at < number:
            for variable, _, after in self._steps[self._at]:
                values[variable] = after
            self._at += 1
        while self._at > number:
            self._at -= 1
            for variable, before, _ in self._steps[self._at]:
                values[variable] = before
