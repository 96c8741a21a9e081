"""Give the items of a group each other's colours, and locks the colours of their keys."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from random import Random

from ..level import Level, Lock
from ..level.asked import items_in
from ..level.scatter_groups import Scatter

#: Colours for items that have none, easy to tell apart by their names, too.
PALETTE = ("red", "blue", "gold", "green", "purple", "orange", "teal", "pink", "brown", "gray")


def shuffled_colors(level: Level, groups: Iterable[Scatter], random: Random) -> dict[str, str]:
    """Return a colour for each item of the groups that shuffle theirs.

    Args:
        groups: The groups that are scattered.
        random: The source of chance.
    """
    found: dict[str, str] = {}
    for group in groups:
        if group.colors == "shuffled":
            own = [level.items[item].color for item in group.items]
            spare = iter([one for one in PALETTE if one not in own] * len(own))
            colors = [color or next(spare) for color in own]
            random.shuffle(colors)
            found |= zip(group.items, colors, strict=True)
    return found


def colored(level: Level, colors: Mapping[str, str]) -> None:
    """Give some items of a level their colours; a lock with a colour gets that of its key."""

    def lock_of(lock: str | Lock | None) -> str | Lock | None:
        if not isinstance(lock, Lock) or lock.color is None:
            return lock
        keys = [color for item, color in colors.items() if item in items_in(lock.needs)]
        return replace(lock, color=keys[0]) if len(keys) == 1 else lock

    level.items = {
        name: replace(item, color=colors[name]) if name in colors else item
        for name, item in level.items.items()
    }
    level.locks = {name: lock_of(lock) for name, lock in level.locks.items()}  # type: ignore[misc]
    level.passages = [replace(one, lock=lock_of(one.lock)) for one in level.passages]
    level.legend = {
        symbol: replace(one, lock=lock_of(one.lock)) for symbol, one in level.legend.items()
    }
    level.rooms = {
        name: replace(
            room,
            chests={n: replace(one, lock=lock_of(one.lock)) for n, one in room.chests.items()},
        )
        for name, room in level.rooms.items()
    }
    level._index()
