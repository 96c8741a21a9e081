"""The answers of a check, as plain objects."""

from __future__ import annotations

from ..values import dataclass, field
from .verdict import Answer

#: The kinds of things that have a status each, by name.
KINDS = ("doors", "chests", "acts", "rooms", "items", "events")


@dataclass(frozen=True)
class RewardAnswer:
    """Whether finishing runs take a reward, and whether they can miss it."""

    status: Answer
    missable: Answer


@dataclass(frozen=True)
class LevelAnswer:
    """Whether runs enter a level of a campaign, and with which items.

    Attributes:
        status: Whether it is entered.
        enters: For each item the least and the most that is carried as it is entered; ``None`` where
            that is undecided, and nothing where it is never entered.
    """

    status: Answer
    enters: dict[str, tuple[int, int]] | None


@dataclass(frozen=True)
class Alternatives:
    """What is needed either or: every finishing run does all of one of some sets of things.

    Attributes:
        ways: The sets; none of them can be smaller, and for each some finishing run does nothing of the others.
        before, after: The required things that come before anything of them, and that come after one of them.
    """

    ways: tuple[tuple[str, ...], ...]
    before: tuple[str, ...] = ()
    after: tuple[str, ...] = ()


@dataclass(frozen=True)
class InHand:
    """What a player can have in a room, over all positions with a player there.

    Attributes:
        steps: The fewest steps in which it is entered; ``None`` if that is not proven.
        items: The least and the most of each item that can be carried there; of several players, by any one.
        flags: The flags that can be on there, and for each whether it can be off, too.
    """

    steps: int | None
    items: dict[str, tuple[int, int]]
    flags: dict[str, bool]


@dataclass(frozen=True)
class KeyMeasure:
    """How tight a level is with a kind of spent key.

    Attributes:
        placed: The units in the level.
        needed: The fewest that a finishing run uses up.
        spare: The units that can be removed from the level together without making an answer worse.
        spare_in: Where those are, each as reports name it: ``ROOM/ITEM``, a chest, an act or an
            event; ``start`` for what the player starts with.
        all_tried: Whether removing every other unit was tried, and each made an answer worse.
    """

    placed: int
    needed: int
    spare: int
    spare_in: tuple[str, ...] = ()
    all_tried: bool = True


@dataclass(frozen=True)
class RunMeasure:
    """A run's steps and moves."""

    steps: int
    moves: int


@dataclass(frozen=True)
class PacePoint:
    """One move of a run, and how far the level is open before it.

    Attributes:
        steps: The steps of the run before the move.
        cost: The steps of the move.
        opens: The doors and chests that it opens, the acts it does for the first time, the flags it turns on.
        gets: The units that it gives, by item; of several players, as ``ada: lantern``.
        rooms: The rooms that can be walked to before it, without doing anything else.
        things: The different things that can be done in those rooms; walks are none.
        again: Whether it walks a passage that was walked before, either way.
        carried: The units that are carried before it, by all players together.
    """

    steps: int
    cost: int
    opens: tuple[str, ...]
    gets: dict[str, int]
    rooms: int
    things: int
    again: bool
    carried: int

    @property
    def is_new(self) -> bool:
        """Whether the move brings something new."""
        return bool(self.opens or self.gets)


@dataclass(frozen=True)
class Measures:
    """Figures that a designer compares between versions of a level.

    Attributes:
        finish: The shortest finishing run; ``None`` where none was found.
        all_rewards: The shortest finishing run that takes every reward; ``None`` likewise.
        walked_again: The share of the shortest run's steps that go along passages it has walked
            before, from 0 to 1.
        choices: At each point of the shortest run, how many different things could be done next,
            walking aside.
        keys: For each kind of spent key, its slack.
        pace: The moves of the shortest finishing run, and of the one with every reward, by the name of its
            route: what is new at each, and how far the level is open.
    """

    finish: RunMeasure | None = None
    all_rewards: RunMeasure | None = None
    walked_again: float | None = None
    choices: tuple[int, ...] = ()
    keys: dict[str, KeyMeasure] = field(default_factory=dict)
    pace: dict[str, tuple[PacePoint, ...]] = field(default_factory=dict)


@dataclass(frozen=True)
class Answers:
    """The answer to every question.

    Attributes:
        finish: Is a finished position reachable?
        stuck: Can anyone get stuck: ``possible``, ``never`` or ``unknown``.
        all_rewards: Does some finishing run take every reward?
        deadly: Can the player die?
        rewards, doors, chests, acts, rooms, items, events: The status of each, by name.
        levels: In a campaign: whether each level is entered, and with what.
        order: Pairs of what must come before what; ``None`` where that is unknown.
        measures: Figures to compare.
        alternatives: What is needed either or; ``None`` if that was not asked, or is undecided.
        in_hand: What can be in hand in each room; ``None`` if that was not asked, or is undecided.
    """

    finish: Answer
    stuck: Answer
    all_rewards: Answer = Answer.UNKNOWN
    deadly: Answer = Answer.UNKNOWN
    rewards: dict[str, RewardAnswer] = field(default_factory=dict)
    doors: dict[str, Answer] = field(default_factory=dict)
    chests: dict[str, Answer] = field(default_factory=dict)
    acts: dict[str, Answer] = field(default_factory=dict)
    rooms: dict[str, Answer] = field(default_factory=dict)
    items: dict[str, Answer] = field(default_factory=dict)
    events: dict[str, Answer] = field(default_factory=dict)
    levels: dict[str, LevelAnswer] = field(default_factory=dict)
    order: tuple[tuple[str, str], ...] | None = None
    measures: Measures = field(default_factory=Measures)
    alternatives: tuple[Alternatives, ...] | None = None
    in_hand: dict[str, InHand] | None = None
