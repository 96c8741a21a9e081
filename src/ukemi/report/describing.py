"""Describe a name in a few lines: the needs of a thing, and where the needed things are."""

from __future__ import annotations

from collections.abc import Iterator

from ..checks import Report
from ..level import ALWAYS, Act, Chest, Condition, Level, Lock, Passage
from ..level.asked import all_conditions, items_in
from ..level.names import in_list
from ..level.sources import sources
from .as_text import in_hand_words


def described(level: Level, kind: str, name: str, report: Report | None = None) -> list[str]:
    """Return the description of a name.

    Args:
        kind: What is named so: ``item``, ``room``, ``flag``, ``lock``, or ``thing`` for all else.
        report: A check of the level, where there is one.

    Returns:
        A description, its first line the heading; nothing if there is no such thing.

    Example:
        >>> from ukemi.language import loads
        >>> level = loads("{start: quay, goal: quay, items: {oak-key: {}}, rooms: {quay: {items: oak-key}}}")
        >>> described(level, "item", "oak-key")
        ['key oak-key', 'lies in quay', 'nothing asks for it']
    """
    lines = [*_lines(level, kind, name)]
    return [*lines, *_status(report, kind, name)] if lines else []


def _lines(level: Level, kind: str, name: str) -> Iterator[str]:
    match kind:
        case "item" if name in level.items:
            item = level.items[name]
            yield f"{item.kind} {name}" + (
                ", spent by what it opens" if item.use == "spent" else ""
            )
            yield from _where(level, name)
            asking = dict.fromkeys(
                one.subject for one in all_conditions(level) if name in items_in(one.condition)
            )
            yield f"asked for by {in_list(asking)}" if asking else "nothing asks for it"
        case "room" if name in level.rooms:
            room = level.rooms[name]
            yield f"room {name}"
            inside = [*room.items, *room.chests, *(act.name for act in room.all_acts())]
            yield f"in it: {in_list(inside)}" if inside else "nothing lies in it"
            if room.gate != ALWAYS:
                yield f"a gate at each way in: {room.gate}"
            ways = [one for one in level.passages if name in (one.a, one.b)]
            yield f"ways: {in_list(one.name if one.named else one.text for one in ways)}"
        case "flag":
            yield f"flag {name}, {'on' if level.flags.get(name) else 'off'} at first"
            turning = [
                act.name
                for room in level.rooms.values()
                for act in room.all_acts()
                if name in (*act.effects.sets, *act.effects.clears, *act.effects.flips, act.teaches)
            ]
            yield f"turned by {in_list(turning)}" if turning else "nothing in a room turns it"
        case "lock" if name in level.locks:
            yield f"lock {name}"
            yield from _needs(level, level.locks[name].needs)
            doors = [door.thing for door, _ in level.doors() if door.lock == name]
            yield f"on {in_list(doors)}" if doors else "on no door"
        case "thing" if name in level.things:
            thing = level.things[name]
            yield f"{thing.kind} {name}" + (f" in {thing.room}" if thing.room else "")
            yield from _of_thing(level, thing.what)
        case "thing":
            for passage in level.passages:
                if passage.part_of == name:
                    yield f"{'gate' if passage.gate != ALWAYS else 'floor'} {name} on {passage.b}"
                    yield from _of_thing(level, passage)
                    break


def _of_thing(level: Level, what: object) -> Iterator[str]:
    match what:
        case Passage():
            yield what.text
            lock = level.lock_of(what)
            if lock is not None:
                yield from _needs(level, lock.needs)
            if what.gate != ALWAYS:
                yield f"a gate each time: {what.gate}"
        case Chest():
            lock = level.lock_of(what) or Lock()
            yield from _needs(level, lock.needs)
            yield f"holds {in_list(what.holds) if what.holds else 'nothing'}"
        case Act():
            yield from _needs(level, what.needs)


def _needs(level: Level, condition: Condition) -> Iterator[str]:
    yield "needs nothing" if condition == ALWAYS else f"needs {condition}"
    for item in sorted(items_in(condition) & level.items.keys()):
        yield from (f"{item} {line}" for line in _where(level, item))


def _where(level: Level, item: str) -> Iterator[str]:
    words = {"item": "{room}", "chest": "{name} ({room})", "act": "{name} ({room})"}
    words |= {"event": "{name}", "start": "what is carried at the start"}
    given = [one for one in sources(level) if item in one.gives and one.kind in words]
    given.sort(key=lambda one: [*words].index(one.kind))
    said = (words[one.kind].format(name=one.name, room=one.room) for one in given)
    places = [*dict.fromkeys(said)]
    yield f"lies in {in_list(places)}" if places else "lies nowhere"


def _status(report: Report | None, kind: str, name: str) -> Iterator[str]:
    if report is None or kind not in ("room", "thing"):
        return
    answers = report.answers
    kinds = (answers.doors, answers.chests, answers.acts, answers.events)
    for statuses in (answers.rooms,) if kind == "room" else kinds:
        if name in statuses:
            yield f"by the last check: {statuses[name]}"
    if kind == "room" and answers.in_hand and name in answers.in_hand:
        yield in_hand_words(answers.in_hand[name])
