"""Cutting tile maps into rooms.

A cell becomes a room when it matters: something is on it or beside it, it asks for something, it is
one-way, or something names it. Between two such cells there is a passage where plain floor joins them,
as long as the walk is in cells. All other cells are floor to walk over, and no rule distinguishes them,
so leaving them out changes no answer.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping

from ...bits import bits_of, numbers_of
from ...values import dataclass, field, replace
from ..conditions import At, atoms
from ..effects import NO_EFFECTS
from ..passage import Passage
from ..place import Place
from ..problems import Problem
from ..room import Cell, Room
from ..visible import quoted
from .cell_sets import around, regions
from .side_view import SideGrid, grid_of
from .tilemap import BUILT_IN, Tile, TileMap


@dataclass
class Cut:
    """The rooms and passages of some maps.

    Attributes:
        rooms: The rooms, by name.
        passages: The passages between them.
        starts: The rooms of start cells, with their places.
        problems: What is wrong with the maps.
        unused: Symbols of the legend that no map has.
        one_sided: Doors with fewer than two sides to walk through from and to, with their places.
        walled_in: Things on solid cells with no floor beside them, with their places.
    """

    rooms: dict[str, Room] = field(default_factory=dict)
    passages: list[Passage] = field(default_factory=list)
    starts: list[tuple[str, Place | None]] = field(default_factory=list)
    problems: list[Problem] = field(default_factory=list)
    unused: list[str] = field(default_factory=list)
    one_sided: list[tuple[str, Place | None]] = field(default_factory=list)
    walled_in: list[tuple[str, Place | None]] = field(default_factory=list)


def cut_maps(
    maps: Mapping[str, TileMap],
    legend: Mapping[str, Tile],
    named: Collection[Cell],
    every_cell: bool = False,
    deadly: bool = False,
) -> Cut:
    """Cut maps into rooms.

    Args:
        maps: The maps.
        legend: The meaning of their symbols, besides the built-in ones.
        named: Cells that something else in the level names.
        every_cell: Whether every cell one can stand on is to be a room.
        deadly: Whether, on a map seen from the side, the player can fall to death.

    Returns:
        The rooms and passages, and what is wrong with the maps.
    """
    cut = Cut()
    tiles = {**BUILT_IN, **legend}
    counts = dict.fromkeys(legend, 0)
    for floor in maps.values():
        for symbols in floor.rows:
            for symbol in legend:
                counts[symbol] += symbols.count(symbol)
    for floor in maps.values():
        if _all_symbols_known(floor, tiles, cut):
            wanted = {cell for cell in named if cell.map == floor.name}
            _MapCut(floor, tiles, counts, wanted, cut).run(every_cell, deadly)
    cut.unused = [symbol for symbol, count in counts.items() if count == 0]
    return cut


def _all_symbols_known(floor: TileMap, tiles: Mapping[str, Tile], cut: Cut) -> bool:
    known = True
    reported: set[str] = set()
    for row, symbols in enumerate(floor.rows, 1):
        unknown = dict.fromkeys(one for one in symbols if one not in tiles and one not in reported)
        for symbol in unknown:
            known = False
            reported.add(symbol)
            column = list(symbols).index(symbol) + 1
            place = floor.place_of(column, row)
            where = f"{floor.name}@{column},{row}"
            if floor.csv is not None:  # the file may be a stranger's secret: quote little
                others = len(unknown) > 1 or row < len(floor.rows)
                more = ", and perhaps others" if others else ""
                message = f"the symbol {quoted(symbol, 4)} at {where} is not in the legend{more}"
                cut.problems.append(Problem("unknown-name", message, place, symbol[:4]))
                return False
            if symbol == "\t":
                message = f"there is a tab at {where}; a map is drawn with spaces"
                cut.problems.append(Problem("bad-value", message, place, symbol))
            else:
                message = f"the symbol {quoted(symbol, 12)} at {where} is not in the legend"
                cut.problems.append(Problem("unknown-name", message, place, symbol))
    return known


class _MapCut:
    """Cuts one map."""

    def __init__(
        self,
        floor: TileMap,
        tiles: Mapping[str, Tile],
        counts: Mapping[str, int],
        named: Collection[Cell],
        cut: Cut,
    ) -> None:
        self.floor = floor
        self.counts = counts
        self.named = named
        self.cut = cut
        self.grid = grid_of(floor, tiles)
        self.names: dict[int, str] = {}

    def run(self, every_cell: bool, deadly: bool) -> None:
        grid = self.grid
        mattering, solid = list(numbers_of(grid.mattering)), list(numbers_of(grid.solid))
        nodes = dict.fromkeys(mattering, False)  # whether it is a room only for what is beside it
        for cell in self.named:
            number = grid.number(cell.column, cell.row)
            if self._inside(cell) and grid.can_stand(number):
                nodes[number] = False
        # A gate may ask where the player is, and that is the cell stepped from.
        stepped_onto = [cell for cell in mattering if _is_asked_beside(grid.tile(cell))]
        for number in (*stepped_onto, *solid):
            for beside in grid.beside(number):
                nodes.setdefault(beside, True)
        if every_cell:
            for number in numbers_of(grid.plain):
                nodes.setdefault(number, True)
        if isinstance(grid, SideGrid):
            self._hanging(grid)
            pockets = grid.stretches(list(nodes))
        else:
            pockets = self._pockets(list(nodes))
        for number in pockets:
            nodes[number] = True
        chosen = sorted(nodes)
        for number in chosen:
            self._room(number, nodes[number])
        for number in solid:
            self._solid(number)
        self._passages(chosen)
        if isinstance(grid, SideGrid) and deadly:
            self._below(grid, chosen)

    def _below(self, grid: SideGrid, chosen: list[int]) -> None:
        """Return what lies below the map, and the falls to there."""
        falls = grid.falls_out(chosen)
        if not falls:
            return
        name = f"{self.floor.name}@below"
        cell = Cell(self.floor.name, 1, len(self.floor.rows) + 1)
        place = self.floor.place
        self.cut.rooms[name] = Room(name, place=place, cell=cell, beside=True, deadly=True)
        for number, steps in falls.items():
            here = self.names[number]
            passage = Passage(f"{here} -> {name}", here, name, False, steps=steps, on_map=True)
            passage.place = self.floor.place_of(*grid.column_row(number))
            self.cut.passages.append(passage)

    def _hanging(self, grid: SideGrid) -> None:
        """Things in the air, which nobody can reach."""
        for number in grid.hanging:
            column, row = grid.column_row(number)
            where = f"{self.floor.name}@{column},{row}"
            message = f"{grid.symbols[number]!r} at {where} hangs in the air: nothing below it bears weight"
            place = self.floor.place_of(column, row)
            code = "start-blocked" if grid.tile(number).ground == "start" else "thing-in-wall"
            self.cut.problems.append(Problem(code, message, place, grid.symbols[number]))

    def _pockets(self, nodes: list[int]) -> list[int]:
        """One cell of each stretch of floor beside which every cell does something to whoever steps onto it.

        Such a stretch needs a room of its own. The rooms beside it cannot stand for it: who comes back to one
        steps onto its hazard again.
        """
        grid = self.grid
        size, width = len(grid.symbols), grid.width
        chosen = bits_of(nodes, size)
        free = bits_of((one for one in nodes if _leaves_as_it_was(grid.tile(one))), size)
        beside = ((part, around(part, width)) for part in regions(grid.plain & ~chosen, width))
        return [
            next(numbers_of(part))
            for part, next_to in beside
            if next_to & chosen and not next_to & free
        ]

    def _inside(self, cell: Cell) -> bool:
        return 1 <= cell.column <= self.grid.width - 2 and 1 <= cell.row <= self.grid.height - 2

    # -- rooms --------------------------------------------------------------------------------

    def _numbered(self, name: str, number: int) -> str:
        """A legend entry's name on one cell: numbered where its symbol stands on several."""
        if self.counts.get(self.grid.symbols[number], 1) <= 1:
            return name
        column, row = self.grid.column_row(number)
        return f"{name}@{column},{row}"

    def _new_room(self, number: int) -> Room:
        column, row = self.grid.column_row(number)
        tile = self.grid.tile(number)
        cell = Cell(self.floor.name, column, row)
        name = self._numbered(tile.room, number) if tile.room else str(cell)
        room = Room(name, label=tile.label, note=tile.note, cell=cell)
        room.place = self.floor.place_of(column, row)
        room.items = {item: replace(one, place=room.place) for item, one in tile.items.items()}
        if tile.chest is not None:
            name_of_chest = self._numbered(tile.chest.name, number)
            room.chests[name_of_chest] = replace(tile.chest, name=name_of_chest, place=room.place)
        if tile.switch is not None:
            switch = self._numbered(tile.switch.name, number)
            room.switches[switch] = replace(tile.switch, name=switch, place=room.place)
        if tile.act is not None:
            act = self._numbered(tile.act.name, number)
            room.acts[act] = replace(tile.act, name=act, place=room.place)
        if name in self.cut.rooms:
            message = f"two cells are named {name!r}"
            self.cut.problems.append(Problem("duplicate-name", message, room.place, name))
        self.cut.rooms[name] = room
        self.names[number] = name
        return room

    def _room(self, number: int, beside: bool) -> None:
        room = self._new_room(number)
        room.beside = beside
        if self.grid.tile(number).ground == "start":
            self.cut.starts.append((room.name, room.place))

    def _solid(self, number: int) -> None:
        room = self._new_room(number)
        room.used_from = tuple(self.names[cell] for cell in self.grid.beside(number))
        if not room.used_from:
            self.cut.walled_in.append((room.name, room.place))

    # -- passages -----------------------------------------------------------------------------

    def _passages(self, chosen: list[int]) -> None:
        grid = self.grid
        side = isinstance(grid, SideGrid)
        steps = grid.distances(chosen)
        for number in chosen:
            if self.grid.tile(number).lock is not None:
                self._check_sides(number)
        for a in chosen:
            for b, distance in steps[a].items():
                back = steps[b].get(a)
                plain = not (self._asks(a) or self._asks(b) or side)
                if plain and back == distance:
                    if a < b:
                        self.cut.passages.append(self._passage(a, b, distance, two_way=True))
                else:
                    self.cut.passages.append(self._passage(a, b, distance, two_way=False))

    def _asks(self, number: int) -> bool:
        return self.grid.tile(number).asks

    def _passage(self, a: int, b: int, distance: int, *, two_way: bool) -> Passage:
        tile = self.grid.tile(b)
        from_, to = self.names[a], self.names[b]
        passage = Passage(
            f"{from_} {'<->' if two_way else '->'} {to}",
            from_,
            to,
            two_way,
            steps=distance,
            on_map=True,
        )
        passage.place = self.floor.place_of(*self.grid.column_row(b))
        if tile.asks:
            own = self._numbered(tile.name, b) if tile.name else to
            passage.part_of = own
            passage.lock = tile.lock
            passage.gate = tile.gate
            passage.once = tile.once
            passage.steps = distance - 1 + tile.steps
            passage.effects = tile.effects or NO_EFFECTS
            passage.label, passage.note = tile.label, tile.note
            passage.seen, passage.says, passage.mentions = tile.seen, tile.says, tile.mentions
            if tile.lock is not None:
                passage.sides = tuple(self.names[cell] for cell in self.grid.beside(b))
        return passage

    def _check_sides(self, door: int) -> None:
        into = {cell for cell in self.grid.beside(door) if door in self.grid.ways_out(cell)}
        if len(into.union(self.grid.ways_out(door))) < 2:
            tile = self.grid.tile(door)
            name = self._numbered(tile.name, door) if tile.name else self.names[door]
            place = self.floor.place_of(*self.grid.column_row(door))
            self.cut.one_sided.append((name, place))


def _leaves_as_it_was(tile: Tile) -> bool:
    """Whether whoever stands on a cell can step off and on again, and nothing is different."""
    return not (tile.asks or tile.one_way or tile.items)


def _is_asked_beside(tile: Tile) -> bool:
    """Whether it matters from which cell a cell is stepped onto."""
    return tile.lock is not None or any(
        isinstance(atom, At) for atom in (*atoms(tile.gate), *atoms(tile.seen))
    )
