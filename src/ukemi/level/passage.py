"""A way from one room to another."""

from __future__ import annotations

from ..values import dataclass
from .conditions import ALWAYS, Condition
from .effects import NO_EFFECTS, Effects
from .level_part import LevelPart
from .lock import Lock


@dataclass(slots=True)
class Passage(LevelPart):
    """A way between two rooms.

    Attributes:
        name: Its name, or its text (``quay <-> granary``) where it was given none.
        a, b: The rooms it joins; a one-way passage leads from ``a`` to ``b``.
        two_way: Whether it can be walked from ``b`` to ``a`` too.
        named: Whether the designer gave it a name.
        lock: A lock, the name of one, or ``None``: a passage with a lock is a door.
        gate: The condition for each walk.
        once: Whether it collapses after one walk.
        steps: The cost of walking it.
        effects: The effects of walking it.
        on_map: Whether it is a walk across a tile map's floor.
        part_of: On a tile map: the thing on the cell it steps onto, which several passages share:
            unlocked together, collapsed together.
        sides: On a tile map: the cells beside a door, from which it is unlocked.
        seen: Until this holds, the player does not know of it and cannot use it.
    """

    name: str
    a: str
    b: str
    two_way: bool = True
    named: bool = False
    lock: str | Lock | None = None
    gate: Condition = ALWAYS
    once: bool = False
    steps: int = 1
    effects: Effects = NO_EFFECTS
    seen: Condition = ALWAYS
    on_map: bool = False
    part_of: str | None = None
    sides: tuple[str, ...] = ()

    @property
    def thing(self) -> str:
        """The name of its door or passage. It differs from its own name only on a map."""
        return self.part_of or self.name

    @property
    def ends(self) -> tuple[str, ...]:
        """The rooms on its sides."""
        return self.sides or (self.a, self.b)

    @property
    def text(self) -> str:
        """The passage as it is written, without its fields."""
        return f"{self.a} {'<->' if self.two_way else '->'} {self.b}"

    def walks(self) -> list[tuple[str, str]]:
        """The directions it can be walked in, as pairs of rooms."""
        return [(self.a, self.b), (self.b, self.a)] if self.two_way else [(self.a, self.b)]
