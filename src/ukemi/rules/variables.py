"""The variables of a level: one for each thing that can change."""

from __future__ import annotations

from ..level import Condition, Level
from ..level.conditions import (
    And,
    At,
    By,
    Carries,
    Done,
    EveryoneAt,
    Has,
    HasAll,
    Inside,
    Not,
    Opened,
    Or,
    PlayerAt,
    SomeoneAt,
)
from .expressions import TRUE, AtLeast, Expression, Is, Negated, Within, all_of, any_of
from .position import PLACE


class Names:
    """The variables of a level, by what they stand for.

    Attributes:
        variables: The meaning of each variable.
        index: The number of each variable.
        player: Who moves, where several play; ``None`` for nobody.
        initial: The first value of each variable.
        places: The number of each room.
    """

    def __init__(self, level: Level) -> None:
        self.level = level
        self.variables: list[tuple[str, ...]] = []
        self.index: dict[tuple[str, ...], int] = {}
        self.initial: list[int] = []
        self.places = {room: number for number, room in enumerate(level.rooms)}
        self.player: str | None = None
        self._placed: dict[str, int] = {}
        self._read: dict[tuple[str | None, Condition], Expression] = {}
        first, *others = level.players or [None]
        start, carried = level.begins(first)
        self.add("place", begins=self.places[start])
        self.add("end")
        for item in level.items:
            self.add("carried", item, begins=carried.get(item, 0))
        for other in others:
            start, carried = level.begins(other)
            self.add("place", str(other), begins=self.places[start])
            for item in level.items if not level.inventory.shared else ():
                self.add("carried", item, str(other), begins=carried.get(item, 0))
        for flag in sorted(level.all_flags()):
            self.add("flag", flag, begins=int(level.flags.get(flag, False)))
        for name, thing in level.things.items():
            if thing.kind in ("door", "chest"):
                self.add("opened", name)
            elif thing.kind in ("act", "switch", "event"):
                self.add("done", name)
        for passage in level.passages:
            if passage.once and ("collapsed", passage.thing) not in self.index:
                self.add("collapsed", passage.thing)
        for room in level.rooms.values():
            for placement in room.items.values():
                self.add("lying", room.name, placement.item, begins=placement.count)
            if level.inventory_at(room.name).drop and room.used_from is None:
                for item, kind in level.items.items():
                    if not kind.vital:
                        self.add("put-down", room.name, item)

    def add(self, *variable: str, begins: int = 0) -> None:
        """Add a variable."""
        self.index[variable] = len(self.variables)
        self.variables.append(variable)
        self.initial.append(begins)

    def placed(self, item: str) -> int:
        """Count the units of an item that the level places, in rooms and chests, and starts with."""
        if item not in self._placed:
            self._placed[item] = self.level.placed(item)
        return self._placed[item]

    def place_of(self, player: str | None) -> int:
        """The variable of a player's room."""
        return self.index.get(("place", str(player)), PLACE)

    def carried(self, item: str, player: str | None = None) -> int:
        """The variable of a player's count of an item; by default, the count of the player who moves."""
        player = self.player if player is None else player
        return self.index.get(("carried", item, str(player)), self.index["carried", item])

    def all_carried(self, item: str) -> list[int]:
        """The variables of all players' counts of an item."""
        return [n for variable, n in self.index.items() if variable[:2] == ("carried", item)]

    def carries(self, counts: dict[str, int]) -> list[Expression]:
        """Return the guards that at least this many of each item are carried."""
        return [self._carries(item, count) for item, count in counts.items()]

    def _carries(self, item: str, count: int) -> Expression:
        """Return the guard that at least this many are carried: by the player who moves, or by all
        together if no player moves.
        """
        if self.player is None and self.level.several and not self.level.inventory.shared:
            terms = tuple((variable, 1) for variable in self.all_carried(item))
            return Negated(Within(terms, count - 1))
        return AtLeast(self.carried(item), count)

    def _at(self, room: str, player: str | None) -> Expression:
        return Is(self.place_of(player), self.places[room])

    def guard(self, condition: Condition) -> Expression:
        """A condition of the level as an expression over its variables.

        With several players, it is about :attr:`player`, who moves; if that is ``None``, it is about all
        players together.
        """
        known = self._read.get((self.player, condition))
        if known is None:
            known = self._read[self.player, condition] = self._guard(condition)
        return known

    def _guard(self, condition: Condition) -> Expression:
        match condition:
            case Has(name, count):
                if name in self.level.items:
                    return self._carries(name, count)
                return Is(self.index["flag", name], 1)
            case HasAll(item):
                total = self.placed(item)
                return self._carries(item, total) if total else TRUE
            case At(room) if self.player is not None or not self.level.several:
                return self._at(room, self.player)
            case At(room) | EveryoneAt(room):
                return all_of(*(self._at(room, one) for one in self.level.players or [None]))
            case SomeoneAt(room):
                return any_of(*(self._at(room, one) for one in self.level.players or [None]))
            case PlayerAt(player, room):
                return self._at(room, player)
            case Carries(player, item, count):
                return AtLeast(self.carried(item, player), count)
            case By(player):
                return TRUE if player == self.player else any_of()
            case Inside(_, rooms):
                return any_of(*(Is(PLACE, self.places[room]) for room in rooms))
            case Opened(name):
                return Is(self.index["opened", name], 1)
            case Done(name):
                return Is(self.index["done", name], 1)
            case Not(part):
                return Negated(self.guard(part))
            case And(parts):
                return all_of(*(self.guard(part) for part in parts))
            case Or(parts):
                return any_of(*(self.guard(part) for part in parts))
        raise TypeError(f"not a condition: {condition!r}")
