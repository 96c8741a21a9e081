"""Where the things of a level stand in its file."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from functools import cached_property
from typing import Any

from ..checks import Finding, Report
from ..files.editing import REMOVED, Edit
from ..level import Level, Passage
from ..rules import PLACE, Position, compile_level
from ..rules.variables import Names

#: Rooms to try for something that is put elsewhere, the nearest first.
NEAREST = 8


class Site:
    """A level that was checked, with what its file says.

    Args:
        level: The level.
        document: The data of its file.
        report: The check.
        finding: The finding to mend.
        stage: In a check of a campaign: the level's name there.
    """

    def __init__(
        self,
        level: Level,
        document: Any,
        report: Report,
        finding: Finding,
        stage: str | None = None,
    ) -> None:
        self._prefix = "" if stage is None else f"{stage}/"
        self.level = level
        self.document = document
        self.report = report
        self.finding = finding

    # -- what it is about ---------------------------------------------------------------------

    @cached_property
    def words(self) -> set[str]:
        """The names that the finding speaks of."""
        said = f"{self.finding.subject} {self.finding.message} {self.finding.why}"
        return {word.strip("`.,;:()") for word in said.replace("/", " ").split()}

    @cached_property
    def items(self) -> list[str]:
        """The items that the finding speaks of; all that are asked for, where it speaks of none."""
        named = [item for item in self.level.items if item in self.words]
        return named or [item for item, kind in self.level.items.items() if kind.kind != "reward"]

    @cached_property
    def flags(self) -> list[str]:
        """The flags that the finding speaks of."""
        return sorted(self.level.all_flags() & self.words)

    @cached_property
    def passages(self) -> list[Passage]:
        """The passages of the file, those that the finding speaks of first."""
        mistake = self.finding.mistake or {}

        def far(passage: Passage) -> bool:
            names = {passage.name, passage.thing, passage.a, passage.b}
            return mistake.get("name") not in names and not names & self.words

        return sorted((one for one in self.level.passages if not one.on_map), key=far)

    @cached_property
    def rooms(self) -> list[str]:
        """The rooms that some run enters, the nearest to the start first."""
        found = self.level.connected([self.level.start] if self.level.start else [])
        shut = self.report.unreached
        return [
            room for room in found if room in self.level.rooms and self._prefix + room not in shut
        ]

    @cached_property
    def _names(self) -> Names:
        return Names(self.level)

    def placed(self, item: str) -> int:
        """How many of an item the level places."""
        return self._names.placed(item)

    def places_for(self, item: str) -> list[str]:
        """Rooms where something may be put: where such a thing lies, then the nearest."""
        first = [room for room in self.rooms if item in self.level.rooms[room].items]
        rooms = [*first, *self.rooms]
        if self.finding.route:
            rooms.insert(0, self.room_of(self.finding.route.positions[-1]))
        return [room for room in dict.fromkeys(rooms) if room in self.level.rooms][:NEAREST]

    def room_of(self, position: Position) -> str:
        """The room the player is in; empty if it is one of another level."""
        room = compile_level(self.report.level).places[position[PLACE]]
        return room.removeprefix(self._prefix) if room.startswith(self._prefix) else ""

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
        path = ("rooms", room, "items")
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

    def without_one(self, room: str, item: str) -> list[Edit] | None:
        """The edits that take one of an item out of a room; ``None`` where that cannot be said."""
        cell = self.level.rooms[room].cell
        if cell is not None and room == str(cell):
            before = self._symbols_of(item)
            return self._drawn(cell.map, {(cell.column, cell.row): (before, self.floor)})
        if not self._as_mapping(room):
            return None
        said = (self.document["rooms"][room] or {}).get("items")
        path = ("rooms", room, "items")
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
            name: The map.
            cells: By column and row, the symbols that may be drawn over, and the one to draw.

        Returns:
            The edit; ``None`` if something else is drawn there, so that nothing is lost.
        """
        drawing = (self.document.get("maps") or {}).get(name)
        path: tuple[str | int, ...] = ("maps", name)
        if isinstance(drawing, dict) and "rows" in drawing:
            drawing, path = drawing["rows"], (*path, "rows")
        if not isinstance(drawing, str):
            return None
        rows = drawing.split("\n")
        for (column, row), (over, symbol) in cells.items():
            line = rows[row - 1] if row <= len(rows) else ""
            if symbol is None or column > len(line) or line[column - 1] not in over:
                return None
            rows[row - 1] = line[: column - 1] + symbol + line[column:]
        return [Edit(path, "\n".join(rows))]

    # -- passages and locks -------------------------------------------------------------------

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
