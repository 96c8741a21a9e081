"""What keeps a passage or a chest shut until it is unlocked."""

from __future__ import annotations

from dataclasses import dataclass, field

from .conditions import ALWAYS, Condition
from .effects import NO_EFFECTS, Effects
from .place import Place


@dataclass(slots=True)
class Lock:
    """A lock.

    Attributes:
        name: Its name, where it was described under ``locks``; else ``None``.
        needs: What must hold to unlock.
        takes: What unlocking takes (``spends`` in a file); ``None`` for the ``use: spent`` items ``needs`` counts.
        from_: The room it can be unlocked from; ``None`` for either end.
        relocks: Whether it shuts again behind the player.
        together: Whether unlocking one unlocks every door of this lock.
        effects: What happens on unlocking (a chest's: on opening).
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
    label: str | None = None
    note: str | None = None
    place: Place | None = field(default=None, compare=False, repr=False)
