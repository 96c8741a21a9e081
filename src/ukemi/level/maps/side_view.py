"""A map that is seen from the side: where a player can stand, and its steps, jumps, falls and climbs."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import Any

import numpy as np

from ...graph import CheapestWays, strong_parts
from .cell_ways import FAR, CellWays
from .grid import MATTERS, PLAIN, Grid
from .tilemap import Tile, TileMap

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
        tos, _ = self.moves.out(number)
        return [int(one) for one in tos]

    @cached_property
    def moves(self) -> CellWays:
        """For each cell, the cells that one move leads to, with its steps."""
        froms, tos, steps = (np.concatenate(one) for one in zip(*self._all_moves(), strict=True))
        return CellWays(len(self.codes), froms, tos, steps)

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
        items = self._having(lambda tile: bool(tile.items))
        free = self._stands & self._free & ~items
        part = strong_parts(self.moves.within(free))
        known = {part[one] for one in chosen if free[one]}
        found: dict[int, int] = {}
        for number in free.nonzero()[0].tolist():
            if part[number] not in known:
                found.setdefault(part[number], number)
        return list(found.values())

    def path(self, first: int, last: int, rooms: set[int]) -> list[int] | None:
        """The cells of a shortest way that enters no third room, with the corners of jumps and falls."""

        def leads(here: int) -> Iterator[tuple[int, int, int]]:
            tos, far = self.moves.out(here)
            for there, steps in zip(tos.tolist(), far.tolist(), strict=True):
                if there == last or there not in rooms:
                    yield there, steps, there

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

    A chosen cell is two nodes: ways leave one
    and enter the other, so none leads through it.
    """

    def __init__(self, grid: SideGrid, chosen: list[int]) -> None:
        size, self._chosen = len(grid.codes), chosen
        moves = grid.moves
        leaves = np.arange(size)
        leaves[chosen] = size + np.arange(len(chosen))
        self._ways = CellWays(size + len(chosen), leaves[moves.froms], moves.tos, moves.steps)
        self._size = size
        self._steps: dict[int, dict[int, int]] = {}
        for some, found in self._from_each():
            for source, row in zip(some, found[:, chosen], strict=True):
                reached = (row < FAR).nonzero()[0]
                self._steps[source] = {
                    chosen[n]: int(row[n]) for n in reached if chosen[n] != source
                }

    def _from_each(self) -> Iterator[tuple[list[int], _Cells]]:
        """Some chosen cells, and the steps from each to every cell, until all have been."""
        for begin in range(0, len(self._chosen), AT_ONCE):
            some = self._chosen[begin : begin + AT_ONCE]
            yield some, self._ways.steps_from([self._size + begin + n for n in range(len(some))])

    def falls(self, grid: SideGrid) -> dict[int, int]:
        """For each chosen cell that leads to a fall out of the map, the fewest steps to its beginning."""
        edges = grid.edges.copy()
        found: dict[int, int] = {one: 1 for one in self._chosen if edges[one]}
        edges[self._chosen] = False  # a way through another chosen cell is not one of this
        plain = edges.nonzero()[0]
        for some, steps in self._from_each() if len(plain) else ():
            for source, nearest in zip(some, steps[:, plain].min(axis=1), strict=True):
                if nearest < FAR:
                    found[source] = min(found.get(source, 1 << 30), int(nearest) + 1)
        return found

    def distances(self, start: int) -> dict[int, int]:
        """The steps from one chosen cell to each other that it leads to."""
        return self._steps[start]


def grid_of(floor: TileMap, tiles: Mapping[str, Tile]) -> Grid:
    """Return a map as arrays, seen from above or from the side."""
    return Grid(floor, tiles) if floor.side is None else SideGrid(floor, tiles)
