"""``same-kind``: a key for each of several locks, but all keys are one kind, so the first opens all."""

from __future__ import annotations

from collections.abc import Iterator

from ...level import Has, Level, Place
from ...level.asked import all_locks
from ...level.joined import Joined
from ...level.names import in_list
from ...level.sources import sources
from ..finding import Finding
from ..registry import layout


@layout
def same_kind(level: Level) -> Iterator[Finding]:
    """Report each kept key that is placed once for each of its locks: one of them is enough."""
    locks: dict[str, list[tuple[str, Place | None]]] = {}
    for lock, subject, place in all_locks(level):
        if isinstance(lock.needs, Has) and lock.needs.count == 1 and lock.name is None:
            locks.setdefault(lock.needs.name, []).append((subject, place))
    placed = dict.fromkeys(level.items, 0)
    for source in sources(level):
        if source.kind != "way":
            for name, count in source.gives.items():
                placed[name] += count
    for item in level.items.values():
        opened = locks.get(item.name, [])
        alike = (
            len(opened) == placed[item.name] > 1
            and not level.several
            and not isinstance(level, Joined)
        )
        if alike and item.kind == "key" and item.use == "kept" and level.inventory.slots is None:
            names = in_list([subject for subject, _ in opened])
            message = f"{placed[item.name]} {item.name} are placed for {names}, but the first opens all of them."
            mend = f"make each a key of its own, or `use: spent`, or place one {item.name} only"
            yield Finding("same-kind", "warning", item.name, message, "", mend, item.place)
