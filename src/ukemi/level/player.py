"""One of several who play a level."""

from __future__ import annotations

from ..values import dataclass, field
from .place import Place


@dataclass(slots=True)
class Player:
    """One of several players.

    Attributes:
        name: The name of the player.
        start: The room the player starts in; ``None`` for the level's.
        inventory: The items that the player carries at the start; ``None`` for the inventory of the
            level.
    """

    name: str
    start: str | None = None
    inventory: dict[str, int] | None = None
    place: Place | None = field(default=None, compare=False, repr=False)
