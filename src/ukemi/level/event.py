"""Something that happens by itself."""

from __future__ import annotations

from ..values import dataclass, field
from .conditions import ALWAYS, Condition
from .effects import NO_EFFECTS, Effects
from .place import Place
from .says import SILENT, Says


@dataclass(slots=True)
class Event:
    """Something that happens by itself as soon as its condition holds, once in a run.

    Attributes:
        name: Its name.
        when: When it happens.
        effects: What happens.
        says: The texts that the player reads.
        mentions: The items, flags, rooms and things that these texts give away.
    """

    name: str
    when: Condition = ALWAYS
    effects: Effects = NO_EFFECTS
    label: str | None = None
    note: str | None = None
    says: Says = SILENT
    mentions: tuple[str, ...] = ()
    place: Place | None = field(default=None, compare=False, repr=False)
