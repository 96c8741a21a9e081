"""The variables of a level: one for each thing that can change."""

from __future__ import annotations

from ..level import Condition, Level
from ..level.conditions import And, At, Done, Has, HasAll, Inside, Not, Opened, Or
from .expressions import TRUE, AtLeast, Expression, Is, Negated, all_of, any_of
from .position import PLACE


class Names:
    """The variables of a level, by what they stand for.

    Args:
        level: The level.

    Attributes:
        variables: What each variable stands for.
        index: The number of each variable.
        initial: What each variable begins with.
        places: The number of each room.
    """

    def __init__(self, level: Level) -> None:
        self.level = level
        self.variables: list[tuple[str, ...]] = []
        self.index: dict[tuple[str, ...], int] = {}
        self.initial: list[int] = []
        self.places = {room: number for number, room in enumerate(level.rooms)}
        self._placed: dict[str, int] = {}
        self._read: dict[Condition, Expression] = {}
        self.add("place", begins=self.places[level.start])
        self.add("end")
        for item in level.items:
            self.add("carried", item, begins=level.inventory.start.get(item, 0))
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
        """How many of an item the level places, in rooms and chests, and starts with."""
        if item not in self._placed:
            self._placed[item] = self.level.placed(item)
        return self._placed[item]

    def carries(self, counts: dict[str, int]) -> list[Expression]:
        """The guards that so many of each item are carried."""
        return [AtLeast(self.index["carried", item], count) for item, count in counts.items()]

    def guard(self, condition: Condition) -> Expression:
        """A condition of the level as an expression over its variables."""
        known = self._read.get(condition)
        if known is None:
            known = self._read[condition] = self._guard(condition)
        return known

    def _guard(self, condition: Condition) -> Expression:
        match condition:
            case Has(name, count):
                if name in self.level.items:
                    return AtLeast(self.index["carried", name], count)
                return Is(self.index["flag", name], 1)
            case HasAll(item):
                total = self.placed(item)
                return AtLeast(self.index["carried", item], total) if total else TRUE
            case At(room):
                return Is(PLACE, self.places[room])
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
