"""What finishing runs do about each reward, and how it can be missed."""

from __future__ import annotations

from ..level import Level, Place
from ..spaces import Route
from .answers import Answer
from .questions import Questions
from .result import RewardAnswer

#: For each reward that can be missed, the run to the move that misses it.
Missed = dict[str, Route | None]


def reward_answers(
    questions: Questions, statuses: dict[str, Answer]
) -> tuple[dict[str, RewardAnswer], Missed]:
    """What finishing runs do about each reward, by its name, and whether and how it can be missed."""
    answers, missed = {}, {}
    for name, subject in questions.rewards.items():
        missable, route = questions.missable(subject)
        answers[name] = RewardAnswer(statuses[subject], missable)
        missed[name] = route
    return answers, missed


def reward_place(level: Level, subject: str) -> Place | None:
    """Where the thing that hands over a reward stands in the file."""
    thing = level.things.get(subject)
    if thing is not None:
        return thing.what.place
    room, _, item = subject.rpartition("/")
    return level.rooms[room].items[item].place
