"""The spots where things may land, and the distances from there."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping
from functools import cached_property
from itertools import takewhile

from ..bits import bits_of, numbers_of
from ..graph import CheapestWays
from ..language.fields.types import LARGEST
from ..level import Act, Chest, Level, LevelError, Problem
from ..level.asked import items_in
from ..level.maps.cell_sets import around, moved, regions
from ..level.maps.side_view import grid_of
from ..level.maps.tilemap import BUILT_IN, Tile, cell_of
from ..level.room import Cell
from ..level.scatter_groups import Scatter, stretch_of


class Spots:
    """The places of a level that things can be laid into.

    Args:
        base: The level without the things that are scattered.
        moved: Chests that are scattered themselves: no room of theirs is known beforehand.
    """

    def __init__(self, base: Level, moved: frozenset[str] = frozenset()) -> None:
        self.base = base
        self.moved = moved
        self._tiles = {**BUILT_IN, **base.legend}
        self.grids = {name: grid_of(floor, self._tiles) for name, floor in base.maps.items()}

    # -- which there are ----------------------------------------------------------------------

    def of_group(self, group: Scatter, *, chests: bool, drawn: bool = False) -> list[str]:
        """The spots of a group: rooms, chests, acts, and cells such as ``ground@5,2``.

        Args:
            group: The group.
            chests: Whether they are for chests that are moved, not for items.
            drawn: Whether such a chest is drawn on a map.

        Raises:
            LevelError: Something that it names can hold nothing.
        """
        named = [one for one in group.into if stretch_of(one) is None]
        floors = [stretch for one in group.into if (stretch := stretch_of(one)) is not None]
        cells = [
            str(cell)
            for name in self.base.maps
            for cell in self._floor(name)
            if not group.into
            or any(one.map == name and one.holds(cell.column, cell.row) for one in floors)
        ]
        if chests and drawn:
            return cells
        spots = self._all_named(chests) if not group.into else []
        for name in named:
            cell = cell_of(name)
            if cell is not None and self._is_bare(cell):
                spots.append(str(cell))
            elif name in self._all_named(chests):
                spots.append(name)
            elif not chests or name not in {*self.base.things, *self.moved}:
                raise _no_spot(group, name, self._why_not(name))
        return spots if chests else [*spots, *(one for one in cells if one not in spots)]

    def _all_named(self, chests: bool) -> list[str]:
        """The rooms, and for items the chests and acts, that can be given something."""
        own = [name for name, room in self.base.rooms.items() if room.cell is None]
        if chests:
            return own
        on_map = [
            tile.room
            for symbol, tile in self.base.legend.items()
            if tile.room and self._once(symbol)
        ]
        things = [
            name
            for name, thing in self.base.things.items()
            if isinstance(thing.what, Chest | Act) and not getattr(thing.what, "repeat", False)
        ]
        drawn_often = {
            name for name in things if self.base.rooms[self.base.things[name].room].cell is not None
            and "@" in name
        }  # fmt: skip
        return [*own, *on_map, *(name for name in things if name not in drawn_often), *self.moved]

    def _once(self, symbol: str) -> bool:
        rows = (row for floor in self.base.maps.values() for row in floor.rows)
        return sum(row.count(symbol) for row in rows) == 1

    def _why_not(self, name: str) -> str:
        if cell_of(name):
            return "there is something on the cell already"
        return "its symbol stands for several cells, and so does what it holds"

    def _floor(self, name: str) -> Iterator[Cell]:
        """The cells of a map that are mere floor, and not above nothing."""
        grid = self.grids[name]
        bare = grid.plain & grid.having(lambda tile: tile == Tile())
        void = grid.having(lambda tile: tile.ground == "void")
        for number in numbers_of(bare & ~moved(void, -grid.width)):
            cell = Cell(name, *grid.column_row(number))
            if cell not in self._named_cells:
                yield cell

    @cached_property
    def _named_cells(self) -> set[Cell]:
        """Cells that something else in the level names: they stay as they are, unless `into` names them."""
        return {
            room.cell
            for room in self.base.rooms.values()
            if room.cell is not None and not room.beside
        }

    def _is_bare(self, cell: Cell) -> bool:
        floor = self.base.maps.get(cell.map)
        return floor is not None and self._tiles[floor.symbol(cell.column, cell.row)] == Tile()

    def shuts(self, chests: Iterable[str]) -> bool:
        """Whether solid things on some cells would part a floor, or have no floor beside them."""
        cells = [cell for spot in chests if (cell := cell_of(spot)) is not None]
        for name in {cell.map for cell in cells}:
            grid = self.grids[name]
            solid = [grid.number(cell.column, cell.row) for cell in cells if cell.map == name]
            left = grid.standing & ~bits_of(solid, len(grid.symbols))
            before, after = (
                sum(1 for _ in regions(one, grid.width)) for one in (grid.standing, left)
            )
            if after > before or any(not around(1 << one, grid.width) & left for one in solid):
                return True
        return False

    # -- how far ------------------------------------------------------------------------------

    def room_of(self, spot: str, moved: Mapping[str, str]) -> str:
        """The room that a spot is in: itself, that of a chest or an act.

        Args:
            spot: The spot.
            moved: Where the chests that are scattered lie.
        """
        if spot in self.moved:
            return moved[spot]
        if spot in self.base.things and spot not in self.base.rooms:
            return self.base.things[spot].room
        return spot

    def within(
        self, spots: Iterable[str], rooms: Collection[str], moved: Mapping[str, str]
    ) -> Iterator[str]:
        """Return the spots, among some, that are in some rooms, or on floor that is walked over beside them.

        Args:
            spots: The spots.
            moved: Where the chests that are scattered lie.
        """
        reached: dict[str, set[int]] = {name: set() for name in self.grids}
        for room in rooms if self.grids else ():
            reached.setdefault(self._map_of(room), set()).update(self._floor_around(room))
        for spot in spots:
            room = self.room_of(spot, moved)
            if room in rooms or not reached.get(self._map_of(room), set()).isdisjoint(
                self._floor_around(room)
            ):
                yield spot

    def _map_of(self, room: str) -> str:
        cell = self._cell_of.get(room) or cell_of(room)
        return cell.map if cell else ""

    def _floor_around(self, room: str) -> set[int]:
        """The numbers of the stretches of floor that a cell is on or beside."""
        cell = self._cell_of.get(room) or cell_of(room)
        if cell is None:
            return set()
        grid, stretches = self.grids[cell.map], self._stretches[cell.map]
        number = grid.number(cell.column, cell.row)
        near = (number, *(number + step for step in grid.offsets.values()))
        return {stretches[one] for one in near if one in stretches}

    @cached_property
    def _cell_of(self) -> dict[str, Cell]:
        return {name: room.cell for name, room in self.base.rooms.items() if room.cell is not None}

    @cached_property
    def _stretches(self) -> dict[str, dict[int, int]]:
        """For each map and each cell of floor, the number of the stretch of floor that holds the cell."""
        found = {}
        for name, grid in self.grids.items():
            free = grid.standing & ~grid.having(lambda tile: tile.asks)
            parts = enumerate(regions(free, grid.width))
            found[name] = {cell: part for part, cells in parts for cell in numbers_of(cells)}
        return found

    @cached_property
    def _ways(self) -> dict[str, list[tuple[str, int]]]:
        """The ways between rooms, every cell of a map being one, with every door open."""
        ways: dict[str, list[tuple[str, int]]] = {}
        level = self.base.to_rooms(every_cell=True) if self.base.maps else self.base
        for passage in level.passages:
            for a, b in passage.walks():
                ways.setdefault(a, []).append((b, passage.steps))
        for room in level.rooms.values():
            for beside in room.used_from or ():  # a chest on a solid cell is used from beside it
                ways.setdefault(room.name, []).append((beside, 0))
                ways.setdefault(beside, []).append((room.name, 0))
        return ways

    def near(self, room: str, steps: int) -> dict[str, int]:
        """Return the rooms nearer than some steps, if every door is open, with their distances."""
        if (room, steps) not in self._known:
            ways = CheapestWays(
                room, lambda here: ((there, more, None) for there, more in self._ways.get(here, ()))
            )
            near = takewhile(lambda one: ways.costs[one] < steps, ways)
            self._known[room, steps] = {one: ways.costs[one] for one in near}
        return self._known[room, steps]

    @cached_property
    def _known(self) -> dict[tuple[str, int], dict[str, int]]:
        return {}

    def apart(self, a: str, b: str, steps: int) -> bool:
        """Whether two rooms are at least some steps apart, in both directions."""
        return b not in self.near(a, steps) and a not in self.near(b, steps)

    def steps_to_lock(self, item: str, room: str) -> int | None:
        """The steps from a room to the nearest lock that asks for an item, either way."""
        far = LARGEST
        steps = [
            min(self.near(room, far).get(lock, far), self.near(lock, far).get(room, far))
            for lock in self.lock_rooms(item)
        ]
        nearest = min(steps, default=far)
        return nearest if nearest < far else None

    def lock_rooms(self, item: str) -> list[str]:
        """The rooms with a lock that an item unlocks."""
        found: dict[str, None] = {}
        for door, lock in self.base.doors():
            if item in items_in(lock.needs):
                ends = (*door.sides, door.a, door.b) if door.on_map else (door.a, door.b)
                found |= dict.fromkeys([lock.from_] if lock.from_ else ends)
        for room in self.base.rooms.values():
            for chest in room.chests.values():
                chest_lock = self.base.lock_of(chest)
                if chest_lock is not None and item in items_in(chest_lock.needs):
                    found[room.name] = None
        return list(found)


def _no_spot(group: Scatter, name: str, why: str) -> LevelError:
    message = f"the group {group.name!r} cannot lay anything into {name!r}: {why}"
    return LevelError([Problem("bad-value", message, group.place, name)])
