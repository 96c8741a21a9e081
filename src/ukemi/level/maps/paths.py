"""The cells a walk between two rooms of a map goes over."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from ...graph import CheapestWays, on_every_way
from ..room import Cell
from .side_view import SideGrid, grid_of
from .tilemap import BUILT_IN

if TYPE_CHECKING:
    from ..level import Level


#: On a larger map, gaps are not looked for.
_MOST_CELLS = 20_000


class Paths:
    """Finds the cells of walks on the maps of a level."""

    def __init__(self, level: Level) -> None:
        self.level = level
        tiles = {**BUILT_IN, **level.legend}
        self.grids = {name: grid_of(floor, tiles) for name, floor in level.maps.items()}
        self._rooms: dict[str, set[int]] = {name: set() for name in level.maps}
        for room in level.rooms.values():
            if room.cell is not None and room.cell.map in self.grids:
                self._rooms[room.cell.map].add(self._number(room.cell))

    def cells(self, a: str, b: str) -> list[Cell]:
        """A shortest walk from one room of a map to another that enters no third room.

        Breadth-first search over the cells.

        Returns:
            The cells, both ends included; just the ends where no such walk is on one map.
        """
        start, goal = self.level.rooms[a].cell, self.level.rooms[b].cell
        if self.level.rooms[b].deadly:
            return [start] if start is not None else []
        if start is None or goal is None or start.map != goal.map:
            return [cell for cell in (start, goal) if cell is not None]
        grid, rooms = self.grids[start.map], self._rooms[start.map]
        first, last = self._number(start), self._number(goal)
        if isinstance(grid, SideGrid):
            numbers = grid.path(first, last, rooms) or [first, last]
            return [Cell(start.map, *grid.column_row(number)) for number in numbers]
        ways = CheapestWays(
            first,
            lambda here: (
                (there, 1, there)
                for there in grid.ways_out(here)
                if there == last or there not in rooms
            ),
        )
        if not ways.reach(last):
            return [start, goal]
        return [Cell(start.map, *grid.column_row(number)) for number in (first, *ways.to(last))]

    def gaps(self, a: str, b: str, shut: Iterable[str]) -> list[str]:
        """The gaps in walls that every walk between two rooms of a map goes through.

        A gap is a cell of plain floor with no floor on two opposite sides.

        Args:
            shut: Rooms that no walk enters.

        Returns:
            The cells, as reports name them, in the order of a shortest walk; none on a map seen from the side.
        """
        start, goal = self.level.rooms[a].cell, self.level.rooms[b].cell
        if start is None or goal is None or start.map != goal.map:
            return []
        grid = self.grids[start.map]
        if isinstance(grid, SideGrid) or len(grid.symbols) > _MOST_CELLS:
            return []
        first, last = self._number(start), self._number(goal)
        cells = [self.level.rooms[one].cell for one in shut]
        closed = {self._number(one) for one in cells if one is not None and one.map == start.map}
        leads = [
            [to for to in grid.ways_out(here) if to not in closed] if grid.can_stand(here) else []
            for here in range(len(grid.symbols))
        ]
        ways = CheapestWays(first, lambda here: ((to, 1, to) for to in leads[here]))
        if not ways.reach(last):
            return []
        up, left = grid.offsets["up"], grid.offsets["left"]

        def walled(cell: int) -> bool:
            return cell in closed or not grid.can_stand(cell)

        return [
            str(Cell(start.map, *grid.column_row(here)))
            for here in on_every_way([first, *ways.to(last)], leads.__getitem__)
            if grid.plain >> here & 1
            and any(walled(here - side) and walled(here + side) for side in (up, left))
        ]

    def _number(self, cell: Cell) -> int:
        return self.grids[cell.map].number(cell.column, cell.row)
