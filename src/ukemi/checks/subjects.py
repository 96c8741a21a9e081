"""The things a run can do: open a door or chest, do an act, take an item."""

from __future__ import annotations

from dataclasses import dataclass

from ..level import Level
from ..rules import Rules


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
    """Every door, chest, act and placed item of a level.

    Args:
        level: The level.
        rules: Its rules.

    Returns:
        The subjects, in the order of the level.
    """
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
    """Where the rewards of a level are to be had.

    Args:
        level: The level.

    Returns:
        For each reward, by its name in reports (``ROOM/ITEM``, ``ROOM/CHEST``, ``ROOM/ACT``, an event by its own), the
        name of the subject that hands it over.
    """
    kinds = {item.name for item in level.items.values() if item.kind == "reward"}
    found: dict[str, str] = {}
    for room in level.rooms.values():
        for item in room.items:
            if item in kinds:
                found[f"{room.name}/{item}"] = f"{room.name}/{item}"
        for chest in room.chests.values():
            lock = level.lock_of(chest)
            given = {*chest.holds, *chest.effects.gives, *(lock.effects.gives if lock else ())}
            if given & kinds:
                found[f"{room.name}/{_short(chest.name)}"] = chest.name
        for act in room.all_acts():
            if act.effects.gives.keys() & kinds:
                found[f"{room.name}/{_short(act.name)}"] = act.name
    for event in level.events.values():
        if event.effects.gives.keys() & kinds:
            found[event.name] = event.name
    return found


def item_sources(level: Level, item: str) -> list[str]:
    """The placed items, chests and acts that a unit of an item comes from."""
    sources = []
    for room in level.rooms.values():
        if item in room.items:
            sources.append(f"{room.name}/{item}")
        for chest in room.chests.values():
            lock = level.lock_of(chest)
            given = {*chest.holds, *chest.effects.gives, *(lock.effects.gives if lock else ())}
            sources += [chest.name] if item in given else []
        sources += [act.name for act in room.all_acts() if item in act.effects.gives]
    sources += [event.name for event in level.events.values() if item in event.effects.gives]
    return sources


def _short(name: str) -> str:
    """A name without that of its level, in a campaign."""
    return name.rpartition("/")[2]
