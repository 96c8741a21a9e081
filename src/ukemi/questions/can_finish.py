"""Can the level be finished? F, the finished positions that were reached, is not empty."""

from __future__ import annotations

from ..spaces import Route
from ..spaces.space import S
from .context import Context
from .verdict import Answer, Verdict, settled


def ask(context: Context[S]) -> Verdict:
    """Return whether the level can be finished, with a cheapest finishing run if one is found."""
    return Verdict(possible(context), run(context))


def possible(context: Context[S]) -> Answer:
    """Return whether the level can be finished, without looking for a cheapest run."""
    if context.finish_known.proven:
        return context.finish_known
    return context.decide(
        Answer.UNKNOWN,
        free=lambda free: settled(free.can_finish),
        sets=lambda sets: settled(bool(sets.finished), sets.complete),
    )


def run(context: Context[S]) -> Route | None:
    """Return a finishing run, a cheapest one if that can be proven."""
    return context.decide(
        context.witness,
        free=lambda free: free.finishing,
        sets=lambda sets: sets.finishing or context.witness,
    )
