"""A room and what is in it."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NamedTuple

from .conditions import ALWAYS, Condition
from .effects import NO_EFFECTS, Effects
from .lock import Lock
from .place import Place


@dataclass(slots=True)
class Placement:
    """Units of an item that lie in a room from the start.

    Attributes:
        item: The item.
        count: How many there are.
        needs: What must hold to take one.
        pile: Whether they are taken all at once.
    """

    item: str
    count: int = 1
    needs: Condition = ALWAYS
    pile: bool = False
    label: str | None = None
    note: str | None = None
    place: Place | None = field(default=None, compare=False, repr=False)


@dataclass(slots=True)
class Chest:
    """A container: opened once, hands over what it holds.

    Attributes:
        name: Its name.
        holds: What is in it.
        lock: What keeps it shut.
        effects: What happens on opening it.
        steps: What opening it costs; ``None`` for what its lock says, or 1.
    """

    name: str
    holds: dict[str, int] = field(default_factory=dict)
    lock: str | Lock | None = None
    effects: Effects = NO_EFFECTS
    steps: int | None = None
    label: str | None = None
    note: str | None = None
    place: Place | None = field(default=None, compare=False, repr=False)


@dataclass(slots=True)
class Act:
    """A switch, or anything else done in a room.

    Attributes:
        switch: Whether it was laid out as a switch.
        repeat: Whether it can be done more than once.
        teaches: A flag it turns on that a player can know from an earlier run.
        steps: What it costs.
    """

    name: str
    switch: bool = False
    needs: Condition = ALWAYS
    repeat: bool = False
    teaches: str | None = None
    effects: Effects = NO_EFFECTS
    steps: int = 1
    label: str | None = None
    note: str | None = None
    place: Place | None = field(default=None, compare=False, repr=False)


class Cell(NamedTuple):
    """A cell of a tile map, its column and row counted from 1."""

    map: str
    column: int
    row: int

    def __str__(self) -> str:
        return f"{self.map}@{self.column},{self.row}"


@dataclass(slots=True)
class Room:
    """A place the player can stand, with what lies and can be done there.

    Attributes:
        cell: On a tile map: the map, column and row, counted from 1.
        used_from: On a tile map: the rooms around a solid cell, from which its things are used.
        beside: On a tile map: whether it is a room only for what is beside it.
    """

    name: str
    items: dict[str, Placement] = field(default_factory=dict)
    chests: dict[str, Chest] = field(default_factory=dict)
    switches: dict[str, Act] = field(default_factory=dict)
    acts: dict[str, Act] = field(default_factory=dict)
    label: str | None = None
    note: str | None = None
    place: Place | None = field(default=None, compare=False, repr=False)
    cell: Cell | None = None
    used_from: tuple[str, ...] | None = None
    beside: bool = False

    def all_acts(self) -> list[Act]:
        """The room's switches and acts, switches first."""
        return [*self.switches.values(), *self.acts.values()]
