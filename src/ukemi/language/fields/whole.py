"""Read a whole level: the settings, and the parts in such an order that names are known before they are used."""

from __future__ import annotations

from typing import Any

from ...level.conditions import ALWAYS, Condition
from ...level.event import Event
from ...level.item import Item
from ...level.lock import Lock
from ...level.player import Player
from ...level.settings import Claim, Expect, InOrder, Inventory, PlayRules, Shortest
from .accepted import Accept
from .fields import (
    EVENT,
    INVENTORY,
    ITEM,
    LOCK,
    PLAYER,
    RULES,
    SHORTEST,
    Field,
    Fields,
    PartType,
    attribute,
)
from .map_fields import Legend, Maps
from .nodes import WHOLE, Node, PlainNode, place_of, shown
from .notes import Notes, bad
from .passages import Passages
from .room_fields import Named, Rooms
from .scattering import Scatters
from .types import (
    NAME,
    BoolType,
    ConditionType,
    OneOf,
    Reference,
    Schema,
    Several,
    TextType,
    Type,
    by_name,
    each_named,
)


class Flags:
    """Flags: a mapping to whether each starts on, or a plain list of ones that start off."""

    _on = BoolType()

    def read(self, notes: Notes, node: Node) -> dict[str, bool]:
        def one(name: str, value: Node | None, key: Node) -> bool:
            notes.flags.setdefault(name, key)
            return value is not None and self._on.read(notes, value)

        if node.id == "mapping":
            pairs = node.value
        else:
            pairs = [(key, None) for key in (node.value if node.id == "sequence" else [node])]
        return each_named(notes, pairs, "a flag", one)

    def schema(self) -> Schema:
        return {"anyOf": [NAME, {"type": "array", "items": NAME}, by_name(self._on.schema())]}


class Areas:
    """The areas: each a name, and the rooms in it."""

    _rooms = Several(Reference("room"))

    def read(self, notes: Notes, node: Node) -> dict[str, tuple[str, ...]]:
        if node.id != "mapping":
            message = f"this must map the name of an area to its rooms, not {shown(node)}"
            raise bad("bad-value", message, node)
        area_of: dict[str, str] = {}

        def one(name: str, value: Node, key: Node) -> tuple[str, ...]:
            rooms: tuple[str, ...] = self._rooms.read(notes, value)
            for room in rooms:
                if room in area_of:
                    where = (
                        f"area {name!r} twice"
                        if area_of[room] == name
                        else f"two areas: {area_of[room]!r} and {name!r}"
                    )
                    raise bad("duplicate-name", f"{room!r} is in {where}", value)
                area_of[room] = name
            return rooms

        return each_named(notes, node.value, "an area", one)

    def schema(self) -> Schema:
        return by_name(self._rooms.schema())


class Events(Named):
    """The events, each with when it happens."""

    def __init__(self) -> None:
        super().__init__("an event", EVENT, Event)

    def one(self, notes: Notes, name: str, value: Node, key: Node) -> Event:
        event: Event = super().one(notes, name, value, key)
        if event.when == ALWAYS:
            raise bad("bad-value", f"event {name!r} does not say `when` it happens", key)
        return event


class Version:
    """The version of the format: 1."""

    def read(self, notes: Notes, node: Node) -> int:
        if node.id == "scalar" and node.tag == WHOLE and node.value == "1":
            return 1
        raise bad("bad-value", f"this reads levels of format 1, not {shown(node)}", node)

    def schema(self) -> Schema:
        return {"const": 1}


class Claims:
    """Read one claim or a list of claims, each with its place."""

    def __init__(self, one: Type) -> None:
        self.several = Several(one)

    def read(self, notes: Notes, node: Node) -> tuple[tuple[Condition | str, Node], ...]:
        nodes = node.value if node.id == "sequence" else [node]
        return tuple((self.several.one.read(notes, one), one) for one in nodes)

    def schema(self) -> Schema:
        return self.several.schema()


class Orders:
    """Read lists of names, each thing of which comes before the next; one list stands for a list of one."""

    _name = Reference("subject")

    def read(self, notes: Notes, node: Node) -> tuple[InOrder, ...]:
        lists = node.value if node.id == "sequence" else [node]
        if lists and all(one.id == "scalar" for one in lists):
            lists = [node]
        found = []
        for one in lists:
            if one.id != "sequence" or len(one.value) < 2:
                message = "an order lists two things or more: `[[ring-the-bell, altar-gate]]`"
                raise bad("bad-value", message, one)
            names = tuple(self._name.read(notes, name) for name in one.value)
            if len({*names}) < len(names):
                raise bad("bad-value", "an order names each thing once", one)
            found.append(InOrder(names, place_of(one)))
        return tuple(found)

    def schema(self) -> Schema:
        names = {"type": "array", "items": self._name.schema(), "minItems": 2, "uniqueItems": True}
        return {"anyOf": [{"type": "array", "items": names}, names]}


_CONDITIONS = Claims(ConditionType())
_SUBJECTS = Claims(Reference("subject"))

