"""The types a field of a level file can have: each reads a node and knows its JSON Schema.

One source for both, so that what a text editor accepts is what Ukemi reads.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any, Protocol

from ...level.colors import COLOR_NAMES, is_color
from ...level.condition_text import ConditionError, parse_condition
from ...level.conditions import Condition
from ...level.names import NAME_SCHEMA, is_name, nearest
from ...level.problems import Problem
from ...values import dataclass
from .nodes import BOOL, NULL, TEXT, WHOLE, Node, place_of, shown
from .notes import BadValue, Notes, bad

Schema = dict[str, Any]

#: The JSON Schema of a name.
NAME: Schema = {"type": "string", "pattern": f"^{NAME_SCHEMA}$"}

#: More than any level needs; a bound so that a slip of the finger is caught.
LARGEST = 999_999

#: The last column and row in which a picture can place a room.
LAST_CELL = 100


class Type(Protocol):
    """The types of the values of fields."""

    def read(self, notes: Notes, node: Node) -> Any:
        """The value a node gives; raises BadValue where it gives none."""

    def schema(self) -> Schema:
        """The JSON Schema of the nodes that :meth:`read` accepts."""


def by_name(one: Schema) -> Schema:
    """The JSON Schema of a mapping from names to values of one kind."""
    return {
        "type": "object",
        "patternProperties": {f"^{NAME_SCHEMA}$": one},
        "additionalProperties": False,
    }


def text_or_one_field(pattern: str, fields: Schema) -> list[Schema]:
    """The JSON Schemas of a text, and of a mapping from such a text to its fields."""
    full = {
        "type": "object",
        "minProperties": 1,
        "maxProperties": 1,
        "patternProperties": {pattern: fields},
        "additionalProperties": False,
    }
    return [{"type": "string", "pattern": pattern}, full]


def name_of(node: Node, what: str) -> str:
    """The name a node gives.

    Args:
        what: The word for the named thing, for the message.

    Raises:
        BadValue: It is not a name.
    """
    if node.id == "scalar" and node.tag == TEXT and is_name(node.value):
        return str(node.value)
    rule = "a name is a letter, then letters, digits, '-' or '_'"
    if node.id == "scalar" and is_name(node.value):
        rule = "to YAML it is no text unless it is put in quotes"
    joined = "-".join(str(node.value).split()) if node.id == "scalar" else ""
    near = joined if is_name(joined) and joined != node.value else None
    raise bad("bad-value", f"{shown(node)} cannot be the name of {what}: {rule}", node, near)


def each_named(
    notes: Notes,
    pairs: Iterable[tuple[Node, Any]],
    what: str,
    read: Callable[[str, Any, Node], Any],
) -> dict[str, Any]:
    """Read values by name; those that cannot be read are left out, and the notes say why.

    Args:
        pairs: The node of each name, and that of its value: None for a name in a plain list.
        what: The word for one of the named things, for messages.
        read: Gives the value, from its name, its node and the node of the name.
    """
    made: dict[str, Any] = {}
    for key, value in pairs:
        try:
            name = name_of(key, what)
            if name in made:
                raise bad("duplicate-name", f"{what} {name!r} is given twice", key)
            made[name] = read(name, value, key)
        except BadValue as error:
            notes.problems.append(error.problem)
    return made


class TextType:
    """Text on one or more lines."""

    def read(self, notes: Notes, node: Node) -> str:
        if node.id == "scalar" and node.tag == TEXT:
            return str(node.value)
        hint = " (put it in quotes)" if node.id == "scalar" and node.tag != NULL else ""
        raise bad("bad-value", f"this must be text, not {shown(node)}{hint}", node)

    def schema(self) -> Schema:
        return {"type": "string"}


class ColorType:
    """A colour."""

    def read(self, notes: Notes, node: Node) -> str:
        if node.id == "scalar" and node.tag == TEXT and is_color(node.value):
            return str(node.value)
        near = notes.nearest(node.value, COLOR_NAMES) if node.id == "scalar" else None
        rule = 'a colour is a name that browsers know, such as peru, or "#rrggbb" in quotes'
        raise bad("bad-value", f"{shown(node)} is not a colour: {rule}", node, near)

    def schema(self) -> Schema:
        named = {"enum": sorted(COLOR_NAMES)}
        return {"anyOf": [named, {"type": "string", "pattern": "^#[0-9a-fA-F]{6}$"}]}


class CellType:
    """A column and a row of the grid in which pictures place rooms, counted from 1."""

    def read(self, notes: Notes, node: Node) -> tuple[int, int]:
        said = node.value if node.id == "sequence" else []
        if len(said) == 2 and all(one.id == "scalar" and one.tag == WHOLE for one in said):
            column, row = (int(one.value[:9]) for one in said)
            if min(column, row) >= 1 and max(column, row) <= LAST_CELL:
                return column, row
        message = f"this must be [column, row], each from 1 to {LAST_CELL}, not {shown(node)}"
        raise bad("bad-value", message, node)

    def schema(self) -> Schema:
        number = {"type": "integer", "minimum": 1, "maximum": LAST_CELL}
        return {"type": "array", "items": number, "minItems": 2, "maxItems": 2}


class BoolType:
    """``true`` or ``false``."""

    def read(self, notes: Notes, node: Node) -> bool:
        if node.id == "scalar" and node.tag == BOOL:
            return bool(node.value.lower() == "true")
        raise bad("bad-value", f"this must be true or false, not {shown(node)}", node)

    def schema(self) -> Schema:
        return {"type": "boolean"}


@dataclass(frozen=True, slots=True)
class WholeType:
    """A whole number, not below ``least``."""

    least: int = 0

    def read(self, notes: Notes, node: Node) -> int:
        if node.id == "scalar" and node.tag == WHOLE and len(node.value) < 12:
            number = int(node.value)
            if self.least <= number <= LARGEST:
                return number
        message = f"this must be a whole number from {self.least} to {LARGEST}, not {shown(node)}"
        raise bad("bad-value", message, node)

    def schema(self) -> Schema:
        return {"type": "integer", "minimum": self.least, "maximum": LARGEST}


@dataclass(frozen=True, slots=True)
class OneOf:
    """One of a few words."""

    words: tuple[str, ...]

    def read(self, notes: Notes, node: Node) -> str:
        if node.id == "scalar" and node.value in self.words:
            return str(node.value)
        near = nearest(node.value, self.words) if node.id == "scalar" else None
        choices = f"{', '.join(self.words[:-1])} or {self.words[-1]}"
        raise bad("bad-value", f"{shown(node)} must be {choices}", node, near)

    def schema(self) -> Schema:
        return {"enum": list(self.words)}


class ConditionType:
    """A condition of the condition language."""

    def read(self, notes: Notes, node: Node) -> Condition:
        if node.id != "scalar" or node.tag != TEXT:
            raise bad("bad-value", f"this must be a condition, not {shown(node)}", node)
        try:
            condition = parse_condition(node.value)
        except ConditionError as error:
            message = f"{error}, in {shown(node)}"
            place = place_of(node, error.offset)
            raise BadValue(Problem("bad-value", message, place, error.text)) from None
        notes.conditions.append((condition, node))
        return condition

    def schema(self) -> Schema:
        return {"type": "string", "minLength": 1}


@dataclass(frozen=True, slots=True)
class Reference:
    """The name of something in a namespace, checked once everything is read."""

    namespace: str

    def read(self, notes: Notes, node: Node) -> str:
        if node.id != "scalar" or node.tag != TEXT or not node.value:
            message = f"this must be the name of {self._what()}, not {shown(node)}"
            raise bad("bad-value", message, node)
        name = str(node.value)
        notes.references.append((self.namespace, name, node))
        return name

    def _what(self) -> str:
        words = {"item": "an item", "opens": "a door or a lock", "start": "a room"}
        return words.get(self.namespace, f"a {self.namespace}")

    def schema(self) -> Schema:
        return {"type": "string", "minLength": 1}


@dataclass(frozen=True, slots=True)
class NewName:
    """A name that is given here."""

    what: str

    def read(self, notes: Notes, node: Node) -> str:
        return name_of(node, self.what)

    def schema(self) -> Schema:
        return NAME


class FlagTurned:
    """The name of a flag that is turned here, and so exists."""

    def read(self, notes: Notes, node: Node) -> str:
        name = name_of(node, "a flag")
        notes.flags.setdefault(name, node)
        notes.references.append(("flag", name, node))
        return name

    def schema(self) -> Schema:
        return NAME


@dataclass(frozen=True, slots=True)
class Several:
    """Read a single value, or a list of values."""

    one: Type

    def read(self, notes: Notes, node: Node) -> tuple[Any, ...]:
        nodes = node.value if node.id == "sequence" else [node]
        return tuple(self.one.read(notes, each) for each in nodes)

    def schema(self) -> Schema:
        one = self.one.schema()
        return {"anyOf": [one, {"type": "array", "items": one}]}


@dataclass(frozen=True, slots=True)
class Counts:
    """Names with counts: one bare, a list in which repeats count, or a mapping to counts.

    Attributes:
        nothing: Whether the word ``nothing`` stands for none.
    """

    one: Reference
    nothing: bool = False

    def read(self, notes: Notes, node: Node) -> dict[str, int]:
        counts: dict[str, int] = {}
        if node.id == "mapping":
            for key, count in node.value:
                name = self.one.read(notes, key)
                if name in counts:
                    raise bad("duplicate-name", f"{name!r} is listed twice", key)
                counts[name] = WholeType(1).read(notes, count)
            return counts
        if self.nothing and node.id == "scalar" and node.value == "nothing":
            return counts
        for each in node.value if node.id == "sequence" else [node]:
            name = self.one.read(notes, each)
            counts[name] = counts.get(name, 0) + 1
        return counts

    def schema(self) -> Schema:
        name = self.one.schema()
        number = WholeType(1).schema()
        return {
            "anyOf": [
                name,
                {"type": "array", "items": name},
                {"type": "object", "additionalProperties": number},
            ]
        }
