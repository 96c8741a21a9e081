"""``color-mismatch``: a lock has another colour than the one key it needs."""

from __future__ import annotations

from collections.abc import Iterator

from ...level import Has, Level
from ...level.asked import all_locks
from ...level.conditions import atoms
from ..finding import Finding
from ..registry import layout


@layout
def color_mismatch(level: Level) -> Iterator[Finding]:
    """Report each lock whose colour is not that of the one key it needs."""
    for lock, subject, place in all_locks(level):
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
