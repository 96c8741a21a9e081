"""A kind of thing that is carried."""

from __future__ import annotations

from ..values import dataclass, field
from .effects import NO_EFFECTS, Effects
from .place import Place
from .says import SILENT, Says

ITEM_KINDS = ("key", "tool", "reward", "supply")


@dataclass(slots=True)
class Item:
    """A kind of item: a key, a tool, a reward or a supply.

    Attributes:
        name: Its name in conditions.
        kind: ``key``, ``tool``, ``reward`` or ``supply``; a supply is cut off at ``max``.
        use: ``spent`` when a lock takes it, ``kept`` when it stays with the player.
        max: The most the player can carry; ``None`` for no bound.
        vital: A supply whose end is the player's death.
        slots: Units of inventory space one takes.
        on_pickup: The effects of taking a unit from the level.
        says: The texts that the player reads.
        mentions: The items, flags, rooms and things that these texts give away.
    """

    name: str
    kind: str = "key"
    use: str = "kept"
    max: int | None = None
    vital: bool = False
    slots: int = 1
    color: str | None = None
    label: str | None = None
    note: str | None = None
    says: Says = SILENT
    mentions: tuple[str, ...] = ()
    on_pickup: Effects = NO_EFFECTS
    place: Place | None = field(default=None, compare=False, repr=False)
