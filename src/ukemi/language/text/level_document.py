"""Find where a level file describes its things, and make the edits that add and remove things."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from functools import cached_property
from typing import Any

from ...level import Level, Passage
from ...level.maps.tilemap import cell_of
from .editing import REMOVED, Edit, Path

#: Letters for something that is drawn on a map and has no symbol yet.
SYMBOLS = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789"


class LevelDocument:
    """A level, with what its file says.

    Args:
        document: The data of its file.
    """

    def __init__(self, level: Level, document: Any) -> None:
        self.level, self.document = level, document

    # -- rooms --------------------------------------------------------------------------------

    def with_more(self, place: str, item: str, count: int = 1) -> list[Edit] | None:
        """The edits that put some more of an item in a room or a chest; ``None`` where that cannot be said."""
        rooms = self.document.get("rooms")
        if isinstance(rooms, list) and place in rooms:
            return [self._rooms_with(place, {"items": [item] * count})]
        path = self.holding(place)
        if path is not None:
            return one_more(path, self.at(path), item, count)
        cell, symbol = cell_of(place), self.symbol_of(item)
        if cell is None or cell.map not in self.level.maps or count != 1:
            return None
        new: list[Edit] = []
        if symbol is None:
            known = {*(self.document.get("legend") or {}), *"".join(self.drawn_rows())}
            symbol = next((one for one in SYMBOLS if one not in known), None)
            new = [] if symbol is None else [Edit(("legend", symbol), {"item": item})]
        drawn = self._drawn(cell.map, {(cell.column, cell.row): (self._floors, symbol)})
        return [*new, *drawn] if drawn else None

    def without_one(self, room: str, item: str) -> list[Edit] | None:
        """The edits that take one of an item out of a room; ``None`` where that cannot be said."""
        path, cell = self.holding(room), cell_of(room)
        if path is not None:
            return one_less(path, self.at(path), item)
        if cell is None or cell.map not in self.level.maps:
            return None
        before = self._symbols_of(item)
        return self._drawn(cell.map, {(cell.column, cell.row): (before, self.floor)})

    def holding(self, place: str) -> Path | None:
        """Where the file says what lies in a room or is in a chest; ``None`` for a cell without a name."""
        rooms = self.document.get("rooms")
        if isinstance(rooms, dict) and isinstance(rooms.get(place, 0), dict | None):
            return ("rooms", place, "items")
        drawn = [
            (symbol, said)
            for symbol, said in (self.document.get("legend") or {}).items()
            if isinstance(said, dict)
        ]
        for symbol, said in drawn:
            if said.get("room") == place:
                return ("legend", symbol, "item" if "item" in said else "items")
        for room, fields in self.rooms_said():
            if place in (fields.get("chests") or {}):
                return ("rooms", room, "chests", place, "holds")
        for symbol, said in drawn:
            if isinstance(said.get("chest"), dict) and said["chest"].get("name") == place:
                return ("legend", symbol, "chest", "holds")
        return None

    def without_one_of(self, item: str, where: str) -> list[Edit] | None:
        """The edits that take one of an item from where a check says that it is; ``None`` where that cannot be said.

        Args:
            where: ``ROOM/ITEM``, a chest, an act, a switch or an event, or ``start``.
        """
        room = where.removesuffix(f"/{item}")
        if room in self.level.rooms and room != where:
            return self.without_one(room, item)
        paths: list[Path] = (
            [("inventory", "start")] if where == "start" else [("events", where, "gives")]
        )
        for one, fields in self.rooms_said():
            for kind, field in (("chests", "holds"), ("acts", "gives"), ("switches", "gives")):
                if where in (fields.get(kind) or {}):
                    paths.append(("rooms", one, kind, where, field))
        found = [(path, said) for path in paths if (said := self.at(path)) is not None]
        return one_less(*found[0], item) if len(found) == 1 else None

    def exchanged(self, source: str, item: str, target: str, other: str) -> list[Edit] | None:
        """The edits that exchange two things that lie in two rooms; ``None`` where that cannot be said."""
        if source == target or any(self.level.rooms[room].cell for room in (source, target)):
            return None
        parts = (
            self.without_one(source, item), self.with_more(target, item),
            self.without_one(target, other), self.with_more(source, other),
        )  # fmt: skip
        if any(part is None for part in parts):
            return None
        said = self.document["rooms"]
        edits = []
        for room, gone, come in ((source, item, other), (target, other, item)):
            items = said[room]["items"]
            new: Any = come
            if isinstance(items, list):
                new = [
                    come if one == gone and items.index(one) == n else one
                    for n, one in enumerate(items)
                ]
            elif isinstance(items, dict):
                return None
            edits.append(Edit(("rooms", room, "items"), new))
        return edits

    def with_switch(self, room: str, name: str, flag: str) -> list[Edit] | None:
        """The edits that put a switch in a room; ``None`` where that cannot be said."""
        if name in self.level.things:
            return None
        rooms, path, does = self.document.get("rooms"), self.holding(room), {"flips": flag}
        if isinstance(rooms, list) and room in rooms:
            return [self._rooms_with(room, {"switches": {name: does}})]
        if path != ("rooms", room, "items"):
            return None
        return [Edit(("rooms", room, "switches", name), does)]

    def _rooms_with(self, room: str, fields: dict[str, Any]) -> Edit:
        """The edit that gives one of the rooms some fields where they are a plain list."""
        rooms = self.document["rooms"]
        return Edit(("rooms",), {one: fields if one == room else {} for one in rooms})

    # -- maps ---------------------------------------------------------------------------------

    @property
    def floor(self) -> str | None:
        """The symbol for floor."""
        legend = self.document.get("legend") or {}
        if "." not in legend:
            return "."
        return next((symbol for symbol, said in legend.items() if said == "floor"), None)

    def symbol_of(self, item: str) -> str | None:
        """The symbol that stands for one of an item and nothing else."""
        return next(iter(self._symbols_of(item)), None)

    def _symbols_of(self, item: str) -> list[str | None]:
        """All symbols that stand for one of an item and nothing else."""
        wanted = ({"item": item}, {"items": item}, {"items": [item]})
        legend = self.document.get("legend") or {}
        return [symbol for symbol, said in legend.items() if said in wanted]

    @property
    def _floors(self) -> list[str | None]:
        """The symbols for mere floor."""
        legend = self.document.get("legend") or {}
        own = [symbol for symbol, said in legend.items() if said == "floor"]
        return own if "." in legend else [".", *own]

    def _drawn(
        self,
        name: str,
        cells: Mapping[tuple[int, int], tuple[Collection[str | None], str | None]],
    ) -> list[Edit] | None:
        """The edit that draws symbols on a map.

        Args:
            cells: By column and row, the symbols that may be drawn over, and the one to draw.

        Returns:
            The edit; ``None`` if something else is drawn there, so that nothing is lost.
        """
        path, rows = next(
            ((path, rows) for one, path, rows in self.drawings() if one == name), ((), [])
        )
        changed = list(rows)
        for (column, row), (over, symbol) in cells.items():
            line = changed[row - 1] if row <= len(rows) else ""
            if symbol is None or column > len(line) or line[column - 1] not in over:
                return None
            changed[row - 1] = line[: column - 1] + symbol + line[column:]
        if isinstance(self.at(path), str):
            return [Edit(path, "\n".join(changed))]
        lines = zip(rows, changed, strict=True)
        return [Edit((*path, row), new) for row, (old, new) in enumerate(lines) if old != new]

    def free_cell(self, room: str) -> str | None:
        """The cell that a room of a map is named after, or one beside it, if mere floor is drawn there."""
        cell = self.level.rooms[room].cell
        if cell is None:
            return None
        rows = next((rows for name, _, rows in self.drawings() if name == cell.map), [])
        for x, y in (0, 0), (1, 0), (-1, 0), (0, 1), (0, -1):
            column, row = cell.column + x, cell.row + y
            if row <= len(rows) and rows[row - 1][column - 1 : column] in self._floors:
                return f"{cell.map}@{column},{row}"
        return None

    def drawn_rows(self) -> list[str]:
        """The rows of all maps that are drawn in the file."""
        return [row for _, _, rows in self.drawings() for row in rows]

    def drawings(self) -> Iterator[tuple[str, Path, list[str]]]:
        """Each map that is drawn in the file: its name, where it stands, and its rows."""
        for name, said in (self.document.get("maps") or {}).items():
            inner = isinstance(said, dict) and "rows" in said
            rows = said["rows"] if inner else said
            path: Path = ("maps", name, "rows") if inner else ("maps", name)
            if isinstance(rows, str):
                yield name, path, rows.split("\n")
            elif isinstance(rows, list) and all(isinstance(row, str) for row in rows):
                yield name, path, rows

    def at(self, path: Path) -> Any:
        """Return what the file says at a path; ``None`` if nothing."""
        said = self.document
        for step in path:
            if isinstance(said, list):
                said = said[int(step)]
            else:
                said = said.get(step) if isinstance(said, dict) else None
        return said

    # -- passages and locks -------------------------------------------------------------------

    @cached_property
    def passages(self) -> list[Passage]:
        """The passages of the file."""
        return [one for one in self.level.passages if not one.on_map]

    def entry(self, passage: Passage) -> tuple[tuple[str | int, ...], Any] | None:
        """Where a passage's fields stand in the file, and what is said there."""
        return self._entries.get(id(passage))

    @cached_property
    def _entries(self) -> dict[int, tuple[tuple[str | int, ...], Any]]:
        """Where each passage stands in the file; those that are written alike in their order."""
        alike: dict[str, list[Passage]] = {}
        for one in self.level.passages:
            if not one.on_map:
                alike.setdefault(one.text, []).append(one)
        found: dict[int, tuple[tuple[str | int, ...], Any]] = {}
        for number, said in enumerate(self.document.get("passages") or ()):
            text = next(iter(said)) if isinstance(said, dict) and len(said) == 1 else said
            same = alike.get(" ".join(text.split())) if isinstance(text, str) else None
            if same:
                passage = same.pop(0)
                if not passage.part_of:
                    found[id(passage)] = ("passages", number), said
        return found

    def locks(self) -> Iterator[tuple[str, tuple[str | int, ...], Any]]:
        """Each lock of the file: what it is on, where it stands, and what it says."""
        for name, said in (self.document.get("locks") or {}).items():
            yield name, ("locks", name), said
        for passage in self.passages:
            found = self.entry(passage)
            if found and isinstance(found[1], dict):
                text = next(iter(found[1]))
                fields = found[1][text]
                if isinstance(fields, dict) and "lock" in fields:
                    yield passage.thing, (*found[0], text, "lock"), fields["lock"]
        for room, fields in self.rooms_said():
            for name, chest in (fields.get("chests") or {}).items():
                if isinstance(chest, dict) and "lock" in chest:
                    yield name, ("rooms", room, "chests", name, "lock"), chest["lock"]
        for symbol, said in (self.document.get("legend") or {}).items():
            if isinstance(said, dict) and "lock" in said:
                yield str(said.get("name", symbol)), ("legend", symbol, "lock"), said["lock"]

    def rooms_said(self) -> Iterator[tuple[str, dict[str, Any]]]:
        """The rooms of the file with what is said of each."""
        rooms = self.document.get("rooms")
        for room, fields in rooms.items() if isinstance(rooms, dict) else ():
            said = fields if isinstance(fields, dict) else {}
            if all(isinstance(said.get(one) or {}, dict) for one in ("chests", "switches", "acts")):
                yield room, said


