"""What answers the questions of a level: the cheapest of several ways that is exact for it."""

from __future__ import annotations

from ..facts.guided import finishing_run
from ..level import Level
from ..level.joined import Joined
from ..rules import Rules, compile_level
from ..spaces import Limits
from ..spaces.explicit import ExplicitSpace
from ..spaces.space import Space
from .over_sets import OverSets
from .questions import Questions

#: So many positions are looked at one by one before a level is thought of as large.
FIRST = 15_000


def answering(level: Level, limits: Limits, at_once: bool = False) -> Questions:
    """What answers the questions of a level, the cheapest first.

    All its positions, one by one, where they are few; what follows at once where nothing in it is
    ever lost; sets of positions as decision diagrams; and where those are not good for it, as many
    positions as the limits allow.

    Args:
        level: The level.
        limits: How far to go; the time has begun.
        at_once: Whether a few positions, one by one, are enough, even if they settle nothing.

    Raises:
        LevelError: The level cannot be played.
    """
    return _answering(level, compile_level(level), limits, at_once)


def _answering(level: Level, rules: Rules, limits: Limits, at_once: bool = False) -> Questions:
    def over(space: Space) -> Questions:
        if isinstance(level, Joined):
            from .over_campaign import OverCampaign

            return OverCampaign(level, rules, space, lambda more: _plainly(level, more, limits))
        return OverSets(level, rules, space, witness)

    witness = None
    first = limits.at_most(FIRST, len(rules.variables))
    few = ExplicitSpace(rules, first)
    if few.complete or limits.over or at_once:
        return over(few)
    if limits.positions <= FIRST:  # so few are asked for that nothing else is tried
        return over(few if limits.positions <= first.positions else ExplicitSpace(rules, limits))
    from .over_landmarks import nothing_is_lost  # loaded for large levels only

    alone = not isinstance(level, Joined) and not level.several
    free = None if not alone else nothing_is_lost(level, rules, limits)
    if free is not None or limits.over:
        return free or over(few)
    from ..spaces.symbolic import symbolic_space

    witness = finishing_run(rules, limits)
    space = symbolic_space(rules, limits)
    if space is not None and space.complete:
        return over(space)
    more = ExplicitSpace(rules, limits)
    return over(more if space is None or more.complete else space)


def _plainly(level: Joined, rules: Rules, limits: Limits) -> Questions:
    """What answers questions of a campaign from positions that tell all they are asked for."""
    questions = _answering(level, rules, limits)
    return OverSets(level, rules, questions.space)  # type: ignore[attr-defined]
