"""Can the player die? Deadly are the reached positions in which the player is dead."""

from __future__ import annotations

from ..rules import DEAD
from ..spaces.space import S
from .context import Context
from .named_sets import Sets
from .verdict import UNDECIDED, Answer, Verdict, settled


def ask(context: Context[S]) -> Verdict:
    """Return whether the player can die, with a cheapest run to there."""
    level = context.level
    falls = any(room.deadly for room in level.rooms.values())
    if not falls and not any(item.vital for item in level.items.values()):
        return Verdict(Answer.NO)

    def by_sets(sets: Sets[S]) -> Verdict:
        dead = sets.space.ended(DEAD)
        return Verdict(settled(bool(dead), sets.complete), sets.route_to(dead))

    return context.decide(UNDECIDED, free=lambda free: Verdict(Answer.NO), sets=by_sets)
