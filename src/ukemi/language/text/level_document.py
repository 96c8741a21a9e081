"""Find where a level file describes its things, and make the edits that add and remove things."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from functools import cached_property
from typing import Any

from ...level import Level, Passage
from .editing import REMOVED, Edit, Path


class LevelDocument:
    """A level, with what its file says.

    Args:
        document: The data of its file.
    """

    def __init__(self, level: Level, document: Any) -> None:
        self.level, self.document = level, document

    # -- rooms --------------------------------------------------------------------------------

    def with_one_more(self, room: str, item: str) -> list[Edit] | None:
        """The edits that lay one more of an item in a room; ``None`` where that cannot be said."""
        cell = self.level.rooms[room].cell
        if cell is not None and room == str(cell):
            symbol = self.symbol_of(item)
            return self._drawn(cell.map, {(cell.column, cell.row): (self._floors, symbol)})
        if not self._as_mapping(room):
            return None
        said = (self.document["rooms"][room] or {}).get("items")
        return one_more(("rooms", room, "items"), said, item)

    def without_one(self, room: str, item: str) -> list[Edit] | None:
        """The edits that take one of an item out of a room; ``None`` where that cannot be said."""
        cell = self.level.rooms[room].cell
        if cell is not None and room == str(cell):
            before = self._symbols_of(item)
            return self._drawn(cell.map, {(cell.column, cell.row): (before, self.floor)})
        if not self._as_mapping(room):
            return None
        said = (self.document["rooms"][room] or {}).get("items")
        return one_less(("rooms", room, "items"), said, item)

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
            self.without_one(source, item), self.with_one_more(target, item),
            self.without_one(target, other), self.with_one_more(source, other),
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
        if self.level.rooms[room].cell or name in self.level.things or not self._as_mapping(room):
            return None
        return [Edit(("rooms", room, "switches", name), {"flips": flag})]

    def _as_mapping(self, room: str) -> bool:
        rooms = self.document.get("rooms")
        return isinstance(rooms, dict) and isinstance(rooms.get(room, 0), dict | None)

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


def one_more(path: Path, said: Any, item: str) -> list[Edit] | None:
    """The edits that count one more of an item in a value that says how many there are of each.

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
        case None:
            return [Edit(path, [item])]
        case str():
            return [Edit(path, {item: 2} if said == item else [said, item])]
        case list():
            return [Edit((*path, len(said)), item)]
        case dict() if item in said:
            one = said[item]
            if isinstance(one, dict):
                return [Edit((*path, item, "count"), int(one.get("count", 1)) + 1)]
            return [Edit((*path, item), one + 1)] if isinstance(one, int) else None
        case dict():
            return [Edit((*path, item), 1)]
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
