"""Sets of the numbers of positions, each as one number of bits: joining and comparing them takes one operation."""

from __future__ import annotations

from collections.abc import Iterator

from ..bits import numbers_of


class NumberSet:
    """A set of numbers.

    Attributes:
        bits: The bit of each of them is set.

    Example:
        >>> some, more = NumberSet(0b1010), NumberSet(0b1011)
        >>> list(some), 3 in some, some <= more, list(more - some), len(some | more), bool(some & some)
        ([1, 3], True, True, [0], 3, True)
    """

    __slots__ = ("bits",)

    def __init__(self, bits: int = 0) -> None:
        self.bits = bits

    def __or__(self, other: NumberSet) -> NumberSet:
        return NumberSet(self.bits | other.bits)

    def __and__(self, other: NumberSet) -> NumberSet:
        return NumberSet(self.bits & other.bits)

    def __sub__(self, other: NumberSet) -> NumberSet:
        return NumberSet(self.bits & ~other.bits)

    def __le__(self, other: NumberSet) -> bool:
        return not self.bits & ~other.bits

    def __bool__(self) -> bool:
        return bool(self.bits)

    def __len__(self) -> int:
        return self.bits.bit_count()

    def __iter__(self) -> Iterator[int]:
        return numbers_of(self.bits)

    def __contains__(self, number: int) -> bool:
        return bool(self.bits >> number & 1)
