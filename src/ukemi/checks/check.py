"""One check of one level: every question asked, in order."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from time import perf_counter

from ..level import Level
from ..rules import PLACE
from ..search import Limits, Route
from .answers import Answer
from .bypassed import check_bypassed
from .case import Case
from .death import check_death, deadly
from .expectations import check_expectations
from .finish import check_finish
from .keys import check_spare_keys
from .layout import check_layout
from .measures import measure
from .never import check_never
from .order import required_order
from .reason import Reasons
from .result import Answers, Finding, Knowing, Report, SearchInfo, by_weight
from .rewards import all_rewards, check_rewards, reward_answers
from .statuses import room_statuses, subject_statuses
from .stuck import check_stuck


def check_level(level: Level, limits: Limits | None = None, with_codes: bool = False) -> Report:
    """Check a level.

    Args:
        level: The level.
        limits: How far the search may go.
        with_codes: Whether to ask everything again for a player who knows its codes.

    Returns:
        The report.

    Raises:
        LevelError: The level cannot be played.
    """
    report = _check(level, limits)
    if not with_codes:
        return report
    return replace(report, knowing=_check_knowing(report, limits))


def _check(level: Level, limits: Limits | None) -> Report:
    began = perf_counter()
    case = Case(level, limits)
    together, with_all = all_rewards(case)
    ends = {"finish": case.finished[0] if case.finished else None, "all-rewards": with_all}
    routes = {name: case.route_to(end) for name, end in ends.items() if end is not None}
    shortest = frozenset(
        name for name, end in ends.items() if end is not None and case.found.exact(end)
    )
    answers = _answers(case, together, {name: routes[name] for name in shortest})
    findings = by_weight(_findings(case, answers, routes))
    return Report(
        level,
        answers,
        routes,
        findings,
        SearchInfo(len(case.found.positions), case.complete, perf_counter() - began),
        shortest,
        unreached=_unreached(case),
    )


def unreached_rooms(level: Level, limits: Limits | None = None) -> frozenset[str]:
    """The rooms that no run enters, without asking anything else; none where that is not settled.

    Args:
        level: The level.
        limits: How far the search may go.
    """
    return _unreached(Case(level, limits))


def _unreached(case: Case) -> frozenset[str]:
    if not case.complete:
        return frozenset()
    entered = {case.rules.places[position[PLACE]] for position in case.found.positions}
    return frozenset(case.level.rooms.keys() - entered)


def _answers(case: Case, together: Answer, shortest: dict[str, Route]) -> Answers:
    subjects = subject_statuses(case)
    by_name = {name: status for kind in subjects.values() for name, status in kind.items()}
    rooms = room_statuses(case)
    return Answers(
        finish=case.finish,
        stuck=case.stuck,
        all_rewards=together,
        deadly=deadly(case),
        rewards=reward_answers(case, by_name),
        doors=subjects["door"],
        chests=subjects["chest"],
        acts=subjects["act"],
        rooms=rooms,
        items=subjects["item"],
        order=required_order(case, by_name, rooms),
        measures=measure(case, shortest.get("finish"), shortest.get("all-rewards")),
    )


def _findings(case: Case, answers: Answers, routes: dict[str, Route]) -> Iterator[Finding]:
    reasons = Reasons(case)
    yield from check_layout(case.level)
    yield from check_finish(case, reasons)
    yield from check_stuck(case, reasons)
    yield from check_rewards(case, answers.rewards, answers.all_rewards, reasons)
    yield from check_death(case)
    yield from check_never(case, answers)
    yield from check_bypassed(case, answers.doors)
    yield from check_spare_keys(answers.measures.keys, case)
    yield from check_expectations(case, answers, routes)


def _check_knowing(report: Report, limits: Limits | None) -> Knowing | None:
    taught = {
        act.teaches
        for room in report.level.rooms.values()
        for act in room.all_acts()
        if act.teaches
    }
    if not taught:
        return None
    known = _check(report.level.knowing(taught), limits)
    before, after = _required(report.answers), _required(known.answers)
    passes_by = [
        name for name, status in before.items()
        if status == Answer.REQUIRED and after[name] == Answer.OPTIONAL
    ]  # fmt: skip
    return Knowing(tuple(sorted(taught)), tuple(passes_by), known)


def _required(answers: Answers) -> dict[str, Answer]:
    rooms = {f"room {name}": status for name, status in answers.rooms.items()}
    return {**rooms, **answers.items, **answers.acts, **answers.chests, **answers.doors}
