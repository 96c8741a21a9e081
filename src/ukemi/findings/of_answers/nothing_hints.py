"""``nothing-hints``: a required lock or gate that no text hints at, if ``rules: {hints: expected}`` asks for it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from ...level import ALWAYS, Condition, Level, Passage, Place
from ...level.asked import items_in, things_walked
from ...level.names import in_list
from ...level.says import Says
from ...questions.verdict import Answer
from ..finding import Finding
from ..registry import Answered, finding


class _Barrier(NamedTuple):
    """A door, a chest or a gate: its name, its condition, its texts and its place."""

    name: str
    needs: Condition
    says: tuple[Says, ...]
    mentions: frozenset[str]
    place: Place | None
    passage: Passage | None


@finding
def nothing_hints(answered: Answered) -> Iterator[Finding]:
    """Report each required lock or gate that is silent, or whose key no earlier text mentions."""
    level = answered.level
    if level.rules.hints != "expected":
        return
    order = answered.answers.order or ()
    statuses = {**answered.answers.doors, **answered.answers.chests}
    in_order = {name for pair in order for name in pair}
    for one in _barriers(level):
        required = statuses.get(one.name) == Answer.REQUIRED
        if not required and (one.name in statuses or one.name not in in_order):
            continue
        if all(says.shut is None for says in one.says):
            message = f"Every player must pass {one.name}, but it says nothing when it is shut."
            mend = 'give it a text: `says: {shut: "..."}`'
            yield Finding("nothing-hints", "warning", one.name, message, "", mend, one.place)
            continue
        known = one.mentions | _mentioned_before(level, one.passage)
        hidden = sorted(items_in(one.needs) - known)
        if hidden:
            message = f"Every player must pass {one.name}, but no text before it mentions {in_list(hidden)}."
            mend = f"write a text that gives it away, with `mentions: {hidden[0]}` beside it"
            yield Finding("nothing-hints", "warning", one.name, message, "", mend, one.place)


def _barriers(level: Level) -> Iterator[_Barrier]:
    for passage in things_walked(level):
        lock = level.lock_of(passage)
        if lock is None and passage.gate == ALWAYS:
            continue
        says = (passage.says, *([lock.says] if lock else []))
        mentions = frozenset((*passage.mentions, *(lock.mentions if lock else ())))
        needs = lock.needs if lock else passage.gate
        yield _Barrier(passage.thing, needs, says, mentions, passage.place, passage)
    for room in level.rooms.values():
        for chest in room.chests.values():
            lock = level.lock_of(chest)
            if lock is not None:
                says = (chest.says, lock.says)
                mentions = frozenset((*chest.mentions, *lock.mentions))
                yield _Barrier(chest.name, lock.needs, says, mentions, chest.place, None)


def _mentioned_before(level: Level, barrier: Passage | None) -> frozenset[str]:
    """The names that texts mention, in rooms that are connected with the start without a passage."""
    open_ = level.copy()
    if barrier is not None:
        open_.passages = [one for one in level.passages if one.thing != barrier.thing]
    near = open_.connected(level.start_rooms())
    found: set[str] = set()
    for event in level.events.values():
        found.update(event.mentions)
    for passage in open_.passages:
        if any(end in near for end in passage.ends):
            lock = level.lock_of(passage)
            found.update(passage.mentions, lock.mentions if lock else ())
    for room in (level.rooms[name] for name in near):
        found.update(room.mentions)
        for item in room.items:
            found.update(level.items[item].mentions)
        for chest in room.chests.values():
            lock = level.lock_of(chest)
            found.update(chest.mentions, lock.mentions if lock else ())
        for act in room.all_acts():
            found.update(act.mentions)
    return frozenset(found)