EXPECT = Fields(
    "expect",
    Field("finish", OneOf(("possible", "impossible")), "Default: possible."),
    Field("stuck", OneOf(("never", "possible")), "Default: never."),
    Field(
        "rewards",
        OneOf(("reachable", "together", "never-missed", "any")),
        "Each in some finishing run (the default), all in one, never missed, or no claim.",
    ),
    Field("never", _CONDITIONS, "Conditions that hold in no reachable position."),
    Field("possible", _CONDITIONS, "Conditions that hold in some reachable position."),
    Field("always-possible", _CONDITIONS, "Conditions that stay possible in every position."),
    Field(
        "required",
        _SUBJECTS,
        "Things that every finishing run does: doors, chests, acts, rooms, items.",
    ),
    Field("optional", _SUBJECTS, "Things that some finishing run does and some does not."),
    Field("shortest", PartType(SHORTEST, Shortest), "Bounds on the shortest finishing run."),
    Field(
        "order",
        Orders(),
        "Lists of things: in every run, each is done, entered or taken before the next.",
    ),
)


class ExpectType:
    """The claims of a level, with their places."""

    def read(self, notes: Notes, node: Node) -> Expect:
        values = EXPECT.read(notes, node)
        for name, value in values.items():
            if isinstance(value, tuple) and name != "order":
                values[name] = tuple(Claim(says, place_of(one)) for says, one in value)
        keys = [key for key, _ in node.value if key.id == "scalar"] if node.id == "mapping" else []
        places = {attribute(key.value): place for key in keys if (place := place_of(key))}
        return Expect(**values, places=places)

    def schema(self) -> Schema:
        return EXPECT.schema()


class Players(Named):
    """The players: a list of names, or a mapping to what each starts with."""

    def __init__(self) -> None:
        super().__init__("a player", PLAYER, Player)

    def read(self, notes: Notes, node: Node) -> dict[str, Any]:
        if node.id == "sequence":
            pairs = [(one, PlainNode("mapping", node.tag, [])) for one in node.value]
            node = PlainNode("mapping", node.tag, pairs)
        return super().read(notes, node)

    def schema(self) -> Schema:
        return {"anyOf": [{"type": "array", "items": NAME}, super().schema()]}


class Locks(Named):
    """The locks with a name; what comes after them can use it."""

    def __init__(self) -> None:
        super().__init__("a lock", LOCK, Lock)

    def read(self, notes: Notes, node: Node) -> dict[str, Any]:
        made = super().read(notes, node)
        notes.locks = made
        return made


class Goal:
    """When the level can be finished; what a bare name means is settled when all are known."""

    _condition = ConditionType()

    def read(self, notes: Notes, node: Node) -> tuple[Condition, Node]:
        condition = self._condition.read(notes, node)
        notes.conditions.pop()
        return condition, node

    def schema(self) -> Schema:
        return self._condition.schema()


#: The fields of a level file, in the order they are read: locks before what uses them.
LEVEL = Fields(
    "a level",
    Field("ukemi", Version(), "The version of this format: 1."),
    Field("name", TextType(), "The level's name. Default: the file's."),
    Field("start", Reference("start"), "The room the player starts in. On a map, @ says it."),
    Field("goal", Goal(), "When the level can be finished: a condition, or just a room."),
    Field("items", Named("an item", ITEM, Item), "Every kind of thing that is carried."),
    Field("flags", Flags(), "Facts that are on or off; ones that something turns need no entry."),
    Field("locks", Locks(), "Locks described once, for many doors and chests."),
    Field(
        "inventory",
        PartType(INVENTORY, Inventory),
        "The items at the start; the limits of the inventory.",
    ),
    Field("players", Players(), "Several players: their names, or what each starts with."),
    Field("rules", PartType(RULES, PlayRules), "How things are picked up and how a run ends."),
    Field("maps", Maps(), "Floors drawn as text, by name."),
    Field("legend", Legend(), "The meaning of the symbols of the maps."),
    Field("rooms", Rooms(), "The places the player can stand."),
    Field("passages", Passages(), "The ways between rooms."),
    Field("areas", Areas(), "Rooms that belong together, framed in pictures: a wing, a floor."),
    Field("events", Events(), "Events: each happens by itself as soon as its condition holds."),
    Field("scatter", Scatters(), "The things that `ukemi scatter` places.", attr="scattered"),
    Field("expect", ExpectType(), "Your claims about the level; a failed claim is an error."),
    Field(
        "accept", Accept(), "Findings that are meant as they are: codes, with the names for each."
    ),
)


def read_fields(notes: Notes, node: Node) -> dict[str, Any]:
    """The fields of a level, read in the order of :data:`LEVEL`, with those it must have.

    Args:
        notes: Takes what is wrong and what is still to be checked.

    Returns:
        The values by attribute.
    """
    rank = {name: number for number, name in enumerate(LEVEL.by_name)}
    entries = sorted(LEVEL.entries(node), key=lambda entry: rank.get(str(entry[0].value), 99))
    values = LEVEL.read(notes, PlainNode("mapping", node.tag, entries))
    given = {key.value for key, _ in entries if key.id == "scalar"}
    if "goal" not in given:
        message = "the level has no goal; add a line such as `goal: bell-loft`"
        notes.add("bad-value", message, node)
    if not given & {"rooms", "maps"}:
        notes.add("bad-value", "the level has no rooms and no maps", node)
    players = values.get("players", {})
    if players and "start" not in given and all(one.start for one in players.values()):
        values["start"] = next(iter(players.values())).start
    elif "start" not in given and "maps" not in given and "rooms" in given:
        message = "the level has no start; add a line such as `start: quay`"
        notes.add("start-blocked", message, node)
    return values
