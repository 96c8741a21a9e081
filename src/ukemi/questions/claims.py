"""Does a condition ever hold, and does it stay possible?

It can hold if where(c) is not empty. It can become impossible if playing - before(where(c)) is not. One thing can
come without another before it if it is done in some position on a run that has not done the other.
"""

from __future__ import annotations

from ..level import Condition
from ..spaces.space import S
from .context import Context
from .named_sets import Sets
from .subjects import item_sources
from .transitive_reduction import ROOM
from .verdict import UNDECIDED, Verdict, settled


def holds(context: Context[S], condition: Condition) -> Verdict:
    """Return whether a condition can hold, with a cheapest run to such a position."""

    def by_sets(sets: Sets[S]) -> Verdict:
        found = sets.where(condition)
        return Verdict(settled(bool(found), sets.complete), sets.route_to(found))

    return context.decide(UNDECIDED, free=lambda free: UNDECIDED, sets=by_sets)


def becomes_impossible(context: Context[S], condition: Condition) -> Verdict:
    """Return whether a condition can become impossible while the run goes on, with a run to there."""

    def by_sets(sets: Sets[S]) -> Verdict:
        holds = sets.where(condition)
        lost = sets.playing - sets.space.before(sets.or_unexplored(holds))
        return Verdict(
            settled(bool(lost), sets.complete), sets.route_to(lost, certain=sets.complete)
        )

    return context.decide(UNDECIDED, free=lambda free: UNDECIDED, sets=by_sets)


def comes_without(context: Context[S], then: str, first: str) -> Verdict:
    """Return whether a thing can come without another before it, with a cheapest run to there.

    Args:
        then: A door, chest, act, event, item or room: opened, done, taken or entered.
        first: Another.
    """
    level = context.level

    def deeds(name: str) -> list[str]:
        return [name] if name in context.by_name else item_sources(level, name)

    def by_sets(sets: Sets[S]) -> Verdict:
        if first in level.rooms:
            free = sets.not_yet(first + ROOM)
        else:
            free = sets.never_in(sets.done_any(deeds(first)))
        late = sets.at(then) if then in level.rooms else sets.done_any(deeds(then))
        found = free & late
        route = None
        if found:
            run = sets.in_time(lambda: sets.space.run_to(found, free), None)
            route = None if run is None else sets.route(run, certain=sets.complete)
        return Verdict(settled(bool(found), sets.complete), route)

    return context.decide(UNDECIDED, free=lambda free: UNDECIDED, sets=by_sets)
