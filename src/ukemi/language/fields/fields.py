"""The fields of a level file, for each part of a level.

These tables are the one source for reading a file, for building in Python, for the JSON Schema
and for the check that the docs name every field.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ...level.effects import EFFECT_NAMES, NO_EFFECTS, Effects
from ...level.item import ITEM_KINDS
from ...level.names import nearest
from ...level.says import MOMENTS, Says
from ...values import dataclass
from .nodes import NULL, Node, shown
from .notes import BadValue, Notes, bad
from .types import (
    BoolType,
    ColorType,
    ConditionType,
    Counts,
    FlagTurned,
    OneOf,
    Reference,
    Schema,
    Several,
    TextType,
    Type,
    WholeType,
)


def attribute(name: str) -> str:
    """A field's name as a Python attribute: ``at-most`` is ``at_most``, ``from`` is ``from_``."""
    return "from_" if name == "from" else name.replace("-", "_")


@dataclass(frozen=True, slots=True)
class Field:
    """One field: its name in the file, its type, a line of help, and its name in Python."""

    name: str
    type: Type
    help: str
    attr: str = ""

    def __post_init__(self) -> None:
        if not self.attr:
            object.__setattr__(self, "attr", attribute(self.name))


class Fields:
    """The fields a part of a level can have.

    Args:
        what: The part, for messages ("a room").
        fields: Its fields.
    """

    def __init__(self, what: str, *fields: Field) -> None:
        self.what = what
        self.by_name = {one.name: one for one in fields}

    def __iter__(self) -> Iterator[Field]:
        return iter(self.by_name.values())

    def read(self, notes: Notes, node: Node) -> dict[str, Any]:
        """The values of a mapping's fields, by attribute; what is wrong goes to the notes.

        Effects are gathered under the attribute ``effects``.
        """
        values: dict[str, Any] = {}
        known = self.by_name
        for key, value in node.value if node.id == "mapping" else self.entries(node):
            found = known.get(key.value) if key.id == "scalar" else None
            if found is None:
                notes.problems.append(self._unknown(key).problem)
            elif found.attr in values:
                notes.add("duplicate-name", f"{key.value!r} is given twice", key)
            else:
                try:
                    values[found.attr] = found.type.read(notes, value)
                except BadValue as error:
                    notes.problems.append(error.problem)
        if not _EFFECT_SET.isdisjoint(values):
            values["effects"] = _gather_effects(values, notes, node)
        return values

    def entries(self, node: Node) -> list[tuple[Node, Node]]:
        """The entries of a mapping; none where nothing is written.

        Raises:
            BadValue: The node is neither a mapping nor empty.
        """
        if node.id == "mapping":
            return list(node.value)
        if node.id == "scalar" and node.tag == NULL:
            return []
        names = ", ".join(list(self.by_name)[:4])
        message = f"{self.what} takes fields such as {names}; this is {shown(node)}"
        raise bad("bad-value", message, node)

    def _unknown(self, key: Node) -> BadValue:
        if key.id != "scalar":
            return bad("unknown-field", f"{self.what} has no such field: {shown(key)}", key)
        near = nearest(key.value, self.by_name)
        message = f"{self.what} has no field {key.value!r}"
        if near is None:
            message += f"; it has {', '.join(self.by_name)}"
        return bad("unknown-field", message, key, near)

    def schema(self) -> Schema:
        """The JSON Schema of the mapping."""
        properties = {one.name: {**one.type.schema(), "description": one.help} for one in self}
        return {
            "type": ["object", "null"],  # a part with nothing written after it has no fields
            "properties": properties,
            "additionalProperties": False,
        }


_EFFECT_SET = frozenset(EFFECT_NAMES)


def _gather_effects(values: dict[str, Any], notes: Notes, node: Node) -> Effects:
    effects = Effects(**{name: values.pop(name) for name in EFFECT_NAMES if name in values})
    turned = [set(effects.sets), set(effects.clears), set(effects.flips)]
    for flag in sorted((turned[0] & turned[1]) | (turned[0] & turned[2]) | (turned[1] & turned[2])):
        message = f"{flag!r} is turned two ways at once; keep one of sets, clears and flips"
        notes.add("contradicting-effects", message, _key_naming(node, flag))
    return effects


def _key_naming(node: Node, flag: str) -> Node:
    """The last node below a mapping that names the flag."""
    found = node
    for key, value in node.value:
        if key.value in ("sets", "clears", "flips"):
            for one in value.value if value.id == "sequence" else [value]:
                if one.value == flag:
                    found = one
    return found


ITEMS = Counts(Reference("item"))
_FLAGS = Several(FlagTurned())
_CONDITION = ConditionType()
LABEL = Field("label", TextType(), "The name in pictures and messages.")
NOTE = Field("note", TextType(), "A remark for the designer; nothing reads it.")
_COLOR = Field("color", ColorType(), "Its colour in pictures: a CSS name or #rrggbb.")


class SaysType:
    """A text for the player: bare, or a mapping from moments to texts.

    Args:
        bare: The moment of a bare text.
    """

    _text = TextType()

    def __init__(self, bare: str) -> None:
        self.bare = bare
        self._texts = Fields("says", *(Field(one, self._text, _MOMENTS[one]) for one in MOMENTS))

    def read(self, notes: Notes, node: Node) -> Says:
        if node.id == "mapping":
            return Says(**self._texts.read(notes, node))
        return Says(**{self.bare: self._text.read(notes, node)})

    def schema(self) -> Schema:
        return {"anyOf": [self._text.schema(), self._texts.schema()]}


