"""A level as tables: rooms, passages, items and what lies where, a row each.

A value without a column stands in the column ``more`` of its row, as JSON. A value that belongs to no
room, passage or item stands in the table of the level. So nothing is lost, and the tables give the same
level again.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Mapping
from typing import Any

from ..language.fields.plain import level_dict
from ..level import Level
from ..level.joined import Joined
from ..level.names import NAME_PATTERN, is_name
from ..values import dataclass, field

Row = dict[str, str]

#: The columns of each table, in order.
COLUMNS = {
    "level": ("field", "value"),
    "items": ("item", "kind", "use", "max", "vital", "slots", "color", "label", "more"),
    "rooms": ("room", "label", "note", "more"),
    "passages": ("from", "way", "to", "name", "lock", "gate", "once", "steps", "more"),
    "placements": ("item", "count", "room", "chest", "needs", "pile", "more"),
}
#: The fields of a level that are tables of their own.
_TABLES = ("items", "rooms", "passages")
_header = re.compile(r"\s*(\S+)\s*(<->|->)\s*(\S+)\s*").fullmatch


class TableError(ValueError):
    """A table from which no level can be read; the message names the table, the row and the column."""


@dataclass
class Tables:
    """A level as tables.

    Attributes:
        rows: The rows of each table, by its name.
        assumed: The assumptions made on reading them, one sentence each.
    """

    rows: dict[str, list[Row]] = field(default_factory=lambda: {name: [] for name in COLUMNS})
    assumed: list[str] = field(default_factory=list)


def tables_of(level: Level) -> Tables:
    """A level as tables.

    Raises:
        ValueError: It is a campaign.

    Example:
        >>> from ukemi.language import loads
        >>> level = loads("{start: quay, goal: mill, items: {oak: {}}, rooms: {quay: {items: oak}, mill: {}}, "
        ...               "passages: [quay <-> mill: {lock: oak}]}")
        >>> tables_of(level).rows["placements"]
        [{'item': 'oak', 'count': '1', 'room': 'quay'}]
    """
    if isinstance(level, Joined):
        raise ValueError("a campaign is several levels: convert each of them")
    said = level_dict(level)
    tables = Tables()
    for name, value in said.items():
        if name not in _TABLES and name != "ukemi":
            tables.rows["level"].append({"field": name, "value": _cell(value)})
    for item, fields in (said.get("items") or {}).items():
        tables.rows["items"].append(_row("items", {"item": item}, fields))
    for room, fields in (said.get("rooms") or {}).items():
        rest = {key: value for key, value in (fields or {}).items() if key != "items"}
        tables.rows["rooms"].append(_row("rooms", {"room": room}, _without_holdings(rest)))
        tables.rows["placements"] += _placements(room, fields or {})
    for passage in said.get("passages") or []:
        text, fields = next(iter(passage.items())) if isinstance(passage, dict) else (passage, {})
        found = _header(text)
        assert found is not None
        ends = {"from": found[1], "way": found[2], "to": found[3]}
        tables.rows["passages"].append(_row("passages", ends, fields))
    return tables


def _without_holdings(room: Mapping[str, Any]) -> dict[str, Any]:
    """Return the fields of a room without the contents of its chests: those have a table."""
    chests = {
        name: {key: value for key, value in (chest or {}).items() if key != "holds"}
        for name, chest in (room.get("chests") or {}).items()
    }
    return {**room, **({"chests": chests} if chests else {})}


def _placements(room: str, fields: Mapping[str, Any]) -> list[Row]:
    rows = []
    for item, one in _counts(fields.get("items")).items():
        placed = one if isinstance(one, dict) else {"count": one}
        given = {"item": item, "count": str(placed.get("count", 1)), "room": room}
        rest = {key: value for key, value in placed.items() if key != "count"}
        rows.append(_row("placements", given, rest))
    for name, chest in (fields.get("chests") or {}).items():
        for item, count in _counts((chest or {}).get("holds")).items():
            rows.append({"item": item, "count": str(count), "room": room, "chest": name})
    return rows


def _counts(said: Any) -> dict[str, Any]:
    """Return items with their counts, or with all their fields."""
    if isinstance(said, Mapping):
        return dict(said)
    listed = [said] if isinstance(said, str) else said or []
    return {item: listed.count(item) for item in listed}


def _row(table: str, given: Row, fields: Mapping[str, Any] | None) -> Row:
    """A row of a table: values that have a column there, and all others in the column ``more``."""
    row, more = dict(given), {}
    for name, value in (fields or {}).items():
        if name in COLUMNS[table] and name not in given and not isinstance(value, dict | list):
            row[name] = _cell(value)
        else:
            more[name] = value
    if more:
        row["more"] = json.dumps(more, ensure_ascii=False)
    return row


#: The characters that begin a formula in a spreadsheet, and the character put before them.
_FORMULA, _AS_TEXT = "=+@\t\r", "'"


def _cell(value: Any) -> str:
    """A value as the text of a cell; as JSON if the text would not be read as it is."""
    if isinstance(value, str) and value == " ".join(value.split()) != "" and _value(value) == value:
        return value
    return json.dumps(value, ensure_ascii=False)


def escaped(text: str) -> str:
    """Return the text of a cell such that no spreadsheet takes it for a formula."""
    return _AS_TEXT + text if text[:1] and text[0] in _FORMULA + _AS_TEXT else text


def unescaped(text: str) -> str:
    """Return the text of a cell without what :func:`escaped` put before it."""
    before = text[:1] == _AS_TEXT and text[1:2] and text[1] in _FORMULA + _AS_TEXT
    return text[1:] if before else text


def _value(text: str) -> Any:
    """Return the value of a cell; a spreadsheet may have written a whole number with a point."""
    if whole := re.fullmatch(r"(-?[0-9]+)[.,]0+", text):
        text = whole[1]
    if text in ("TRUE", "FALSE"):
        text = text.lower()
    if text[:1] in '[{"' or re.fullmatch(r"-?[0-9]+|true|false|null", text):
        try:
            return json.loads(text)
        except (ValueError, RecursionError):
            return text
    return text


def level_of(tables: Tables) -> dict[str, Any]:
    """The level that tables say, as a level file would hold it.

    Names that cannot be names are cleaned; what must be said of a level and is not is assumed. Both are
    listed in :attr:`Tables.assumed`.

    Args:
        tables: The tables; all but that of the rooms may be empty.

    Returns:
        The level as plain data.

    Raises:
        TableError: A row lacks what it must have, or tables contradict each other.

    Example:
        >>> tables = Tables()
        >>> tables.rows["rooms"] = [{"room": "the quay"}, {"room": "mill"}]
        >>> tables.rows["passages"] = [{"from": "the quay", "to": "mill"}]
        >>> level_of(tables)["rooms"], tables.assumed[0]
        ({'the-quay': {}, 'mill': {}}, "'the quay' is called the-quay: a name has no spaces")
    """
    return _Reader(tables).level()


def drawn_rooms(tables: Tables) -> set[str]:
    """The names of rooms that are cells of maps, which have no rows of their own."""
    for row in tables.rows["level"]:
        legend = _value(row.get("value", "")) if row.get("field") == "legend" else None
        if isinstance(legend, dict):
            tiles = [one for one in legend.values() if isinstance(one, dict)]
            return {str(one["room"]) for one in tiles if "room" in one}
    return set()


class _Reader:
    """Reads a level from tables."""

    def __init__(self, tables: Tables) -> None:
        self.tables = tables
        self._names: dict[str, str] = {}
        self._taken: set[str] = set()

    def level(self) -> dict[str, Any]:
        said: dict[str, Any] = {"ukemi": 1}
        for number, row in self._rows("level"):
            name = self._must(row, "level", number, "field")
            if name in said:
                raise _wrong("level", number, "field", f"{name!r} is given twice")
            said[name] = _value(row.get("value", ""))
        items = self._named("items", "item")
        rooms = self._named("rooms", "room")
        drawn = drawn_rooms(self.tables)
        passages = [self._passage(number, row) for number, row in self._rows("passages")]
        for number, row in self._rows("passages"):
            for end in ("from", "to"):
                room = self.clean(self._must(row, "passages", number, end))
                if "@" not in room and room not in rooms and room not in drawn:
                    if self.tables.rows["rooms"]:
                        message = f"{room!r} is in no row of rooms"
                        raise _wrong("passages", number, end, message)
                    rooms[room] = {}
        for number, row in self._rows("placements"):
            self._place(number, row, items, rooms)
        said |= {name: value for name, value in (("items", items), ("rooms", rooms)) if value}
        if passages:
            said["passages"] = passages
        self._assume(said, rooms)
        return said

    def _rows(self, table: str) -> Iterable[tuple[int, Row]]:
        """The rows with their numbers, as a spreadsheet counts: the header is the first."""
        return enumerate(
            ({key: text.strip() for key, text in row.items() if text} for row in self.tables.rows[table]),
            2,
        )  # fmt: skip

    def _must(self, row: Row, table: str, number: int, column: str) -> str:
        if not row.get(column):
            raise _wrong(table, number, column, "there is nothing in it")
        return row[column]

    def clean(self, name: str) -> str:
        """A name that can be one, from one that a table gives."""
        if name in self._names:
            return self._names[name]
        room, at, cell = name.partition("@")
        if is_name(name) or (at and is_name(room) and re.fullmatch(r"[0-9]+,[0-9]+", cell)):
            self._names[name] = name
            self._taken.add(name)
            return name
        new = re.sub(r"[^\w-]+", "-", name).strip("-_") or "x"
        new = new if re.fullmatch(NAME_PATTERN, new) else f"n-{new}"
        while new in self._taken:
            new += "-2"
        self._names[name] = new
        self._taken.add(new)
        why = "a name has no spaces" if " " in name else "a name is letters, digits, - and _"
        self.tables.assumed.append(f"{name!r} is called {new}: {why}")
        return new

    def _named(self, table: str, column: str) -> dict[str, dict[str, Any]]:
        found: dict[str, dict[str, Any]] = {}
        for number, row in self._rows(table):
            name = self.clean(self._must(row, table, number, column))
            if name in found:
                raise _wrong(table, number, column, f"{row[column]!r} is in two rows")
            found[name] = self._fields(table, number, row, (column,))
        return found

    def _fields(self, table: str, number: int, row: Row, apart: tuple[str, ...]) -> dict[str, Any]:
        """The fields that a row says, those of ``more`` with them."""
        fields = {
            name: _value(text)
            for name, text in row.items()
            if name in COLUMNS[table] and name not in (*apart, "more")
        }
        if "more" in row:
            try:
                more = json.loads(row["more"])
            except (ValueError, RecursionError):
                more = None
            if not isinstance(more, dict):
                raise _wrong(table, number, "more", f"{row['more'][:80]!r} is no JSON object")
            for name in more.keys() & fields.keys():
                raise _wrong(table, number, "more", f"{name!r} is in a column of its own, too")
            fields |= more
        return fields

    def _passage(self, number: int, row: Row) -> Any:
        a, b = (self.clean(self._must(row, "passages", number, end)) for end in ("from", "to"))
        way = row.get("way", "<->")
        if way not in ("<->", "->"):
            raise _wrong("passages", number, "way", f"{way!r} is neither <-> nor ->")
        fields = self._fields("passages", number, row, ("from", "way", "to"))
        text = f"{a} {way} {b}"
        return {text: fields} if fields else text

    def _place(
        self,
        number: int,
        row: Row,
        items: dict[str, dict[str, Any]],
        rooms: dict[str, dict[str, Any]],
    ) -> None:
        item = self.clean(self._must(row, "placements", number, "item"))
        room = self.clean(self._must(row, "placements", number, "room"))
        if room not in rooms:
            raise _wrong("placements", number, "room", f"{row['room']!r} is in no row of rooms")
        if item not in items:
            if self.tables.rows["items"]:
                raise _wrong("placements", number, "item", f"{row['item']!r} is in no row of items")
            items[item] = {}
        count = _value(row.get("count", "1"))
        if not isinstance(count, int) or isinstance(count, bool) or count < 1:
            raise _wrong("placements", number, "count", f"{row['count']!r} is no number from 1")
        if "chest" in row:
            chest = _in(number, _in(number, rooms[room], "chests"), self.clean(row["chest"]))
            into = _in(number, chest, "holds")
        else:
            into = _in(number, rooms[room], "items")
        if item in into:
            raise _wrong("placements", number, "item", f"{row['item']!r} is there in two rows")
        more = self._fields("placements", number, row, ("item", "count", "room", "chest"))
        into[item] = {"count": count, **more} if more else count

    def _assume(self, said: dict[str, Any], rooms: Mapping[str, Any]) -> None:
        """The fields that a level must have and these tables lack."""
        names = [*rooms]
        if not names and "maps" not in said:
            raise TableError("rooms: there is no room in it, and none in passages")
        if "start" not in said and "players" not in said and "maps" not in said:
            said["start"] = names[0]
            self.tables.assumed.append(f"the start is {names[0]}, the first room: no table says it")
        if "goal" not in said:
            said["goal"] = names[-1] if names else said.get("start")
            self.tables.assumed.append(
                f"the goal is {said['goal']}, the last room: no table says it"
            )


def _in(number: int, said: dict[str, Any], field: str) -> dict[str, Any]:
    """Return the value of a field of a room, as a mapping that a placement can be added to."""
    found: Any = said.setdefault(field, {})
    if not isinstance(found, dict):
        raise _wrong("placements", number, "room", f"`more` of this room says {field} otherwise")
    return found


def _wrong(table: str, number: int, column: str, message: str) -> TableError:
    return TableError(f"{table}, row {number}, column {column}: {message}")
