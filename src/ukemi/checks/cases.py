"""Which positions a question is answered from: those of the whole level, or of what matters to it."""

from __future__ import annotations

from collections.abc import Iterable

from ..level import Condition, Level, Passage
from ..search import Route
from .answers import Answer
from .case import Case
from .order import Pairs
from .subjects import Subject, item_sources


class Cases:
    """Answers every question from all positions of the level.

    Args:
        whole: The level under check.
    """

    #: Whether questions are answered from parts of the level.
    in_parts = False

    def __init__(self, whole: Case) -> None:
        self.whole = whole
        self.level: Level = whole.level

    @property
    def goal(self) -> Case:
        """What matters to finishing and to getting stuck."""
        return self.whole

    def about(self, *subjects: str) -> Case:
        """What matters to finishing with or without some subjects."""
        return self.whole

    def about_all(self, *subjects: str) -> Case:
        """What matters to finishing with all of some subjects together."""
        return self.whole

    def about_room(self, room: str) -> Case:
        """What matters to finishing with or without entering a room."""
        return self.whole

    def about_order(self, subjects: Iterable[str], rooms: Iterable[str]) -> Case:
        """What matters to the order in which finishing runs do some things and enter some rooms."""
        return self.whole

    def about_units(self, item: str) -> Case:
        """What matters to how many units of an item a run leaves."""
        return self.whole

    def about_door(self, door: Passage) -> Case:
        """What matters to passing by a door."""
        return self.whole

    def about_condition(self, condition: Condition) -> Case:
        """What matters to whether a condition can come to hold."""
        return self.whole

    @property
    def all_is_free(self) -> Answer:
        """Whether nothing that can be done is ever lost; asked only of levels in parts."""
        return Answer.UNKNOWN

    def order(self, statuses: dict[str, Answer], rooms: dict[str, Answer]) -> Pairs | None:
        """What must come before what, where that is told without looking at positions."""
        return None

    def finishing_run(self, *subjects: str) -> Route | None:
        """A finishing run that does some things, found without looking at all positions."""
        return None

    def cannot_finish_with(self, *subjects: str) -> bool:
        """Whether it is proven otherwise that no finishing run does all of some things."""
        return False

    def takes_at_least(self, *subjects: str) -> int:
        """The steps that a finishing run which does some things takes at least; 0 if not known."""
        return 0

    def status_of(self, subject: Subject) -> Answer:
        """The status of a door, chest, act or placed item."""
        return self.status_of_any(subject.name)

    def status_of_room(self, room: str) -> Answer:
        """The status of a room; of a level that is no large one, all rooms are told at once."""
        raise NotImplementedError

    def status_of_any(self, *subjects: str) -> Answer:
        """The status of doing one at least of some things."""
        from .statuses import status

        case = self.about(*subjects)
        mask = 0
        for name in subjects:
            mask |= case.bits[name]
        finished = [bool(case.did[number] & mask) for number in case.finished]
        reached = any(did & mask for did in case.did)
        return status(any(finished), not all(finished), reached, case.sees_all)

    def missable(self, reward: str) -> Answer:
        """Whether a reward can be missed, by the thing that hands it over."""
        from .rewards import missable

        case = self.about(reward)
        return missable(case, case.bits[reward])[0]

    def missed(self, reward: str) -> Route | None:
        """The cheapest run to where a reward is missed; ``None`` where that is at the start."""
        from .rewards import missable

        case = self.about(reward)
        return missable(case, case.bits[reward])[1]

    def may_bypass(self, door: Passage) -> bool:
        """Whether both sides of a door can be come to without it, as far as the passages tell."""
        return True

    def way_round(self, door: Passage) -> tuple[str, Route] | None:
        """A side of a door, and a way there without opening it, found without all positions."""
        return None

    def status_of_item(self, item: str) -> Answer:
        """The status of getting a unit of an item: from the floor, from chests or from acts."""
        return self.status_of_any(*item_sources(self.level, item))

    @property
    def positions(self) -> int:
        """How many positions were looked at."""
        return len(self.whole.found.positions)
