"""``same-color``: two kinds of key that a player cannot tell apart."""

from __future__ import annotations

from collections.abc import Iterator

from ...level import Item, Level
from ...level.asked import all_locks, items_in
from ..finding import Finding
from ..registry import layout


@layout
def same_color(level: Level) -> Iterator[Finding]:
    """Report each kind of key whose colour another kind of key has already, if locks need both."""
    needed = {name for lock, _, _ in all_locks(level) for name in items_in(lock.needs)}
    first: dict[str, Item] = {}
    for item in level.items.values():
        if item.color is None or item.kind != "key" or item.name not in needed:
            continue
        other = first.setdefault(item.color.casefold(), item)
        if other is not item:
            message = f"{item.name} and {other.name} are both {item.color}: a player cannot tell them apart."
            mend = f"give {item.name} a colour of its own"
            yield Finding("same-color", "warning", item.name, message, "", mend, item.place)
