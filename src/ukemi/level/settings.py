"""The settings of a whole level: the inventory, the rules of play, the designer's claims."""

from __future__ import annotations

from ..values import dataclass, field
from .conditions import Condition
from .place import Place


@dataclass(slots=True)
class Inventory:
    """The items at the start, the limits of the inventory, and whether items can be put down.

    Attributes:
        start: Items carried at the start.
        slots: Units carried at once; ``None`` for no bound.
        drop: Whether the player may put things down and take them again.
        shared: Whether several players have one inventory.
        hand_over: Whether one of several players may give things to another in the same room.
    """

    start: dict[str, int] = field(default_factory=dict)
    slots: int | None = None
    drop: bool = False
    shared: bool = False
    hand_over: bool = False


@dataclass(slots=True)
class PlayRules:
    """How things are picked up and how a run ends.

    Attributes:
        pickup: ``choice`` (may be left lying) or ``touch`` (taken on entering the room).
        finish: ``choice`` (may play on at the goal) or ``touch`` (the level ends there).
        falling: ``impossible``, or ``deadly``: on a map seen from the side, a fall onto nothing is death.
        hints: ``any``, or ``expected``: each required lock must be hinted at.
    """

    pickup: str = "choice"
    finish: str = "choice"
    hints: str = "any"
    falling: str = "impossible"


@dataclass(slots=True)
class Claim:
    """One condition or name that the designer makes a claim about."""

    says: Condition | str
    place: Place | None = field(default=None, compare=False, repr=False)


@dataclass(frozen=True, slots=True)
class InOrder:
    """Things of which the designer claims that each is done, entered or taken before the next.

    Attributes:
        names: Doors, chests, acts, rooms, items.
    """

    names: tuple[str, ...]
    place: Place | None = field(default=None, compare=False, repr=False)


@dataclass(frozen=True, slots=True)
class Accepted:
    """A finding that the designer means as it is.

    Attributes:
        name: The subject, as a check names it.
    """

    code: str
    name: str
    place: Place | None = field(default=None, compare=False, repr=False)


@dataclass(slots=True)
class Shortest:
    """Bounds on the steps of the shortest finishing run; ``None`` for no bound."""

    at_most: int | None = None
    at_least: int | None = None


@dataclass(slots=True)
class Expect:
    """The designer's claims about the level; each claim that fails is an error.

    Attributes:
        finish: ``possible`` or ``impossible``.
        stuck: ``never`` or ``possible``.
        rewards: ``reachable``, ``together``, ``never-missed`` or ``any``.
        never, possible, always_possible: Conditions that hold in no position, hold in some, or stay
            possible in every position.
        required, optional: Doors, chests, acts, rooms, items.
        shortest: Bounds on the shortest finishing run.
        order: Things that come one after another in every run, finishing or not.
        places: Where each field stands in the file.
    """

    finish: str = "possible"
    stuck: str = "never"
    rewards: str = "reachable"
    never: tuple[Claim, ...] = ()
    possible: tuple[Claim, ...] = ()
    always_possible: tuple[Claim, ...] = ()
    required: tuple[Claim, ...] = ()
    optional: tuple[Claim, ...] = ()
    shortest: Shortest | None = None
    order: tuple[InOrder, ...] = ()
    places: dict[str, Place] = field(default_factory=dict, compare=False, repr=False)
