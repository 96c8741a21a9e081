"""The labels and notes of things, by name."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from .item import Item
from .level import Level
from .lock import Lock
from .room import Room


class LabelAndNote(NamedTuple):
    """The label and the note of a thing, each if it has one."""

    name: str
    label: str | None
    note: str | None


def remarks(level: Level) -> Iterator[LabelAndNote]:
    """Yield the label and the note of each thing that has one: rooms, items, locks, doors, chests ...

    Example:
        >>> level = Level()
        >>> level.item("oak-key", label="old key", note="found by few")
        >>> list(remarks(level))
        [LabelAndNote(name='oak-key', label='old key', note='found by few')]
    """
    parts: dict[str, Room | Item | Lock] = {**level.rooms, **level.items, **level.locks}
    for name, part in parts.items():
        if part.label or part.note:
            yield LabelAndNote(name, part.label, part.note)
    for name, thing in level.things.items():
        lock = level.lock_of(thing.what) if thing.kind in ("door", "chest") else None  # type: ignore[arg-type]
        label, note = thing.what.label, thing.what.note
        if lock is not None and lock.name is None:
            label, note = label or lock.label, note or lock.note
        if label or note:
            yield LabelAndNote(name, label, note)
    for room in level.rooms.values():
        for item, placement in room.items.items():
            if placement.label or placement.note:
                yield LabelAndNote(f"{room.name}/{item}", placement.label, placement.note)


def labelled(level: Level, name: str) -> str:
    """Return the name of a thing, with its label in brackets if it has one."""
    part: object = level.items.get(name) or level.rooms.get(name)
    thing = level.things.get(name)
    if part is None and thing is not None:
        lock = level.lock_of(thing.what) if thing.kind in ("door", "chest") else None  # type: ignore[arg-type]
        part = thing.what if thing.what.label or lock is None else lock
    label = getattr(part, "label", None)
    return f"{name} ({label})" if label else name
