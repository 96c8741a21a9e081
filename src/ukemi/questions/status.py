"""Must finishing runs do a thing? It is required if F lies within done, optional if F meets both.

A room is a thing to enter. The positions of runs that avoid it are a closure of their own.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import TYPE_CHECKING

from ..facts.find_finish import find_finish
from ..level import Level
from ..rules import PLACE, Position
from ..spaces import Route, replay
from ..spaces.space import S
from .context import Context
from .named_sets import Sets
from .transitive_reduction import ROOM
from .verdict import Answer, status

if TYPE_CHECKING:
    from .free_level import FreeLevel

#: Positions to search for a finishing run that avoids a room.
AROUND = 50_000

#: The status of each door, chest, act, placed item and event, by kind and name.
Statuses = Mapping[str, Mapping[str, Answer]]


def ask(context: Context[S], names: Collection[str]) -> Answer:
    """Return the status of doing one at least of some things, by name."""

    def by_landmarks(free: FreeLevel) -> Answer:
        reached = any(free.reached(name) for name in names)
        if len(names) == 1:
            without = not any(free.required & free.bits[name] for name in names)
        else:
            without = free.but(free.doing(names)).finish is not None
        return status(reached and free.can_finish, without, reached)

    def by_sets(sets: Sets[S]) -> Answer:
        context.limits.check()
        some = sets.some_finish_with(names)
        without = sets.some_without(names, sets.finished)
        return status(some, without, some or bool(sets.done_any(names)), sets.complete)

    answer = context.decide(Answer.UNKNOWN, free=by_landmarks, sets=by_sets)
    if answer == Answer.UNKNOWN and context.runs is not None and len(names) == 1:
        return context.runs.statuses.get(next(iter(names)), Answer.UNKNOWN)
    return answer


def of_all(context: Context[S]) -> Statuses:
    """Return the status of each door, chest, act, placed item and event."""
    found: dict[str, dict[str, Answer]] = {
        kind: {} for kind in ("door", "chest", "act", "item", "event")
    }
    for subject in context.subjects:
        found[subject.kind][subject.name] = ask(context, [subject.name])
    return found


def by_name(statuses: Statuses) -> dict[str, Answer]:
    """Return the status of each subject by its name alone."""
    return {name: one for kind in statuses.values() for name, one in kind.items()}


def finishing_without(context: Context[S], names: Collection[str]) -> Route | None:
    """Return a finishing run that does none of some things."""
    context = context.remembering(names)
    return context.decide(
        None,
        free=lambda free: free.run_without(free.doing(names)),
        sets=lambda sets: sets.route_to(sets.without(names, sets.finished)),
    )


# -- rooms ------------------------------------------------------------------------------------


def counts_as_room(level: Level, room: str) -> bool:
    """Return whether a designer thinks of a room as one: of a map's cells, more than mere floor."""
    found = level.rooms[room]
    return not (found.beside or found.used_from is not None)


def of_rooms(context: Context[S]) -> dict[str, Answer]:
    """Return the status of each room that counts as one."""
    rooms = [room for room in context.level.rooms if counts_as_room(context.level, room)]
    return {room: of_room(context, room) for room in rooms}


def of_room(context: Context[S], room: str) -> Answer:
    """Return the status of entering a room."""

    def by_landmarks(free: FreeLevel) -> Answer:
        place = free.places[room]
        reached = place in free.marks.before_room
        required = bool(free.required & free.marks.rooms[place])
        return status(reached and free.can_finish, not required, reached)

    def by_sets(sets: Sets[S]) -> Answer:
        context.limits.check()
        here = sets.at(room)
        some = bool(here & sets.can_finish)
        return status(some, some and _can_be_left_out(sets, room), bool(here), sets.complete)

    answer = context.decide(Answer.UNKNOWN, free=by_landmarks, sets=by_sets)
    if answer == Answer.UNKNOWN and context.runs is not None:
        return context.runs.room_statuses.get(room, Answer.UNKNOWN)
    return answer


def _can_be_left_out(sets: Sets[S], room: str) -> bool:
    """Return whether some known finishing run never enters a room."""
    if sets.left_out(room):
        return True
    if not sets.level.several:
        if sets.only_through(room, sets.finished):
            return False
        place = sets.rules.places.index(room)
        if place != sets.rules.initial[PLACE]:
            if sets.cannot_finish_without(room + ROOM):
                return False
            if sets.finds_run_around(place):
                return True
    return sets.finishes_around(room)


def finishing_around(context: Context[S], room: str) -> Route | None:
    """Return a finishing run that never enters a room."""
    rules = context.rules
    if room in rules.rooms_of(rules.start()):
        return None

    def by_landmarks(free: FreeLevel) -> Route | None:
        place = free.places[room]
        return free.run_without([m.number for m in rules.moves if m.leads_to == place])

    def by_sets(sets: Sets[S]) -> Route | None:
        def there(position: Position) -> bool:
            return room in rules.rooms_of(position)

        moves = find_finish(rules, rules.start(), AROUND, there, context.limits)
        if moves is None:
            return None
        return replay(rules, moves, at_least=sum(move.cost for move in moves))

    return context.decide(None, free=by_landmarks, sets=by_sets)


def never_entered(context: Context[S]) -> frozenset[str]:
    """Return the rooms that no run enters, cells that are mere floor included; none if undecided."""

    def by_sets(sets: Sets[S]) -> frozenset[str]:
        if not sets.complete:
            return frozenset()
        return frozenset(context.level.rooms.keys() - sets.rooms(sets.space.reachable))

    return context.decide(
        frozenset(),
        free=lambda free: frozenset(context.level.rooms.keys() - free.rooms),
        sets=by_sets,
    )
