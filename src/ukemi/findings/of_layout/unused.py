"""``unused-item`` and ``unused-lock``: declared, and nothing asks for it."""

from __future__ import annotations

from collections.abc import Iterator

from ...facts.supply_and_demand import most_asked, most_had
from ...level import Level
from ..finding import Finding
from ..registry import layout


@layout
def unused_item(level: Level) -> Iterator[Finding]:
    """Report each item that nothing asks for; a reward or a vital supply is its own purpose."""
    asked, had = most_asked(level), most_had(level)
    for item in level.items.values():
        own_purpose = item.kind == "reward" or item.vital or bool(item.on_pickup)
        if item.name in asked or (own_purpose and had[item.name] != 0):
            continue
        if had[item.name] == 0:
            message = f"{item.name} is declared, but nothing gives it and nothing asks for it."
        else:
            message = f"Nothing asks for {item.name}: no lock, gate, act or goal needs one."
        mend = f"take {item.name} out, or let something need it"
        yield Finding("unused-item", "note", item.name, message, "", mend, item.place)


@layout
def unused_lock(level: Level) -> Iterator[Finding]:
    """Report each lock with a name that is on no door and no chest."""
    used = {passage.lock for passage in level.passages if isinstance(passage.lock, str)}
    used |= {tile.lock for tile in level.legend.values() if isinstance(tile.lock, str)}
    for room in level.rooms.values():
        used |= {chest.lock for chest in room.chests.values() if isinstance(chest.lock, str)}
    for name, lock in level.locks.items():
        if name not in used:
            message = f"The lock {name} is on no door and no chest."
            mend = f"put it on one (`lock: {name}`), or take it out"
            yield Finding("unused-lock", "note", name, message, "", mend, lock.place)
