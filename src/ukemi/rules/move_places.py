"""The subject of a move, and its place in the file."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..level import Level, Place
from .words import subject_of


def subject_of_move(level: Level, what: Mapping[str, Any]) -> str:
    """The name of the thing a move is about; of a walk across a map, the cell it leads to."""
    if what["do"] == "walk" and what["name"] not in level.things:
        return str(what["to"])
    return subject_of(what)


def place_of_move(level: Level, what: Mapping[str, Any]) -> Place | None:
    """Where the thing that a move is about stands in the file; for finishing, the goal."""
    thing = level.things.get(str(what.get("name")))
    if thing is not None:
        return thing.what.place
    room = level.rooms.get(str(what.get("in")))
    item = str(what.get("item"))
    if room is not None and item in room.items:
        return room.items[item].place
    if item in level.items:
        return level.items[item].place
    if what["do"] == "walk":
        return level.rooms[str(what["to"])].place
    return level.places.get("goal")
