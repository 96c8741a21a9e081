"""A map that is seen from the side: where a player can stand, and its steps, jumps, falls and climbs."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping
from functools import cached_property

from ...bits import bits_of, numbers_of
from ...graph import CheapestWays, strong_parts
from .cell_sets import moved
from .grid import Grid
from .tilemap import Tile, TileMap


class SideGrid(Grid):
    """A map seen from the side.

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
        cells = self.standing
        bears = self.having(lambda tile: tile.bears or tile.ground == "wall")
        self._climb = self.having(lambda tile: tile.climb) & cells
        self._stands = cells & (self._at(bears | self._climb, 0, 1) | self._climb)
        self._free = cells & ~self.having(lambda tile: tile.asks)
        self._air = self._free & ~self._stands
        self.hanging = list(numbers_of(self.mattering & ~self._stands))
        self.plain &= self._stands
        self.mattering &= self._stands

    def _at(self, cells: int, dx: int, dy: int) -> int:
        """The cells that a cell of a set is right of and below, by some columns and rows."""
        return moved(cells, -(dx + dy * self.width))

    def ways_out(self, number: int) -> list[int]:
        """Return the cells that one move leads to from a cell."""
        return list(self.moves[number])

    @cached_property
    def moves(self) -> list[dict[int, int]]:
        """For each cell, the cells that one move leads to, with the fewest steps of such a move."""
        found: list[dict[int, int]] = [{} for _ in self.symbols]
        for cells, by, steps in self._all_moves():
            for here in numbers_of(cells):
                there = here + by
                found[here][there] = min(steps, found[here].get(there, steps))
        return found

    def _all_moves(self) -> Iterator[tuple[int, int, int]]:
        """The moves of each shape: from which cells, by how much their number grows, and the steps."""
        for dx in (-1, 1):
            word = "right" if dx > 0 else "left"
            yield self._steady(self._stands, dx, 0, 1, word)
            yield from self._falls(self._stands, dx, 0, word)
        yield self._steady(self._climb, 0, -1, 1, "up")
        yield self._steady(self._stands & self._at(self._climb, 0, 1), 0, 1, 1, "down")
        yield from self._falls(self._climb, 0, 1, "down")
        for up in range(self.side.up + 1):
            rise = self._stands
            for high in range(1, up + 1):
                rise &= self._at(self._free, 0, -high)
            for dx in (-1, 1):
                word = "right" if dx > 0 else "left"
                path = rise
                for far in range(1, self.side.across + 1):
                    if up or far > 1:
                        yield self._steady(path, dx * far, -up, up + far, word)
                    path &= self._at(self._free, dx * far, -up)
            if up:
                yield self._steady(rise, 0, -up, up, "up")

    def _steady(self, cells: int, dx: int, dy: int, steps: int, word: str) -> tuple[int, int, int]:
        """A move of one shape from some cells onto a cell with a hold."""
        ends = self._stands & self.passing[word]
        return cells & self.passing[word] & self._at(ends, dx, dy), dx + dy * self.width, steps

    def _falls(self, cells: int, dx: int, dy: int, word: str) -> Iterator[tuple[int, int, int]]:
        """A step from some cells into the air, and the fall to the next cell with a hold straight below."""
        for deep, first in enumerate(self._landing, 1):
            begins = cells & self.passing[word] & self._at(first, dx, dy)
            yield begins, dx + (dy + deep) * self.width, 1 + deep

    @cached_property
    def _landing(self) -> list[int]:
        """The cells in the air from which a fall ends on a hold 1 row below, 2 rows below, and so on."""
        ends = self._stands & self.passing["down"]
        return [falling & self._at(ends, 0, deep) for deep, falling in self._falling()]

    def _falling(self) -> Iterator[tuple[int, int]]:
        """For each depth, the cells in the air from which a fall goes on at least that many rows down."""
        falling, deep = self._air, 1
        while falling:
            yield deep, falling
            falling &= self._at(self._air, 0, deep)
            deep += 1

    @cached_property
    def edges(self) -> int:
        """The cells from which one move leads out of the map, or onto nothing, as a set."""
        void = self.having(lambda tile: tile.ground == "void")
        falls = 0
        for deep, falling in self._falling():
            falls |= falling & self._at(void, 0, deep)
        found = self._climb & self.passing["down"] & self._at(falls, 0, 1)
        for dx, word in ((-1, "left"), (1, "right")):
            found |= self._stands & self.passing[word] & self._at(falls, dx, 0)
        return found

    def stretches(self, chosen: Iterable[int]) -> list[int]:
        """A cell of each stretch that can be walked to and fro, if no chosen cell is in it.

        Whoever falls into such a stretch may be stuck there, so it must be a room.
        """
        free = self._stands & self._free & ~self.having(lambda tile: bool(tile.items))
        numbers = dict.fromkeys(numbers_of(free))
        part = strong_parts(
            [
                [to for to in ways if to in numbers] if here in numbers else []
                for here, ways in enumerate(self.moves)
            ]
        )
        known = {part[one] for one in chosen if one in numbers}
        found: dict[int, int] = {}
        for number in numbers:
            if part[number] not in known:
                found.setdefault(part[number], number)
        return list(found.values())

    def path(self, first: int, last: int, rooms: set[int]) -> list[int] | None:
        """The cells of a shortest way that enters no third room, with the corners of jumps and falls."""
        ways = self._ways(first, rooms - {last})
        if not ways.reach(last):
            return None
        cells = [first]
        for there in ways.to(last):
            corner = self._corner(cells[-1], there)
            cells += [there] if corner in (cells[-1], there) else [corner, there]
        return cells

    def _ways(self, start: int, shut: Collection[int]) -> CheapestWays[int, int]:
        """The ways from a cell, each no further than the first cell of some set."""
        return CheapestWays(
            start,
            lambda here: (
                (there, steps, there)
                for there, steps in self.moves[here].items()
                if here == start or here not in shut
            ),
        )

    def _corner(self, here: int, there: int) -> int:
        """Where a move turns: a jump rises first, a fall begins beside."""
        (x, y), (column, row) = self.column_row(here), self.column_row(there)
        return self.number(x, row) if row < y else self.number(column, y)

    def distances(self, chosen: Collection[int]) -> dict[int, dict[int, int]]:
        """For each chosen cell, the steps to every other that a way through no third leads to."""
        ends = set(chosen)
        found = {}
        for start in chosen:
            ways = self._ways(start, ends)
            found[start] = {cell: ways.costs[cell] for cell in ways if cell in ends - {start}}
        return found

    def falls_out(self, chosen: Collection[int]) -> dict[int, int]:
        """For each chosen cell that leads to a fall out of the map, the fewest steps to its beginning."""
        edges, ends = self.edges, set(chosen)
        far = edges & ~bits_of(chosen, len(self.symbols))
        found = {}
        for start in chosen:
            if edges >> start & 1:
                found[start] = 1
            elif far:
                ways = self._ways(start, ends)
                nearest = next((cell for cell in ways if far >> cell & 1), None)
                if nearest is not None:
                    found[start] = ways.costs[nearest] + 1
        return found


def grid_of(floor: TileMap, tiles: Mapping[str, Tile]) -> Grid:
    """Return a map's cells, seen from above or from the side."""
    return Grid(floor, tiles) if floor.side is None else SideGrid(floor, tiles)
