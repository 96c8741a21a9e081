"""Giving a thing another name, wherever a level file speaks of it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from ..level import Level, LevelError, Problem
from ..level.language.nodes import Node
from ..level.language.notes import Notes
from ..level.names import in_list, is_name, nearest
from ..level.reading import read_level
from .read import csv_reader
from .write import dumps
from .yaml_nodes import compose

#: What a name can stand for: a room; an item; a flag; a lock; a door, chest, act, switch or event.
KINDS = ("room", "item", "flag", "lock", "thing")

#: Which names in conditions are those of a kind: after which word they stand.
_IN_CONDITIONS = {
    "room": r"(?<=\bat )\s*",
    "thing": r"(?:(?<=\bopened )|(?<=\bdone ))\s*",
    "item": r"(?<!\bat )(?<!\bopened )(?<!\bdone )",
    "flag": r"(?<!\bat )(?<!\bopened )(?<!\bdone )",
}
#: The findings that are about rooms: a bare name that is accepted for another is none of a room.
_ABOUT_ROOMS = ("unconnected", "never-entered")

#: In which namespaces names of a kind are looked up.
_NAMESPACES = {
    "room": ("room", "start", "subject", "into"),
    "item": ("item", "subject"),
    "flag": ("flag",),
    "lock": ("lock", "opens"),
    "thing": ("opens", "subject", "into", "chest"),
}


def renamed_text(level: Level, old: str, new: str, kind: str | None = None) -> str:
    """The text of a level's file with one name changed wherever it stands.

    Args:
        level: The level.
        old: The name of a room, item, flag, lock, door, chest, act, switch or event.
        new: What it is to be called.
        kind: Which of :data:`KINDS` it is, where several are called so.

    Returns:
        The text; comments and layout are kept.

    Raises:
        LevelError: Nothing is called so, several things are, or the new name is none or taken.
    """
    kind = _kind_of(level, old, kind)
    if not is_name(new):
        rule = "a name is a letter, then letters, digits, '-' or '_'"
        raise _refused(level, f"{new!r} cannot be a name: {rule}", new)
    if new in _names(level)[kind]:
        raise _refused(level, f"there is a {kind} {new!r} already", new)
    text = dumps(level)
    root, notes = compose(text, level.file), Notes()
    read_level(root, level.file, level.name, csv_reader(level.file), notes)
    spans = {
        (begin + found.start(1), begin + found.end(1))
        for node, pattern in _places(root, notes, old, kind)
        for begin in [node.start_mark.index]
        for found in pattern.finditer(text[begin : node.end_mark.index])
    }
    for begin, end in sorted(spans, reverse=True):
        text = text[:begin] + new + text[end:]
    return text


def _names(level: Level) -> dict[str, set[str]]:
    things = {
        name for name, one in level.things.items() if one.kind != "passage" or _named(level, name)
    }
    return {
        "room": set(level.rooms),
        "item": set(level.items),
        "flag": set(level.all_flags()),
        "lock": set(level.locks),
        "thing": things,
    }


def _named(level: Level, name: str) -> bool:
    return any(one.named for one in level.passages if name in (one.name, one.part_of))


def _kind_of(level: Level, old: str, kind: str | None) -> str:
    names = _names(level)
    kinds = [one for one in KINDS if old in names[one] and kind in (None, one)]
    if len(kinds) > 1:
        both = in_list("an item" if one == "item" else f"a {one}" for one in kinds)
        raise _refused(level, f"{old!r} is the name of {both}: say which", old)
    if not kinds:
        known = sorted(set().union(*names.values()))
        message = f"nothing is called {old!r}" if kind is None else f"no {kind} is called {old!r}"
        raise _refused(level, message, old, nearest(old, known))
    return kinds[0]


def _refused(level: Level, message: str, text: str, near: str | None = None) -> LevelError:
    return LevelError([Problem("unknown-name", message, None, text, near)], level.file)


def _places(root: Any, notes: Notes, old: str, kind: str) -> Iterator[tuple[Any, re.Pattern[str]]]:
    """The values of a file in which a name may stand, each with what finds it there."""
    word = rf"(?<![\w@-])({re.escape(old)})(?![\w-])"
    whole, part = re.compile(word), re.compile(_IN_CONDITIONS.get(kind, "") + word)
    subject = re.compile(rf"(?<!/){word}" if kind == "room" else rf"{word}(?!/)")
    for node in _declared(root, kind):
        yield node, whole
    for namespace, _, node in notes.references:
        if namespace in _NAMESPACES[kind]:
            yield node, subject if namespace == "subject" else whole
    if kind != "lock":
        for _, node in notes.conditions:
            yield node, part
        for node in _at(root, "goal"):
            bare = kind == "room" and node.value == old
            yield node, whole if bare else part
    for accepted in _at(root, "accept"):
        for code, value in accepted.value if accepted.id == "mapping" else ():
            for node in value.value if value.id == "sequence" else [value]:
                of_room = kind == "room" and code.value not in _ABOUT_ROOMS
                yield node, re.compile(subject.pattern + "(?=/)") if of_room else subject


def _at(node: Any, *path: str) -> Iterator[Any]:
    """The values at a path of fields; ``*`` stands for whatever there is, keys of mappings too."""
    if not path:
        yield node
        return
    step, *rest = path
    if step == "key":
        keys = [key for key, _ in node.value] if node.id == "mapping" else []
        yield from keys or (node.value if node.id == "sequence" else [node])
    elif node.id == "mapping":
        for key, value in node.value:
            if step in ("*", key.value):
                yield from _at(value, *rest)
    elif node.id == "sequence" and step == "*":
        for one in node.value:
            yield from _at(one, *rest)


def _declared(root: Any, kind: str) -> Iterator[Node]:
    """The values that give things of a kind their names."""
    paths: dict[str, tuple[tuple[str, ...], ...]] = {
        "room": (("rooms", "key"), ("legend", "*", "room")),
        "item": (("items", "key"),),
        "flag": (("flags", "key"), ("rooms", "*", "acts", "*", "teaches")),
        "lock": (("locks", "key"),),
        "thing": (
            ("events", "key"),
            ("passages", "*", "*", "name"),
            ("legend", "*", "name"),
            *(("legend", "*", one, "name") for one in ("chest", "switch", "act")),
            *(("rooms", "*", one, "key") for one in ("chests", "switches", "acts")),
        ),
    }
    for path in paths[kind]:
        yield from _at(root, *path)
