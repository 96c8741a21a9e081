"""``thing-in-wall``, ``door-without-sides``, ``unused-symbol`` and ``ragged-map``: what is wrong with a map."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from ...level import Level
from ...level.maps.tilemap import BUILT_IN, TileMap
from ..finding import Finding
from ..registry import layout


@layout
def thing_in_wall(level: Level) -> Iterator[Finding]:
    """Report each chest, switch and act that no floor is beside."""
    for name, place in level.cut.walled_in if level.cut else ():
        room = level.rooms[name]
        thing = next(iter([*room.chests, *room.switches, *room.acts]), name)
        message = f"{thing}, at {name}, has no floor beside it: the player can never use it."
        mend = "open the wall beside it, or say `solid: false` if it is to be stood on"
        yield Finding("thing-in-wall", "error", thing, message, "", mend, place)


@layout
def door_without_sides(level: Level) -> Iterator[Finding]:
    """Report each door that does not lead from one cell to another."""
    for name, place in level.cut.one_sided if level.cut else ():
        message = f"The door {name} does not have two sides: at most one of them has floor."
        mend = "draw floor on both sides of it, or take it out"
        yield Finding("door-without-sides", "warning", name, message, "", mend, place)


@layout
def unused_symbol(level: Level) -> Iterator[Finding]:
    """Report each symbol of the legend that stands on no map."""
    for symbol in level.cut.unused if level.cut else ():
        message = f"The legend explains {symbol!r}, which stands on no map."
        mend = "draw it on a map, or take it out of the legend"
        place = level.legend[symbol].place
        yield Finding("unused-symbol", "note", symbol, message, "", mend, place)


@layout
def ragged_map(level: Level) -> Iterator[Finding]:
    """Report each row that is shorter or longer than those beside it, and each map that ends too early."""
    for name, floor in level.maps.items():
        for row, width, beside in _uneven(floor):
            more = abs(beside - width)
            what = f"{more} {'symbol' if more == 1 else 'symbols'} {'fewer' if width < beside else 'more'}"
            message = f"Row {row} of {name} has {what} than the rows beside it ({name}@1,{row})."
            mend = "draw what is missing" if width < beside else "take out what is too much"
            yield Finding("ragged-map", "warning", name, message, "", mend, floor.place_of(1, row))
        if _ends_early(level, floor):
            row = len(floor.rows)
            message = f"{name} ends at row {row} ({name}@1,{row}), and has walls on all sides but this one."
            mend = "draw the rows that are missing; a row that is indented less ends a map"
            yield Finding("ragged-map", "warning", name, message, "", mend, floor.place_of(1, row))


def _uneven(floor: TileMap) -> Iterator[tuple[int, int, int]]:
    """Each row that differs from two others beside it, which are equally wide: its number and the widths."""
    widths = [len(row) for row in floor.rows]
    last = len(widths) - 1
    for row, width in enumerate(widths):
        beside = {
            0: (1, 2),
            last: (last - 1, last - 2),
        }.get(row, (row - 1, row + 1))
        if last >= 2 and width != widths[beside[0]] == widths[beside[1]]:
            yield row + 1, width, widths[beside[0]]


def _ends_early(level: Level, floor: TileMap) -> bool:
    """Whether the last row of a map is open, though all its other sides are walls."""

    def shut(symbols: Iterable[str]) -> bool:
        tiles = (level.legend.get(one, BUILT_IN.get(one)) for one in symbols)
        return all(tile is not None and tile.ground in ("wall", "void") for tile in tiles)

    rows = ["".join(row).strip() for row in floor.rows]
    sides = "".join(row[:1] + row[-1:] for row in rows)
    return len(rows) > 2 and shut(rows[0]) and shut(sides) and not shut(rows[-1])
