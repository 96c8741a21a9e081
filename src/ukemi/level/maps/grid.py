"""The cells of a map that is seen from above, by what can be done on them, and the walks between them."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from functools import cached_property

from ...bits import bits_of, numbers_of
from .cell_sets import around, moved
from .tilemap import DIRECTIONS, Tile, TileMap

#: The symbol of what is outside a map: its border, and what is missing of short rows.
OUTSIDE = ""


class Grid:
    """A map with a border around it, its cells numbered row by row.

    Args:
        tiles: The meaning of its symbols.

    Attributes:
        width: Columns, the border included.
        height: Rows, the border included.
        symbols: The symbol of each cell.
        plain: The cells of mere floor, as a set.
        mattering: The cells of floor that matter, as a set.
        solid: The cells with a thing that is used from beside them, as a set.
        offsets: How much higher the number of the next cell in each direction is.
    """

    def __init__(self, floor: TileMap, tiles: Mapping[str, Tile]) -> None:
        self.floor = floor
        self.tiles = {**tiles, OUTSIDE: Tile(ground="void")}
        self.width = floor.width + 2
        self.height = len(floor.rows) + 2
        border = [OUTSIDE]
        self.symbols = border * self.width
        for row in floor.rows:
            self.symbols += [*border, *row, *border * (self.width - 1 - len(row))]
        self.symbols += border * self.width
        floors = self.having(lambda tile: tile.ground not in ("wall", "void"))
        self.solid = floors & self.having(lambda tile: tile.is_solid)
        self.mattering = floors & self.having(lambda tile: tile.matters) & ~self.solid
        self.plain = floors & ~self.mattering & ~self.solid
        self.offsets = {
            direction: dx + dy * self.width for direction, (dx, dy) in DIRECTIONS.items()
        }

    def having(self, wanted: Callable[[Tile], bool]) -> int:
        """The set of the cells with a wanted meaning."""
        flags = {symbol: "1" if wanted(tile) else "0" for symbol, tile in self.tiles.items()}
        return int("".join(map(flags.__getitem__, reversed(self.symbols))), 2)

    @property
    def standing(self) -> int:
        """The cells that a player can ever be on, as a set."""
        return self.plain | self.mattering

    @cached_property
    def passing(self) -> dict[str, int]:
        """For each direction, the cells that one-way tiles let a step enter and leave, as a set."""

        def passes(way: str) -> int:
            return self.having(lambda tile: tile.one_way in (None, way))

        return {way: passes(way) for way in self.offsets}

    @property
    def inside(self) -> int:
        """The cells within the border, as a set."""
        row = (1 << self.width - 2) - 1 << 1
        return sum(row << self.width * number for number in range(1, self.height - 1))

    def number(self, column: int, row: int) -> int:
        """The number of a cell, its column and row counted from 1 as on the map."""
        return row * self.width + column

    def column_row(self, number: int) -> tuple[int, int]:
        """The column and row of a cell, counted from 1."""
        row, column = divmod(number, self.width)
        return column, row

    def tile(self, number: int) -> Tile:
        """The meaning of a cell's symbol."""
        return self.tiles[self.symbols[number]]

    def can_stand(self, number: int) -> bool:
        """Whether a player can ever be on the cell."""
        return self._flags[number : number + 1] == "1"

    @cached_property
    def _flags(self) -> str:
        """For each cell ``1`` if a player can ever be on it; shorter than the map."""
        return bin(self.standing)[:1:-1]

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

    def distances(self, chosen: Collection[int]) -> dict[int, dict[int, int]]:
        """For each chosen cell, the steps to every other that a walk through no third leads to.

        Breadth-first search from each, a whole front of cells at a time.

        Args:
            chosen: The numbers of the cells.
        """
        ends = bits_of(chosen, len(self.symbols))
        return {start: self._walks(start, ends) for start in chosen}

    def _walks(self, start: int, ends: int) -> dict[int, int]:
        """The steps from a cell to others.

        Args:
            start: The number of the cell.
            ends: The cells at which a walk ends, as a set.
        """
        first = self.ways_out(start)
        found = {cell: 1 for cell in first if ends >> cell & 1}
        front = sum(1 << cell for cell in first if cell not in found)
        left = self.plain & ~ends & ~front
        ends &= ~sum((1 << cell for cell in found), 1 << start)
        steps = 1
        while front:
            steps += 1
            ahead = around(front, self.width)
            if at_ends := ahead & ends:
                if at_ends & self._one_way:
                    at_ends &= ~self._one_way | self._entered_from(front)
                found |= dict.fromkeys(numbers_of(at_ends), steps)
                ends ^= at_ends
            front = ahead & left
            left ^= front
        return found

    def _entered_from(self, front: int) -> int:
        """The cells that one step leads to from the cells of a set."""
        entered = 0
        for way, by in self.offsets.items():
            entered |= moved(front, by) & self.passing[way]
        return entered

    @cached_property
    def _one_way(self) -> int:
        """The one-way cells, as a set."""
        return self.having(lambda tile: tile.one_way is not None)
