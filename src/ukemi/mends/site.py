"""A level that was checked, with what its file says and what one of its findings is about."""

from __future__ import annotations

from functools import cached_property
from typing import Any

from ..checks import Finding, Report
from ..language.text.level_document import LevelDocument
from ..level import Level, Passage
from ..rules import PLACE, Position, compile_level
from ..rules.variables import Names

#: Rooms to try for something that is put elsewhere, the nearest first.
NEAREST = 8


class Site(LevelDocument):
    """A level that was checked, with what its file says.

    Args:
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
        super().__init__(level, document)
        self._prefix = "" if stage is None else f"{stage}/"
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

    @property
    def walked(self) -> str | None:
        """The passage whose walk is the mistake, as the file calls it; ``None`` if the mistake is another move."""
        move = self.finding.mistake or {}
        name = str(move.get("name"))
        own = move.get("do") == "walk" and name.startswith(self._prefix)
        return name.removeprefix(self._prefix) if own else None

    @cached_property
    def passages(self) -> list[Passage]:
        """The passages of the file, those that the finding speaks of first."""

        def far(passage: Passage) -> bool:
            names = {passage.name, passage.thing, passage.a, passage.b}
            return self.walked not in names and not names & self.words

        return sorted((one for one in self.level.passages if not one.on_map), key=far)

    @cached_property
    def rooms(self) -> list[str]:
        """The rooms that some run enters, the nearest to the start first."""
        found = self.level.connected(self.level.start_rooms())
        shut = self.report.unreached
        return [
            room for room in found if room in self.level.rooms and self._prefix + room not in shut
        ]

    @cached_property
    def _names(self) -> Names:
        return Names(self.level)

    def placed(self, item: str) -> int:
        """Count the units of an item that the level places."""
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
