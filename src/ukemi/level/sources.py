"""Where the units of items come from."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from typing import NamedTuple

from .level import Level


class Source(NamedTuple):
    """Something that units of items come from.

    Attributes:
        kind: ``item``, ``chest``, ``act`` or ``event``; ``start`` for what one has at the start, ``way`` for
            what picking up, unlocking or walking gives besides.
        name: Its name as reports write it; none at the start.
        room: The room it is in, if it is in one.
        gives: The items, each with how many.
        again: Whether it may give them more than once.
    """

    kind: str
    name: str
    room: str
    gives: Mapping[str, int]
    again: bool


def sources(level: Level) -> Iterator[Source]:
    """Everything in a level that gives something, and some that gives nothing.

    Example:
        >>> level = Level()
        >>> level.item("oar")
        >>> level.room("quay", items="oar")
        >>> list(sources(level))[-1]
        Source(kind='item', name='quay/oar', room='quay', gives={'oar': 1}, again=False)
    """
    for start in level.starts():
        yield Source("start", "", "", start, False)
    for item in level.items.values():
        yield Source("way", item.name, "", item.on_pickup.gives, True)
    for passage, lock in level.doors():
        yield Source("way", passage.thing, "", lock.effects.gives, True)
    for passage in level.passages:
        yield Source("way", passage.thing, "", passage.effects.gives, True)
    for event in level.events.values():
        yield Source("event", event.name, "", event.effects.gives, False)
    for room in level.rooms.values():
        for one in room.items.values():
            yield Source("item", f"{room.name}/{one.item}", room.name, {one.item: one.count}, False)
        for chest in room.chests.values():
            lock_of = level.lock_of(chest)
            inside = Counter(chest.holds) + Counter(chest.effects.gives)
            inside += Counter(lock_of.effects.gives if lock_of else {})
            yield Source("chest", chest.name, room.name, inside, False)
        for act in room.all_acts():
            yield Source("act", act.name, room.name, act.effects.gives, act.repeat)
