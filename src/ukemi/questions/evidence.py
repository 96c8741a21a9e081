"""Gather the evidence that decides the questions of a level: the cheapest that is exact for it."""

from __future__ import annotations

from collections.abc import Callable

from ..level import Level
from ..level.joined import Joined
from ..rules import END, PLAYING, Rules, compile_level
from ..spaces import Limits
from ..spaces.explicit import ExplicitSpace
from ..spaces.space import AnySpace
from .context import AnyContext, Context
from .verdict import Answer

#: Fewer positions are searched one by one. The more variables a level has, the longer its diagrams take: so many
#: positions for each, up to a bound.
FIRST, FOR_EACH, MOST_FIRST = 3_000, 50, 15_000


def few_positions(rules: Rules) -> int:
    """Return up to how many positions a level is searched one by one sooner than by diagrams."""
    return max(FIRST, min(FOR_EACH * len(rules.variables), MOST_FIRST))


def gather(level: Level, limits: Limits, at_once: bool = False) -> AnyContext:
    """Gather the evidence for the questions of a level, the cheapest first.

    All its positions, one by one, if they are few; landmarks, if nothing in it is ever lost; a guided
    search for one finishing run; sets of positions as decision diagrams, and more runs if those take long;
    and if those do not suit it, as many positions as the limits allow.

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
    from ..facts.projection import Projection  # for large levels only
    from .first_runs import FirstRuns

    projection = Projection(rules, limits.share(10))
    runs = FirstRuns(level, rules, limits, context.subjects, context.rewards.values())
    start = rules.start()
    if start[END] == PLAYING and not projection.may_finish(start):
        runs.cannot_finish()
    else:
        runs.look()
    space = _many(rules, limits, runs.look_longer)
    return Context(level, rules, limits, space, runs=runs, projection=projection, remember=remember)


def _few(rules: Rules, limits: Limits, most: int) -> tuple[AnySpace, bool]:
    """A few positions, one by one, and whether they answer all that the limits allow."""
    first = limits.at_most(most, len(rules.variables))
    few = ExplicitSpace(rules, first)
    if few.complete or limits.over or limits.positions <= first.positions:
        return few, True
    if limits.positions <= FIRST:  # so few are asked for that nothing else is tried
        return ExplicitSpace(rules, limits), True
    return few, False


def _many(rules: Rules, limits: Limits, meanwhile: Callable[[], None] = lambda: None) -> AnySpace:
    """Sets of positions as diagrams; one by one, if diagrams do not suit the rules.

    Args:
        meanwhile: Called once, if that takes long.
    """
    from ..spaces.symbolic import symbolic_space

    def on_finish() -> None:
        limits.answered("finish", Answer.YES)

    space = symbolic_space(rules, limits, on_finish, meanwhile)
    if space is not None and space.complete:
        return space
    meanwhile()
    more = ExplicitSpace(rules, limits)
    return more if space is None or more.complete else space
