"""Find where a level file names each thing."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator
from typing import Any, NamedTuple

from ...level import Level
from ..fields.nodes import Node
from ..fields.notes import Notes

#: The kinds of things that have names: a room; an item; a flag; a lock; a door, chest, act, switch or
#: event.
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


class Mention(NamedTuple):
    """A name in the text of a level file.

    Attributes:
        begin, end: Where it stands, in characters from the start.
        declared: Whether it is given here to what it names.
    """

    begin: int
    end: int
    declared: bool


def mentions(root: Any, notes: Notes, text: str, name: str, kind: str) -> list[Mention]:
    """Everywhere that a level file speaks of a thing.

    Args:
        root: The whole file.
        notes: The notes from reading it.
        text: Its text.
        kind: Which of :data:`KINDS` it is.

    Returns:
        The places, in order.
    """
    found: dict[tuple[int, int], bool] = {}
    declared = {id(node) for node in _declared(root, kind)}
    for node, pattern in _places(root, notes, name, kind):
        begin = node.start_mark.index
        for one in pattern.finditer(text[begin : node.end_mark.index]):
            span = (begin + one.start(1), begin + one.end(1))
            found[span] = found.get(span, False) or id(node) in declared
    return [Mention(*span, is_declared) for span, is_declared in sorted(found.items())]


def declared(root: Any, kind: str) -> list[Any]:
    """The values of a level file that give things of a kind their names."""
    return [node for node in _declared(root, kind) if node.id == "scalar"]


def names_of(level: Level) -> dict[str, set[str]]:
    """The names of a level, by what they can stand for."""
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


def mentions_in_campaign(
    root: Any, text: str, name: str, kind: str, levels: Collection[str], shared: bool
) -> list[Mention]:
    """Everywhere that a campaign's own file speaks of a thing of some of its levels.

    Args:
        root: The whole file.
        text: Its text.
        kind: Which of :data:`KINDS` it is.
        levels: The names by which the campaign calls the levels that have the thing.
        shared: Whether all levels have it: an item, or a shared flag.
    """
    word = rf"(?<![\w@-])({re.escape(name)})(?![\w/-])"
    alone = re.compile(word)
    condition = re.compile(_IN_CONDITIONS.get(kind, "") + word)
    stages = "|".join(map(re.escape, levels))
    of_level = re.compile(rf"(?<![\w@/-])(?:{stages})/({re.escape(name)})(?![\w-])")
    found: list[tuple[Any, re.Pattern[str]]] = []
    if kind == "item":
        found += [(node, alone) for node in _at(root, "levels", "*", "brings")]
    if shared:
        found += [(node, alone) for node in _at(root, "shares")]
    for way in _at(root, "ways", "*"):
        for header, said in way.value if way.id == "mapping" else ():
            here, _, there = (one.strip() for one in header.value.partition("->"))
            if shared or here in levels:
                bare = kind == "room"
                found += [
                    (node, alone if bare and node.value == name else condition)
                    for node in _at(said, "when")
                ]
            if kind == "flag" and (shared or there in levels):
                found += [(node, alone) for node in _at(said, "sets")]
    for node in (*_at(root, "expect", "*"), *_at(root, "accept", "*")):
        found.append((node, alone if shared else of_level))
    spans = {
        (node.start_mark.index + one.start(1), node.start_mark.index + one.end(1))
        for node, pattern in found
        for one in pattern.finditer(text[node.start_mark.index : node.end_mark.index])
    }
    return [Mention(*span, False) for span in sorted(spans)]
