"""One check of one level: every question asked, in order."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from time import perf_counter

from ..level import Level
from ..rules import compile_level
from ..search import Limits, Route
from ..search.fast import explore_fast
from .answers import Answer
from .bypassed import check_bypassed
from .case import Case
from .cases import Cases
from .death import check_death, deadly
from .expectations import check_expectations
from .finish import check_finish
from .keys import check_spare_keys
from .layout import check_layout
from .measures import measure
from .never import check_never
from .order import required_order
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


#: The positions to look at before a level counts as large; and before it is asked whether there
#: is anything in it to decide.
FIRST, AT_FIRST = 20_000, 5_000

#: The work to do, many positions at a time, before a level is searched question by question: about
#: that of finding so many moves, half a second of it.
QUICK = 5_000_000


def _check(level: Level, limits: Limits | None) -> Report:
    began = perf_counter()
    report = _searched(level, (limits or Limits()).begin())
    return replace(report, search=replace(report.search, seconds=perf_counter() - began))


def _searched(level: Level, limits: Limits) -> Report:
    """The report of a level: from all its positions, or of a large one from what matters.

    Whatever that leaves open is asked of all positions, as far as the limits allow.
    """
    rules = compile_level(level)
    few = limits.positions <= FIRST
    many = len(rules.variables)
    whole = Case(level, limits if few else limits.at_most(AT_FIRST, many), rules)
    if whole.complete or few or limits.over:
        return report_on(Cases(whole))
    from .parts import PartCases  # loaded for large levels only

    parts = PartCases(whole, limits)
    if not parts.free.plainly:
        further = Case(level, limits.at_most(FIRST, many), rules)
        if len(further.found.positions) >= len(whole.found.positions):  # else time was over
            whole = further
        if whole.complete or limits.over:
            return report_on(Cases(whole))
        found = explore_fast(rules, limits, QUICK)
        if found is not None and (found.complete or limits.over):
            return report_on(Cases(Case(level, limits, rules, found=found)))
        parts = PartCases(whole, limits)
    report = report_on(parts) if parts.settled else None
    if report is not None and (report.search.complete or limits.over):
        return report
    whole = Case(level, limits, whole.rules, found=explore_fast(whole.rules, limits))
    if whole.complete:
        return report_on(Cases(whole))
    if report is None:
        # What was found in part may prove that something can be; the parts know more.
        report = report_on(parts)
        if not limits.over:
            seen = report_on(Cases(whole))
            report = max(seen, report, key=lambda one: _proven(one.answers))
    looked = report.search.positions + len(whole.found.positions)
    return replace(report, search=replace(report.search, positions=looked))


def report_on(cases: Cases) -> Report:
    """Ask every question of a level.

    Args:
        cases: What the questions are answered from.

    Returns:
        The report, without the time it took.
    """
    routes, shortest, together = _routes(cases)
    answers = _answers(cases, together, {name: routes[name] for name in shortest})
    findings = by_weight(_findings(cases, answers, routes, shortest))
    complete = cases.whole.complete
    if cases.in_parts:
        complete = _all_proven(answers) and cases.goal.knows_mistakes
    return Report(
        cases.level,
        answers,
        routes,
        findings,
        SearchInfo(cases.positions, complete, 0.0, cases.in_parts),
        shortest,
        unreached=_unreached(cases, answers),
    )


def _routes(cases: Cases) -> tuple[dict[str, Route], frozenset[str], Answer]:
    """The routes of a level, which of them are proven shortest, and whether one takes all."""
    rewards = tuple(cases.whole.rewards.values())
    case = cases.about_all(*rewards)
    together, with_all = all_rewards(case)
    routes: dict[str, Route] = {}
    shortest = set()
    for name, one, end in (
        ("finish", cases.goal, next(iter(cases.goal.finished), None)),
        ("all-rewards", case, with_all),
    ):
        if end is not None:
            routes[name] = one.route_to(end)
            if one.found.exact(end):
                shortest.add(name)
    if cases.in_parts:
        if "finish" not in routes and cases.goal.finish == Answer.YES:
            _add_run(cases, routes, shortest, "finish", ())
        if together == Answer.UNKNOWN and _add_run(cases, routes, shortest, "all-rewards", rewards):
            together = Answer.YES
        elif together == Answer.UNKNOWN and cases.cannot_finish_with(*rewards):
            together = Answer.NO
    return routes, frozenset(shortest), together


def _add_run(
    cases: Cases, routes: dict[str, Route], shortest: set[str], name: str, does: tuple[str, ...]
) -> bool:
    route = cases.finishing_run(*does)
    if route is None:
        return False
    routes[name] = route
    if cases.takes_at_least(*does) == route.steps:
        shortest.add(name)
    return True


def unreached_rooms(level: Level, limits: Limits | None = None) -> frozenset[str]:
    """The rooms that no run enters, without asking anything else; none where that is not settled.

    Args:
        level: The level.
        limits: How far the search may go.
    """
    case = Case(level, limits)
    return _unreached(Cases(case), None)


def _unreached(cases: Cases, answers: Answers | None) -> frozenset[str]:
    case = cases.whole
    if case.complete:
        entered = {case.rules.places[place] for place in set(case.found.places)}
        return frozenset(case.level.rooms.keys() - entered)
    if answers is None:
        return frozenset()
    return frozenset(room for room, status in answers.rooms.items() if status == Answer.NEVER)


def _answers(cases: Cases, together: Answer, shortest: dict[str, Route]) -> Answers:
    subjects = subject_statuses(cases)
    by_name = {name: status for kind in subjects.values() for name, status in kind.items()}
    rooms = room_statuses(cases)
    must = [name for name, status in by_name.items() if status == Answer.REQUIRED]
    must_enter = [name for name, status in rooms.items() if status == Answer.REQUIRED]
    order = None
    if all(status.proven for status in (*by_name.values(), *rooms.values())):
        order = cases.order(by_name, rooms)
        if order is None:
            order = required_order(cases.about_order(must, must_enter), by_name, rooms)
    return Answers(
        finish=cases.goal.finish,
        stuck=cases.goal.stuck,
        all_rewards=together,
        deadly=deadly(cases.goal),
        rewards=reward_answers(cases, by_name),
        doors=subjects["door"],
        chests=subjects["chest"],
        acts=subjects["act"],
        rooms=rooms,
        items=subjects["item"],
        order=order,
        measures=measure(cases, shortest.get("finish"), shortest.get("all-rewards")),
    )


def _all_answers(answers: Answers) -> list[Answer]:
    kinds = (answers.doors, answers.chests, answers.acts, answers.rooms, answers.items)
    rewards = [part for one in answers.rewards.values() for part in (one.status, one.missable)]
    first = (answers.finish, answers.stuck, answers.all_rewards, answers.deadly)
    return [*first, *rewards, *(status for kind in kinds for status in kind.values())]


def _all_proven(answers: Answers) -> bool:
    """Whether no answer is unknown."""
    return answers.order is not None and all(one.proven for one in _all_answers(answers))


def _proven(answers: Answers) -> tuple[bool, bool, int]:
    """How much is proven: who can get stuck and who can finish count most."""
    count = sum(one.proven for one in _all_answers(answers))
    return answers.stuck.proven, answers.finish.proven, count


def _findings(
    cases: Cases, answers: Answers, routes: dict[str, Route], shortest: frozenset[str]
) -> Iterator[Finding]:
    yield from check_layout(cases.level)
    yield from check_finish(cases.goal)
    yield from check_stuck(cases.goal)
    yield from check_rewards(cases, answers.rewards, answers.all_rewards)
    yield from check_death(cases.goal)
    yield from check_never(cases, answers)
    yield from check_bypassed(cases, answers.doors)
    yield from check_spare_keys(answers.measures.keys, cases.level)
    yield from check_expectations(cases, answers, routes, shortest)


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
