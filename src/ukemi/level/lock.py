"""A lock keeps a passage or a chest shut until it is unlocked."""

from __future__ import annotations

from ..values import dataclass
from .conditions import ALWAYS, Condition
from .effects import NO_EFFECTS, Effects
from .level_part import LevelPart


@dataclass(slots=True)
class Lock(LevelPart):
    """A lock.

    Attributes:
        name: Its name, where it was described under ``locks``; else ``None``.
        needs: The condition for unlocking.
        takes: The items that unlocking takes (``spends`` in a file); ``None`` for the ``use: spent``
            items that ``needs`` counts.
        from_: The room it can be unlocked from; ``None`` for either end.
        relocks: Whether it shuts again behind the player.
        together: Whether unlocking one unlocks every door of this lock.
        effects: The effects of unlocking (a chest's: of opening).
        steps: What unlocking costs; a door that relocks costs what its passage does.
    """

    name: str | None = None
    needs: Condition = ALWAYS
    takes: dict[str, int] | None = None
    from_: str | None = None
    relocks: bool = False
    together: bool = False
    effects: Effects = NO_EFFECTS
    steps: int = 1
    color: str | None = None
