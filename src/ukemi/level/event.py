"""Something that happens by itself."""

from __future__ import annotations

from ..values import dataclass
from .conditions import ALWAYS, Condition
from .effects import NO_EFFECTS, Effects
from .level_part import LevelPart


@dataclass(slots=True)
class Event(LevelPart):
    """Something that happens by itself as soon as its condition holds, once in a run.

    Attributes:
        when: When it happens.
        effects: What happens.
    """

    name: str
    when: Condition = ALWAYS
    effects: Effects = NO_EFFECTS
