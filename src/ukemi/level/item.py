"""A kind of thing that is carried."""

from __future__ import annotations

from ..values import dataclass
from .effects import NO_EFFECTS, Effects
from .level_part import LevelPart

ITEM_KINDS = ("key", "tool", "reward", "supply")


@dataclass(slots=True)
class Item(LevelPart):
    """A kind of item: a key, a tool, a reward or a supply.

    Attributes:
        name: Its name in conditions.
        kind: ``key``, ``tool``, ``reward`` or ``supply``; a supply is cut off at ``max``.
        use: ``spent`` when a lock takes it, ``kept`` when it stays with the player.
        max: The most the player can carry; ``None`` for no bound.
        vital: A supply whose end is the player's death.
        slots: Units of inventory space one takes.
        on_pickup: The effects of taking a unit from the level.
    """

    name: str
    kind: str = "key"
    use: str = "kept"
    max: int | None = None
    vital: bool = False
    slots: int = 1
    color: str | None = None
    on_pickup: Effects = NO_EFFECTS
