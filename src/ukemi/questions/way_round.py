"""Is there a way round a door? W, without the door opened, meets both of its sides."""

from __future__ import annotations

from collections.abc import Collection
from typing import TYPE_CHECKING

from ..facts.landmark_plans import plan_into
from ..level import Passage
from ..spaces import Route, replay
from ..spaces.space import S
from .context import Context
from .named_sets import Sets

if TYPE_CHECKING:
    from .free_level import FreeLevel


def ask(context: Context[S], door: Passage) -> tuple[str, Route] | None:
    """Return the far side of a door, and a run there that never opens it and can still finish.

    Returns:
        Those; ``None`` if there is no such run, or none was found.
    """

    def by_landmarks(free: FreeLevel) -> tuple[str, Route] | None:
        parts = free.walking.parts
        if not free.can_finish or len({parts[free.places[room]] for room in door.ends}) > 1:
            return None
        marks = free.but(free.doing([door.thing]))
        sides = []
        for room in door.ends:
            moves = plan_into(marks, free.places[room])
            if moves is None:
                return None
            sides.append((room, replay(context.rules, moves, limits=context.limits)))
        return max(sides, key=lambda side: side[1].steps)

    def by_sets(sets: Sets[S]) -> tuple[str, Route] | None:
        context.limits.check()
        sides = [
            (room, sets.undone(door.thing, sets.can_finish & sets.at(room)))
            for room in dict.fromkeys(door.ends)
        ]
        if not all(there for _, there in sides):
            return None
        routes = [(room, sets.route_to(there, sets.complete)) for room, there in sides]
        room, route = max(routes, key=lambda one: one[1].steps if one[1] else 0)
        return None if route is None else (room, route)

    return context.decide(None, free=by_landmarks, sets=by_sets)


def comes_without(context: Context[S], room: str, names: Collection[str]) -> bool:
    """Return whether a run that can still finish reaches a room without doing any of some things.

    Raises:
        CutShortError: That is undecided.
    """

    def by_sets(sets: Sets[S]) -> bool:
        context.limits.check()
        if sets.some_without(names, sets.can_finish & sets.at(room)):
            return True
        sets.must_be_complete()  # a run that was not found may do it
        return False

    return context.decide_or_cut(
        free=lambda free: free.places[room] in free.but(free.doing(names)).before_room,
        sets=by_sets,
    )


def needed(
    context: Context[S], rooms: Collection[str], door: Passage
) -> list[frozenset[str]] | None:
    """Return what every run does before it enters each of some rooms, if a door is never opened.

    Only runs that can still finish count where something can be lost; events do not count there.

    Returns:
        The names of those things, for each room; ``None`` if no known run enters one of the rooms.

    Raises:
        CutShortError: That is undecided.
    """

    def by_landmarks(free: FreeLevel) -> list[frozenset[str]] | None:
        marks = free.but(free.doing([door.thing]), watching=True)
        places = [free.places[room] for room in rooms]
        if not all(place in marks.before_room for place in places):
            return None
        done = [marks.at_start | marks.before_room[place] for place in places]
        return [frozenset(name for name, bit in free.bits.items() if one & bit) for one in done]

    def by_sets(sets: Sets[S]) -> list[frozenset[str]] | None:
        ends = [sets.can_finish & sets.at(room) for room in rooms]
        if sets.forgets and not all(sets.may_do_without([door.thing], there) for there in ends):
            return None
        either = sets.without([door.thing], sets.joined(ends))
        shut = [either & there for there in ends]
        if not all(shut):
            return None
        names = [one.name for one in context.subjects if one.kind != "event"]
        if not sets.forgets:
            found = [{one for one in names if not sets.without([one], some)} for some in shut]
        else:  # a position does not show whether the door was opened
            did = [sets.done_on_the_way(some, [door.thing]) for some in shut]
            found = [set() for _ in ends]
            for name in names:
                context.limits.check()
                for number, there in enumerate(ends):
                    if name in did[number] and not sets.some_without([door.thing, name], there):
                        found[number].add(name)
        if any(found):  # a run that was not found may need less
            sets.must_be_complete()
        return [*map(frozenset, found)]

    return context.decide_or_cut(free=by_landmarks, sets=by_sets)
