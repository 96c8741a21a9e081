"""The contents of a level: its parts, by name, and its maps cut into rooms."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace
from typing import TYPE_CHECKING, Any, NamedTuple, Self

from .conditions import Condition
from .displayed import Displayed
from .effects import Effects
from .event import Event
from .item import Item
from .lock import Lock
from .maps.tilemap import Tile, TileMap
from .passage import Passage
from .place import Place
from .player import Player
from .problems import Problem
from .room import Act, Cell, Chest, Room
from .scatter_groups import Scatter
from .settings import Accepted, Expect, Inventory, PlayRules

if TYPE_CHECKING:
    from .maps.cut import Cut


class Thing(NamedTuple):
    """A door, chest, switch, act, event or passage, with its room (a passage: its first).

    An event is in no room: its ``room`` is empty.
    """

    kind: str
    room: str
    what: Passage | Chest | Act | Event


class Contents(Displayed):
    """The parts of a level.

    Attributes:
        items, flags, locks, rooms: The declared things, by name.
        passages: The passages, in order; those across the floors of maps last.
        events: The events, by name.
        areas: The rooms that belong together, by the name of the area.
        maps, legend: The floors drawn as text, and what their symbols mean.
        cut: The result of cutting the maps into rooms.
        things: Doors, chests, switches, acts and other passages, by name.
        start: The room the player starts in.
        goal: When the level can be finished.
        players: Several players, by name; none where there is just one, who has no name.
        inventory, rules: The inventory, and the rules of pickups and of finishing.
        scattered: The groups of things to place again at random, by name.
        expected: The designer's claims.
        accepted: Findings that are meant as they are.
        turned: The flags that something turns.
        places: Where each field of the level stands in its file.
        sound: Whether it is known to make sense as a whole, as a level just read is.
        file, text: The file it was read from and what that said; ``None`` for one built in Python.
    """

    def __init__(self, name: str = "level") -> None:
        self.name = name
        self.file: str | None = None
        self.text: str | None = None
        self.start = ""
        self._start_is_own = False
        self.goal: Condition | None = None
        self.items: dict[str, Item] = {}
        self.flags: dict[str, bool] = {}
        self.locks: dict[str, Lock] = {}
        self.inventory = Inventory()
        self.rules = PlayRules()
        self.players: dict[str, Player] = {}
        self.scattered: dict[str, Scatter] = {}
        self.maps: dict[str, TileMap] = {}
        self.legend: dict[str, Tile] = {}
        self.cut: Cut | None = None
        self.rooms: dict[str, Room] = {}
        self.passages: list[Passage] = []
        self.events: dict[str, Event] = {}
        self.areas: dict[str, tuple[str, ...]] = {}
        self.expected = Expect()
        self.accepted: tuple[Accepted, ...] = ()
        self.things: dict[str, Thing] = {}
        self.places: dict[str, Place] = {}
        self.turned: set[str] = set()
        self._cells: set[Cell] = set()
        self.sound = False

    def all_flags(self) -> set[str]:
        """Every flag: those declared and those that something turns."""
        return self.flags.keys() | self.turned

    def lock_of(self, thing: Passage | Chest) -> Lock | None:
        """The lock of a passage or chest, described there or by name; ``None`` without one."""
        return self.locks[thing.lock] if isinstance(thing.lock, str) else thing.lock

    def doors(self) -> Iterator[tuple[Passage, Lock]]:
        """Each door, by one passage, with its lock."""
        seen: set[str] = set()
        for passage in self.passages:
            if passage.lock is None or passage.part_of in seen:
                continue
            if passage.part_of is not None:
                seen.add(passage.part_of)
            lock = self.lock_of(passage)
            assert lock is not None
            yield passage, lock

    def adopt(self, flags: Iterable[str], cells: set[Cell]) -> list[Problem]:
        """Take up parts that were set from outside, and cut the maps among them into rooms.

        Args:
            flags: The flags that something in them turns.
            cells: The cells of maps that they name.

        Returns:
            What is wrong: names taken twice, symbols that mean nothing, no start or two.
        """
        self.turned = set(flags)
        self._cells = cells if self.maps else set()
        self._start_is_own = bool(self.start)
        return self._cut_maps()

    def take_up(self, flags: Iterable[str], cells: set[Cell]) -> None:
        """Note flags that something new turns and cells that it names, which become rooms."""
        self.sound = False
        self.turned |= set(flags)
        if self.maps and not cells <= self._cells:
            self._cells |= cells
            self._cut_maps()

    def _cut_maps(self, every_cell: bool = False) -> list[Problem]:
        """Rebuild the rooms and passages of the maps; return the problems."""
        self.rooms = {name: room for name, room in self.rooms.items() if room.cell is None}
        self.passages = [passage for passage in self.passages if not passage.on_map]
        problems: list[Problem] = []
        if self.maps:
            from .maps.cut import cut_maps

            self.cut = cut_maps(
                self.maps, self.legend, self._cells, every_cell, self.rules.falling == "deadly"
            )
            if self.cut.problems:
                return list(self.cut.problems)
            for name in self.rooms.keys() & self.cut.rooms.keys():
                message = f"{name!r} is the name of a room and of a cell"
                problems.append(Problem("duplicate-name", message, self.rooms[name].place, name))
            self.rooms |= self.cut.rooms
            self.passages += self.cut.passages
            problems += self._find_start(self.cut.starts)
        return problems + self._index()

    def _find_start(self, starts: list[tuple[str, Place | None]]) -> list[Problem]:
        own = self.places.get("start")
        if self.start and self._start_is_own:
            if starts and [room for room, _ in starts] != [self.start]:
                message = f"the player starts in {self.start!r} and, by a map, in {starts[0][0]!r}"
                return [Problem("start-blocked", message, starts[0][1] or own, self.start)]
            return []
        if len(starts) == 1:
            self.start = starts[0][0]
            return []
        if starts:
            message = f"there are two starts: {starts[0][0]} and {starts[1][0]}"
            return [Problem("start-blocked", message, starts[1][1])]
        message = "there is no start: put an @ on a map, or add a line such as `start: quay`"
        return [Problem("start-blocked", message, self.places.get("maps"))]

    def to_rooms(self, every_cell: bool = False) -> Self:
        """The level with its maps cut into rooms and passages, and no maps.

        Args:
            every_cell: Whether each cell one can stand on is to be a room, not only those that
                matter.

        Returns:
            Another level, in which the same runs are possible.
        """
        copy = self.copy()
        if every_cell:
            copy._cut_maps(every_cell=True)
        copy.maps, copy.legend = {}, {}
        return copy

    def copy(self) -> Self:
        """A copy that has the same parts until it is given others."""
        copy = object.__new__(type(self))
        copy.__dict__.update(self.__dict__)
        return copy

    def laid_out(
        self, rooms: dict[str, Room], maps: dict[str, TileMap], legend: dict[str, Tile]
    ) -> Self:
        """A copy with other rooms and other floors; its maps are cut into rooms again.

        Args:
            rooms: The rooms of its own, without those of maps.
            maps: The floors.
            legend: The meaning of their symbols.
        """
        copy = self.copy()
        copy.maps, copy.legend = maps, legend
        copy.rooms = dict(rooms)
        if not maps:
            copy._index()
            return copy
        copy._cut_maps()
        return copy

    def without_slots(self) -> Self:
        """A copy in which any number of things can be carried."""
        copy = self.copy()
        copy.inventory = replace(self.inventory, slots=None)
        return copy

    def placed(self, item: str) -> int:
        """Count the units of an item that the level places, in rooms and chests, and starts with."""
        lying = sum(room.items[item].count for room in self.rooms.values() if item in room.items)
        held = sum(
            chest.holds.get(item, 0)
            for room in self.rooms.values()
            for chest in room.chests.values()
        )
        carried = sum(start.get(item, 0) for start in self.starts())
        return lying + held + carried

    def inventory_at(self, room: str) -> Inventory:
        """Return the inventory of a room: everywhere the same, but in a campaign."""
        return self.inventory

    def rules_at(self, room: str) -> PlayRules:
        """Return the rules of play in a room: how things are picked up and how a run ends."""
        return self.rules

    @property
    def several(self) -> bool:
        """Whether several play."""
        return len(self.players) > 1

    def begins(self, player: str | None) -> tuple[str, dict[str, int]]:
        """Where a player starts, and what that player carries then.

        If all players share one inventory, the first player has it.
        """
        if player is None:
            return self.start, self.inventory.start
        one = self.players[player]
        start = one.start or self.start
        if not self.inventory.shared:
            return start, self.inventory.start if one.inventory is None else one.inventory
        total: dict[str, int] = {}
        if player == next(iter(self.players)):
            for counts in (
                self.inventory.start,
                *(p.inventory or {} for p in self.players.values()),
            ):
                for item, count in counts.items():
                    total[item] = total.get(item, 0) + count
        return start, total

    def start_rooms(self) -> list[str]:
        """The rooms that players begin in; none if the start is still missing."""
        rooms = [self.begins(player)[0] for player in self.players] or [self.start]
        return list(dict.fromkeys(room for room in rooms if room))

    def starts(self) -> list[dict[str, int]]:
        """The items carried from the start; in a campaign, the items that each level adds."""
        return [self.begins(player)[1] for player in self.players or [None]]

    def again(self) -> bool:
        """Whether its things can be reached again after leaving: only in a campaign with a cycle."""
        return False

    def between(self) -> Iterator[tuple[Condition, Effects, str, Place | None]]:
        """The conditions and effects between the levels of a campaign: none in a single level."""
        return iter(())

    def connected(self, rooms: Iterable[str], around: str | None = None) -> dict[str, None]:
        """Return the rooms that passages lead to from some, were every door open, the nearest first.

        Args:
            rooms: The rooms to begin in.
            around: A room that is not entered.
        """
        ways: dict[str, list[str]] = {}
        for passage in self.passages:
            for a, b in passage.walks():
                ways.setdefault(a, []).append(b)
        reached = dict.fromkeys(rooms)
        ahead = list(reached)
        for here in ahead:
            for other in ways.get(here, ()):
                if other not in reached and other != around:
                    reached[other] = None
                    ahead.append(other)
        return reached

    def knowing(self, flags: set[str]) -> Self:
        """A copy with some flags on from the start."""
        copy = self.copy()
        copy.flags = {**self.flags, **dict.fromkeys(flags, True)}
        return copy

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Contents) and self._says() == other._says()

    __hash__ = None  # type: ignore[assignment]  # a level can be added to

    def __repr__(self) -> str:
        def counted(number: int, what: str) -> str:
            return f"{number} {what}" + ("" if number == 1 else "s")

        kinds = counted(len(self.items), "kind") + " of item"
        rooms, passages = counted(len(self.rooms), "room"), counted(len(self.passages), "passage")
        return f"<Level {self.name!r}: {rooms}, {passages}, {kinds}>"

    def _says(self) -> list[Any]:
        said = [getattr(self, name) for name in _SAYS]
        if self.maps:
            said += [self.maps, self.legend]
            said[_SAYS.index("rooms")] = [one for one in self.rooms.values() if one.cell is None]
            said[_SAYS.index("passages")] = [one for one in self.passages if not one.on_map]
        return said

    def _index(self) -> list[Problem]:
        """Rebuild the table of things; return the names that are used twice."""
        self.things = {}
        twice: list[Problem] = []

        def enter(kind: str, room: str, what: Passage | Chest | Act | Event) -> None:
            enter_as(what.name, kind, room, what)

        def enter_as(name: str, kind: str, room: str, what: Passage | Chest | Act | Event) -> None:
            known = self.things.get(name)
            if known is None:
                self.things[name] = Thing(kind, room, what)
            else:
                message = f"{name!r} is the name of both a {known.kind} and a {kind}"
                if known.kind == kind:
                    message = f"two things of kind {kind} are named {name!r}"
                twice.append(Problem("duplicate-name", message, what.place, name))

        for room in self.rooms.values():
            for chest in room.chests.values():
                enter("chest", room.name, chest)
            for act in room.all_acts():
                enter("switch" if act.switch else "act", room.name, act)
        for event in self.events.values():
            enter("event", "", event)
        for passage in self.passages:
            if not passage.on_map:
                enter("passage" if passage.lock is None else "door", passage.a, passage)
        for passage, _ in self.doors():
            if passage.part_of is not None:
                enter_as(passage.part_of, "door", passage.b, passage)
        return twice


_SAYS = [
    "name",
    "start",
    "goal",
    "items",
    "flags",
    "locks",
    "inventory",
    "rules",
    "players",
    "rooms",
    "passages",
    "areas",
    "events",
    "scattered",
    "expected",
    "accepted",
]
