"""The things a run can do: open a door or chest, do an act, take an item."""

from __future__ import annotations

from ..level import Level
from ..level.sources import Source, sources
from ..rules import Rules
from ..values import dataclass


@dataclass(eq=False)
class Subject:
    """One thing a run can do, or that happens in it, and how a position shows that it was done.

    Attributes:
        kind: ``door``, ``chest``, ``act``, ``item`` or ``event``.
        name: Its name; a placed item is ``ROOM/ITEM``.
        variable: The variable that shows it.
        before: The variable's value as long as it was not done. It never comes back: nothing
            shuts a door again for this purpose, or puts an item back where the level laid it.
    """

    kind: str
    name: str
    variable: int
    before: int


def subjects(level: Level, rules: Rules) -> list[Subject]:
    """Every door, chest, act, placed item and event of a level, in its order."""
    found: list[Subject] = []

    def add(kind: str, name: str, *variable: str) -> None:
        number = rules.index[variable]
        found.append(Subject(kind, name, number, rules.initial[number]))

    for name, thing in level.things.items():
        match thing.kind:
            case "door" | "chest":
                add(thing.kind, name, "opened", name)
            case "act" | "switch":
                add("act", name, "done", name)
            case "event":
                add("event", name, "done", name)
    for room in level.rooms.values():
        for item in room.items:
            add("item", f"{room.name}/{item}", "lying", room.name, item)
    return found


def rewards(level: Level) -> dict[str, str]:
    """Return the source of each reward: the subject that hands it over.

    They are named as in reports: ``ROOM/ITEM``, ``ROOM/CHEST``, ``ROOM/ACT``, an event by its own name.
    """
    kinds = {item.name for item in level.items.values() if item.kind == "reward"}
    found: dict[str, str] = {}
    for one in _once_done(level):
        if kinds & one.gives.keys():
            short = one.name.rpartition("/")[2]  # without the name of its level, in a campaign
            found[f"{one.room}/{short}" if one.room else one.name] = one.name
    return found


def item_sources(level: Level, item: str) -> list[str]:
    """The placed items, chests, acts and events that a unit of an item comes from."""
    return [one.name for one in _once_done(level) if item in one.gives]


def _once_done(level: Level) -> list[Source]:
    """The sources that are subjects, those in rooms first."""
    found = [one for one in sources(level) if one.kind in ("item", "chest", "act", "event")]
    return sorted(found, key=lambda one: one.kind == "event")
