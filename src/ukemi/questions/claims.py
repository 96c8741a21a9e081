"""Does a condition ever hold, and does it stay possible?

It can hold if where(c) is not empty. It can become impossible if playing - before(where(c)) is not.
"""

from __future__ import annotations

from ..level import Condition
from ..spaces.space import S
from .context import Context
from .named_sets import Sets
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
