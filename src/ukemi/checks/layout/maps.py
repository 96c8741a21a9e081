"""``thing-in-wall``, ``door-without-sides`` and ``unused-symbol``: what is wrong with a map.

A level that passes, and one that fails (the chest is walled in)::

    {goal: opened bin, maps: {ground: ["#####", "#@.c#", "#####"]}, legend: {c: {chest: {name: bin}}}}
    the same with the row `#@.#c`
"""

from __future__ import annotations

from collections.abc import Iterator

from ...level import Level
from ..registry import layout
from ..result import Finding


@layout
def thing_in_wall(level: Level) -> Iterator[Finding]:
    """Tell each chest, switch and act that no floor is beside."""
    for name, place in level.cut.walled_in if level.cut else ():
        room = level.rooms[name]
        thing = next(iter([*room.chests, *room.switches, *room.acts]), name)
        message = f"{thing}, at {name}, has no floor beside it: nobody can ever use it."
        mend = "open the wall beside it, or say `solid: false` if it is to be stood on"
        yield Finding("thing-in-wall", "error", thing, message, "", mend, place)


@layout
def door_without_sides(level: Level) -> Iterator[Finding]:
    """Tell each door that does not lead from one cell to another."""
    for name, place in level.cut.one_sided if level.cut else ():
        message = f"The door {name} has no two sides: there is floor on one of them at most."
        mend = "put floor on both sides of it, or take it out"
        yield Finding("door-without-sides", "warning", name, message, "", mend, place)


@layout
def unused_symbol(level: Level) -> Iterator[Finding]:
    """Tell each symbol of the legend that stands on no map."""
    for symbol in level.cut.unused if level.cut else ():
        message = f"The legend explains {symbol!r}, which stands on no map."
        mend = "draw it on a map, or take it out of the legend"
        place = level.legend[symbol].place
        yield Finding("unused-symbol", "note", symbol, message, "", mend, place)
