"""A set of packed positions, each with a number."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from .layout import Words

Numbers = npt.NDArray[np.int64]

_MIX = np.uint64(0x9E3779B97F4A7C15)  # 2^64 over the golden ratio: Knuth, TAOCP 3, section 6.4


class Table:
    """Numbers positions in the order they are added; a hash table with open addressing.

    Args:
        words: How many words a position takes.
    """

    def __init__(self, words: int) -> None:
        self.count = 0
        self.rows: Words = np.zeros((1024, words), dtype=np.uint64)
        self._slots = np.full(4096, -1, dtype=np.int32)

    @property
    def bytes(self) -> int:
        """The memory the table takes."""
        return self.rows.nbytes + self._slots.nbytes

    def find(self, rows: Words) -> Numbers:
        """The numbers of positions; -1 for those that were not added."""
        return self._find(rows)[0]

    def _find(self, rows: Words) -> tuple[Numbers, Numbers]:
        """The numbers of positions, or -1, with the slot each has or would have."""
        numbers = np.full(len(rows), -1, dtype=np.int64)
        slots = self._hash(rows)
        left = np.arange(len(rows))
        at = slots
        while len(left):
            held = self._slots[at]
            there = held >= 0
            left, held = left[there], held[there]
            if self.rows.shape[1] == 1:
                same = self.rows[held, 0] == rows[left, 0]
            else:
                same = (self.rows[held] == rows[left]).all(axis=1)
            numbers[left[same]] = held[same]
            left = left[~same]
            at = (slots[left] + 1) & (len(self._slots) - 1)
            slots[left] = at
        return numbers, slots

    def add(self, rows: Words) -> tuple[Numbers, npt.NDArray[np.bool_]]:
        """Add positions, of which some may be the same.

        Returns:
            Their numbers, and which of them are new; of several that are the same, one is.
        """
        self._reserve(self.count + len(rows))
        numbers, slots = self._find(rows)
        missing = np.flatnonzero(numbers < 0)
        new = np.zeros(len(rows), dtype=bool)
        if not len(missing):
            return numbers, new
        fresh = rows[missing]
        one, alike = _unlike(fresh)
        first, self.count = self.count, self.count + len(one)
        self.rows[first : self.count] = fresh[one]
        numbers[missing] = first + alike
        new[missing[one]] = True
        self._enter(np.arange(first, self.count, dtype=np.int64), slots[missing[one]])
        return numbers, new

    def _enter(self, numbers: Numbers, slots: Numbers) -> None:
        left = np.arange(len(numbers))
        while len(left):
            wanted = slots[left]
            free = self._slots[wanted] < 0
            # Where several want one slot, the last to write has it.
            self._slots[wanted[free]] = numbers[left[free]].astype(np.int32)
            has = self._slots[wanted] == numbers[left]
            left = left[~has]
            slots[left] = (slots[left] + 1) & (len(self._slots) - 1)

    def _reserve(self, count: int) -> None:
        if count > len(self.rows):
            more = np.zeros((max(count, 2 * len(self.rows)), self.rows.shape[1]), dtype=np.uint64)
            more[: self.count] = self.rows[: self.count]
            self.rows = more
        if 2 * count > len(self._slots):
            size = len(self._slots)
            while 2 * count > size:
                size *= 2
            self._slots = np.full(size, -1, dtype=np.int32)
            numbers = np.arange(self.count, dtype=np.int64)
            self._enter(numbers, self._hash(self.rows[: self.count]))

    def _hash(self, rows: Words) -> Numbers:
        return (_mixed(rows) & np.uint64(len(self._slots) - 1)).astype(np.int64)


def _mixed(rows: Words) -> npt.NDArray[np.uint64]:
    mixed = rows[:, 0] * _MIX
    for column in range(1, rows.shape[1]):
        mixed = (mixed ^ (mixed >> np.uint64(29)) ^ rows[:, column]) * _MIX
    mixed ^= mixed >> np.uint64(32)
    return mixed


def _unlike(rows: Words) -> tuple[Numbers, Numbers]:
    """One of each that are the same, by index, and for each row which of those it is."""
    keys = rows[:, 0] if rows.shape[1] == 1 else _mixed(rows)
    _, one, alike = np.unique(keys, return_index=True, return_inverse=True)
    if rows.shape[1] > 1 and (rows[one][alike] != rows).any():  # two that only mix to the same
        _, one, alike = np.unique(rows, axis=0, return_index=True, return_inverse=True)
    return one, alike.reshape(-1)
