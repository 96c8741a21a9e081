"""Levels with things moved: taken from their places in the file, and put elsewhere."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import replace
from string import ascii_letters

from ..level import Act, Chest, Level, Placement, Room
from ..level.maps.tilemap import BUILT_IN, Tile, TileMap, cell_of
from ..level.room import Cell

#: What lies where: the name of each thing, with the spot it lies in.
Laid = tuple[tuple[str, str], ...]


def taken_out(level: Level, items: Iterable[str], chests: Iterable[str]) -> tuple[Level, Taken]:
    """A level without some items and chests, and what was taken.

    Args:
        level: The level; it stays as it is.
        items: Items; every unit is taken from rooms, chests, acts and maps.
        chests: Chests that are taken whole.
    """
    taken = Taken(level, frozenset(items), frozenset(chests))
    rooms = {name: taken.from_room(room) for name, room in level.rooms.items() if room.cell is None}
    legend = {symbol: taken.from_tile(symbol, tile) for symbol, tile in level.legend.items()}
    maps = {name: taken.from_map(floor) for name, floor in level.maps.items()}
    return level.laid_out(rooms, maps, legend), taken


class Taken:
    """The things that were taken out of a level.

    Attributes:
        counts: How many of each item.
        chests: The chests, by name; those of rooms.
        symbols: The symbols of the things that are drawn, by name.
    """

    def __init__(self, level: Level, items: frozenset[str], chests: frozenset[str]) -> None:
        self.counts: Counter[str] = Counter()
        self.chests: dict[str, Chest] = {}
        self.symbols: dict[str, str] = {}
        self._items, self._wanted = items, chests
        self._level = level
        self._drawn: Counter[str] = Counter()
        for floor in level.maps.values():
            for row in floor.rows:
                self._drawn.update(row)

    def from_room(self, room: Room) -> Room:
        """A room without the things."""
        for name in self._wanted & room.chests.keys():
            self.chests[name] = room.chests[name]
        return replace(
            room,
            items=self._lying(room.items, 1),
            chests={
                name: self._from_chest(chest, 1)
                for name, chest in room.chests.items()
                if name not in self._wanted
            },
            acts={name: self._from_act(act, 1) for name, act in room.acts.items()},
            switches={name: self._from_act(act, 1) for name, act in room.switches.items()},
        )

    def _lying(self, items: Mapping[str, Placement], times: int) -> dict[str, Placement]:
        for name in self._items & items.keys():
            self.counts[name] += items[name].count * times
        return {name: one for name, one in items.items() if name not in self._items}

    def _from_chest(self, chest: Chest, times: int) -> Chest:
        return replace(chest, holds=self._held(chest.holds, times))

    def _from_act(self, act: Act, times: int) -> Act:
        if act.repeat or not self._items & act.effects.gives.keys():
            return act  # what can be got again and again is not placed
        gives = self._held(act.effects.gives, times)
        return replace(act, effects=replace(act.effects, gives=gives))

    def _held(self, counts: Mapping[str, int], times: int) -> dict[str, int]:
        for name in self._items & counts.keys():
            self.counts[name] += counts[name] * times
        return {name: count for name, count in counts.items() if name not in self._items}

    def from_tile(self, symbol: str, tile: Tile) -> Tile:
        """Return a symbol without the things; a symbol that meant nothing else stays."""
        times = self._drawn[symbol]
        if tile.chest is not None and tile.chest.name in self._wanted:
            self.symbols[tile.chest.name] = symbol
            return replace(tile, chest=self._from_chest(tile.chest, times))
        if self.just_items(tile):
            self._lying(tile.items, times)
            return tile
        return replace(
            tile,
            items=self._lying(tile.items, times),
            chest=tile.chest and self._from_chest(tile.chest, times),
            act=tile.act and self._from_act(tile.act, times),
            switch=tile.switch and self._from_act(tile.switch, times),
        )

    def just_items(self, tile: Tile) -> bool:
        """Whether a symbol stands for some of the items lying on floor, and for nothing else."""
        return (
            bool(tile.items)
            and tile.items.keys() <= self._items
            and tile == Tile(items=tile.items, label=tile.label, note=tile.note)
        )

    def from_map(self, floor: TileMap) -> TileMap:
        """A map with floor where the things were."""
        gone = {
            symbol
            for symbol, tile in self._level.legend.items()
            if self.just_items(tile) or symbol in self.symbols.values()
        }
        if not any(gone.intersection(row) for row in floor.rows):
            return floor
        bare = floor_symbol(floor, self._level.legend)
        cells = {
            (column, row): bare
            for row, symbols in enumerate(floor.rows, 1)
            for column, symbol in enumerate(symbols, 1)
            if symbol in gone
        }
        return drawn(floor, cells)


def floor_symbol(floor: TileMap, legend: Mapping[str, Tile]) -> str:
    """The symbol of mere floor that a map has most of."""
    tiles = {**BUILT_IN, **legend}
    counts = Counter(symbol for row in floor.rows for symbol in row)
    bare = [symbol for symbol, tile in tiles.items() if tile == Tile()]
    return max(bare, key=lambda symbol: (counts[symbol], symbol == "."), default=".")


def drawn(floor: TileMap, cells: Mapping[tuple[int, int], str]) -> TileMap:
    """A map with other symbols in some cells, given by column and row."""
    rows = [list(row) for row in floor.rows]
    for (column, row), symbol in cells.items():
        rows[row - 1][column - 1] = symbol
    as_text = all(isinstance(row, str) for row in floor.rows) and all(
        len(symbol) == 1 for symbol in cells.values()
    )
    new = ["".join(row) for row in rows] if as_text else [tuple(row) for row in rows]
    return replace(floor, rows=tuple(new), csv=None)


def laid(base: Level, taken: Taken, placed: Laid) -> Level:
    """A level with things laid in it.

    Args:
        base: The level without them.
        taken: The things that were taken out of it.
        placed: What lies where.

    Returns:
        Another level.
    """
    layer = _Layer(base, taken)
    for thing, spot in placed:
        layer.put(thing, spot)
    return layer.level()


class _Layer:
    """Puts things into copies of the rooms, chests and acts that receive them."""

    def __init__(self, base: Level, taken: Taken) -> None:
        self.base = base
        self.taken = taken
        self.rooms = {name: room for name, room in base.rooms.items() if room.cell is None}
        self.legend = dict(base.legend)
        self.cells: dict[str, dict[tuple[int, int], str]] = {}
        self._symbol_of = {
            (tile.chest or tile.switch or tile.act).name: symbol  # type: ignore[union-attr]
            for symbol, tile in base.legend.items()
            if tile.chest or tile.switch or tile.act
        }
        self._room_of = {tile.room: symbol for symbol, tile in base.legend.items() if tile.room}

    def put(self, thing: str, spot: str) -> None:
        cell = cell_of(spot)
        if cell is not None:
            self._draw(cell, self._symbol_for(thing))
        elif spot in self._room_of:
            symbol = self._room_of[spot]
            tile = self.legend[symbol]
            self.legend[symbol] = replace(tile, items=_with(tile.items, thing))
        elif spot in self._symbol_of:
            symbol = self._symbol_of[spot]
            tile = self.legend[symbol]
            self.legend[symbol] = replace(
                tile,
                chest=tile.chest and _holding(tile.chest, spot, thing),
                act=tile.act and _giving(tile.act, spot, thing),
                switch=tile.switch and _giving(tile.switch, spot, thing),
            )
        elif spot in self.rooms and thing in self.taken.chests:
            room = self.rooms[spot]
            chests = {**room.chests, thing: self.taken.chests[thing]}
            self.rooms[spot] = replace(room, chests=chests)
        elif spot in self.rooms:
            room = self.rooms[spot]
            self.rooms[spot] = replace(room, items=_with(room.items, thing))
        else:
            self._put_into(thing, spot)

    def _put_into(self, thing: str, spot: str) -> None:
        """Put an item into a chest or an act of a room."""
        room = next(
            one
            for one in self.rooms.values()
            if spot in one.chests or spot in one.acts or spot in one.switches
        )
        self.rooms[room.name] = replace(
            room,
            chests={name: _holding(one, spot, thing) for name, one in room.chests.items()},
            acts={name: _giving(one, spot, thing) for name, one in room.acts.items()},
            switches={name: _giving(one, spot, thing) for name, one in room.switches.items()},
        )

    def _draw(self, cell: Cell, symbol: str) -> None:
        self.cells.setdefault(cell.map, {})[cell.column, cell.row] = symbol

    def _symbol_for(self, thing: str) -> str:
        if thing in self.taken.symbols:
            return self.taken.symbols[thing]
        wanted = {thing: Placement(thing)}
        for symbol, tile in self.legend.items():
            if tile == Tile(items=wanted, label=tile.label, note=tile.note):
                return symbol
        used = {*BUILT_IN, *self.legend}
        letters = (*thing, *thing.upper(), *ascii_letters, *_MORE)
        new: str = next(one for one in letters if one not in used)
        self.legend[new] = Tile(items=wanted)
        return new

    def level(self) -> Level:
        maps = {
            name: drawn(floor, self.cells[name]) if name in self.cells else floor
            for name, floor in self.base.maps.items()
        }
        seen = {symbol for floor in maps.values() for row in floor.rows for symbol in row}
        legend = {
            symbol: tile
            for symbol, tile in self.legend.items()
            if symbol in seen or not self.taken.just_items(tile)
        }
        return self.base.laid_out(self.rooms, maps, legend)


#: More symbols, for maps that use every letter.
_MORE = tuple(map(chr, range(0xC0, 0x500)))


def _with(items: Mapping[str, Placement], thing: str) -> dict[str, Placement]:
    lying = items.get(thing, Placement(thing, 0))
    return {**items, thing: replace(lying, count=lying.count + 1)}


def _holding(chest: Chest, spot: str, thing: str) -> Chest:
    if chest.name != spot:
        return chest
    return replace(chest, holds={**chest.holds, thing: chest.holds.get(thing, 0) + 1})


def _giving(act: Act, spot: str, thing: str) -> Act:
    if act.name != spot:
        return act
    gives = act.effects.gives
    more = {**gives, thing: gives.get(thing, 0) + 1}
    return replace(act, effects=replace(act.effects, gives=more))


def lying_in(level: Level, items: Iterable[str], chests: Iterable[str]) -> Laid:
    """Where some items and chests lie in a level: the other way round than :func:`laid`."""
    found: list[tuple[str, str]] = []
    wanted, moved = list(items), set(chests)
    for room in level.rooms.values():
        for item in wanted:
            if item in room.items:
                found += [(item, room.name)] * room.items[item].count
            for chest in room.chests.values():
                found += [(item, chest.name)] * chest.holds.get(item, 0)
            for act in room.all_acts():
                if not act.repeat:
                    found += [(item, act.name)] * act.effects.gives.get(item, 0)
        found += [(name, room.name) for name in room.chests if name in moved]
    return tuple(sorted(found, key=lambda one: one[0] not in moved))
