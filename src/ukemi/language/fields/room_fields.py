"""Reading rooms and what is in them."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from ...level.lock import Lock
from ...level.problems import Problem
from ...level.room import Act, Chest, Placement, Room
from .fields import (
    ACT,
    EFFECTS,
    ITEMS,
    LABEL,
    LOCK,
    NOTE,
    PLACEMENT,
    SEEN,
    SWITCH,
    Field,
    Fields,
    says,
)
from .nodes import NULL, Node, place_of, shown
from .notes import Notes, bad
from .types import (
    NAME,
    CellType,
    ConditionType,
    Reference,
    Schema,
    WholeType,
    by_name,
    each_named,
)


class LockType:
    """A lock by name, a condition, or a lock in full."""

    _condition = ConditionType()

    def read(self, notes: Notes, node: Node) -> str | Lock:
        place = place_of(node)
        if node.id == "mapping":
            lock = Lock(**LOCK.read(notes, node), place=place)
            if lock.together:
                message = "together needs a lock with a name: describe it under locks"
                notes.add("bad-value", message, node)
            return lock
        if node.id == "scalar" and node.value in notes.locks:
            notes.references.append(("lock", node.value, node))
            return str(node.value)
        needs = self._condition.read(notes, node)
        notes.lock_words.add(id(node))
        return Lock(needs=needs, place=place)

    def schema(self) -> Schema:
        return {"anyOf": [{"type": "string", "minLength": 1}, LOCK.schema()]}


class Named:
    """A mapping from names to parts.

    Args:
        what: The word for one part, for messages.
        fields: The fields of a part.
        make: Makes the part from its name, its fields and its place.
    """

    def __init__(self, what: str, fields: Fields, make: Callable[..., Any]) -> None:
        self.what = what
        self.fields = fields
        self.make = make

    def read(self, notes: Notes, node: Node) -> dict[str, Any]:
        if node.id == "scalar" and node.tag == NULL:
            return {}
        if node.id != "mapping":
            message = f"this must map the name of {self.what} to its fields, not {shown(node)}"
            raise bad("bad-value", message, node)
        return each_named(notes, node.value, self.what, partial(self.one, notes))

    def one(self, notes: Notes, name: str, value: Node, key: Node) -> Any:
        """One part from its fields."""
        return self.make(name, place=place_of(key), **self.fields.read(notes, value))

    def schema(self) -> Schema:
        return {"anyOf": [by_name(self.fields.schema()), {"type": "null"}]}


def make_act(name: str, repeat: bool = False, **fields: Any) -> Act:
    """An act from its fields."""
    return Act(name, repeat=repeat, **fields)


def make_switch(name: str, once: bool = False, **fields: Any) -> Act:
    """A switch from its fields."""
    return Act(name, switch=True, repeat=not once, **fields)


class Placements:
    """Items lying in a room: bare, a list, or a mapping to counts or fields."""

    _reference = Reference("item")
    _count = WholeType(1)

    def read(self, notes: Notes, node: Node) -> dict[str, Placement]:
        lying: dict[str, Placement] = {}
        if node.id == "mapping":
            for key, value in node.value:
                item = self._reference.read(notes, key)
                if item in lying:
                    raise bad("duplicate-name", f"{item!r} is listed twice", key)
                if value.id == "mapping" or value.tag == NULL:
                    lying[item] = Placement(
                        item, place=place_of(key), **PLACEMENT.read(notes, value)
                    )
                else:
                    count = self._count.read(notes, value)
                    lying[item] = Placement(item, count, place=place_of(key))
            return lying
        for one in node.value if node.id == "sequence" else [node]:
            item = self._reference.read(notes, one)
            if item in lying:
                lying[item].count += 1
            else:
                lying[item] = Placement(item, place=place_of(one))
        return lying

    def schema(self) -> Schema:
        name = self._reference.schema()
        value = {"anyOf": [self._count.schema(), PLACEMENT.schema()]}
        return {
            "anyOf": [
                name,
                {"type": "array", "items": name},
                {"type": "object", "additionalProperties": value},
            ]
        }


CHEST = Fields(
    "a chest",
    Field("lock", LockType(), "The lock that keeps it shut. Default: it opens at once."),
    Field("holds", ITEMS, "Its contents."),
    *EFFECTS,
    Field("steps", WholeType(), "How long opening takes. Default: as long as its lock says, or 1."),
    SEEN,
    LABEL,
    NOTE,
    *says("open"),
)
CHESTS = Named("a chest", CHEST, Chest)
SWITCHES = Named("a switch", SWITCH, make_switch)
ACTS = Named("an act", ACT, make_act)

ROOM = Fields(
    "a room",
    Field("items", Placements(), "What lies there."),
    Field("chests", CHESTS, "Containers, by name."),
    Field("switches", SWITCHES, "Things that can be flipped again and again, by name."),
    Field("acts", ACTS, "Anything else that can be done there, by name; once, unless repeated."),
    Field("gate", ConditionType(), "The condition for each walk into the room, by any passage."),
    Field("drawn-at", CellType(), "Its column and row in pictures. Default: chosen for you."),
    LABEL,
    NOTE,
    *says("first"),
)


class Rooms(Named):
    """Rooms: a mapping from names to fields, or a plain list of names."""

    def __init__(self) -> None:
        super().__init__("a room", ROOM, Room)

    def read(self, notes: Notes, node: Node) -> dict[str, Room]:
        if node.id != "sequence":
            rooms: dict[str, Room] = super().read(notes, node)
            drawn: dict[tuple[int, int], str] = {}
            for room in rooms.values():
                other = drawn.setdefault(room.drawn_at, room.name) if room.drawn_at else room.name
                if other != room.name:
                    message = (
                        f"{room.name!r} is drawn where {other!r} is: at {list(room.drawn_at or ())}"
                    )
                    notes.problems.append(Problem("bad-value", message, room.place, room.name))
            return rooms
        pairs = [(key, None) for key in node.value]
        return each_named(
            notes, pairs, self.what, lambda name, _, key: Room(name, place=place_of(key))
        )

    def schema(self) -> Schema:
        return {"anyOf": [*super().schema()["anyOf"], {"type": "array", "items": NAME}]}
