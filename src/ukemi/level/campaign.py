"""A campaign: levels played one after another, with what is carried from each into the next."""

from __future__ import annotations

from collections.abc import Iterable

from ..graph import closure
from ..values import dataclass, field
from .conditions import ALWAYS, Condition
from .level import Level
from .place import Place
from .settings import Accepted, Expect


@dataclass(slots=True)
class Stage:
    """A level of a campaign.

    Attributes:
        name: The campaign's name for it.
        brings: The items that come along into it, of what is carried; ``None`` for all.
        keeps: Whether a player who comes back finds it as it was left.
    """

    name: str
    level: Level
    brings: frozenset[str] | None = None
    keeps: bool = False
    place: Place | None = field(default=None, compare=False, repr=False)

    def brings_along(self, item: str) -> bool:
        """Whether an item that is carried comes along into the level."""
        return self.brings is None or item in self.brings


@dataclass(slots=True)
class Onward:
    """A way from one level to the next.

    Attributes:
        a, b: The level that was finished, and the one it leads to.
        when: The condition for it as the first level is finished.
        sets: Flags that are turned on: shared ones, or ones of the level it leads to.
    """

    a: str
    b: str
    when: Condition = ALWAYS
    sets: tuple[str, ...] = ()
    place: Place | None = field(default=None, compare=False, repr=False)

    @property
    def name(self) -> str:
        """The way as it is written."""
        return f"{self.a} -> {self.b}"


@dataclass(slots=True)
class CampaignParts:
    """Levels, and the ways between them.

    Attributes:
        stages: The levels by the names it gives them; the first is where it begins.
        ways: The ways from each to the next.
        goal: The level with which it ends.
        shares: Flags that all levels share.
        expected: The designer's claims about the campaign.
        accepted: Findings that are meant as they are.
        places: Where its fields stand in its file.
        file: The file it was read from.
    """

    name: str
    stages: dict[str, Stage]
    ways: list[Onward]
    goal: str
    shares: frozenset[str] = frozenset()
    expected: Expect = field(default_factory=Expect)
    accepted: tuple[Accepted, ...] = ()
    places: dict[str, Place] = field(default_factory=dict, compare=False, repr=False)
    file: str | None = None

    @property
    def start(self) -> Stage:
        """The level it begins with."""
        return next(iter(self.stages.values()))

    def flag_in(self, stage: str, flag: str) -> str:
        """Return the name that a flag of a level has in the campaign."""
        return flag if flag in self.shares else f"{stage}/{flag}"

    def again(self, item: str | None = None) -> set[str]:
        """The levels that can be entered again and again; with an item, only those to which the player can
        bring it back each time.
        """
        return {one for one in self.stages if one in self.following(self._after(one, item), item)}

    def following(self, levels: Iterable[str], item: str | None = None) -> set[str]:
        """Some levels, and every level that ways lead to from them; with an item, those that it comes along into."""
        return closure(levels, lambda name: self._after(name, item))

    def _after(self, name: str, item: str | None) -> list[str]:
        return [
            way.b
            for way in self.ways
            if way.a == name and (item is None or self.stages[way.b].brings_along(item))
        ]
