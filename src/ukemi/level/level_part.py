"""What the parts of a level have in common: texts for the player and the designer, and a place in the file."""

from __future__ import annotations

from ..values import dataclass, field
from .place import Place
from .says import SILENT, Says


@dataclass(slots=True, kw_only=True)
class LevelPart:
    """A part of a level.

    Attributes:
        label: Its name in pictures and messages.
        note: A remark for the designer.
        says: The texts that the player reads.
        mentions: The items, flags, rooms and things that these texts give away.
        place: Where it stands in its file.
    """

    label: str | None = None
    note: str | None = None
    says: Says = SILENT
    mentions: tuple[str, ...] = ()
    place: Place | None = field(default=None, compare=False, repr=False)
