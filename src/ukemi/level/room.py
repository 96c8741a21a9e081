"""A room and what is in it."""

from __future__ import annotations

from typing import NamedTuple

from ..values import dataclass, field
from .conditions import ALWAYS, Condition
from .effects import NO_EFFECTS, Effects
from .level_part import LevelPart
from .lock import Lock


@dataclass(slots=True)
class Placement(LevelPart):
    """Units of an item that lie in a room from the start.

    Attributes:
        count: How many there are.
        needs: The condition for taking one.
        pile: Whether they are taken all at once.
        seen: Until this holds, the player does not know of it and cannot use it.
    """

    item: str
    count: int = 1
    needs: Condition = ALWAYS
    pile: bool = False
    seen: Condition = ALWAYS


@dataclass(slots=True)
class Chest(LevelPart):
    """A container: opened once, hands over what it holds.

    Attributes:
        holds: The contents.
        lock: The lock that keeps it shut.
        effects: The effects of opening it.
        steps: The cost of opening it; ``None`` for the cost of its lock, or 1.
        seen: Until this holds, the player does not know of it and cannot use it.
    """

    name: str
    holds: dict[str, int] = field(default_factory=dict)
    lock: str | Lock | None = None
    effects: Effects = NO_EFFECTS
    steps: int | None = None
    seen: Condition = ALWAYS


@dataclass(slots=True)
class Act(LevelPart):
    """A switch, or anything else done in a room.

    Attributes:
        switch: Whether it was laid out as a switch.
        repeat: Whether it can be done more than once.
        teaches: A flag it turns on that a player can know from an earlier run.
        seen: Until this holds, the player does not know of it and cannot use it.
    """

    name: str
    switch: bool = False
    needs: Condition = ALWAYS
    repeat: bool = False
    teaches: str | None = None
    effects: Effects = NO_EFFECTS
    steps: int = 1
    seen: Condition = ALWAYS


class Cell(NamedTuple):
    """A cell of a tile map, its column and row counted from 1."""

    map: str
    column: int
    row: int

    def __str__(self) -> str:
        return f"{self.map}@{self.column},{self.row}"


@dataclass(slots=True)
class Room(LevelPart):
    """A place the player can stand, with what lies and can be done there.

    Attributes:
        cell: On a tile map: the map, column and row, counted from 1.
        used_from: On a tile map: the rooms around a solid cell, from which its things are used.
        beside: On a tile map: whether it is a room only for what is beside it.
        deadly: On a tile map seen from the side: whether it is what lies below, where a fall ends.
        gate: What every walk into the room needs, besides what its passage needs.
        drawn_at: The column and row of the grid in which pictures place it; ``None`` to choose them.
    """

    name: str
    items: dict[str, Placement] = field(default_factory=dict)
    chests: dict[str, Chest] = field(default_factory=dict)
    switches: dict[str, Act] = field(default_factory=dict)
    acts: dict[str, Act] = field(default_factory=dict)
    gate: Condition = ALWAYS
    drawn_at: tuple[int, int] | None = None
    cell: Cell | None = None
    used_from: tuple[str, ...] | None = None
    beside: bool = False
    deadly: bool = False

    def all_acts(self) -> list[Act]:
        """The room's switches and acts, switches first."""
        return [*self.switches.values(), *self.acts.values()]
