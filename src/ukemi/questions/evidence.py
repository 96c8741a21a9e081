"""Gather the evidence that decides the questions of a level: the cheapest that is exact for it."""

from __future__ import annotations

from collections.abc import Sequence

from ..facts.relaxed import Relaxed
from ..level import Level
from ..level.joined import Joined
from ..rules import END, PLAYING, Move, Rules, compile_level
from ..spaces import Limits
from ..spaces.explicit import ExplicitSpace
from ..spaces.space import AnySpace
from .context import AnyContext, Context
from .verdict import Answer

#: Fewer positions are searched one by one. The more variables a level has, the longer its diagrams take: so many
#: positions for each, up to a bound.
FIRST, FOR_EACH, MOST_FIRST = 3_000, 50, 15_000

#: A run that gets stuck, and whether its last move is the mistake.
_StuckRun = tuple[Sequence[Move], bool]

#: In a level with more rooms, sets of positions may not end: a run that gets stuck is looked for before.
MANY_ROOMS = 100


def few_positions(rules: Rules) -> int:
    """Return up to how many positions a level is searched one by one sooner than by diagrams."""
    return max(FIRST, min(FOR_EACH * len(rules.variables), MOST_FIRST))


def gather(level: Level, limits: Limits, at_once: bool = False) -> AnyContext:
    """Gather the evidence for the questions of a level, the cheapest first.

    All its positions, one by one, if they are few; landmarks, if nothing in it is ever lost; a guided
    search for one finishing run, and in very large levels for one that gets stuck; sets of positions as
    decision diagrams; and if those do not suit it, as many positions as the limits allow.

    Args:
        limits: How far to go; the time has begun. If ``few`` is 0, the level is known to have many positions:
            to look at a few of them, and for a first run, would be a waste of time.
        at_once: Whether a few positions, one by one, are enough, even if they settle nothing.

    Raises:
        LevelError: The level cannot be played.
    """
    rules = compile_level(level)
    first = few_positions(rules) if limits.few is None else limits.few

    def make_space(rules: Rules) -> AnySpace:
        few, enough = _few(rules, limits, first)
        return few if enough else _many(rules, limits)

    remember = make_space if isinstance(level, Joined) else None
    few, enough = _few(rules, limits, first)
    context: AnyContext = Context(level, rules, limits, few, remember=remember)
    if enough or at_once:
        return context
    if remember is None and not level.several:
        from .free_level import free_level  # loaded for large levels only

        context.free = free_level(level, rules, limits, context.subjects, context.gates)
    if context.free is not None or limits.over:
        return context
    if not first:
        return Context(level, rules, limits, _many(rules, limits), remember=remember)
    from ..facts.guided import finishing_run  # for large levels only
    from ..facts.projection import Projection

    projection = Projection(rules, limits.share(10))
    stuck: _StuckRun | None
    start = rules.start()
    if start[END] == PLAYING and not projection.may_finish(start):
        limits.answered("finish", Answer.NO)
        witness, stuck = None, ((), False)
    else:
        witness = finishing_run(rules, limits.share(3))
        if witness is not None:
            limits.answered("finish", Answer.YES)
        very_large = len(level.rooms) > MANY_ROOMS
        stuck = _stuck_run(rules, limits.share(10)) if very_large else None
    if stuck is not None:
        limits.answered("stuck", Answer.POSSIBLE)
    space = _many(rules, limits)
    return Context(
        level,
        rules,
        limits,
        space,
        witness=witness,
        projection=projection,
        stuck_run=stuck,
        remember=remember,
    )


def _stuck_run(rules: Rules, limits: Limits) -> _StuckRun | None:
    """A run that gets stuck, if one is soon found, and whether its last move is the mistake."""
    from ..facts.find_stuck import find_stuck, finishes_but_for_the_last  # for large levels only

    relaxed = Relaxed(rules, limits)
    run = find_stuck(relaxed) if relaxed.able else None
    return None if not run else (run, finishes_but_for_the_last(relaxed, run))


def _few(rules: Rules, limits: Limits, most: int) -> tuple[AnySpace, bool]:
    """A few positions, one by one, and whether they answer all that the limits allow."""
    first = limits.at_most(most, len(rules.variables))
    few = ExplicitSpace(rules, first)
    if few.complete or limits.over or limits.positions <= first.positions:
        return few, True
    if limits.positions <= FIRST:  # so few are asked for that nothing else is tried
        return ExplicitSpace(rules, limits), True
    return few, False


def _many(rules: Rules, limits: Limits) -> AnySpace:
    """Sets of positions as diagrams; one by one, if diagrams do not suit the rules."""
    from ..spaces.symbolic import symbolic_space

    space = symbolic_space(rules, limits, lambda: limits.answered("finish", Answer.YES))
    if space is not None and space.complete:
        return space
    more = ExplicitSpace(rules, limits)
    return more if space is None or more.complete else space
