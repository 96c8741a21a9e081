"""Ways between the cells of a map as arrays, the steps along them, and the regions of cells beside each other."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

Cells = np.ndarray[Any, Any]

#: More steps than any way has.
FAR = np.iinfo(np.int32).max


class CellWays:
    """Ways from cells to cells, each with its steps; of several between two cells, the shortest is kept.

    Args:
        size: The number of cells.
        froms, tos, steps: The ways: where each begins and ends, and its steps, 1 or more.
    """

    def __init__(self, size: int, froms: Cells, tos: Cells, steps: Cells) -> None:
        order = np.lexsort((steps, tos, froms))
        froms, tos, steps = froms[order], tos[order], steps[order].astype(np.int32)
        first = np.r_[True, (np.diff(froms) != 0) | (np.diff(tos) != 0)][: len(froms)]
        self.size = size
        self.froms, self.tos, self.steps = froms[first], tos[first], steps[first]
        self._begin = np.searchsorted(self.froms, np.arange(size + 1))

    def out(self, cell: int) -> tuple[Cells, Cells]:
        """Where the ways from a cell lead, and their steps."""
        some = slice(self._begin[cell], self._begin[cell + 1])
        return self.tos[some], self.steps[some]

    def within(self, cells: Cells) -> list[list[int]]:
        """For each cell, where ways lead, if both ends are among some cells."""
        kept = cells[self.froms] & cells[self.tos]
        leads: list[list[int]] = [[] for _ in range(self.size)]
        for a, b in zip(self.froms[kept].tolist(), self.tos[kept].tolist(), strict=True):
            leads[a].append(b)
        return leads

    def steps_from(self, sources: Sequence[int]) -> Cells:
        """The fewest steps from some cells to every cell, a row for each; :data:`FAR` where no way leads.

        All sources at once, the nearest cells of all of them first: R. B. Dial, "Algorithm 360: shortest-path
        forest with topological ordering", Communications of the ACM 12 (1969).

        Args:
            sources: The cells.
        """
        size = self.size
        steps = np.full(len(sources) * size, FAR, dtype=np.int32)
        begin = np.arange(len(sources)) * size + np.array(sources, dtype=np.int64)
        steps[begin] = 0
        waiting: dict[int, list[Cells]] = {0: [begin]}
        while waiting:
            done = min(waiting)
            here = np.unique(np.concatenate(waiting.pop(done)))
            here = here[steps[here] == done]
            cell = here % size
            count = self._begin[cell + 1] - self._begin[cell]
            # One after another, the ways out of each cell.
            ends = np.cumsum(count)
            total = int(ends[-1]) if len(ends) else 0
            way = np.arange(total) + np.repeat(self._begin[cell] - ends + count, count)
            to = np.repeat(here - cell, count) + self.tos[way]
            reached = done + self.steps[way]
            nearer = reached < steps[to]
            to, reached = to[nearer], reached[nearer]
            np.minimum.at(steps, to, reached)
            for one in np.unique(reached).tolist():
                waiting.setdefault(one, []).append(to[reached == one])
        return steps.reshape(len(sources), size)


def regions(cells: Cells) -> tuple[Cells, int]:
    """Number the regions of cells that are beside each other, up, down, left and right.

    The cells of a row that are beside each other are one run, and runs one above the other are joined (union-find:
    B. A. Galler and M. J. Fischer, "An improved equivalence algorithm", Communications of the ACM 7, 1964).

    Args:
        cells: Which cells count, by row and column.

    Returns:
        The number of each cell's region, from 1; 0 for cells that do not count. And how many regions there are.

    Example:
        >>> labels, count = regions(np.array([[1, 1, 0], [0, 0, 0], [1, 0, 1]], dtype=bool))
        >>> labels.tolist(), count
        ([[1, 1, 0], [0, 0, 0], [2, 0, 3]], 3)
    """
    rows, columns = cells.shape
    edges = np.diff(np.pad(cells, ((0, 0), (1, 1))).astype(np.int8), axis=1)
    (row, left), (_, right) = (edges > 0).nonzero(), (edges < 0).nonzero()
    parent = list(range(len(row)))

    def root(one: int) -> int:
        while parent[one] != one:
            parent[one] = parent[parent[one]]
            one = parent[one]
        return one

    lefts, rights = left.tolist(), right.tolist()
    first = np.searchsorted(row, np.arange(rows + 1)).tolist()
    for number in range(1, rows):
        above, below = first[number - 1], first[number]
        while above < first[number] and below < first[number + 1]:
            if lefts[above] < rights[below] and lefts[below] < rights[above]:
                a, b = root(above), root(below)
                parent[max(a, b)] = min(a, b)
            if rights[above] < rights[below]:
                above += 1
            else:
                below += 1
    roots = np.array([root(one) for one in range(len(row))], dtype=np.int64)
    names, numbers = np.unique(roots, return_inverse=True)
    labels = np.zeros(rows * columns, dtype=np.int64)
    lengths = right - left
    ends = np.cumsum(lengths)
    begin = row * columns + left
    total = int(ends[-1]) if len(ends) else 0
    at = np.arange(total) + np.repeat(begin - ends + lengths, lengths)
    labels[at] = np.repeat(numbers + 1, lengths)
    return labels.reshape(rows, columns), len(names)
