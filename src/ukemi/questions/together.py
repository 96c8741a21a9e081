"""Does one finishing run take every reward? F ∩ the rewards taken is not empty."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations
from typing import TYPE_CHECKING

from ..spaces import Route
from ..spaces.space import S
from .context import Context
from .named_sets import Sets
from .smallest import irreducible
from .verdict import Answer, Verdict, settled

if TYPE_CHECKING:
    from .free_level import FreeLevel

#: The greatest number of sets of rewards to try for a smallest one that no run collects together.
MOST_SETS = 20_000


def ask(context: Context[S]) -> Verdict:
    """Return whether one finishing run takes every reward, with a cheapest such run."""
    names = list(dict.fromkeys(context.rewards.values()))

    def by_landmarks(free: FreeLevel) -> Route | None:
        return free.finishing_with(names) if names else free.finishing

    def by_sets(sets: Sets[S]) -> Route | None:
        return sets.finishing_with(names) if names else sets.finishing

    route = context.remembering_rewards.decide(None, free=by_landmarks, sets=by_sets)
    return Verdict(possible(context), route or _by_runs(context))


def _by_runs(context: Context[S]) -> Route | None:
    """A run that takes every reward and that was found without sets of positions."""
    return None if context.runs is None else context.runs.with_all(context.rewards.values())


def possible(context: Context[S]) -> Answer:
    """Return whether one finishing run takes every reward, without looking for a cheapest run."""
    if context.finish_known == Answer.NO:
        return Answer.NO
    if _by_runs(context) is not None:
        return Answer.YES
    context = context.remembering_rewards
    names = list(dict.fromkeys(context.rewards.values()))
    return context.decide(
        Answer.UNKNOWN,
        free=lambda free: settled(free.can_finish and all(free.reached(name) for name in names)),
        sets=lambda sets: settled(bool(sets.finished_with(names)), sets.complete),
    )


def had_by_losing(context: Context[S], subject: str) -> tuple[Route | None, bool]:
    """Return a run that does something which no finishing run does, and whether it ends lost."""

    def by_sets(sets: Sets[S]) -> tuple[Route | None, bool]:
        route = sets.route_to(sets.done(subject))
        if route is None:
            return None, False
        return route, sets.space.contains(sets.lost, route.positions[-1])

    nothing: tuple[Route | None, bool] = (None, False)
    return context.decide(nothing, free=lambda free: nothing, sets=by_sets)


def excluding(context: Context[S]) -> list[str]:
    """Return a smallest set of rewards that exclude each other: a finishing run can collect each of them,
    but not all.

    If there are too many sets to try, the set is only minimal: without any one of its rewards it is
        possible.
    """
    context = context.remembering_rewards

    def by_sets(sets: Sets[S]) -> list[str]:
        if not sets.complete:
            return []
        taken = {name: sets.done(one, sets.finished) for name, one in context.rewards.items()}
        names = [name for name, some in taken.items() if some]

        def apart(some: Sequence[str]) -> bool:
            left = sets.finished
            for name in some:
                left = left & taken[name]
            return not left

        if not names or not apart(names):
            return []
        tried = 0
        for size in range(2, len(names) + 1):
            for some in combinations(names, size):
                tried += 1
                if apart(some):
                    return list(some)
                if tried > MOST_SETS or context.limits.over:
                    return irreducible(names, apart)
        return []

    return context.decide([], free=lambda free: [], sets=by_sets)
