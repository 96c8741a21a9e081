"""A level: what a designer lays out, read from a file or built in Python."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING, Any, NamedTuple

from .conditions import At, Condition, Has
from .item import Item
from .language.fields import INVENTORY, ITEM, LOCK, RULES, Part
from .language.nodes import Node, plain_node
from .language.notes import BadValue, Notes, bad
from .language.parts import ACTS, CHESTS, SWITCHES, Named, Placements, Rooms
from .language.passages import Passages
from .language.resolve import named_cells, resolve
from .language.tiles import Legend, Maps
from .language.types import FlagTurned, name_of
from .language.whole import ExpectType, Goal
from .lock import Lock
from .maps.tilemap import Tile, TileMap
from .passage import Passage
from .place import Place
from .problems import LevelError, Problem
from .room import Act, Cell, Chest, Room
from .settings import Expect, Inventory, PlayRules

if TYPE_CHECKING:
    from typing import Unpack

    from . import keywords as given
    from .maps.cut import Cut


class Thing(NamedTuple):
    """A door, chest, switch, act or passage, with the room it is in (a passage: its first)."""

    kind: str
    room: str
    what: Passage | Chest | Act


class Level:
    """A level, laid out piece by piece.

    Each method takes the fields of the level file as keywords (``on_pickup`` for ``on-pickup``,
    ``from_`` for ``from``), and fails at once with a :class:`LevelError` where a name is not
    known: items, flags, locks and rooms are declared before they are used.

    Args:
        name: The level's name.

    Attributes:
        items, flags, locks, rooms: What was declared, by name.
        passages: The passages, in order.
        things: Doors, chests, switches, acts and other passages, by name.
        start: The room the player starts in.
        goal: When the level can be finished.
        file, text: The file it was read from and what that said; ``None`` for one built in Python.

    Example:
        >>> level = Level("The Tide Mill")
        >>> level.item("iron-key", use="spent")
        >>> level.room("quay", items="iron-key")
        >>> level.room("granary")
        >>> level.passage("quay <-> granary", lock="iron-key", name="mill-door")
        >>> level.set_start("quay")
        >>> level.set_goal("granary")
        >>> level
        <Level 'The Tide Mill': 2 rooms, 1 passage, 1 kind of item>
        >>> level.room("wheel-pit", items="irn-key")
        Traceback (most recent call last):
            ...
        ukemi.level.problems.LevelError: 'irn-key' is not the name of an item (did you mean \
'iron-key'?) [unknown-name]
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
        self.maps: dict[str, TileMap] = {}
        self.legend: dict[str, Tile] = {}
        self.cut: Cut | None = None
        self.rooms: dict[str, Room] = {}
        self.passages: list[Passage] = []
        self.expected = Expect()
        self.things: dict[str, Thing] = {}
        self.places: dict[str, Place] = {}
        self._turned: set[str] = set()
        self._cells: set[Cell] = set()

    # -- laying out ---------------------------------------------------------------------------

    def item(self, name: str, **fields: Unpack[given.ItemFields]) -> None:
        """Declare a kind of item.

        Args:
            name: Its name.
            fields: The fields of an item: ``kind``, ``use``, ``max``, ``vital``, ``slots``,
                ``on_pickup``, ``color``, ``label``, ``note``.

        Raises:
            LevelError: A name is taken or not known, or a field cannot be.
        """
        self._add(self.items, _ITEM, name, fields)

    def flag(self, name: str, on: bool = False) -> None:
        """Declare a flag.

        Args:
            name: Its name.
            on: Whether it starts on.

        Raises:
            LevelError: The name is taken or cannot be one.
        """
        notes = Notes()
        self._try(notes, lambda: FlagTurned().read(notes, plain_node(name)))
        self.flags[name] = on

    def lock(self, name: str, **fields: Unpack[given.LockFields]) -> None:
        """Describe a lock once, for many doors and chests.

        Args:
            name: Its name, to be given as ``lock=`` afterwards.
            fields: ``needs``, ``spends``, ``from_``, ``relocks``, ``together``, effects,
                ``color``, ``label``, ``note``.

        Raises:
            LevelError: A name is taken or not known, or a field cannot be.
        """
        self._add(self.locks, _LOCK, name, fields)

    def room(self, name: str, **fields: Unpack[given.RoomFields]) -> None:
        """Add a room.

        Args:
            name: Its name.
            fields: ``items`` lying there, ``chests``, ``switches``, ``acts``, ``label``, ``note``.

        Raises:
            LevelError: A name is taken or not known, or a field cannot be.
        """
        self._add(self.rooms, _ROOM, name, fields)

    def put(self, room: str, items: given.PlacedGiven) -> None:
        """Lay items in a room that is there already.

        Args:
            room: The room.
            items: One item, a list in which repeats count, or a mapping to counts or fields.

        Raises:
            LevelError: The room or an item is not known.
        """
        notes = Notes()
        placed = self._try(notes, lambda: Placements().read(notes, plain_node(items)))
        here = self._own_room(room).items
        for item, placement in placed.items():
            if item in here:
                here[item].count += placement.count
            else:
                here[item] = placement

    def chest(self, room: str, name: str, **fields: Unpack[given.ChestFields]) -> None:
        """Add a chest to a room.

        Args:
            room: The room.
            name: The chest's name.
            fields: ``lock``, ``holds``, effects, ``label``, ``note``.

        Raises:
            LevelError: A name is taken or not known, or a field cannot be.
        """
        self._add(self._own_room(room).chests, CHESTS, name, fields)

    def switch(self, room: str, name: str, **fields: Unpack[given.SwitchFields]) -> None:
        """Add a switch to a room.

        Args:
            room: The room.
            name: The switch's name.
            fields: ``needs``, ``once``, ``teaches``, effects, ``label``, ``note``.

        Raises:
            LevelError: A name is taken or not known, or a field cannot be.
        """
        self._add(self._own_room(room).switches, SWITCHES, name, fields)

    def act(self, room: str, name: str, **fields: Unpack[given.ActFields]) -> None:
        """Add an act to a room: a search, a trade, a talk.

        Args:
            room: The room.
            name: The act's name.
            fields: ``needs``, ``repeat``, ``teaches``, effects, ``label``, ``note``.

        Raises:
            LevelError: A name is taken or not known, or a field cannot be.
        """
        self._add(self._own_room(room).acts, ACTS, name, fields)

    def passage(self, text: str, **fields: Unpack[given.PassageFields]) -> None:
        """Add a passage; with a lock, it is a door.

        Args:
            text: ``quay <-> granary``, or ``quay -> race`` for a one-way passage.
            fields: ``lock``, ``gate``, ``once``, ``steps``, ``name``, effects, ``label``, ``note``.

        Raises:
            LevelError: A name is taken or not known, or a field cannot be.
        """
        notes = Notes(locks=self.locks)
        node = plain_node({text: _as_written(fields)})
        taken: dict[str, int] = {}
        for passage in self.passages:
            if not passage.named:
                taken[passage.text] = taken.get(passage.text, 0) + 1

        def add() -> Passage:
            passage = Passages().one(notes, node, taken)
            self._check_new(passage.name, node)
            return passage

        passage = self._try(notes, add)
        self.passages.append(passage)
        self._index()

    def tile(
        self, symbol: str, ground: str | None = None, **fields: Unpack[given.TileFields]
    ) -> None:
        """Say what a symbol of the maps means.

        Args:
            symbol: The symbol.
            ground: ``wall``, ``floor``, ``void`` or ``start``, and no fields; or ``None``.
            fields: ``item`` or ``items``, ``lock``, ``gate``, ``chest``, ``switch``, ``act``, ``room``,
                ``one_way``, ``solid``, ``once``, ``steps``, ``name``, effects, ``label``, ``note``.

        Raises:
            LevelError: The symbol has a meaning already, a name is not known, or a field cannot be.
        """
        notes = Notes(locks=self.locks)

        def read() -> dict[str, Tile]:
            if symbol in self.legend:
                raise bad(
                    "duplicate-name", f"the symbol {symbol!r} is given twice", plain_node(symbol)
                )
            means = ground if ground is not None else _as_written(fields)
            return Legend().read(notes, plain_node({symbol: means}))

        self.legend.update(self._try(notes, read))

    def map(self, name: str, rows: Any) -> None:
        """Add a floor, drawn with the symbols told so far.

        Args:
            name: The floor's name.
            rows: Text with a line for each row; or a list of rows, each text or a list of symbols;
                or a NumPy array of symbols.

        Raises:
            LevelError: A name is taken, a symbol means nothing, or there are two starts.

        Example:
            >>> level = Level("The Ground Floor")
            >>> level.item("iron-key")
            >>> level.tile("k", item="iron-key")
            >>> level.map("ground", "#####\\n#@.k#\\n#####")
            >>> level.start, list(level.rooms)
            ('ground@2,2', ['ground@2,2', 'ground@4,2'])
        """
        notes = Notes()
        drawn = rows.tolist() if hasattr(rows, "tolist") else rows

        def read() -> dict[str, TileMap]:
            if name in self.maps:
                raise bad("duplicate-name", f"there is a map {name!r} already", plain_node(name))
            return Maps().read(notes, plain_node({name: drawn}))

        self.maps.update(self._try(notes, read))
        problems = [one for one in self._cut_maps() if "no start" not in one.message]
        if problems:
            del self.maps[name]
            self._cut_maps()
            raise LevelError(problems)

    def set_start(self, room: str) -> None:
        """Say which room the player starts in.

        Raises:
            LevelError: The room is not known.
        """
        self._room(room)
        self.start = room
        self._start_is_own = True

    def set_goal(self, goal: str | Condition) -> None:
        """Say when the level can be finished.

        Args:
            goal: A condition, or just the name of a room.

        Raises:
            LevelError: It is no condition, or names something that is not known.
        """
        notes = Notes()
        self.goal = self._try(
            notes, lambda: self.goal_from(*Goal().read(notes, plain_node(goal)), notes)
        )

    def set_inventory(self, **fields: Unpack[given.InventoryFields]) -> None:
        """Say what the player starts with (``start``), how much fits (``slots``), and whether
        things can be put down (``drop``).

        Raises:
            LevelError: A name is not known, or a field cannot be.
        """
        notes = Notes()
        part = Part(INVENTORY, Inventory)
        self.inventory = self._try(notes, lambda: part.read(notes, _node(fields)))

    def set_rules(self, **fields: Unpack[given.RulesFields]) -> None:
        """Say how things are picked up and how a run ends: ``choice`` or ``touch`` for each.

        Raises:
            LevelError: A field cannot be.
        """
        notes = Notes()
        self.rules = self._try(notes, lambda: Part(RULES, PlayRules).read(notes, _node(fields)))

    def expect(self, **fields: Unpack[given.ExpectFields]) -> None:
        """Claim something about the level; a check tells whether it holds.

        Raises:
            LevelError: A name is not known, or a field cannot be.
        """
        notes = Notes()
        self.expected = self._try(notes, lambda: ExpectType().read(notes, _node(fields)))

    # -- looking up ---------------------------------------------------------------------------

    def all_flags(self) -> set[str]:
        """Every flag: those declared and those that something turns."""
        return self.flags.keys() | self._turned

    def lock_of(self, thing: Passage | Chest) -> Lock | None:
        """The lock of a passage or chest, described there or by name; ``None`` without one."""
        return self.locks[thing.lock] if isinstance(thing.lock, str) else thing.lock

    def doors(self) -> Iterator[tuple[Passage, Lock]]:
        """Each door, by a passage of it, and its lock."""
        seen: set[str] = set()
        for passage in self.passages:
            lock = self.lock_of(passage)
            if lock is not None and passage.thing not in seen:
                seen.add(passage.thing)
                yield passage, lock

    def goal_from(self, condition: Condition, node: Node, notes: Notes) -> Condition:
        """A goal as read, with a bare room name made the condition of being there."""
        if isinstance(condition, Has) and condition.count == 1 and condition.name in self.rooms:
            name = condition.name
            if name in self.items or name in self.all_flags() or name in notes.flags:
                other = "an item" if name in self.items else "a flag"
                message = f"{name!r} is both a room and {other}; for the room, write `at {name}`"
                raise bad("duplicate-name", message, node)
            return At(name)
        notes.conditions.append((condition, node))
        return condition

    def adopt(self, notes: Notes, goal: Condition | None) -> list[Problem]:
        """Take up parts that were set from outside, and cut the maps among them into rooms.

        Args:
            notes: What was taken down on reading them.
            goal: The goal, which may name cells.

        Returns:
            What cannot be: names taken twice, symbols that mean nothing, no start or two.
        """
        self._turned = set(notes.flags)
        self._cells = named_cells(notes, goal)
        self._start_is_own = bool(self.start)
        return self._cut_maps()

    def _cut_maps(self, every_cell: bool = False) -> list[Problem]:
        """Make the rooms and passages of the maps anew; returns what cannot be."""
        self.rooms = {name: room for name, room in self.rooms.items() if room.cell is None}
        self.passages = [passage for passage in self.passages if not passage.on_map]
        problems: list[Problem] = []
        if self.maps:
            from .maps.cut import cut_maps

            self.cut = cut_maps(self.maps, self.legend, self._cells, every_cell)
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
            if starts:
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

    def to_rooms(self, every_cell: bool = False) -> Level:
        """The level with its maps cut into rooms and passages, and no maps.

        Args:
            every_cell: Whether each cell one can stand on is to be a room, not only those that
                matter.

        Returns:
            Another level, in which the same runs are possible.
        """
        copy = copy_of(self)
        if every_cell:
            copy._cut_maps(every_cell=True)
        copy.maps, copy.legend = {}, {}
        return copy

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Level) and self._says() == other._says()

    __hash__ = None  # type: ignore[assignment]  # a level can be added to

    def __repr__(self) -> str:
        def counted(number: int, what: str) -> str:
            return f"{number} {what}" + ("" if number == 1 else "s")

        kinds = counted(len(self.items), "kind") + " of item"
        rooms, passages = counted(len(self.rooms), "room"), counted(len(self.passages), "passage")
        return f"<Level {self.name!r}: {rooms}, {passages}, {kinds}>"

    # -- inside -------------------------------------------------------------------------------

    def _says(self) -> list[Any]:
        said = [getattr(self, name) for name in _SAYS]
        if self.maps:
            said += [self.maps, self.legend]
            said[_SAYS.index("rooms")] = [one for one in self.rooms.values() if one.cell is None]
            said[_SAYS.index("passages")] = [one for one in self.passages if not one.on_map]
        return said

    def _add(self, into: dict[str, Any], named: Named, name: str, fields: Any) -> None:
        notes = Notes(locks=self.locks)
        key = plain_node(name)

        def read() -> Any:
            name_of(key, named.what)
            if name in into:
                raise bad("duplicate-name", f"there is {named.what} {name!r} already", key)
            part = named.one(notes, name, _node(fields), key)
            self._check_new_things(part, key)
            return part

        part = self._try(notes, read, adding=(into, name))
        into[name] = part
        self._index()

    def _check_new_things(self, part: Any, key: Node) -> None:
        new = [part] if isinstance(part, (Chest, Act)) else []
        if isinstance(part, Room):
            new = [*part.chests.values(), *part.all_acts()]
        for thing in new:
            self._check_new(thing.name, key)

    def _check_new(self, name: str, node: Node) -> None:
        if name in self.things:
            raise bad(
                "duplicate-name", f"there is a {self.things[name].kind} {name!r} already", node
            )

    def _try(
        self,
        notes: Notes,
        read: Callable[[], Any],
        adding: tuple[dict[str, Any], str] | None = None,
    ) -> Any:
        """Read something and check the names in it, or raise everything that is wrong."""
        result = None
        before = set(self._turned)
        try:
            result = read()
        except BadValue as error:
            notes.problems.append(error.problem)
        self._turned |= notes.flags.keys()
        cells = named_cells(notes, None) - self._cells
        if cells and self.maps:
            self._cells |= cells
            self._cut_maps()
        added = adding if not notes.problems else None
        if added:
            added[0][added[1]] = result  # so that it can name itself
        resolve(self, notes)
        if notes.problems:
            self._turned = before
            if added:
                del added[0][added[1]]
            raise LevelError(notes.problems)
        return result

    def _room(self, name: str) -> Room:
        notes = Notes(references=[("room", name, plain_node(name))])
        resolve(self, notes)
        if notes.problems:
            raise LevelError(notes.problems)
        return self.rooms[name]

    def _own_room(self, name: str) -> Room:
        """A room that was laid out itself, not cut from a map."""
        room = self._room(name)
        if room.cell is not None:
            message = f"{name!r} is a cell of a map: say what is on it with tile()"
            raise LevelError([Problem("bad-value", message, None, name)])
        return room

    def _index(self) -> list[Problem]:
        """Make the table of things anew; returns the names that are taken twice."""
        self.things = {}
        twice: list[Problem] = []

        def enter(kind: str, room: str, what: Passage | Chest | Act) -> None:
            enter_as(what.name, kind, room, what)

        def enter_as(name: str, kind: str, room: str, what: Passage | Chest | Act) -> None:
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
    "rooms",
    "passages",
    "expected",
]
_ITEM = Named("an item", ITEM, Item)
_LOCK = Named("a lock", LOCK, Lock)
_ROOM = Rooms()


def _as_written(fields: Any) -> dict[str, Any]:
    """Keywords as field names of the level file."""
    return {name.rstrip("_").replace("_", "-"): value for name, value in fields.items()}


def _node(fields: Any) -> Node:
    return plain_node(_as_written(fields))


def copy_of(level: Level) -> Level:
    """A copy of a level that shares its parts, to be given others."""
    copy = Level(level.name)
    copy.__dict__.update(level.__dict__)
    return copy


def knowing(level: Level, flags: set[str]) -> Level:
    """A copy of a level with some flags on from the start; the level itself stays as it is."""
    copy = copy_of(level)
    copy.flags = {**level.flags, **dict.fromkeys(flags, True)}
    return copy
