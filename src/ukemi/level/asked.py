"""Every condition of a level, with the thing that it belongs to."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from .conditions import ALWAYS, By, Carries, Condition, Has, HasAll, PlayerAt, atoms
from .level import Level
from .lock import Lock
from .passage import Passage
from .place import Place
from .room import Act, Chest, Placement


class Asked(NamedTuple):
    """A condition, with the name and the place of the thing that it belongs to."""

    condition: Condition
    subject: str
    place: Place | None


def all_conditions(level: Level) -> Iterator[Asked]:
    """Every condition of a level but those it merely claims, the goal first."""
    if level.goal is not None:
        yield Asked(level.goal, "goal", level.places.get("goal"))
    for condition, _, name, place in level.between():
        yield Asked(condition, name, place)
    for lock in level.locks.values():
        yield Asked(lock.needs, lock.name or "", lock.place)
    for room in level.rooms.values():
        if room.gate != ALWAYS:
            yield Asked(room.gate, room.name, room.place)
        for placement in room.items.values():
            subject = f"{room.name}/{placement.item}"
            yield Asked(placement.needs, subject, placement.place)
            yield from _seen(placement, subject)
        for chest in room.chests.values():
            yield from _seen(chest, chest.name)
            if chest.lock is not None and not isinstance(chest.lock, str):
                yield Asked(chest.lock.needs, chest.name, chest.place)
        for act in room.all_acts():
            yield Asked(act.needs, act.name, act.place)
            yield from _seen(act, act.name)
    for event in level.events.values():
        yield Asked(event.when, event.name, event.place)
    for passage in things_walked(level):
        if passage.lock is not None and not isinstance(passage.lock, str):
            yield Asked(passage.lock.needs, passage.thing, passage.place)
        if passage.gate != ALWAYS:
            yield Asked(passage.gate, passage.thing, passage.place)
        yield from _seen(passage, passage.thing)


def _seen(part: Placement | Chest | Act | Passage, subject: str) -> Iterator[Asked]:
    """The condition for seeing a thing that is hidden at first."""
    if part.seen != ALWAYS:
        yield Asked(part.seen, subject, part.place)


def all_locks(level: Level) -> Iterator[tuple[Lock, str, Place | None]]:
    """Every lock of a level, with the name and the place of its door or chest; of a named lock, with its own."""
    for lock in level.locks.values():
        yield lock, lock.name or "", lock.place
    for passage in things_walked(level):
        if isinstance(passage.lock, Lock):
            yield passage.lock, passage.thing, passage.place
    for room in level.rooms.values():
        for chest in room.chests.values():
            if isinstance(chest.lock, Lock):
                yield chest.lock, chest.name, chest.place


def items_in(condition: Condition) -> set[str]:
    """The items, and flags, whose number a condition asks for."""
    names = set()
    for atom in atoms(condition):
        match atom:
            case Has(name, _) | HasAll(name) | Carries(_, name, _):
                names.add(name)
    return names


def things_walked(level: Level) -> Iterator[Passage]:
    """Each passage; of passages onto the same cell of a map, only the first."""
    seen: set[str] = set()
    for passage in level.passages:
        if passage.part_of is None:
            if not passage.on_map:
                yield passage
        elif passage.part_of not in seen:
            seen.add(passage.part_of)
            yield passage


def tells_players_apart(level: Level) -> bool:
    """Whether some condition or claim names one of several players."""
    expected = level.expected
    claims = (*expected.never, *expected.possible, *expected.always_possible)
    claimed = [claim.says for claim in claims if isinstance(claim.says, Condition)]
    asked = [*(one.condition for one in all_conditions(level)), *claimed]
    named = (PlayerAt, Carries, By)
    return any(isinstance(atom, named) for one in asked for atom in atoms(one))
