"""A level: what a designer lays out, read from a file or built in Python."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from typing import TYPE_CHECKING, Any, NamedTuple

from .conditions import At, Condition, Has
from .item import Item
from .language.fields import INVENTORY, ITEM, LOCK, RULES, Part
from .language.nodes import Node, plain_node
from .language.notes import BadValue, Notes, bad
from .language.parts import ACTS, CHESTS, SWITCHES, Named, Placements, Rooms
from .language.passages import Passages
from .language.resolve import resolve
from .language.types import FlagTurned, name_of
from .language.whole import ExpectType, Goal
from .lock import Lock
from .passage import Passage
from .place import Place
from .problems import LevelError, Problem
from .room import Act, Chest, Room
from .settings import Expect, Inventory, PlayRules

if TYPE_CHECKING:
    from typing import Unpack

    from . import keywords as given


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
        self.goal: Condition | None = None
        self.items: dict[str, Item] = {}
        self.flags: dict[str, bool] = {}
        self.locks: dict[str, Lock] = {}
        self.inventory = Inventory()
        self.rules = PlayRules()
        self.rooms: dict[str, Room] = {}
        self.passages: list[Passage] = []
        self.expected = Expect()
        self.things: dict[str, Thing] = {}
        self.places: dict[str, Place] = {}
        self._turned: set[str] = set()

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
        here = self._room(room).items
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
        self._add(self._room(room).chests, CHESTS, name, fields)

    def switch(self, room: str, name: str, **fields: Unpack[given.SwitchFields]) -> None:
        """Add a switch to a room.

        Args:
            room: The room.
            name: The switch's name.
            fields: ``needs``, ``once``, ``teaches``, effects, ``label``, ``note``.

        Raises:
            LevelError: A name is taken or not known, or a field cannot be.
        """
        self._add(self._room(room).switches, SWITCHES, name, fields)

    def act(self, room: str, name: str, **fields: Unpack[given.ActFields]) -> None:
        """Add an act to a room: a search, a trade, a talk.

        Args:
            room: The room.
            name: The act's name.
            fields: ``needs``, ``repeat``, ``teaches``, effects, ``label``, ``note``.

        Raises:
            LevelError: A name is taken or not known, or a field cannot be.
        """
        self._add(self._room(room).acts, ACTS, name, fields)

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

    def set_start(self, room: str) -> None:
        """Say which room the player starts in.

        Raises:
            LevelError: The room is not known.
        """
        self._room(room)
        self.start = room

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
        """Each passage with a lock, and its lock."""
        for passage in self.passages:
            lock = self.lock_of(passage)
            if lock is not None:
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

    def adopt(self, turned: Iterable[str]) -> list[Problem]:
        """Take up parts that were set from outside.

        Args:
            turned: Flags that something turns.

        Returns:
            The names that are taken twice.
        """
        self._turned = set(turned)
        return self._index()

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
        return [getattr(self, name) for name in _SAYS]

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

    def _index(self) -> list[Problem]:
        """Make the table of things anew; returns the names that are taken twice."""
        self.things = {}
        twice: list[Problem] = []

        def enter(kind: str, room: str, what: Passage | Chest | Act) -> None:
            known = self.things.get(what.name)
            if known is None:
                self.things[what.name] = Thing(kind, room, what)
            else:
                message = f"{what.name!r} is the name of both a {known.kind} and a {kind}"
                if known.kind == kind:
                    message = f"two things of kind {kind} are named {what.name!r}"
                twice.append(Problem("duplicate-name", message, what.place, what.name))

        for room in self.rooms.values():
            for chest in room.chests.values():
                enter("chest", room.name, chest)
            for act in room.all_acts():
                enter("switch" if act.switch else "act", room.name, act)
        for passage in self.passages:
            enter("passage" if passage.lock is None else "door", passage.a, passage)
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


def knowing(level: Level, flags: set[str]) -> Level:
    """A copy of a level with some flags on from the start; the level itself stays as it is."""
    copy = Level(level.name)
    copy.__dict__.update(level.__dict__)
    copy.flags = {**level.flags, **dict.fromkeys(flags, True)}
    return copy
