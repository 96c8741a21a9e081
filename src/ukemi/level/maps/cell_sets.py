"""Sets of cells of a map, each as one number: the bit of a cell is set if the cell is in the set.

A set moves over the map by a shift, and meets another by ``&``: a whole front of cells takes one step at once.
Around each map is a border, so that no cell moves from the end of a row into the next row.
"""

from __future__ import annotations

import re
from collections.abc import Iterator


def moved(cells: int, by: int) -> int:
    """A set, with the number of each cell raised by some number.

    Example:
        >>> bin(moved(0b1010, -1))
        '0b101'
    """
    return cells << by if by > 0 else cells >> -by


def around(cells: int, width: int) -> int:
    """The cells above, below, left and right of the cells of a set.

    Args:
        width: The columns of the map, its border included.
    """
    return cells << 1 | cells >> 1 | cells << width | cells >> width


def spread(cells: int, within: int, width: int) -> int:
    """The cells that steps through a set lead to, from cells of the set.

    Args:
        cells: Where to begin.
        width: The columns of the map, its border included.

    Example:
        >>> bin(spread(0b10, 0b110110, width=9))
        '0b110'
    """
    front = cells & within
    left = within ^ front
    while front:
        front = around(front, width) & left
        left ^= front
    return within ^ left


def regions(cells: int, width: int) -> Iterator[int]:
    """The largest parts of a set in which steps lead from each cell to each other one.

    Args:
        width: The columns of the map, its border included.

    Example:
        >>> [bin(one) for one in regions(0b110110, width=9)]
        ['0b110', '0b110000']
    """
    while cells:
        part = spread(cells & -cells, cells, width)
        yield part
        cells ^= part


def runs(cells: int, width: int) -> Iterator[tuple[int, int, int]]:
    """The stretches of a set along each row: the row, the first column, and the column after the last.

    Args:
        cells: The set; nothing of the border is in it.
        width: The columns of the map, its border included.

    Example:
        >>> list(runs(0b110110, width=9))
        [(0, 1, 3), (0, 4, 6)]
    """
    for run in re.finditer("1+", bin(cells)[:1:-1]):
        row, column = divmod(run.start(), width)
        yield row, column, column + len(run[0])
