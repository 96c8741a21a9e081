"""A set of packed positions, each with a number."""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt

from .layout import Words

Numbers = npt.NDArray[np.int64]

_MIX = np.uint64(0x9E3779B97F4A7C15)  # 2^64 over the golden ratio: Knuth, TAOCP 3, section 6.4

#: The rows to enter at once in a larger table: as many as a processor keeps close by.
AT_ONCE = 1 << 15

#: Up to two to this power of slots, the table grows fourfold, so that it is seldom filled anew.
QUICKLY = 24


def larger(array: npt.NDArray[Any], size: int) -> npt.NDArray[Any]:
    """A larger array that begins with the same; what comes after is not set yet."""
    found = np.empty(size, dtype=array.dtype)
    found[: len(array)] = array
    return found


class Table:
    """Numbers positions in the order they are added; a hash table with open addressing.

    Args:
        words: How many words a position takes.
    """

    def __init__(self, words: int) -> None:
        self.count = 0
        self.rows: Words = [np.zeros(1024, dtype=np.uint64) for _ in range(words)]
        self._slots = np.full(4096, -1, dtype=np.int32)
        self._bits = 12

    @property
    def bytes(self) -> int:
        """The memory the table takes."""
        return sum(row.nbytes for row in self.rows) + self._slots.nbytes

    def find(self, rows: Words) -> Numbers:
        """The numbers of positions; -1 for those that were not added."""
        numbers = np.full(len(rows[0]), -1, dtype=np.int64)
        left, at = np.arange(len(rows[0])), self._hash(rows)
        while len(left):
            held = self._slots.take(at)
            there = np.flatnonzero(held >= 0)
            left, held, at = left.take(there), held.take(there), at.take(there)
            same = self._same(held, rows, left)
            numbers[left[same]] = held[same]
            left, at = self._next(left, at, same)
        return numbers

    def add(self, rows: Words) -> tuple[Numbers, npt.NDArray[np.bool_]]:
        """Add positions, of which some may be the same.

        Returns:
            Their numbers, and which of them are new; of several that are the same, one is.
        """
        size = len(rows[0])
        self._reserve(self.count + size)
        at = self._hash(rows)
        numbers = self._slots.take(at).astype(np.int64)
        new = np.zeros(size, dtype=bool)
        empty = np.flatnonzero(numbers < 0)
        if len(empty):
            wanted = at.take(empty)
            new[self._enter(rows, empty, wanted)] = True
            numbers[empty] = self._slots.take(wanted)
        # What has the slot it wants, or shares it with its like, is known by now.
        left = np.flatnonzero(~self._same(numbers, rows, None))
        at = (at.take(left) + 1) & (len(self._slots) - 1)
        while len(left):
            held = self._slots.take(at)
            free = np.flatnonzero(held < 0)
            if len(free):
                new[self._enter(rows, left.take(free), at.take(free))] = True
                held = self._slots.take(at)
            same = self._same(held, rows, left)
            numbers[left[same]] = held[same]
            left, at = self._next(left, at, same)
        return numbers, new

    def _enter(self, rows: Words, which: Numbers, wanted: Numbers) -> Numbers:
        """Enter rows in free slots; of several that want one, one is, whose index is returned."""
        self._slots[wanted] = which  # the last to write has it
        has = np.flatnonzero(self._slots.take(wanted) == which)
        entered = which.take(has)
        first, self.count = self.count, self.count + len(entered)
        self._slots[wanted.take(has)] = np.arange(first, self.count, dtype=np.int32)
        for mine, row in zip(self.rows, rows, strict=True):
            mine[first : self.count] = row.take(entered)
        return entered

    def _same(
        self, held: npt.NDArray[np.integer], rows: Words, left: Numbers | None
    ) -> npt.NDArray[np.bool_]:
        """Whether what a slot holds is the row that asks for it."""
        same: npt.NDArray[np.bool_] | None = None
        for mine, row in zip(self.rows, rows, strict=True):
            alike = mine.take(held) == (row if left is None else row.take(left))
            same = alike if same is None else same & alike
        assert same is not None
        return same

    def _next(
        self, left: Numbers, at: Numbers, same: npt.NDArray[np.bool_]
    ) -> tuple[Numbers, Numbers]:
        """The rows that found another in their slot go on to the next."""
        other = np.flatnonzero(~same)
        return left.take(other), (at.take(other) + 1) & (len(self._slots) - 1)

    def _reserve(self, count: int) -> None:
        capacity = len(self.rows[0])
        if count > capacity:
            self.rows = [larger(row, max(count, 2 * capacity)) for row in self.rows]
        if 2 * count > len(self._slots):
            while 2 * count > 1 << self._bits:
                self._bits += 2 if self._bits < QUICKLY else 1
            held = self._slots[self._slots >= 0]
            self._slots = np.full(1 << self._bits, -1, dtype=np.int32)
            self._enter_anew(held)

    def _enter_anew(self, held: npt.NDArray[np.int32]) -> None:
        """Enter all rows in a larger table: they are all unlike.

        Args:
            held: Their numbers, in the order of their old slots: of those beside each other, the
                new slots are so too, and a processor has them close by.
        """
        for first in range(0, len(held), AT_ONCE):
            left = held[first : first + AT_ONCE]
            at = self._hash([row.take(left) for row in self.rows])
            while len(left):
                free = np.flatnonzero(self._slots.take(at) < 0)
                self._slots[at.take(free)] = left.take(free)
                waiting = np.flatnonzero(self._slots.take(at) != left)
                left, at = left.take(waiting), (at.take(waiting) + 1) & (len(self._slots) - 1)

    def _hash(self, rows: Words) -> Numbers:
        mixed = rows[0] * _MIX
        for row in rows[1:]:
            mixed = (mixed ^ (mixed >> np.uint64(29)) ^ row) * _MIX
        hashed: Numbers = (mixed >> np.uint64(64 - self._bits)).view(np.int64)
        return hashed
