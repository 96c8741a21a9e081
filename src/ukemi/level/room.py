"""A room and what is in it."""

from __future__ import annotations

from dataclasses import dataclass, field

from .conditions import ALWAYS, Condition
from .effects import NO_EFFECTS, Effects
from .lock import Lock
from .place import Place


@dataclass(slots=True)
class Placement:
    """Units of an item that lie in a room from the start."""

    item: str
    count: int = 1
    needs: Condition = ALWAYS
    label: str | None = None
    note: str | None = None
    place: Place | None = field(default=None, compare=False, repr=False)


@dataclass(slots=True)
class Chest:
    """A container: opened once, hands over what it holds."""

    name: str
    holds: dict[str, int] = field(default_factory=dict)
    lock: str | Lock | None = None
    effects: Effects = NO_EFFECTS
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
    """

    name: str
    switch: bool = False
    needs: Condition = ALWAYS
    repeat: bool = False
    teaches: str | None = None
    effects: Effects = NO_EFFECTS
    label: str | None = None
    note: str | None = None
    place: Place | None = field(default=None, compare=False, repr=False)


@dataclass(slots=True)
class Room:
    """A place the player can stand, with what lies and can be done there."""

    name: str
    items: dict[str, Placement] = field(default_factory=dict)
    chests: dict[str, Chest] = field(default_factory=dict)
    switches: dict[str, Act] = field(default_factory=dict)
    acts: dict[str, Act] = field(default_factory=dict)
    label: str | None = None
    note: str | None = None
    place: Place | None = field(default=None, compare=False, repr=False)

    def all_acts(self) -> list[Act]:
        """The room's switches and acts, switches first."""
        return [*self.switches.values(), *self.acts.values()]
