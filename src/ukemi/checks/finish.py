"""Can the level be finished?

A level that passes, and one that fails::

    {start: quay, goal: mill, rooms: [quay, mill], passages: [quay <-> mill]}
    {start: quay, goal: mill, rooms: [quay, mill], passages: [mill -> quay]}
"""

from __future__ import annotations

from ..rules import PLACE
from ..search import Route
from .answers import Answer
from .case import Case
from .reason import reasons_of
from .result import Finding


def finishing_route(case: Case) -> Route | None:
    """The cheapest finishing route found, or ``None``."""
    return case.route_to(case.finished[0]) if case.finished else None


def check_finish(case: Case) -> list[Finding]:
    """Say so where the level cannot be finished, or where that is not settled.

    Args:
        case: What matters to finishing.

    Returns:
        ``cannot-finish``, ``undecided``, a failed claim, or nothing.
    """
    claimed = case.level.expected.finish
    place = case.level.expected.places.get("finish") or case.level.places.get("goal")
    if case.finish == Answer.UNKNOWN:
        message = "Whether the level can be finished is not settled: the search was cut short."
        mend = "raise --max-positions or --max-seconds"
        return [Finding("undecided", "warning", "finish", message, mend=mend, place=place)]
    if case.finish == Answer.NO:
        severity = "note" if claimed == "impossible" else "error"
        start = case.rules.places[case.found.positions[0][PLACE]]
        message = f"Nothing finishes the level from {start}, whatever the player does."
        if len(case.dead) and not case.is_stuck(0):
            why, mend = "The player is dead from the start", "start with more of what is vital"
        else:
            reason = reasons_of(case).explain(0, case.route_to(0))
            why, mend = reason.why, reason.mend
        return [Finding("cannot-finish", severity, "goal", message, why, mend, place)]
    if claimed == "impossible":
        message = "`finish: impossible` is claimed, but the level can be finished."
        route = finishing_route(case)
        return [Finding("expectation-failed", "error", "finish", message, place=place, route=route)]
    return []
