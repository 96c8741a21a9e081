"""Count the demand and the supply of a level: every cost, every source."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from ..level import Has, HasAll, Level, Place
from ..level.asked import all_conditions, all_locks, things_walked
from ..level.conditions import atoms
from ..level.sources import sources
from ..rules.variables import Names


class Cost(NamedTuple):
    """Items that something takes, with its name and place."""

    counts: dict[str, int]
    subject: str
    place: Place | None


def all_costs(level: Level) -> Iterator[Cost]:
    """Everything that must be carried to be spent."""
    for lock, subject, place in all_locks(level):
        yield Cost(lock.takes or {}, subject, place)
    for room in level.rooms.values():
        for chest in room.chests.values():
            yield Cost(chest.effects.spends, chest.name, chest.place)
        for act in room.all_acts():
            yield Cost(act.effects.spends, act.name, act.place)
    for event in level.events.values():
        yield Cost(event.effects.spends, event.name, event.place)
    for passage in things_walked(level):
        yield Cost(passage.effects.spends, passage.thing, passage.place)


def most_asked(level: Level) -> dict[str, int]:
    """Return the items in some condition or cost, with the greatest count of each."""
    names = Names(level)
    asked: dict[str, int] = {}

    def want(item: str, count: int) -> None:
        asked[item] = max(asked.get(item, 0), count)

    for condition, _, _ in all_conditions(level):
        for atom in atoms(condition):
            if isinstance(atom, Has) and atom.name in level.items:
                want(atom.name, atom.count)
            elif isinstance(atom, HasAll):
                want(atom.item, names.placed(atom.item))
    for counts, _, _ in all_costs(level):
        for item, count in counts.items():
            want(item, count)
    return asked


def units(level: Level) -> dict[str, int | None]:
    """Return the number of units of each item that its sources give in all; ``None`` where no bound is known."""
    found: dict[str, int | None] = dict.fromkeys(level.items, 0)
    anew = level.again()
    for source in sources(level):
        for item, count in source.gives.items():
            so_far = found[item]
            found[item] = None if source.again or anew or so_far is None else so_far + count
    return found


def most_had(level: Level) -> dict[str, int | None]:
    """Return the greatest number of each item that can ever be carried at once.

    Returns:
        By item, the units of every source there is, so that no run has more; 0 for an item that
        nothing gives, ``None`` where no bound is known.
    """
    most = units(level)
    for kind in level.items.values():
        bound = most[kind.name]
        if kind.max is not None:
            most[kind.name] = kind.max if bound is None else min(kind.max, bound)
    return most
