"""Reading tile maps and what their symbols mean."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from ...level.maps.tilemap import DIRECTIONS, SideView, Tile, TileMap
from ...level.place import Place
from ...level.room import Chest
from .fields import ACT, EFFECTS, LABEL, NOTE, SEEN, SWITCH, Field, Fields, PartType, says
from .nodes import NULL, TEXT, Node, place_of, shown
from .notes import BadValue, Notes, bad
from .room_fields import CHEST, LockType, Placements, make_act, make_switch
from .types import (
    BoolType,
    ConditionType,
    NewName,
    OneOf,
    Schema,
    TextType,
    WholeType,
    by_name,
    each_named,
)

GROUNDS = ("wall", "floor", "void", "start")
_SOLID = Field("solid", BoolType(), "Used from beside it, not stood on. Default: true.")


class OnCell:
    """A chest, switch or act on a cell: what it takes in a room, and its name."""

    def __init__(self, fields: Fields, make: Any) -> None:
        name = Field("name", NewName(fields.what), "Its name.")
        self.fields = Fields(f"{fields.what} on a cell", name, *fields, _SOLID)
        self.make = make

    def read(self, notes: Notes, node: Node) -> tuple[Any, bool | None]:
        values = self.fields.read(notes, node)
        solid = values.pop("solid", None)
        name = values.pop("name", None)
        if name is None:
            raise bad("bad-value", f"{self.fields.what} needs a name", node)
        return self.make(name, place=place_of(node), **values), solid

    def schema(self) -> Schema:
        return self.fields.schema()


TILE = Fields(
    "a legend entry",
    Field("item", Placements(), "What lies there."),
    Field("items", Placements(), "What lies there."),
    Field("lock", LockType(), "A door: wall until it is unlocked from a cell beside it."),
    Field("gate", ConditionType(), "The condition for stepping onto it."),
    Field("chest", OnCell(CHEST, Chest), "A chest on the cell."),
    Field("switch", OnCell(SWITCH, make_switch), "A switch on the cell."),
    Field("act", OnCell(ACT, make_act), "An act on the cell."),
    Field("room", NewName("a room"), "The cell's name, for passages and conditions."),
    Field("one-way", OneOf(tuple(DIRECTIONS)), "Entered and left in this direction only."),
    _SOLID,
    Field("once", BoolType(), "It gives way after it was stepped onto once. Default: false."),
    Field("steps", WholeType(), "The cost of stepping onto it. Default: 1."),
    Field("bears", BoolType(), "Seen from the side: one can stand on top of it. Default: false."),
    Field("climb", BoolType(), "Seen from the side: one can climb along it. Default: false."),
    Field("name", NewName("a door"), "The name of the door, gate or hazard. Default: the cell's."),
    *EFFECTS,
    SEEN,
    LABEL,
    NOTE,
    *says("shut"),
)


class Legend:
    """A mapping from symbols to what they mean."""

    _ground = OneOf(GROUNDS)

    def read(self, notes: Notes, node: Node) -> dict[str, Tile]:
        legend: dict[str, Tile] = {}
        if node.id == "scalar" and node.tag == NULL:
            return legend
        if node.id != "mapping":
            raise bad(
                "bad-value", f"legend maps symbols to what they mean, not {shown(node)}", node
            )
        for key, value in node.value:
            try:
                if key.id != "scalar" or not key.value or "\t" in key.value:
                    raise bad("bad-value", f"{shown(key)} cannot be a symbol", key)
                if key.value in legend:
                    message = f"the symbol {key.value!r} is given twice"
                    raise bad("duplicate-name", message, key)
                legend[key.value] = Tile()  # so that the map can be read if the entry cannot
                legend[key.value] = self.one(notes, value, place_of(key))
            except BadValue as error:
                notes.problems.append(error.problem)
        return legend

    def one(self, notes: Notes, node: Node, place: Place | None) -> Tile:
        """The meaning of one symbol."""
        if node.id == "scalar" and node.tag != NULL:
            return Tile(ground=self._ground.read(notes, node), place=place)
        values = TILE.read(notes, node)
        if "item" in values and "items" in values:
            raise bad("bad-value", "a legend entry takes item or items, not both", node)
        if "item" in values:
            values["items"] = values.pop("item")
        for kind in ("chest", "switch", "act"):
            if kind in values:
                values[kind], solid = values[kind]
                if solid is not None:
                    values["solid"] = solid
        return Tile(place=place, **values)

    def schema(self) -> Schema:
        one = {"anyOf": [self._ground.schema(), TILE.schema()]}
        return {"type": ["object", "null"], "additionalProperties": one}


class Maps:
    """A mapping from names to floors: text, or a CSV file."""

    def read(self, notes: Notes, node: Node) -> dict[str, TileMap]:
        if node.id == "scalar" and node.tag == NULL:
            return {}
        if node.id != "mapping":
            raise bad("bad-value", f"maps maps names to floors, not {shown(node)}", node)
        maps = each_named(
            notes, node.value, "a map", lambda name, value, _: self.one(notes, name, value)
        )
        notes.map_unread = len(maps) < len(node.value)
        return maps

    def one(self, notes: Notes, name: str, node: Node) -> TileMap:
        """One floor."""
        if node.id == "mapping":
            return self._described(notes, name, node)
        if node.id == "sequence":
            rows = tuple(self._row(one) for one in node.value)
            return TileMap(name, rows, None, place_of(node), tuple(map(_starts, node.value)))
        if node.tag != TEXT:
            raise bad("bad-value", f"a map is drawn as text, not {shown(node)}", node)
        drawn = tuple(str(node.value).rstrip("\n").split("\n"))
        place, indent = place_of(node), getattr(node, "indent", None)
        if place is None or indent is None:  # of several rows in quotes, only the start is known
            starts = (_starts(node),) if len(drawn) == 1 else ((),) * len(drawn)
            return TileMap(name, drawn, None, place, starts)
        # The rows of a text block begin on the line after its mark, behind its indentation.
        return TileMap(name, drawn, None, Place(place.line + 1, indent + 1))

    def _row(self, node: Node) -> Sequence[str]:
        if node.id == "sequence":
            for one in node.value:
                if one.id != "scalar":
                    raise bad("bad-value", f"a symbol of a map is text, not {shown(one)}", one)
            return tuple(str(one.value) for one in node.value)
        if node.id == "scalar" and node.tag == TEXT:
            return str(node.value)
        raise bad(
            "bad-value", f"a row of a map is text or a list of symbols, not {shown(node)}", node
        )

    def _described(self, notes: Notes, name: str, node: Node) -> TileMap:
        """A floor that is read from a CSV file, or seen from the side."""
        values = MAP.read(notes, node)
        side = None
        if values.get("seen_from") == "side":
            side = values.get("jump", SideView())
        elif "jump" in values:
            raise bad("bad-value", "`jump` needs `seen-from: side`", node)
        if ("csv" in values) == ("rows" in values):
            raise bad("bad-value", "a map has `rows`, or is read from `csv: FILE`", node)
        if "csv" in values:
            return replace(self._from_csv(notes, name, node, values), side=side)
        return replace(self.one(notes, name, values["rows"]), side=side)

    def _from_csv(self, notes: Notes, name: str, node: Node, values: dict[str, Any]) -> TileMap:
        if notes.read_csv is None:
            raise bad("bad-value", "a CSV file can only be named in a level file", node)
        try:
            rows = notes.read_csv(values["csv"])
        except (OSError, ValueError) as error:
            reason = getattr(error, "strerror", None) or str(error)
            message = f"cannot read the map {values['csv']!r}: {reason.lower()}"
            raise bad("bad-value", message, node) from None
        return TileMap(name, tuple(rows), values["csv"], place_of(node))

    def schema(self) -> Schema:
        one = {"anyOf": [*_RowsType().schema()["anyOf"], MAP.schema()]}
        return by_name(one) | {"type": ["object", "null"]}


class _RowsType:
    """The rows of a map, kept to be read with the map."""

    def read(self, notes: Notes, node: Node) -> Node:
        if node.id == "mapping" or (node.id == "scalar" and node.tag != TEXT):
            raise bad("bad-value", f"a map is drawn as text, not {shown(node)}", node)
        return node

    def schema(self) -> Schema:
        row = {"anyOf": [{"type": "string"}, {"type": "array", "items": {"type": "string"}}]}
        return {"anyOf": [{"type": "string"}, {"type": "array", "items": row}]}


JUMP = Fields(
    "jump",
    Field("up", WholeType(), "The most rows that a jump rises. Default: 1."),
    Field("across", WholeType(), "The most columns that a jump crosses. Default: 2."),
)
MAP = Fields(
    "a map",
    Field("csv", TextType(), "A CSV file beside the level: a symbol a cell."),
    Field("rows", _RowsType(), "The map, drawn as text."),
    Field("seen-from", OneOf(("above", "side")), "Where the map is seen from. Default: above."),
    Field("jump", PartType(JUMP, SideView), "Seen from the side: how far the player jumps."),
)


def _starts(row: Node) -> tuple[Place, ...]:
    """Where a row begins in its file, behind a quotation mark; of a list, where each symbol does."""
    if row.id == "sequence":
        return tuple(place for one in row.value if (place := place_of(one)) is not None)
    second = place_of(row, 1)
    return () if second is None else (Place(second.line, second.column - 1),)
