"""One check of one level: every question asked, in order."""

from __future__ import annotations

from time import perf_counter

from ..level import Level
from ..search import Limits
from .case import Case
from .finish import check_finish, finishing_route
from .reason import Reasons
from .result import Answers, Report, SearchInfo, by_weight
from .stuck import check_stuck


def check_level(level: Level, limits: Limits | None = None) -> Report:
    """Check a level.

    Args:
        level: The level.
        limits: How far the search may go.

    Returns:
        The report.

    Raises:
        LevelError: The level cannot be played.
    """
    began = perf_counter()
    case = Case(level, limits)
    reasons = Reasons(case)
    findings = [*check_finish(case, reasons), *check_stuck(case, reasons)]
    routes = {}
    shortest = True
    if (finishing := finishing_route(case)) is not None:
        routes["finish"] = finishing
        shortest = case.found.exact(case.finished[0])
    return Report(
        level,
        Answers(case.finish, case.stuck),
        routes,
        by_weight(findings),
        SearchInfo(len(case.found.positions), case.complete, perf_counter() - began),
        shortest,
    )
