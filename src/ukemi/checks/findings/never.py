"""What no run ever does: doors that never open, rooms never entered, items never taken.

A level that passes, and one that fails (nothing gives the key)::

    {start: quay, goal: mill, rooms: [quay, mill], passages: [quay <-> mill]}
    {start: quay, goal: quay, items: {key: {}}, rooms: [quay, mill],
     passages: [quay <-> mill: {lock: key}]}
"""

from __future__ import annotations

from collections.abc import Iterator

from ...level import ALWAYS
from ..answers import Answer
from ..checked import Checked, finding
from ..result import Finding


@finding
def never(checked: Checked) -> Iterator[Finding]:
    """Tell everything that no run does.

    Args:
        checked: What was asked of the level.

    Yields:
        ``never-opens``, ``never-done``, ``never-taken``, ``never-entered``.
    """
    level, answers = checked.level, checked.answers
    rewards = set(checked.questions.rewards.values())
    for name in _never({**answers.doors, **answers.chests}):
        thing = level.things[name]
        lock = level.lock_of(thing.what)  # type: ignore[arg-type]
        why = f"It needs {lock.needs}" if lock is not None and lock.needs != ALWAYS else ""
        message = f"No run ever opens {name}."
        if name not in rewards:
            mend = "see that what it needs can be had while it can be reached, or take it out"
            yield Finding("never-opens", "warning", name, message, why, mend, thing.what.place)
    for name in _never(answers.acts):
        thing = level.things[name]
        needs = getattr(thing.what, "needs", ALWAYS)
        why = f"It needs {needs}" if needs != ALWAYS else ""
        message = f"No run ever does {name}."
        if name not in rewards:
            mend = "see that what it needs can be had while it can be reached, or take it out"
            yield Finding("never-done", "warning", name, message, why, mend, thing.what.place)
    for name in _never(answers.events):
        event = level.events[name]
        if name not in rewards:
            message, why = f"{name} never happens in any run.", f"It asks for {event.when}"
            mend = "see that what it asks for can come about, or take it out"
            yield Finding("never-done", "warning", name, message, why, mend, event.place)
    for name in _never(answers.items):
        room, _, item = name.rpartition("/")
        placement = level.rooms[room].items[item]
        why = f"Taking it needs {placement.needs}" if placement.needs != ALWAYS else ""
        message = f"No run ever takes {item} in {room}."
        if name not in rewards:
            mend = f"open a way to it, or take {item} out of {room}"
            yield Finding("never-taken", "warning", name, message, why, mend, placement.place)
    for name in _never(answers.rooms):
        message = f"No run ever enters {name}."
        mend = f"open a way to {name}, or take the room out"
        yield Finding("never-entered", "warning", name, message, "", mend, level.rooms[name].place)


def _never(statuses: dict[str, Answer]) -> list[str]:
    return [name for name, status in statuses.items() if status == Answer.NEVER]
