"""``color-mismatch``: a lock has another colour than the one key it needs.

A level that passes, and one that fails::

    {start: quay, goal: mill, items: {key: {color: peru}}, rooms: {quay: {items: key}, mill: {}},
     passages: [quay <-> mill: {lock: {needs: key, color: peru}}]}
    the same with another colour on the lock
"""

from __future__ import annotations

from collections.abc import Iterator

from ...level import Has, Level, Lock, Place
from ...level.asked import things_walked
from ...level.conditions import atoms
from ..checked import layout
from ..result import Finding


@layout
def color_mismatch(level: Level) -> Iterator[Finding]:
    """Tell each lock whose colour is not that of the one key it needs.

    Args:
        level: The level.

    Yields:
        A warning for each.
    """
    for lock, subject, place in _locks(level):
        wanted = {atom.name for atom in atoms(lock.needs) if isinstance(atom, Has)}
        keys = [level.items[name] for name in wanted if name in level.items]
        if lock.color is None or len(keys) != 1 or len(wanted) != 1 or keys[0].color is None:
            continue
        if lock.color.casefold() != keys[0].color.casefold():
            key = keys[0]
            message = (
                f"{subject} is {lock.color}, but {key.name}, the one key it needs, is {key.color}."
            )
            mend = f"give both one colour, or leave {subject} without: it then takes its key's"
            yield Finding("color-mismatch", "warning", subject, message, "", mend, place)


def _locks(level: Level) -> Iterator[tuple[Lock, str, Place | None]]:
    for lock in level.locks.values():
        yield lock, lock.name or "", lock.place
    for passage in things_walked(level):
        if isinstance(passage.lock, Lock):
            yield passage.lock, passage.thing, passage.place
    for room in level.rooms.values():
        for chest in room.chests.values():
            if isinstance(chest.lock, Lock):
                yield chest.lock, chest.name, chest.place
