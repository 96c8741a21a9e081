"""``copied-key``: a copied lock still asks for the key of the lock it was copied from."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from ...facts.supply_and_demand import most_asked, most_had
from ...level import Has, Item, Level, Place
from ...level.asked import all_locks, things_walked
from ...level.names import in_list
from ..finding import Finding
from ..registry import layout


class _Asking(NamedTuple):
    """A lock that asks for one key: its name, all words that it is known by, and its place."""

    name: str
    words: frozenset[str]
    key: str
    color: str | None
    place: Place | None


class Copy(NamedTuple):
    """A lock that asks for the key of another lock, and the key that it should ask for.

    Attributes:
        lock: The name of the lock.
        key: The key that it asks for.
        item: The key that it should ask for.
        others: The locks that ask for the same key.
        place: Where the lock stands in the file.
    """

    lock: str
    key: str
    item: str
    others: tuple[str, ...]
    place: Place | None


@layout
def copied_key(level: Level) -> Iterator[Finding]:
    """Report a lock that shares its key with another, while a key that fits its name opens nothing."""
    for one in copies(level):
        message = (
            f"{one.lock} asks for {one.key}, as {in_list(one.others)} does, "
            f"and {one.item} opens nothing."
        )
        why = f"{one.lock} may be a copy in which the key was not changed"
        mend = f"let {one.lock} ask for {one.item}"
        yield Finding("copied-key", "warning", one.lock, message, why, mend, one.place)


def copies(level: Level) -> Iterator[Copy]:
    """Yield each lock that was probably copied, judged by the names and numbers of locks and keys."""
    locks = _locks(level)
    shared = {key for key, count in Counter(lock.key for lock in locks).items() if count > 1}
    if not shared:
        return
    asked, had = most_asked(level), most_had(level)
    unused = [
        item
        for item in level.items.values()
        if item.name not in asked and item.kind == "key" and had[item.name] != 0
    ]
    reported: set[str] = set()
    for item in unused:
        rivals = [one for one in locks if one.key in shared and one.name not in reported]
        lock = _best(rivals, item) or _by_turn(level, locks, unused, item)
        if lock is not None:
            reported.add(lock.name)
            others = [one.name for one in locks if one.key == lock.key and one.name != lock.name]
            yield Copy(lock.name, lock.key, item.name, tuple(others), lock.place)


def _locks(level: Level) -> list[_Asking]:
    """The locks that ask for one unit of one key."""
    words = {
        passage.thing: f"{passage.thing} {passage.a} {passage.b} {passage.label or ''}"
        for passage in things_walked(level)
    }
    for room in level.rooms.values():
        for chest in room.chests.values():
            words[chest.name] = f"{chest.name} {room.name} {chest.label or ''}"
    return [
        _Asking(subject, _words(words.get(subject, subject)), lock.needs.name, lock.color, place)
        for lock, subject, place in all_locks(level)
        if isinstance(lock.needs, Has)
        and lock.needs.count == 1
        and lock.needs.name in level.items
        and level.items[lock.needs.name].kind == "key"
    ]


def _words(name: str) -> frozenset[str]:
    """The words and numbers of a name, without those that every lock or key has."""
    found = re.findall(r"[^\W\d_]+|\d+", name.casefold())
    return frozenset(word.lstrip("0") or "0" for word in found) - {
        "key",
        "door",
        "lock",
        "chest",
        "to",
    }


def _best(rivals: Sequence[_Asking], item: Item) -> _Asking | None:
    """The one lock whose name fits a key better than it fits the key that it asks for."""

    def score(lock: _Asking) -> int:
        colors = lock.color is not None and lock.color == item.color
        return len(lock.words & _words(item.name)) - len(lock.words & _words(lock.key)) + colors

    scores = sorted((score(one), number) for number, one in enumerate(rivals))
    if not scores or scores[-1][0] <= 0:
        return None
    if len(scores) > 1 and scores[-2][0] == scores[-1][0]:
        return None
    return rivals[scores[-1][1]]


def _by_turn(
    level: Level, locks: Sequence[_Asking], unused: Sequence[Item], item: Item
) -> _Asking | None:
    """The lock that has the number of a key, if every other lock asks for the key of its own number."""
    keys = [one.name for one in level.items.values() if one.kind == "key"]
    if len(unused) != 1 or len(keys) != len(locks) or len(keys) < 3:
        return None
    wrong = [lock for lock, key in zip(locks, keys, strict=True) if lock.key != key]
    return wrong[0] if len(wrong) == 1 and keys[locks.index(wrong[0])] == item.name else None
