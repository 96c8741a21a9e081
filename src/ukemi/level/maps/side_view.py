"""A map that is seen from the side: where a player can stand, and its steps, jumps, falls and climbs."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np

from ...graph import CheapestWays
from .grid import MATTERS, PLAIN, Grid
from .tilemap import Tile, TileMap

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix

#: The code of an open cell without a hold: nobody stands there, but jumps and falls pass it.
AIR = 4

#: Where a fall ends that no cell stops.
OUT = -2

#: Sources of one shortest-path search: more would take much memory on large maps.
AT_ONCE = 32

_Cells = np.ndarray[Any, Any]


class SideGrid(Grid):
    """A map seen from the side, as arrays.

    A player stands on an open cell if the cell below bears weight (a wall, or ``bears: true``), or if
    the cell itself or the one below is climbed (``climb: true``).

    Args:
        floor: The map; it has a side view.
        tiles: The meaning of its symbols.

    Attributes:
        hanging: Cells with something on them in which nobody can stand.
    """

    def __init__(self, floor: TileMap, tiles: Mapping[str, Tile]) -> None:
        super().__init__(floor, tiles)
        assert floor.side is not None
        self.side = floor.side
        self._open = (self.codes == PLAIN) | (self.codes == MATTERS)
        bears = self._having(lambda tile: tile.bears or tile.ground == "wall")
        self._climb = self._having(lambda tile: tile.climb) & self._open
        below = self._moved(bears | self._climb, 0, 1)
        stands = self._open & (below | self._climb)
        self.hanging = [int(one) for one in (~stands & (self.codes == MATTERS)).nonzero()[0]]
        self.codes[self._open & ~stands] = AIR
        self._stands = stands
        asks = self._having(lambda tile: tile.asks)
        self._free = self._open & ~asks

    def _having(self, wanted: Any) -> _Cells:
        found = [symbol for symbol, tile in self.tiles.items() if wanted(tile)]
        return np.isin(self.symbols, found)

    def _moved(self, cells: _Cells, dx: int, dy: int) -> _Cells:
        """For each cell, what is so many columns to the right and rows below it."""
        return np.roll(cells, -(dx + dy * self.width))

    def ways_out(self, number: int) -> list[int]:
        """Return the cells that one move leads to from a cell."""
        return [int(one) for one in self.moves[number].indices]

    @cached_property
    def moves(self) -> csr_matrix:
        """For each cell, the cells that one move leads to, with its steps."""
        from scipy.sparse import csr_matrix  # loaded for maps seen from the side only

        froms, tos, steps = (np.concatenate(one) for one in zip(*self._all_moves(), strict=True))
        size = len(self.codes)
        found = csr_matrix((size, size), dtype=np.float64)
        if len(froms):
            # Of several moves between two cells, the shortest is kept.
            order = np.lexsort((steps, tos, froms))
            froms, tos, steps = froms[order], tos[order], steps[order]
            first = np.r_[True, (np.diff(froms) != 0) | (np.diff(tos) != 0)]
            found = csr_matrix((steps[first], (froms[first], tos[first])), shape=(size, size))
        return found

    def _all_moves(self) -> Iterator[tuple[_Cells, _Cells, _Cells]]:
        """The moves of each kind: from, to and steps."""
        nothing = np.zeros(0, dtype=np.int64)
        yield nothing, nothing, nothing.astype(np.float64)
        for dx in (-1, 1):
            word = "right" if dx > 0 else "left"
            yield self._steady(self._stands, dx, 0, 1, word)
            yield from self._falls(dx, 0, word)
        yield self._steady(self._climb, 0, -1, 1, "up")
        climbed_below = self._stands & self._moved(self._climb, 0, 1)
        yield self._steady(climbed_below, 0, 1, 1, "down")
        hangs = self._climb & ~self._moved(self._stands, 0, 1)
        yield from self._falls(0, 1, "down", hangs)
        for up in range(self.side.up + 1):
            rise = self._stands.copy()
            for high in range(1, up + 1):
                rise &= self._moved(self._free, 0, -high)
            for dx in (-1, 1):
                word = "right" if dx > 0 else "left"
                path = rise.copy()
                for far in range(1, self.side.across + 1):
                    if up or far > 1:
                        yield self._steady(path, dx * far, -up, up + far, word)
                    path &= self._moved(self._free, dx * far, -up)
            if up:
                yield self._steady(rise, 0, -up, up, "up")

    def _steady(
        self, possible: _Cells, dx: int, dy: int, steps: int, word: str
    ) -> tuple[_Cells, _Cells, _Cells]:
        """A move of one shape onto a cell with a hold."""
        froms = (possible & self._moved(self._stands, dx, dy)).nonzero()[0]
        tos = froms + dx + dy * self.width
        kept = self._allowed(froms, word) & self._allowed(tos, word)
        return froms[kept], tos[kept], np.full(int(kept.sum()), float(steps))

    def _falls(
        self, dx: int, dy: int, word: str, possible: _Cells | None = None
    ) -> Iterator[tuple[_Cells, _Cells, _Cells]]:
        """A step into the air, and the fall to the next cell with a hold straight below."""
        free_fall = self._free & ~self._stands
        froms = (
            (self._stands if possible is None else possible) & self._moved(free_fall, dx, dy)
        ).nonzero()[0]
        first = froms + dx + dy * self.width
        landing = self._landing[first]
        kept = (landing >= 0) & self._allowed(froms, word)
        froms, first, landing = froms[kept], first[kept], landing[kept]
        kept = self._allowed(landing, "down")
        froms, first, landing = froms[kept], first[kept], landing[kept]
        yield froms, landing, 1.0 + (landing - first) / self.width

    def _allowed(self, cells: _Cells, word: str) -> _Cells:
        """Whether one-way tiles let a move in some direction leave or enter cells."""
        ways = {None, word}
        shut = [symbol for symbol, tile in self.tiles.items() if tile.one_way not in ways]
        return ~np.isin(self.symbols[cells], shut)

    @cached_property
    def _landing(self) -> _Cells:
        """For each cell, the cell with a hold that a fall from it ends on; OUT for none, -1 if it is blocked."""
        landing = np.full(len(self.codes), OUT, dtype=np.int64)
        void = self._having(lambda tile: tile.ground == "void")
        for row in range(self.height - 2, 0, -1):
            here = np.arange(row * self.width, (row + 1) * self.width)
            below = landing[here + self.width]
            landing[here] = np.where(
                self._stands[here],
                here,
                np.where(self._free[here], below, np.where(void[here], OUT, -1)),
            )
        return landing

    @cached_property
    def edges(self) -> _Cells:
        """The cells from which one move leads out of the map, or onto nothing."""
        falls = self._free & (self._landing == OUT) & ~self._stands
        found = np.zeros(len(self.codes), dtype=bool)
        for dx, word in ((-1, "left"), (1, "right")):
            ways = self._stands & self._moved(falls, dx, 0)
            numbers = ways.nonzero()[0]
            found[numbers[self._allowed(numbers, word)]] = True
        hangs = (self._climb & self._moved(falls, 0, 1)).nonzero()[0]
        found[hangs[self._allowed(hangs, "down")]] = True
        return found

    def stretches(self, chosen: list[int]) -> list[int]:
        """A cell of each stretch that can be walked to and fro, if no chosen cell is in it.

        Whoever falls into such a stretch may be stuck there, so it must be a room.
        """
        from scipy.sparse.csgraph import (
            connected_components,  # loaded for maps seen from the side only
        )

        items = self._having(lambda tile: bool(tile.items))
        free = self._stands & self._free & ~items
        inside = self.moves.multiply(free[:, None]).multiply(free[None, :]).tocsr()
        inside.eliminate_zeros()  # an entry of 0 would count as a move
        count, labels = connected_components(inside, directed=True, connection="strong")
        known = np.zeros(count, dtype=bool)
        known[labels[[one for one in chosen if free[one]]]] = True
        found: dict[int, int] = {}
        for number in (free & ~known[labels]).nonzero()[0]:
            found.setdefault(int(labels[number]), int(number))
        return list(found.values())

    def path(self, first: int, last: int, rooms: set[int]) -> list[int] | None:
        """The cells of a shortest way that enters no third room, with the corners of jumps and falls."""

        def leads(here: int) -> Iterator[tuple[int, int, int]]:
            row = self.moves[here]
            for there, steps in zip(row.indices.tolist(), row.data, strict=True):
                if there == last or there not in rooms:
                    yield there, int(steps), there

        ways = CheapestWays(first, leads)
        if not ways.reach(last):
            return None
        cells = [first]
        for there in ways.to(last):
            corner = self._corner(cells[-1], there)
            cells += [there] if corner in (cells[-1], there) else [corner, there]
        return cells

    def _corner(self, here: int, there: int) -> int:
        """Where a move turns: a jump rises first, a fall begins beside."""
        (x, y), (column, row) = self.column_row(here), self.column_row(there)
        return self.number(x, row) if row < y else self.number(column, y)


class SideWalker:
    """The steps between chosen cells of a map seen from the side, through plain cells alone.

    Dijkstra's search, from several chosen cells at once. A chosen cell is two nodes: ways leave one
    and enter the other, so none leads through it.
    """

    def __init__(self, grid: SideGrid, chosen: list[int]) -> None:
        from scipy.sparse import csr_matrix
        from scipy.sparse.csgraph import dijkstra  # loaded for maps seen from the side only

        size, self._chosen = len(grid.codes), chosen
        moves = grid.moves.tocoo()
        leaves = np.arange(size)
        leaves[chosen] = size + np.arange(len(chosen))
        whole = size + len(chosen)
        ways = csr_matrix((moves.data, (leaves[moves.row], moves.col)), shape=(whole, whole))
        self._ways, self._size = ways, size
        self._steps: dict[int, dict[int, int]] = {}
        for begin in range(0, len(chosen), AT_ONCE):
            some = chosen[begin : begin + AT_ONCE]
            sources = [size + begin + n for n in range(len(some))]
            found = dijkstra(ways, indices=sources)[:, chosen]
            for source, row in zip(some, found, strict=True):
                reached = np.isfinite(row).nonzero()[0]
                self._steps[source] = {
                    chosen[n]: int(row[n]) for n in reached if chosen[n] != source
                }

    def falls(self, grid: SideGrid) -> dict[int, int]:
        """For each chosen cell that leads to a fall out of the map, the fewest steps to its beginning."""
        from scipy.sparse.csgraph import dijkstra  # loaded for maps seen from the side only

        edges = grid.edges.copy()
        found: dict[int, int] = {one: 1 for one in self._chosen if edges[one]}
        edges[self._chosen] = False  # a way through another chosen cell is not one of this
        plain = edges.nonzero()[0]
        for begin in range(0, len(self._chosen) if len(plain) else 0, AT_ONCE):
            some = self._chosen[begin : begin + AT_ONCE]
            sources = [self._size + begin + n for n in range(len(some))]
            nearest = dijkstra(self._ways, indices=sources)[:, plain].min(axis=1)
            for source, steps in zip(some, nearest, strict=True):
                if np.isfinite(steps):
                    found[source] = min(found.get(source, 1 << 30), int(steps) + 1)
        return found

    def distances(self, start: int) -> dict[int, int]:
        """The steps from one chosen cell to each other that it leads to."""
        return self._steps[start]


def grid_of(floor: TileMap, tiles: Mapping[str, Tile]) -> Grid:
    """Return a map as arrays, seen from above or from the side."""
    return Grid(floor, tiles) if floor.side is None else SideGrid(floor, tiles)
