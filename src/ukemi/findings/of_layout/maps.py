"""``thing-in-wall``, ``door-without-sides`` and ``unused-symbol``: what is wrong with a map."""

from __future__ import annotations

from collections.abc import Iterator

from ...level import Level
from ..finding import Finding
from ..registry import layout


@layout
def thing_in_wall(level: Level) -> Iterator[Finding]:
    """Tell each chest, switch and act that no floor is beside."""
    for name, place in level.cut.walled_in if level.cut else ():
        room = level.rooms[name]
        thing = next(iter([*room.chests, *room.switches, *room.acts]), name)
        message = f"{thing}, at {name}, has no floor beside it: the player can never use it."
        mend = "open the wall beside it, or say `solid: false` if it is to be stood on"
        yield Finding("thing-in-wall", "error", thing, message, "", mend, place)


@layout
def door_without_sides(level: Level) -> Iterator[Finding]:
    """Tell each door that does not lead from one cell to another."""
    for name, place in level.cut.one_sided if level.cut else ():
        message = f"The door {name} does not have two sides: at most one of them has floor."
        mend = "draw floor on both sides of it, or take it out"
        yield Finding("door-without-sides", "warning", name, message, "", mend, place)


@layout
def unused_symbol(level: Level) -> Iterator[Finding]:
    """Tell each symbol of the legend that stands on no map."""
    for symbol in level.cut.unused if level.cut else ():
        message = f"The legend explains {symbol!r}, which stands on no map."
        mend = "draw it on a map, or take it out of the legend"
        place = level.legend[symbol].place
        yield Finding("unused-symbol", "note", symbol, message, "", mend, place)
