"""Things that no run ever does: doors that never open, rooms never entered, items never taken."""

from __future__ import annotations

from collections.abc import Collection, Iterator

from ...level import ALWAYS, Condition
from ...questions.verdict import Answer
from ..finding import Finding
from ..registry import Answered, finding


@finding
def never(answered: Answered) -> Iterator[Finding]:
    """Tell everything that no run does."""
    level, answers = answered.level, answered.answers
    rewards = answered.context.rewards.values()
    mend = "make sure that the player can get the things that it needs, or take it out"
    for name in _never({**answers.doors, **answers.chests}, rewards):
        thing = level.things[name].what
        lock = level.lock_of(thing)  # type: ignore[arg-type]
        why = "" if lock is None else _needing(lock.needs)
        message = f"No run ever opens {name}."
        yield Finding("never-opens", "warning", name, message, why, mend, thing.place)
    for name in _never(answers.acts, rewards):
        thing = level.things[name].what
        why, message = _needing(getattr(thing, "needs", ALWAYS)), f"No run ever does {name}."
        yield Finding("never-done", "warning", name, message, why, mend, thing.place)
    for name in _never(answers.events, rewards):
        event = level.events[name]
        message, why = f"{name} never happens in any run.", f"It asks for {event.when}"
        mend = "see that what it asks for can come about, or take it out"
        yield Finding("never-done", "warning", name, message, why, mend, event.place)
    for name in _never(answers.items, rewards):
        room, _, item = name.rpartition("/")
        placement = level.rooms[room].items[item]
        why, message = (
            _needing(placement.needs, "Taking it"),
            f"No run ever takes {item} in {room}.",
        )
        mend = f"open a way to it, or take {item} out of {room}"
        yield Finding("never-taken", "warning", name, message, why, mend, placement.place)
    for name in _never(answers.rooms):
        message = f"No run ever enters {name}."
        mend = f"open a way to {name}, or take the room out"
        yield Finding("never-entered", "warning", name, message, "", mend, level.rooms[name].place)


def _never(statuses: dict[str, Answer], told_elsewhere: Collection[str] = ()) -> list[str]:
    never = (name for name, status in statuses.items() if status == Answer.NEVER)
    return [name for name in never if name not in told_elsewhere]


def _needing(needs: Condition, what: str = "It") -> str:
    return "" if needs == ALWAYS else f"{what} needs {needs}"
