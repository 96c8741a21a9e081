"""A level: what a designer lays out, read from a file or built in Python."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Any

from .conditions import Condition
from .contents import Contents, Thing
from .event import Event
from .item import Item
from .language.accepted import Accept
from .language.fields import INVENTORY, ITEM, LOCK, RULES, Part
from .language.map_fields import Legend, Maps
from .language.nodes import Node, plain_node
from .language.notes import BadValue, Notes, bad
from .language.passages import Passages
from .language.resolve import named_cells, resolve
from .language.room_fields import ACTS, CHESTS, SWITCHES, LockType, Named, Placements, Rooms
from .language.scattering import Scatters
from .language.types import name_of
from .language.whole import Areas, Events, ExpectType, Flags, Goal, Players
from .lock import Lock
from .maps.tilemap import Tile, TileMap
from .passage import Passage
from .problems import LevelError, Problem
from .rebuilding import locked, move, remove
from .room import Act, Chest, Room
from .settings import Inventory, PlayRules

if TYPE_CHECKING:
    from typing import Unpack

    from . import keywords as given

__all__ = ["Level", "Thing"]


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

    def item(self, name: str, **fields: Unpack[given.ItemFields]) -> None:
        """Declare a kind of item.

        Args:
            name: Its name.
            fields: The fields of an item: ``kind``, ``use``, ``max``, ``vital``, ``slots``,
                ``on_pickup``, ``color``, ``label``, ``note``, ``says``,
                ``mentions``.

        Raises:
            LevelError: A name is taken or not known, or a field cannot be.

        Example:
            >>> level = Level()
            >>> level.item("iron-key", use="spent")
            >>> level.items["iron-key"].use
            'spent'
        """
        self._add(self.items, _ITEM, name, fields)

    def flag(self, name: str, on: bool = False) -> None:
        """Declare a flag.

        Args:
            name: Its name.
            on: Whether it starts on.

        Raises:
            LevelError: The name is taken or cannot be one.

        Example:
            >>> level = Level()
            >>> level.flag("low-water", on=True)
            >>> level.flags
            {'low-water': True}
        """
        notes = Notes()
        if name in self.flags:
            raise LevelError([Problem("duplicate-name", f"there is a flag {name!r} already")])
        fields = {name: on}
        self.flags |= self._try(notes, lambda: Flags().read(notes, plain_node(fields)))

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
            LevelError: A name is taken or not known, or a field cannot be.

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
            self._add(self.locks, _LOCK, name, fields)
            return
        if fields:
            message = f"{name!r} is locked by {by!r}: the fields of a lock stand in a mapping"
            raise LevelError([Problem("bad-value", message, None, name)])
        there = list(locked(self, name))
        notes = Notes(locks=self.locks)
        told = dict(by) if isinstance(by, Mapping) else by
        new = self._try(notes, lambda: LockType().read(notes, plain_node(told)))
        for one in there:
            one.lock = new
        self._index()

    def remove(self, name: str) -> None:
        """Take something out of the level, by name.

        A room goes with its passages and all that is in it. What is drawn on a map is taken out by drawing it
        anew.

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
            LevelError: A name is taken or not known, or a field cannot be.

        Example:
            >>> level = Level()
            >>> level.item("grain", kind="supply", max=9)
            >>> level.room("granary", items={"grain": 3})
            >>> level.rooms["granary"].items["grain"].count
            3
        """
        self._add(self.rooms, _ROOM, name, fields)

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
            fields: ``lock``, ``holds``, effects, ``label``, ``note``, ``says``,
                ``mentions``, ``seen``.

        Raises:
            LevelError: A name is taken or not known, or a field cannot be.

        Example:
            >>> level = Level()
            >>> level.item("ledger", kind="reward")
            >>> level.room("granary")
            >>> level.chest("granary", "meal-chest", holds="ledger")
            >>> level.rooms["granary"].chests["meal-chest"].holds
            {'ledger': 1}
        """
        self._add(self._own_room(room).chests, CHESTS, name, fields)

    def switch(self, room: str, name: str, **fields: Unpack[given.SwitchFields]) -> None:
        """Add a switch to a room.

        Args:
            room: The room.
            name: The switch's name.
            fields: ``needs``, ``once``, ``teaches``, effects, ``label``, ``note``, ``says``,
                ``mentions``, ``seen``.

        Raises:
            LevelError: A name is taken or not known, or a field cannot be.

        Example:
            >>> level = Level()
            >>> level.room("quay")
            >>> level.switch("quay", "sluice", flips="low-water")
            >>> level.all_flags()
            {'low-water'}
        """
        self._add(self._own_room(room).switches, SWITCHES, name, fields)

    def act(self, room: str, name: str, **fields: Unpack[given.ActFields]) -> None:
        """Add an act to a room: a search, a trade, a talk.

        Args:
            room: The room.
            name: The act's name.
            fields: ``needs``, ``repeat``, ``teaches``, effects, ``label``, ``note``, ``says``,
                ``mentions``, ``seen``.

        Raises:
            LevelError: A name is taken or not known, or a field cannot be.

        Example:
            >>> level = Level()
            >>> level.item("grain", kind="supply", max=9)
            >>> level.item("iron-key")
            >>> level.room("granary")
            >>> level.act("granary", "bribe-the-cat", spends={"grain": 2}, gives="iron-key")
            >>> level.rooms["granary"].acts["bribe-the-cat"].effects.gives
            {'iron-key': 1}
        """
        self._add(self._own_room(room).acts, ACTS, name, fields)

    def passage(self, text: str, **fields: Unpack[given.PassageFields]) -> None:
        """Add a passage; with a lock, it is a door.

        Args:
            text: ``quay <-> granary``, or ``quay -> race`` for a one-way passage.
            fields: ``lock``, ``gate``, ``once``, ``steps``, ``name``, effects, ``label``, ``note``, ``says``,
                ``mentions``, ``seen``.

        Raises:
            LevelError: A name is taken or not known, or a field cannot be.

        Example:
            >>> level = Level()
            >>> level.room("wheel-pit")
            >>> level.room("race")
            >>> level.passage("wheel-pit -> race", name="chute", once=True)
            >>> level.passages[0].two_way
            False
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
                ``one_way``, ``solid``, ``once``, ``steps``, ``name``, effects, ``label``, ``note``, ``says``,
                ``mentions``, ``seen``, ``bears``, ``climb``.

        Raises:
            LevelError: The symbol has a meaning already, a name is not known, or a field cannot be.

        Example:
            >>> level = Level()
            >>> level.item("iron-key")
            >>> level.tile("k", item="iron-key")
            >>> list(level.legend)
            ['k']
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
        notes = Notes()
        drawn = rows.tolist() if hasattr(rows, "tolist") else rows

        def read() -> dict[str, TileMap]:
            if name in self.maps:
                raise bad("duplicate-name", f"there is a map {name!r} already", plain_node(name))
            said = drawn
            if seen_from != "above" or jump is not None:
                said = {"rows": drawn, "seen-from": seen_from, "jump": dict(jump or {})}
            return Maps().read(notes, plain_node({name: said}))

        self.maps.update(self._try(notes, read))
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
        notes = Notes()
        said = {area: list(some) for area, some in self.areas.items() if area != name}

        def read() -> dict[str, tuple[str, ...]]:
            if name in self.areas:
                raise bad("duplicate-name", f"there is an area {name!r} already", plain_node(name))
            return Areas().read(notes, plain_node({**said, name: list(rooms)}))

        self.areas = self._try(notes, read)

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
        self._add(self.events, _EVENT, name, fields)

    def scatter(self, name: str, **fields: Unpack[given.ScatterFields]) -> None:
        """Choose the things to place again at random, and the spots where they may land.

        Args:
            name: The name of the group.
            fields: ``items`` and ``chests`` that are placed, ``into`` what, how far ``apart`` and
                ``at_most`` how many in one place.

        Raises:
            LevelError: A name is not known, or a field cannot be.

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
        self._add(self.scattered, _SCATTER, name, fields)
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
        self._room(room)
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
        notes = Notes()
        self.goal = self._try(
            notes, lambda: self.goal_from(*Goal().read(notes, plain_node(goal)), notes)
        )

    def set_inventory(self, **fields: Unpack[given.InventoryFields]) -> None:
        """Say what the player starts with (``start``), how much fits (``slots``), and whether
        things can be put down (``drop``).

        Raises:
            LevelError: A name is not known, or a field cannot be.

        Example:
            >>> level = Level()
            >>> level.item("lantern", kind="tool")
            >>> level.set_inventory(start="lantern", slots=3, drop=True)
            >>> level.inventory.slots
            3
        """
        notes = Notes()
        part = Part(INVENTORY, Inventory)
        self.inventory = self._try(notes, lambda: part.read(notes, _node(fields)))

    def player(self, name: str, **fields: Unpack[given.PlayerFields]) -> None:
        """Add one of several players.

        Args:
            name: The name of the player.
            fields: ``start`` and ``inventory``, where they differ from the level's.

        Raises:
            LevelError: The name is taken, or a field cannot be.

        Example:
            >>> level = Level()
            >>> level.room("quay")
            >>> level.player("ada", start="quay")
            >>> level.player("ben", start="quay")
            >>> list(level.players)
            ['ada', 'ben']
        """
        self._add(self.players, Players(), name, fields)

    def set_rules(self, **fields: Unpack[given.RulesFields]) -> None:
        """Say how things are picked up and how a run ends: ``choice`` or ``touch`` for each.

        Raises:
            LevelError: A field cannot be.

        Example:
            >>> level = Level()
            >>> level.set_rules(pickup="touch")
            >>> level.rules.pickup
            'touch'
        """
        notes = Notes()
        self.rules = self._try(notes, lambda: Part(RULES, PlayRules).read(notes, _node(fields)))

    def expect(self, **fields: Unpack[given.ExpectFields]) -> None:
        """Claim something about the level; a check proves or refutes it.

        Raises:
            LevelError: A name is not known, or a field cannot be.

        Example:
            >>> level = Level()
            >>> level.expect(stuck="possible", rewards="any")
            >>> level.expected.stuck
            'possible'
        """
        notes = Notes()
        self.expected = self._try(notes, lambda: ExpectType().read(notes, _node(fields)))

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
        notes = Notes()
        fields = {code: list(names)}
        self.accepted += self._try(notes, lambda: Accept().read(notes, plain_node(fields)))

    # -- inside -------------------------------------------------------------------------------

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
        new = [part] if isinstance(part, (Chest, Act, Event)) else []
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
        self.sound = False
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


_ITEM = Named("an item", ITEM, Item)
_LOCK = Named("a lock", LOCK, Lock)
_EVENT = Events()
_ROOM = Rooms()
_SCATTER = Scatters()


def _as_written(fields: Any) -> dict[str, Any]:
    """Keywords as field names of the level file."""
    return {name.rstrip("_").replace("_", "-"): value for name, value in fields.items()}


def _node(fields: Any) -> Node:
    return plain_node(_as_written(fields))
