"""Every question of a check, and what can answer it."""

from __future__ import annotations

import gc
from abc import ABC, abstractmethod
from collections.abc import Collection, Iterable, Iterator

from ..level import Condition, Level, Passage
from ..rules import Move, Position, Rules
from ..spaces import Limits, Route
from .answers import Answer
from .gates import gates
from .order import Pairs
from .reason import Reason
from .result import LevelAnswer, Mistake
from .statuses import counts_as_room
from .subjects import Subject, rewards, subjects

Statuses = dict[str, dict[str, Answer]]


class Questions(ABC):
    """Answers the questions of a check of one level; what tells of findings asks nothing else.

    Attributes:
        subjects: The doors, chests, acts and placed items of the level.
        rewards: For each reward by name, the subject that hands it over.
        gates: For each gate by name, the moves that walk through it, by number.
    """

    def __init__(self, level: Level, rules: Rules, limits: Limits) -> None:
        self.level = level
        self.rules = rules
        self.limits = limits
        self.subjects: list[Subject] = subjects(level, rules)
        self._by_name = {subject.name: subject for subject in self.subjects}
        self.rewards: dict[str, str] = rewards(level)
        self.gates: dict[str, frozenset[int]] = gates(level, rules)

    @property
    @abstractmethod
    def positions(self) -> int:
        """How many positions were looked at."""

    @property
    @abstractmethod
    def all_seen(self) -> bool:
        """Whether the answers come from looking at every position there is."""

    @property
    @abstractmethod
    def finish(self) -> Answer:
        """Whether the level can be finished."""

    @property
    @abstractmethod
    def stuck(self) -> Answer:
        """Whether anyone can get stuck: possible, never or unknown."""

    @property
    @abstractmethod
    def deadly(self) -> Answer:
        """Whether the player can die."""

    @abstractmethod
    def finishing(self) -> Route | None:
        """A finishing run, a cheapest one where that can be told."""

    @abstractmethod
    def with_every_reward(self) -> tuple[Answer, Route | None]:
        """Whether one finishing run takes every reward, and such a run."""

    def statuses(self) -> Statuses:
        """The status of each door, chest, act and placed item, by kind and name."""
        found: Statuses = {"door": {}, "chest": {}, "act": {}, "item": {}, "event": {}}
        for subject in self.subjects:
            found[subject.kind][subject.name] = self.status(subject)
        return found

    @abstractmethod
    def status(self, subject: Subject) -> Answer:
        """The status of one of those."""

    def room_statuses(self) -> dict[str, Answer]:
        """The status of each room that counts as one."""
        rooms = [room for room in self.level.rooms if counts_as_room(self.level, room)]
        return {room: self.room_status(room) for room in rooms}

    @abstractmethod
    def room_status(self, room: str) -> Answer:
        """The status of a room."""

    @abstractmethod
    def status_of_any(self, names: list[str]) -> Answer:
        """The status of doing one at least of some things."""

    @abstractmethod
    def required_gates(self) -> list[str] | None:
        """The gates that every finishing run walks through; ``None`` where that is not settled."""

    @abstractmethod
    def order(self, required: list[str], rooms: list[str], gates: list[str]) -> Pairs | None:
        """What comes before what in every finishing run, of what each must do, enter and walk."""

    @abstractmethod
    def mistakes(self) -> Iterator[tuple[Reason, Mistake]]:
        """Each kind of move that loses the level, with the reason."""

    @property
    @abstractmethod
    def knows_mistakes(self) -> bool:
        """Whether every kind of mistake is known."""

    @abstractmethod
    def losing_moves(self) -> Iterable[Move]:
        """The moves that lose the level.

        Raises:
            CutShortError: The time was over first.
        """

    @abstractmethod
    def can_finish_from(self, position: Position) -> Answer:
        """Whether the level can be finished from a position, as far as that is at hand."""

    @abstractmethod
    def explain(self, route: Route) -> Reason:
        """Why nothing finishes from the end of a route."""

    @abstractmethod
    def explained_start(self) -> Reason | None:
        """Why nothing finishes from the start; ``None`` where the player is dead there."""

    @abstractmethod
    def stuck_somewhere(self) -> tuple[Reason, Route] | None:
        """A run into a position from which nothing finishes, whichever of its moves is the mistake."""

    @abstractmethod
    def dying(self) -> Route | None:
        """A run at the end of which the player is dead."""

    @abstractmethod
    def missable(self, subject: str) -> tuple[Answer, Route | None]:
        """Whether a reward can be missed, and the run to the move that misses it."""

    @abstractmethod
    def taking(self, subject: str) -> tuple[Reason | None, Route | None]:
        """A run that does something which no finishing run does, and why it cannot finish then."""

    @abstractmethod
    def excluding(self) -> list[str]:
        """A smallest set of rewards of which each can be had, but not all in one finishing run."""

    @abstractmethod
    def way_round(self, door: Passage) -> tuple[str, Route] | None:
        """The far side of a door, and a run there that never opens it and can still finish."""

    @abstractmethod
    def comes_without(self, room: str, names: Collection[str]) -> bool:
        """Whether a run that can still finish comes to a room with none of some things done.

        Raises:
            CutShortError: The time was over first.
        """

    @abstractmethod
    def holding(self, condition: Condition) -> tuple[Answer, Route | None]:
        """Whether a condition can come to hold, and a run to where it does."""

    @abstractmethod
    def losing(self, condition: Condition) -> tuple[Answer, Route | None]:
        """Whether a condition can become impossible while playing, and a run to where it is."""

    @abstractmethod
    def finishing_without(self, names: list[str]) -> Route | None:
        """A finishing run that does none of some things."""

    @abstractmethod
    def finishing_around(self, room: str) -> Route | None:
        """A finishing run that never enters a room."""

    @abstractmethod
    def most_left(self, item: str) -> tuple[int, int] | None:
        """The units of an item at the start, and the most that a finishing run leaves of them."""

    def subject(self, name: str) -> Subject:
        """The door, chest, act, item or event of a name."""
        return self._by_name[name]

    def tidy(self) -> None:
        """Let go of what nobody needs any longer, where memory is short."""
        gc.collect()

    def levels(self) -> dict[str, LevelAnswer]:
        """The levels of a campaign: whether each is entered, and with what."""
        return {}

    def left_behind(self) -> list[tuple[str, str, int, Route]]:
        """Levels that can be entered with too little: each with the item, how many, and a run."""
        return []

    @abstractmethod
    def never_entered(self) -> frozenset[str]:
        """The rooms that no run enters, cells that are mere floor included; none if not settled."""
