"""Complete the text at a place of a level file: fields, words, and names that fit."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any, NamedTuple

from ..language.fields.campaign_fields import CAMPAIGN, WAY, Brings, StageName, Ways
from ..language.fields.fields import PLACEMENT, Field, Fields, PartType
from ..language.fields.map_fields import TILE, Legend, OnCell
from ..language.fields.passages import PASSAGE, Passages
from ..language.fields.room_fields import LockType, Named, Placements
from ..language.fields.scattering import Into
from ..language.fields.types import (
    BoolType,
    ConditionType,
    Counts,
    FlagTurned,
    NewName,
    OneOf,
    Reference,
    Several,
)
from ..language.fields.whole import EXPECT, LEVEL, Areas, Claims, ExpectType, Goal, Orders
from .cursor import ELEMENT, cursor_at
from .document import Document


class Completion(NamedTuple):
    """Something that can be written.

    Attributes:
        text: The text.
        kind: ``field``, ``word`` or what a name stands for.
        help: A line on what it is.
        typed: The length of the part that is already written, in characters.
    """

    text: str
    kind: str
    help: str
    typed: int


def options_at(document: Document, offset: int) -> list[Completion]:
    """Return the completions at a place.

    Args:
        offset: The place, in characters from the start.

    Returns:
        The names that begin with the written part, fields and names in their usual order.

    Example:
        >>> text = "items: {oak-key: {}}\\nrooms:\\n  quay: {items: [oa"
        >>> [one.text for one in options_at(Document(text, "mill.yaml"), len(text))]
        ['oak-key']
    """
    place = cursor_at(document.text, offset)
    if place is None:
        return []
    fields, value = _inside(place.path, "campaign:" in document.text)
    if place.key and fields is not None:
        given = place.written.strip()
        return [
            Completion(one.name, "field", one.help, len(given))
            for one in fields
            if one.name.startswith(given)
        ]
    in_list = place.path[-1:] == (ELEMENT,)
    if place.key and not in_list and not isinstance(value, Counts | Placements):
        return []
    found: Iterator[tuple[str, str, str]] = iter(())
    if in_list and isinstance(value, Passages | Ways):
        found = _named(document, "room" if isinstance(value, Passages) else "level")
        written = re.split(r"<->|->", place.written)[-1].strip()
    else:
        written = re.split(r"[\s(]", place.written)[-1]
        before = place.written[: len(place.written) - len(written)].split()
        found = _values(document, value, before)
    return [
        Completion(text, kind, help, len(written))
        for text, kind, help in dict.fromkeys(found)
        if text.startswith(written) and text != written
    ]


def _inside(path: tuple[str, ...], campaign: bool) -> tuple[Fields | None, Any]:
    """The fields that can be given at a path, and the type of a value there."""
    fields: Fields | None = CAMPAIGN if campaign else LEVEL
    value: Any = None
    for step in path:
        if step == ELEMENT:
            value = value.several if isinstance(value, Claims) else value
            value = value.one if isinstance(value, Several) else value
            fields = None if isinstance(value, Passages | Ways) else fields
            continue
        found: Field | None = fields.by_name.get(step) if fields is not None else None
        if found is not None:
            fields, value = _fields_of(found.type), found.type
        elif isinstance(value, Passages | Ways):
            fields, value = (PASSAGE if isinstance(value, Passages) else WAY), None
        elif isinstance(value, Named):
            fields, value = value.fields, None
        elif isinstance(value, Areas):
            fields, value = None, value._rooms
        elif isinstance(value, Legend):
            fields, value = TILE, None
        elif isinstance(value, Placements):
            fields, value = PLACEMENT, None
        else:
            return None, None
    return fields, value


def _fields_of(type: Any) -> Fields | None:
    match type:
        case PartType() | OnCell():
            fields: Fields = type.fields
            return fields
        case LockType():
            from ..language.fields.fields import LOCK

            return LOCK
        case ExpectType():
            return EXPECT
    return None


def _named(document: Document, *kinds: str) -> Iterator[tuple[str, str, str]]:
    for kind in kinds:
        yield from ((name, kind, "") for name in document.names[kind])


def _values(document: Document, type: Any, before: list[str]) -> Iterator[tuple[str, str, str]]:
    """Return the values of a type, as they follow some words of it."""
    match type:
        case OneOf(words):
            yield from ((word, "word", "") for word in words)
        case BoolType():
            yield from ((word, "word", "") for word in ("true", "false"))
        case ConditionType() | Goal():
            yield from _condition(document, before, isinstance(type, Goal))
        case LockType():
            yield from _named(document, "lock")
            yield from _condition(document, before, False)
        case Placements():
            yield from _named(document, "item")
        case Orders():
            yield from _named(document, *_KINDS["subject"])
        case Ways():
            yield from _named(document, "level")
        case StageName():
            yield from _named(document, "level")
        case Brings():
            yield from (("all", "word", ""), ("nothing", "word", ""))
            yield from _named(document, "item")
        case NewName(what="a flag"):
            yield from _named(document, "flag")
        case Counts(one) | Several(one) | Claims(several=Several(one)):
            yield from _values(document, one, before)
        case FlagTurned():
            yield from _named(document, "flag")
        case Into():
            yield from _named(document, "room", "thing")
        case Reference(namespace):
            yield from _named(document, *_KINDS.get(namespace, ()))
        case _ if hasattr(type, "_several"):
            yield from _values(document, type._several.one, before)


_KINDS = {
    "item": ("item",), "room": ("room",), "start": ("room",), "lock": ("lock",), "chest": ("thing",),
    "opens": ("thing", "lock"), "into": ("room", "thing"), "subject": ("thing", "room", "item"),
}  # fmt: skip


def _condition(
    document: Document, before: list[str], rooms: bool
) -> Iterator[tuple[str, str, str]]:
    last = before[-1] if before else ""
    if last == "at":
        yield from _named(document, "room")
    elif last in ("opened", "done"):
        yield from _named(document, "thing")
    elif last == "all" or last.isdigit():
        yield from _named(document, "item")
    else:
        yield from _named(document, "item", "flag")
        if rooms and not before:
            yield from _named(document, "room")
        yield from ((word, "word", "") for word in ("at", "opened", "done", "all", "not"))
        if before:
            yield from ((word, "word", "") for word in ("and", "or"))
