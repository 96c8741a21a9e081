"""A tile map as arrays, and walking distances on it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from .tilemap import DIRECTIONS, Tile, TileMap

#: Codes of cells in :attr:`Grid.codes`; those of cells that matter start at the last.
WALL, PLAIN, SOLID, MATTERS = 0, 1, 2, 3


class Grid:
    """A map with a border of wall around it, its cells numbered row by row.

    Args:
        floor: The map.
        tiles: The meaning of its symbols.

    Attributes:
        width: Columns, the border included.
        codes: For each cell, whether it is wall, plain floor, solid, or floor that matters.
        symbols: The symbol of each cell.
    """

    def __init__(self, floor: TileMap, tiles: Mapping[str, Tile]) -> None:
        self.floor = floor
        self.tiles = tiles
        self.width = floor.width + 2
        self.height = len(floor.rows) + 2
        self.symbols = self._symbols()
        self.codes = np.full(self.symbols.shape, WALL, dtype=np.int8)
        for symbol, tile in tiles.items():
            if tile.ground in ("wall", "void"):
                continue
            code = SOLID if tile.is_solid else MATTERS if tile.matters else PLAIN
            self.codes[self.symbols == symbol] = code
        self.offsets = {
            direction: dx + dy * self.width for direction, (dx, dy) in DIRECTIONS.items()
        }

    def _symbols(self) -> np.ndarray[Any, Any]:
        inner = self.width - 2
        rows = self.floor.rows
        if all(isinstance(row, str) for row in rows) and inner:
            padded = np.array([str(row).ljust(inner) for row in rows], dtype=f"<U{inner}")
            inside: np.ndarray[Any, Any] = padded.view("<U1").reshape(len(rows), inner)
        else:
            inside = np.array(
                [[*row, *[" "] * (inner - len(row))] for row in rows], dtype=np.str_
            ).reshape(len(rows), inner)
        return np.pad(inside, 1, constant_values=" ").ravel()

    def number(self, column: int, row: int) -> int:
        """The number of a cell, its column and row counted from 1 as on the map."""
        return row * self.width + column

    def column_row(self, number: int) -> tuple[int, int]:
        """The column and row of a cell, counted from 1."""
        row, column = divmod(int(number), self.width)
        return column, row

    def tile(self, number: int) -> Tile:
        """The kinds of cells."""
        return self.tiles[str(self.symbols[number])]

    def can_stand(self, number: int) -> bool:
        """Whether a player can ever be on the cell."""
        return self.codes[number] in (PLAIN, MATTERS)

    def ways_out(self, number: int) -> list[int]:
        """Return the cells that one step leads to from a cell, as far as the floor allows."""
        one_way = self.tile(number).one_way
        directions = [one_way] if one_way else list(DIRECTIONS)
        found = []
        for direction in directions:
            beside = number + self.offsets[direction]
            if self.can_stand(beside) and self.tile(beside).one_way in (None, direction):
                found.append(beside)
        return found

    def beside(self, number: int) -> list[int]:
        """The four cells beside a cell on which a player can stand."""
        cells = [number + offset for offset in self.offsets.values()]
        return [cell for cell in cells if self.can_stand(cell)]


class Walker:
    """Walking distances between chosen cells of a grid, through plain floor alone.

    Breadth-first search from each chosen cell, a whole frontier at a time.

    Args:
        grid: The grid.
        chosen: Numbers of cells; a walk to one never passes through another.
    """

    def __init__(self, grid: Grid, chosen: list[int]) -> None:
        self.grid = grid
        self.chosen = chosen
        self.plain = grid.codes == PLAIN
        self.plain[chosen] = False
        self.place = np.full(grid.codes.shape, -1, dtype=np.int32)
        self.place[chosen] = np.arange(len(chosen))
        self._seen_from = np.full(grid.codes.shape, -1, dtype=np.int32)
        self._entry = np.zeros(grid.codes.shape, dtype=np.int64)
        self._steps = np.array(list(grid.offsets.values()))

    def distances(self, start: int) -> dict[int, int]:
        """The steps from one chosen cell to each other it can be walked to from.

        Args:
            start: The number of the cell.

        Returns:
            For each cell reached, the least steps to it.
        """
        mark = int(self.place[start])
        found: dict[int, int] = {}
        out = np.array(self.grid.ways_out(start), dtype=np.int64)
        for cell in out[self.place[out] >= 0] if len(out) else ():
            found[int(cell)] = 1
        frontier = out[self.plain[out]] if len(out) else out
        self._seen_from[frontier] = mark
        steps = 1
        while len(frontier):
            steps += 1
            ahead = (frontier[:, None] + self._steps).ravel()
            for cell in ahead[self.place[ahead] >= 0]:
                if int(cell) != start and int(cell) not in found and self._enters(cell, frontier):
                    found[int(cell)] = steps
            ahead = ahead[self.plain[ahead] & (self._seen_from[ahead] != mark)]
            self._seen_from[ahead] = mark
            # Of a cell that is reached from two sides, the entry that wrote last is kept.
            order = np.arange(len(ahead))
            self._entry[ahead] = order
            frontier = ahead[self._entry[ahead] == order]
        return found

    def _enters(self, cell: int, frontier: np.ndarray[Any, Any]) -> bool:
        """Whether a chosen cell can be stepped onto from some cell of the frontier."""
        one_way = self.grid.tile(cell).one_way
        return one_way is None or bool(np.any(frontier == cell - self.grid.offsets[one_way]))
