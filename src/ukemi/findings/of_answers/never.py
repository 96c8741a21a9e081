"""Things that no run ever does: doors that never open, rooms never entered, items never taken."""

from __future__ import annotations

from collections.abc import Collection, Iterator

from ...level import ALWAYS, Condition, Level, Lock, Passage
from ...level.names import in_list
from ...questions.verdict import Answer
from ..finding import Finding
from ..registry import Answered, finding


@finding
def never(answered: Answered) -> Iterator[Finding]:
    """Report everything that no run does."""
    level, answers = answered.level, answered.answers
    rewards = answered.context.rewards.values()
    mend = "make sure that the player can get the things that it needs, or take it out"
    for name in _never({**answers.doors, **answers.chests}, rewards):
        thing = level.things[name].what
        lock = level.lock_of(thing)  # type: ignore[arg-type]
        why = "" if lock is None else _needing(lock.needs)
        why = _not_from(answered, name, lock) or why
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
        message, why = f"No run ever enters {name}.", _only_out(level, name)
        mend = f"open a way to {name}, or take the room out"
        yield Finding("never-entered", "warning", name, message, why, mend, level.rooms[name].place)


def _never(statuses: dict[str, Answer], reported_elsewhere: Collection[str] = ()) -> list[str]:
    never = (name for name, status in statuses.items() if status == Answer.NEVER)
    return [name for name in never if name not in reported_elsewhere]


def _not_from(answered: Answered, name: str, lock: Lock | None) -> str:
    """Return a sentence if no run enters the rooms from which a door is unlocked."""
    level = answered.level
    thing = level.things[name]
    if lock is None or not isinstance(thing.what, Passage):
        return ""
    ends = (thing.what.a, thing.what.b) if thing.what.two_way else (thing.what.a,)
    rooms = (lock.from_,) if lock.from_ else ends
    if any(answered.answers.rooms.get(room) != Answer.NEVER for room in rooms):
        return ""
    out = "; ".join(filter(None, (_only_out(level, room) for room in rooms)))
    return f"It is unlocked from {in_list(rooms, 'or')}, which no run enters" + (
        f": {out}" if out else ""
    )


def _only_out(level: Level, room: str) -> str:
    """Which passages lead only out of a room."""
    out = {one.name: one.b for one in level.passages if not one.two_way and one.a == room}
    into = [one for one in level.passages if one.b == room or (one.two_way and one.a == room)]
    unlocked = [one for one in into if one.lock is None]
    if out and not unlocked:
        leads = "leads" if len(out) == 1 else "lead"
        return (
            f"{in_list(out)} {leads} only out of {room}, to {in_list(dict.fromkeys(out.values()))}"
        )
    return f"no passage leads into {room}" if not into else ""


def _needing(needs: Condition, what: str = "It") -> str:
    return "" if needs == ALWAYS else f"{what} needs {needs}"
