"""What answers the questions of a level: the cheapest of several ways that is exact for it."""

from __future__ import annotations

from functools import partial

from ..facts.guided import finishing_run
from ..level import Level
from ..level.joined import Joined
from ..rules import Move, Rules, compile_level
from ..spaces import Limits
from ..spaces.explicit import ExplicitSpace
from ..spaces.space import Space
from .over_sets import OverSets
from .questions import Questions

#: So many positions are looked at one by one before a level is thought of as large.
FIRST = 15_000


def answering(level: Level, limits: Limits, at_once: bool = False) -> Questions:
    """Choose what answers the questions of a level, the cheapest first.

    All its positions, one by one, if they are few; landmarks, if nothing in it is ever lost; a guided
    search for one finishing run; sets of positions as decision diagrams; and if those do not suit it,
    as many positions as the limits allow.

    Args:
        level: The level.
        limits: How far to go; the time has begun.
        at_once: Whether a few positions, one by one, are enough, even if they settle nothing.

    Raises:
        LevelError: The level cannot be played.
    """
    return _answering(level, compile_level(level), limits, at_once)


def _answering(level: Level, rules: Rules, limits: Limits, at_once: bool = False) -> Questions:
    def over(space: Space, witness: list[Move] | None = None) -> Questions:
        if isinstance(level, Joined):
            from .over_campaign import OverCampaign

            remembering = partial(_remembering, level, limits)
            return OverCampaign(level, rules, space, remembering, witness)
        return OverSets(level, rules, space, witness)

    few, enough = _few(rules, limits)
    if enough or at_once:
        return over(few)
    if not isinstance(level, Joined) and not level.several:
        from .over_landmarks import nothing_is_lost  # loaded for large levels only

        free = nothing_is_lost(level, rules, limits)
        if free is not None:
            return free
    if limits.over:
        return over(few)
    witness = finishing_run(rules, limits.share(3))
    return over(_many(rules, limits), witness)


def _few(rules: Rules, limits: Limits) -> tuple[Space, bool]:
    """A few positions, one by one, and whether they answer all that the limits allow."""
    first = limits.at_most(FIRST, len(rules.variables))
    few = ExplicitSpace(rules, first)
    if few.complete or limits.over or limits.positions <= first.positions:
        return few, True
    if limits.positions <= FIRST:  # so few are asked for that nothing else is tried
        return ExplicitSpace(rules, limits), True
    return few, False


def _many(rules: Rules, limits: Limits) -> Space:
    """Sets of positions as diagrams; one by one, if diagrams do not suit the rules."""
    from ..spaces.symbolic import symbolic_space

    space = symbolic_space(rules, limits)
    if space is not None and space.complete:
        return space
    more = ExplicitSpace(rules, limits)
    return more if space is None or more.complete else space


def _remembering(level: Joined, limits: Limits, rules: Rules) -> OverSets:
    """What answers questions of a campaign by rules that remember what was done."""
    few, enough = _few(rules, limits)
    return OverSets(level, rules, few if enough else _many(rules, limits))