_MOMENTS = {
    "shut": "The text if it is tried without the things that it needs.",
    "wrong": "The text if it is tried with a thing that does not fit.",
    "open": "The text when it is done, opened, taken or walked.",
    "first": "The text when it is entered, or seen for the first time.",
}
_MENTIONS = Field("mentions", Several(Reference("mention")), "The names that `says` gives away.")
SEEN = Field(
    "seen", _CONDITION, "Until this holds, the player does not know of it. Default: always."
)


def says(bare: str) -> tuple[Field, Field]:
    """The fields of the texts of a part, with the moment of a bare text."""
    help = f"The text that the player reads. A bare text is `{bare}`."
    return Field("says", SaysType(bare), help), _MENTIONS


_REST_OF_EFFECTS = (
    Field("loses", ITEMS, "Items taken away; if there are too few, all of them."),
    Field("gives", ITEMS, "Items handed over."),
    Field("sets", _FLAGS, "Flags turned on."),
    Field("clears", _FLAGS, "Flags turned off."),
    Field("flips", _FLAGS, "Flags turned over: on becomes off, off becomes on."),
    Field("opens", Several(Reference("opens")), "Doors, or locks, that open without their key."),
)
EFFECTS = (
    Field("spends", ITEMS, "Items taken; they must be carried."),
    *_REST_OF_EFFECTS,
)

ON_PICKUP = Fields("on-pickup", *EFFECTS)


class PartType:
    """A nested mapping as a field's type, read into a class of its own."""

    def __init__(self, fields: Fields, make: Any) -> None:
        self.fields = fields
        self.make = make

    def read(self, notes: Notes, node: Node) -> Any:
        return self.make(**self.fields.read(notes, node))

    def schema(self) -> Schema:
        return self.fields.schema()


def _effects_alone(effects: Effects = NO_EFFECTS) -> Effects:
    return effects


ITEM = Fields(
    "an item",
    Field("kind", OneOf(ITEM_KINDS), "Its purpose: key (the default), tool, reward or supply."),
    Field("use", OneOf(("kept", "spent")), "Whether a lock that needs it takes it. Default: kept."),
    Field("max", WholeType(1), "The most that can be carried; a supply is cut off there."),
    Field("vital", BoolType(), "A supply whose end is the player's death. Default: false."),
    Field("slots", WholeType(), "Inventory space one unit takes. Default: 1."),
    Field("on-pickup", PartType(ON_PICKUP, _effects_alone), "The effects of picking up a unit."),
    _COLOR,
    LABEL,
    NOTE,
    *says("open"),
)

LOCK = Fields(
    "a lock",
    Field(
        "needs",
        _CONDITION,
        "The condition for unlocking; each `or` is one way to do it. Default: always.",
    ),
    Field(
        "spends",
        Counts(Reference("item"), nothing=True),
        "The items that unlocking takes, or `nothing`. Default: the `use: spent` items that needs counts.",
        attr="takes",  # not one of the lock's effects: it replaces what the lock takes by itself
    ),
    Field("from", Reference("room"), "The room it can be unlocked from. Default: either end."),
    Field("relocks", BoolType(), "Shut again behind the player, each time. Default: false."),
    Field("together", BoolType(), "Unlocking one door unlocks all of this lock. Default: false."),
    Field("steps", WholeType(), "How long unlocking takes. Default: 1."),
    *_REST_OF_EFFECTS,
    _COLOR,
    LABEL,
    NOTE,
    *says("shut"),
)

PLACEMENT = Fields(
    "an item lying in a room",
    Field("count", WholeType(1), "How many units lie there. Default: 1."),
    Field("needs", _CONDITION, "The condition for taking one. Default: always."),
    Field("pile", BoolType(), "It is taken whole, in one move. Default: false."),
    SEEN,
    LABEL,
    NOTE,
)

_ACT = (
    Field("needs", _CONDITION, "The condition for doing it. Default: always."),
    *EFFECTS,
    Field("teaches", FlagTurned(), "A flag it turns on that a player can know from before."),
    Field("steps", WholeType(), "How long it takes. Default: 1."),
    SEEN,
    LABEL,
    NOTE,
    *says("open"),
)
ACT = Fields("an act", Field("repeat", BoolType(), "It can be done again. Default: false."), *_ACT)
SWITCH = Fields(
    "a switch", Field("once", BoolType(), "It works a single time. Default: false."), *_ACT
)

EVENT = Fields(
    "an event",
    Field("when", _CONDITION, "It happens as soon as this holds, once in a run."),
    *EFFECTS,
    LABEL,
    NOTE,
    *says("open"),
)

INVENTORY = Fields(
    "inventory",
    Field("start", ITEMS, "The items that the player carries at the start."),
    Field("slots", WholeType(), "Units carried at once. Default: no bound."),
    Field("drop", BoolType(), "Things can be put down and taken again. Default: false."),
    Field("shared", BoolType(), "Several players have one inventory. Default: false."),
    Field(
        "hand-over", BoolType(), "A player may give to another in the same room. Default: false."
    ),
)

PLAYER = Fields(
    "a player",
    Field("start", Reference("start"), "The room the player starts in. Default: the level's."),
    Field(
        "inventory",
        ITEMS,
        "The items that the player carries at the start. Default: those of the level's inventory.",
    ),
)

RULES = Fields(
    "rules",
    Field("pickup", OneOf(("choice", "touch")), "May be left lying, or taken on entering."),
    Field("finish", OneOf(("choice", "touch")), "May play on at the goal, or it ends the level."),
    Field("falling", OneOf(("impossible", "deadly")), "Seen from the side: a fall onto nothing."),
    Field("hints", OneOf(("any", "expected")), "Whether each required lock must be hinted at."),
)

SHORTEST = Fields(
    "shortest",
    Field("at-most", WholeType(), "The greatest number of steps of the shortest finishing run."),
    Field("at-least", WholeType(), "The least number of steps of the shortest finishing run."),
)
