"""The effects of an event, an act, a door and so on."""

from __future__ import annotations

from ..values import dataclass, field, fields


@dataclass(frozen=True, slots=True)
class Effects:
    """The effects of unlocking a door, opening a chest, doing an act or walking a passage.

    Attributes:
        spends: Items taken, which must be carried.
        loses: Items taken away; if there are too few, all of them.
        gives: Items handed over.
        sets: Flags turned on.
        clears: Flags turned off.
        flips: Flags turned over.
        opens: Doors that open without their key; the name of a lock stands for all its doors.
    """

    spends: dict[str, int] = field(default_factory=dict)
    loses: dict[str, int] = field(default_factory=dict)
    gives: dict[str, int] = field(default_factory=dict)
    sets: tuple[str, ...] = ()
    clears: tuple[str, ...] = ()
    flips: tuple[str, ...] = ()
    opens: tuple[str, ...] = ()

    def __bool__(self) -> bool:
        return any(getattr(self, name) for name in EFFECT_NAMES)


#: The effects in the order in which they apply (the move itself comes before ``gives``).
EFFECT_NAMES = tuple(one.name for one in fields(Effects))

#: Shared by everything that changes nothing further.
NO_EFFECTS = Effects()
