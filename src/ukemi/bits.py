"""Sets of small numbers, each as one number: the bit of a number is set if the number is in the set."""

from __future__ import annotations

from collections.abc import Iterable, Iterator


def bits_of(numbers: Iterable[int], size: int) -> int:
    """The set of some numbers.

    Args:
        numbers: The numbers.
        size: One more than the largest that may be among them.

    Example:
        >>> bin(bits_of([1, 3], 6))
        '0b1010'
    """
    flags = bytearray(size)
    for number in numbers:
        flags[number] = 1
    return bits_where(flags)


def bits_where(flags: bytes | bytearray, value: int = 1) -> int:
    """The set of the places at which bytes have a value.

    Example:
        >>> bin(bits_where(b"\\x00\\x02\\x00\\x02", 2))
        '0b1010'
    """
    digits = bytearray(b"0") * 256
    digits[value] = ord("1")
    return int(flags[::-1].translate(digits) or b"0", 2)


def flags_of(bits: int, size: int) -> bytearray:
    """For each number below some size, 1 if it is in a set and 0 if not.

    Example:
        >>> flags_of(0b1010, 5)
        bytearray(b'\\x00\\x01\\x00\\x01\\x00')
    """
    return bytearray(f"{bits:0{size}b}"[::-1].encode().translate(_FLAGS))


_FLAGS = bytes(number == ord("1") for number in range(256))


def numbers_of(bits: int) -> Iterator[int]:
    """The numbers in a set, in their order.

    Example:
        >>> list(numbers_of(0b1010))
        [1, 3]
    """
    flags = bin(bits)[:1:-1]
    number = flags.find("1")
    while number >= 0:
        yield number
        number = flags.find("1", number + 1)