def one_more(path: Path, said: Any, item: str, count: int = 1) -> list[Edit] | None:
    """The edits that count some more of an item in a value that says how many there are of each.

    Args:
        path: Where the value stands.
        said: The value; ``None`` if there is none.

    Returns:
        The edits; ``None`` where that cannot be said.

    Example:
        >>> one_more(("rooms", "quay", "items"), ["peg"], "peg")
        [Edit(path=('rooms', 'quay', 'items', 1), value='peg')]
    """
    match said:
        case None | []:
            return [Edit(path, [item] if count == 1 else {item: count})]
        case str() if said == item:
            return [Edit(path, {item: 1 + count})]
        case str():
            return [Edit(path, [said, item] if count == 1 else {said: 1, item: count})]
        case list() if count == 1:
            return [Edit((*path, len(said)), item)]
        case list():
            counts = {one: said.count(one) for one in said}
            return [Edit(path, {**counts, item: counts.get(item, 0) + count})]
        case dict() if isinstance(said.get(item), dict):
            return [Edit((*path, item, "count"), int(said[item].get("count", 1)) + count)]
        case dict() if isinstance(said.get(item, 0), int):
            return [Edit((*path, item), said.get(item, 0) + count)]
    return None


def one_less(path: Path, said: Any, item: str) -> list[Edit] | None:
    """The edits that count one less of an item: the opposite of :func:`one_more`."""
    none_left = [Edit(path, [])]
    match said:
        case str() if said == item:
            return none_left
        case list() if item in said:
            at = (*path, said.index(item))
            return [Edit(at, REMOVED)] if len(said) > 1 else none_left
        case dict() if isinstance(said.get(item), int):
            if said[item] > 1:
                return [Edit((*path, item), said[item] - 1)]
            return [Edit((*path, item), REMOVED)] if len(said) > 1 else none_left
    return None
