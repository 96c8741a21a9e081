"""``open-lock``: a lock that requires nothing."""

from __future__ import annotations

from collections.abc import Iterator

from ...level import ALWAYS, Level
from ...level.asked import all_locks
from ..finding import Finding
from ..registry import layout


@layout
def open_lock(level: Level) -> Iterator[Finding]:
    """Report each lock that any player can open: it asks for nothing, and takes and does nothing."""
    for lock, subject, place in all_locks(level):
        if lock.needs == ALWAYS and not (
            lock.from_ or lock.takes or lock.relocks or lock.effects or lock.together
        ):
            message = f"The lock of {subject} requires nothing: every player can open it."
            mend = f"say what {subject} needs (`needs: ...`), or take the lock off"
            yield Finding("open-lock", "warning", subject, message, "", mend, place)
