"""A level: what a designer lays out, read from a file or built in Python."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any, ClassVar, Protocol

from .conditions import Condition
from .contents import Contents, Thing
from .lock import Lock
from .passage import Passage
from .problems import LevelError, Problem
from .rebuilding import locked, move, remove
from .room import Room

if TYPE_CHECKING:
    from typing import Unpack

    from . import keywords as given

__all__ = ["Level", "Thing"]


class Reader(Protocol):
    """Reads what the methods of a level are given; raises a :class:`LevelError` with all that is wrong."""

    def value(self, level: Level, field: str, value: Any) -> Any:
        """The value of a field of a level file."""

    def part(
        self, level: Level, into: dict[str, Any], field: str, name: str, fields: Mapping[str, Any]
    ) -> None:
        """Add a part to those of a field."""

    def passage(self, level: Level, text: str, fields: Mapping[str, Any]) -> Passage:
        """A passage from its text and its fields."""

    def lock(self, level: Level, by: Any) -> str | Lock:
        """A lock by name, or from a condition or the fields of one."""

    def goal(self, level: Level, goal: str | Condition) -> Condition:
        """A goal, in which a bare name may be that of a room."""

    def room(self, level: Level, name: str) -> Room:
        """The room of a name."""


class Level(Contents):
    """A level, laid out piece by piece.

    Each method takes the fields of the level file as keywords (``on_pickup`` for ``on-pickup``,
    ``from_`` for ``from``), and fails at once with a :class:`LevelError` where a name is not
    known: items, flags, locks and rooms are declared before they are used.

    Args:
        name: The level's name.

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

    #: Reads what the methods are given as a level file would be read; the package for level files puts it here.
    reader: ClassVar[Reader]

    def item(self, name: str, **fields: Unpack[given.ItemFields]) -> None:
        """Declare a kind of item.

        Args:
            name: Its name.
            fields: The fields of an item: ``kind``, ``use``, ``max``, ``vital``, ``slots``,
                ``on_pickup``, ``color``, ``label``, ``note``, ``says``,
                ``mentions``.

        Raises:
            LevelError: A name is taken or not known, or a field is wrong.

        Example:
            >>> level = Level()
            >>> level.item("iron-key", use="spent")
            >>> level.items["iron-key"].use
            'spent'
        """
        self._add(self.items, "items", name, fields)

    def flag(self, name: str, on: bool = False) -> None:
        """Declare a flag.

        Args:
            name: Its name.
            on: Whether it starts on.

        Raises:
            LevelError: The name is taken or not valid.

        Example:
            >>> level = Level()
            >>> level.flag("low-water", on=True)
            >>> level.flags
            {'low-water': True}
        """
        if name in self.flags:
            raise LevelError([Problem("duplicate-name", f"there is a flag {name!r} already")])
        self.flags |= self.reader.value(self, "flags", {name: on})

    def lock(
        self, name: str, by: given.LockGiven | None = None, **fields: Unpack[given.LockFields]
    ) -> None:
        """Describe a lock once, for many doors and chests; or lock a passage, door or chest that is there.

        Args:
            name: Its name, to be given as ``lock=`` afterwards; or that of the passage, door or chest.
            by: What locks the passage, door or chest: a lock's name, a condition, or the fields of a lock.
            fields: ``needs``, ``spends``, ``from_``, ``relocks``, ``together``, effects,
                ``color``, ``label``, ``note``, ``says``,
                ``mentions``.

        Raises:
            LevelError: A name is taken or not known, or a field is wrong.

        Example:
            >>> level = Level()
            >>> level.item("iron-key")
            >>> level.lock("iron", needs="iron-key")
            >>> print(level.locks["iron"].needs)
            iron-key
            >>> level.room("quay")
            >>> level.room("mill")
            >>> level.passage("quay <-> mill", name="mill-door")
            >>> level.lock("mill-door", "iron")
            >>> level.passages[0].lock
            'iron'
        """
        if by is None:
            self._add(self.locks, "locks", name, fields)
            return
        if fields:
            message = f"{name!r} is locked by {by!r}: the fields of a lock stand in a mapping"
            raise LevelError([Problem("bad-value", message, None, name)])
        there = list(locked(self, name))
        new = self.reader.lock(self, dict(by) if isinstance(by, Mapping) else by)
        for one in there:
            one.lock = new
        self._index()

    def remove(self, name: str) -> None:
        """Take something out of the level, by name.

        A room goes with its passages and all that is in it. To take out what is drawn on a map, draw the map
        again without it.

        Args:
            name: A door or other passage, a chest, a switch, an act, an event, a room, a kind of item, a lock, a
                flag, an area, a player, a group of ``scatter``; or ``ROOM/ITEM`` for what lies in a room.

        Raises:
            LevelError: Nothing is called so, several things are, or something else would still use it.

        Example:
            >>> level = Level()
            >>> level.item("oak-key")
            >>> level.room("quay", items="oak-key")
            >>> level.room("loft")
            >>> level.passage("quay <-> loft", lock="oak-key", name="loft-door")
            >>> level.remove("oak-key")
            Traceback (most recent call last):
                ...
            ukemi.level.problems.LevelError: 'oak-key' cannot be taken out: loft-door and quay would \
still use it [bad-value]
            >>> level.remove("loft-door")
            >>> level.remove("quay/oak-key")
            >>> level.remove("oak-key")
            >>> level
            <Level 'level': 2 rooms, 0 passages, 0 kinds of item>
        """
        remove(self, name)

    def move(self, name: str, to: str, count: int | None = None) -> None:
        """Move something into another room, by name.

        Args:
            name: An item that lies in one room alone, or ``ROOM/ITEM``; a chest, a switch or an act.
            to: The room.
            count: How many units of an item; by default, all that lie there.

        Raises:
            LevelError: It cannot be moved, it is not clear which is meant, or the room is not known.

        Example:
            >>> level = Level()
            >>> level.item("oak-key")
            >>> level.room("quay", items={"oak-key": 2})
            >>> level.room("loft")
            >>> level.move("oak-key", "loft", 1)
            >>> level.rooms["quay"].items["oak-key"].count, level.rooms["loft"].items["oak-key"].count
            (1, 1)
        """
        move(self, name, to, count)

    def room(self, name: str, **fields: Unpack[given.RoomFields]) -> None:
        """Add a room.

        Args:
            name: Its name.
            fields: ``items`` lying there, ``chests``, ``switches``, ``acts``, ``gate``, ``drawn_at``, ``label``,
                ``note``, ``says``, ``mentions``.

        Raises:
            LevelError: A name is taken or not known, or a field is wrong.

        Example:
            >>> level = Level()
            >>> level.item("grain", kind="supply", max=9)
            >>> level.room("granary", items={"grain": 3})
            >>> level.rooms["granary"].items["grain"].count
            3
        """
        self._add(self.rooms, "rooms", name, fields)

    def put(self, room: str, items: given.PlacedGiven) -> None:
        """Lay items in a room that is there already.

        Args:
            room: The room.
            items: One item, a list in which repeats count, or a mapping to counts or fields.

        Raises:
            LevelError: The room or an item is not known.

        Example:
            >>> level = Level()
            >>> level.item("oak-key")
            >>> level.room("quay")
            >>> level.put("quay", "oak-key")
            >>> list(level.rooms["quay"].items)
            ['oak-key']
        """
        placed = self.reader.value(self, "rooms/items", items)
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
            fields: ``lock``, ``holds``, effects, ``label``, ``note``, ``says``,
                ``mentions``, ``seen``.

        Raises:
            LevelError: A name is taken or not known, or a field is wrong.

        Example:
            >>> level = Level()
            >>> level.item("ledger", kind="reward")
            >>> level.room("granary")
            >>> level.chest("granary", "meal-chest", holds="ledger")
            >>> level.rooms["granary"].chests["meal-chest"].holds
            {'ledger': 1}
        """
        self._add(self._own_room(room).chests, "rooms/chests", name, fields)

    def switch(self, room: str, name: str, **fields: Unpack[given.SwitchFields]) -> None:
        """Add a switch to a room.

        Args:
            room: The room.
            name: The switch's name.
            fields: ``needs``, ``once``, ``teaches``, effects, ``label``, ``note``, ``says``,
                ``mentions``, ``seen``.

        Raises:
            LevelError: A name is taken or not known, or a field is wrong.

        Example:
            >>> level = Level()
            >>> level.room("quay")
            >>> level.switch("quay", "sluice", flips="low-water")
            >>> level.all_flags()
            {'low-water'}
        """
        self._add(self._own_room(room).switches, "rooms/switches", name, fields)

    def act(self, room: str, name: str, **fields: Unpack[given.ActFields]) -> None:
        """Add an act to a room: a search, a trade, a talk.

        Args:
            room: The room.
            name: The act's name.
            fields: ``needs``, ``repeat``, ``teaches``, effects, ``label``, ``note``, ``says``,
                ``mentions``, ``seen``.

        Raises:
            LevelError: A name is taken or not known, or a field is wrong.

        Example:
            >>> level = Level()
            >>> level.item("grain", kind="supply", max=9)
            >>> level.item("iron-key")
            >>> level.room("granary")
            >>> level.act("granary", "bribe-the-cat", spends={"grain": 2}, gives="iron-key")
            >>> level.rooms["granary"].acts["bribe-the-cat"].effects.gives
            {'iron-key': 1}
        """
        self._add(self._own_room(room).acts, "rooms/acts", name, fields)

    def passage(self, text: str, **fields: Unpack[given.PassageFields]) -> None:
        """Add a passage; with a lock, it is a door.

        Args:
            text: ``quay <-> granary``, or ``quay -> race`` for a one-way passage.
            fields: ``lock``, ``gate``, ``once``, ``steps``, ``name``, effects, ``label``, ``note``, ``says``,
                ``mentions``, ``seen``.

        Raises:
            LevelError: A name is taken or not known, or a field is wrong.

        Example:
            >>> level = Level()
            >>> level.room("wheel-pit")
            >>> level.room("race")
            >>> level.passage("wheel-pit -> race", name="chute", once=True)
            >>> level.passages[0].two_way
            False
        """
        self.passages.append(self.reader.passage(self, text, _as_written(fields)))
        self._index()

    def tile(
        self, symbol: str, ground: str | None = None, **fields: Unpack[given.TileFields]
    ) -> None:
        """Say what a symbol of the maps means.

        Args:
            symbol: The symbol.
            ground: ``wall``, ``floor``, ``void`` or ``start``, and no fields; or ``None``.
            fields: ``item`` or ``items``, ``lock``, ``gate``, ``chest``, ``switch``, ``act``, ``room``,
                ``one_way``, ``solid``, ``once``, ``steps``, ``name``, effects, ``label``, ``note``, ``says``,
                ``mentions``, ``seen``, ``bears``, ``climb``.

        Raises:
            LevelError: The symbol has a meaning already, a name is not known, or a field is wrong.

        Example:
            >>> level = Level()
            >>> level.item("iron-key")
            >>> level.tile("k", item="iron-key")
            >>> list(level.legend)
            ['k']
        """
        if symbol in self.legend:
            message = f"the symbol {symbol!r} is given twice"
            raise LevelError([Problem("duplicate-name", message, None, symbol)])
        means = ground if ground is not None else _as_written(fields)
        self.legend |= self.reader.value(self, "legend", {symbol: means})

    def map(
        self,
        name: str,
        rows: Any,
        *,
        seen_from: str = "above",
        jump: Mapping[str, int] | None = None,
    ) -> None:
        """Add a floor, drawn with the symbols defined so far.

        Args:
            name: The floor's name.
            rows: Text with a line for each row; or a list of rows, each text or a list of symbols;
                or a NumPy array of symbols.
            seen_from: ``above`` or ``side``.
            jump: Seen from the side: how far the player jumps, ``{"up": 1, "across": 2}`` by default.

        Raises:
            LevelError: A name is taken, a symbol means nothing, or there are two starts.

        Example:
            >>> level = Level("The Ground Floor")
            >>> level.item("iron-key")
            >>> level.tile("k", item="iron-key")
            >>> level.map("ground", "#####\\n#@.k#\\n#####")
            >>> level.start, list(level.rooms)
            ('ground@2,2', ['ground@2,2', 'ground@4,2'])
            >>> level.map("bank", "..k\\n###", seen_from="side", jump={"up": 2})
            >>> level.maps["bank"].side
            SideView(up=2, across=2)
        """
        if name in self.maps:
            message = f"there is a map {name!r} already"
            raise LevelError([Problem("duplicate-name", message, None, name)])
        said = rows.tolist() if hasattr(rows, "tolist") else rows
        if seen_from != "above" or jump is not None:
            said = {"rows": said, "seen-from": seen_from, "jump": dict(jump or {})}
        self.maps |= self.reader.value(self, "maps", {name: said})
        problems = [one for one in self._cut_maps() if "no start" not in one.message]
        if problems:
            del self.maps[name]
            self._cut_maps()
            raise LevelError(problems)

    def area(self, name: str, *rooms: str) -> None:
        """Say that rooms belong together: pictures frame them.

        Args:
            name: The area's name.
            rooms: Its rooms; each is in no other area.

        Raises:
            LevelError: The name is taken, or a room is not known or in another area.

        Example:
            >>> level = Level()
            >>> level.room("quay")
            >>> level.room("race")
            >>> level.area("shore", "quay", "race")
            >>> level.areas
            {'shore': ('quay', 'race')}
        """
        if name in self.areas:
            message = f"there is an area {name!r} already"
            raise LevelError([Problem("duplicate-name", message, None, name)])
        said = {area: list(some) for area, some in self.areas.items()}
        self.areas = self.reader.value(self, "areas", {**said, name: list(rooms)})

    def event(self, name: str, **fields: Unpack[given.EventFields]) -> None:
        """Add something that happens by itself, as soon as its condition holds, once in a run.

        Args:
            name: Its name.
            fields: ``when`` it happens, effects, ``label``, ``note``, ``says``,
                ``mentions``.

        Raises:
            LevelError: A name is taken or not known, or it does not say when.

        Example:
            >>> level = Level()
            >>> level.item("ledger", kind="reward")
            >>> level.event("all-found", when="all ledger", sets="bell-rings")
            >>> print(level.events["all-found"].when)
            all ledger
        """
        self._add(self.events, "events", name, fields)

    def scatter(self, name: str, **fields: Unpack[given.ScatterFields]) -> None:
        """Choose the things to place again at random, and the spots where they may land.

        Args:
            name: The name of the group.
            fields: ``items`` and ``chests`` that are placed, ``into`` what, how far ``apart`` and
                ``at_most`` how many in one place.

        Raises:
            LevelError: A name is not known, or a field is wrong.

        Example:
            >>> level = Level()
            >>> level.item("oak-key")
            >>> level.room("quay", items="oak-key")
            >>> level.room("granary")
            >>> level.scatter("keys", items="oak-key", into=["quay", "granary"])
            >>> level.scattered["keys"].into
            ('quay', 'granary')
        """
        taken = {
            one: group.name
            for group in self.scattered.values()
            for one in (*group.items, *group.chests)
        }
        self._add(self.scattered, "scatter", name, fields)
        new = self.scattered[name]
        for one in (*new.items, *new.chests):
            if one in taken:
                del self.scattered[name]
                message = f"{one!r} is scattered twice: by {taken[one]!r} and by {name!r}"
                raise LevelError([Problem("duplicate-name", message, None, one)])

    def set_start(self, room: str) -> None:
        """Say which room the player starts in.

        Args:
            room: The room.

        Raises:
            LevelError: The room is not known.

        Example:
            >>> level = Level()
            >>> level.room("quay")
            >>> level.set_start("quay")
            >>> level.start
            'quay'
        """
        self.reader.room(self, room)
        self.start = room
        self._start_is_own = True

    def set_goal(self, goal: str | Condition) -> None:
        """Say when the level can be finished.

        Args:
            goal: A condition, or just the name of a room.

        Raises:
            LevelError: It is no condition, or names something that is not known.

        Example:
            >>> level = Level()
            >>> level.room("bell-loft")
            >>> level.set_goal("bell-loft")  # short for "at bell-loft"
            >>> print(level.goal)
            at bell-loft
        """
        self.goal = self.reader.goal(self, goal)

    def set_inventory(self, **fields: Unpack[given.InventoryFields]) -> None:
        """Say what the player starts with (``start``), how much fits (``slots``), and whether
        things can be put down (``drop``).

        Raises:
            LevelError: A name is not known, or a field is wrong.

        Example:
            >>> level = Level()
            >>> level.item("lantern", kind="tool")
            >>> level.set_inventory(start="lantern", slots=3, drop=True)
            >>> level.inventory.slots
            3
        """
        self.inventory = self.reader.value(self, "inventory", _as_written(fields))

    def player(self, name: str, **fields: Unpack[given.PlayerFields]) -> None:
        """Add one of several players.

        Args:
            name: The name of the player.
            fields: ``start`` and ``inventory``, where they differ from the level's.

        Raises:
            LevelError: The name is taken, or a field is wrong.

        Example:
            >>> level = Level()
            >>> level.room("quay")
            >>> level.player("ada", start="quay")
            >>> level.player("ben", start="quay")
            >>> list(level.players)
            ['ada', 'ben']
        """
        self._add(self.players, "players", name, fields)

    def set_rules(self, **fields: Unpack[given.RulesFields]) -> None:
        """Say how things are picked up and how a run ends: ``choice`` or ``touch`` for each.

        Raises:
            LevelError: A field is wrong.

        Example:
            >>> level = Level()
            >>> level.set_rules(pickup="touch")
            >>> level.rules.pickup
            'touch'
        """
        self.rules = self.reader.value(self, "rules", _as_written(fields))

    def expect(self, **fields: Unpack[given.ExpectFields]) -> None:
        """Claim something about the level; a check proves or refutes it.

        Raises:
            LevelError: A name is not known, or a field is wrong.

        Example:
            >>> level = Level()
            >>> level.expect(stuck="possible", rewards="any")
            >>> level.expected.stuck
            'possible'
        """
        self.expected = self.reader.value(self, "expect", _as_written(fields))

    def accept(self, code: str, *names: str) -> None:
        """Say that findings are meant as they are: a check does not list them.

        Args:
            code: The code of the findings.
            names: The subjects, as a check names them.

        Raises:
            LevelError: There is no such finding, or it cannot be accepted.

        Example:
            >>> level = Level()
            >>> level.accept("bypassed", "loft-door")
            >>> [one.name for one in level.accepted]
            ['loft-door']
        """
        self.accepted += self.reader.value(self, "accept", {code: list(names)})

    # -- inside -------------------------------------------------------------------------------

    def _add(self, into: dict[str, Any], field: str, name: str, fields: Any) -> None:
        self.reader.part(self, into, field, name, _as_written(fields))
        self._index()

    def _own_room(self, name: str) -> Room:
        """A room that was laid out itself, not cut from a map."""
        room = self.reader.room(self, name)
        if room.cell is not None:
            message = f"{name!r} is a cell of a map: say what is on it with tile()"
            raise LevelError([Problem("bad-value", message, None, name)])
        return room


def _as_written(fields: Any) -> dict[str, Any]:
    """Keywords as field names of the level file."""
    return {name.rstrip("_").replace("_", "-"): value for name, value in fields.items()}
