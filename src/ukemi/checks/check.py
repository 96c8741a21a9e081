"""One check of one level: every question asked, in order."""

from __future__ import annotations

from dataclasses import replace
from time import perf_counter

from ..facts.relaxed import Relaxed
from ..findings.finding import by_weight
from ..findings.registry import Answered, finding, layout
from ..level import Level
from ..questions import (
    alternatives,
    can_finish,
    die,
    get_stuck,
    in_hand,
    missable,
    order,
    stages,
    status,
    together,
)
from ..questions.answers import KINDS, Answers
from ..questions.context import AnyContext
from ..questions.evidence import few_positions, gather
from ..questions.measures import measure
from ..questions.missable import Missed
from ..questions.spare import with_spare
from ..questions.verdict import Answer
from ..spaces import Limits, Route
from .accepting import sort_out
from .causes import causes_first
from .result import Knowing, Report, SearchInfo


def check_level(
    level: Level,
    limits: Limits | None = None,
    with_codes: bool = False,
    try_spare: bool = True,
    quick: bool = False,
    hand: bool = False,
) -> Report:
    """Check a level.

    Args:
        limits: How far the search may go.
        with_codes: Whether to ask everything again for a player who knows its codes.
        try_spare: Whether to try which keys can be spared.
        quick: Whether to ask only who can finish, get stuck or die, and about rewards.
        hand: Whether to ask what can be in hand in each room of a large level, too.

    Raises:
        LevelError: The level cannot be played.
    """
    report = _check(level, limits, try_spare, quick, hand)
    if not with_codes:
        return report
    return replace(report, knowing=_check_knowing(report, limits, try_spare, quick))


def _check(
    level: Level, limits: Limits | None, try_spare: bool, quick: bool, hand: bool = False
) -> Report:
    began = perf_counter()
    context = gather(level, (limits or Limits()).begin())
    report = report_on(context, try_spare, quick)
    few = context.positions <= few_positions(context.rules)
    if not quick and (hand or (try_spare and few)):
        answers = replace(report.answers, in_hand=in_hand.ask(context))
        report = replace(report, answers=answers)
    return replace(report, search=replace(report.search, seconds=perf_counter() - began))


def report_on(
    context: AnyContext, try_spare: bool = True, quick: bool = False, says_why: bool = True
) -> Report:
    """Ask every question of a level, or the first ones.

    Args:
        context: The level, with the evidence that decides its questions.
        try_spare: Whether to try which keys can be spared.
        quick: Whether to ask only who can finish, get stuck or die, and about rewards.
        says_why: Whether to search for the reasons of findings.

    Returns:
        The report, without the time it took.
    """
    answers, missed, routes = _answers(context, quick)
    if try_spare and not quick:
        answers = with_spare(context, answers)
        known = (answers.doors, answers.chests, answers.acts, answers.items, answers.events)
        statuses = {name: one for kind in known for name, one in kind.items()}
        either_or = alternatives.ask(context, statuses)
        answers = replace(answers, alternatives=either_or)
    found = finding.all(Answered(context, answers, missed, routes, says_why))
    findings = [*layout.all(context.level), *found]
    complete = not quick and _all_proven(answers) and get_stuck.all_mistakes_known(context)
    unreached = status.never_entered(context)
    findings = causes_first(context.level, findings, unreached, context.limits)
    listed, accepted = sort_out(context.level, findings, complete)
    return Report(
        level=context.level,
        answers=answers,
        routes=routes,
        findings=by_weight(listed),
        search=SearchInfo(context.positions, complete, 0.0, context.all_seen),
        unreached=unreached,
        accepted=by_weight(accepted),
        quick=quick,
    )


def unreached_rooms(level: Level, limits: Limits | None = None) -> frozenset[str]:
    """Return rooms that no run enters: all of a small level, and of a large one those soon proven.

    Returns:
        The rooms. If the search does not cover all positions, they are the rooms that stay out of
        reach even if nothing were ever lost.
    """
    limits = (limits or Limits()).begin()
    context = gather(level, limits, at_once=True)
    if context.all_seen:
        return status.never_entered(context)
    entered = Relaxed(context.rules, limits).reach(context.rules.initial).rooms
    return frozenset(level.rooms.keys() - {context.rules.places[place] for place in entered})


def _answers(context: AnyContext, quick: bool) -> tuple[Answers, Missed, dict[str, Route]]:

    def answered(name: str, answer: Answer) -> None:
        if answer.proven:
            context.limits.answered(name, answer)

    answered("finish", can_finish.possible(context))
    stuck, deadly = get_stuck.ask(context).answer, die.ask(context).answer
    answered("stuck", stuck)
    answered("deadly", deadly)
    answered("all_rewards", together.possible(context))
    finish, together_ = can_finish.ask(context), together.ask(context)
    routes = {
        name: one.route
        for name, one in (("finish", finish), ("all-rewards", together_))
        if one.route is not None
    }
    if quick:
        of_rewards = {name: status.ask(context, [name]) for name in context.rewards.values()}
        rewards, missed = missable.of_all(context, of_rewards)
        return Answers(finish.answer, stuck, together_.answer, deadly, rewards), missed, routes
    statuses = status.of_all(context)
    by_name = status.by_name(statuses)
    rooms = status.of_rooms(context)
    order_ = None
    if all(one.proven for one in (*by_name.values(), *rooms.values())):
        must = [name for name, one in by_name.items() if one == Answer.REQUIRED]
        must_enter = [name for name, one in rooms.items() if one == Answer.REQUIRED]
        must_walk = order.required_gates(context)
        order_ = None if must_walk is None else order.ask(context, must, must_enter, must_walk)
    rewards, missed = missable.of_all(context, by_name)
    answers = Answers(
        finish=finish.answer,
        stuck=stuck,
        all_rewards=together_.answer,
        deadly=deadly,
        rewards=rewards,
        doors=dict(statuses["door"]),
        chests=dict(statuses["chest"]),
        acts=dict(statuses["act"]),
        rooms=rooms,
        items=dict(statuses["item"]),
        events=dict(statuses["event"]),
        order=order_,
        measures=measure(context, finish.route, together_.route),
        levels=stages.ask(context),
    )
    return answers, missed, routes


def _all_answers(answers: Answers) -> list[Answer]:
    kinds = [getattr(answers, kind) for kind in KINDS]
    rewards = [part for one in answers.rewards.values() for part in (one.status, one.missable)]
    first = [answers.finish, answers.stuck, answers.all_rewards, answers.deadly]
    first += [one.status for one in answers.levels.values()]
    return [*first, *rewards, *(status for kind in kinds for status in kind.values())]


def _all_proven(answers: Answers) -> bool:
    """Whether no answer is unknown."""
    return answers.order is not None and all(one.proven for one in _all_answers(answers))


def _check_knowing(
    report: Report, limits: Limits | None, try_spare: bool, quick: bool
) -> Knowing | None:
    taught = {
        act.teaches
        for room in report.level.rooms.values()
        for act in room.all_acts()
        if act.teaches
    }
    if not taught:
        return None
    known = _check(report.level.knowing(taught), limits, try_spare, quick)
    # A finding may be accepted only for a player who does not know.
    listed = tuple(one for one in known.findings if one.code != "accepted-nothing")
    known = replace(known, findings=listed)
    before, after = _required(report.answers), _required(known.answers)
    passes_by = [
        name for name, status in before.items()
        if status == Answer.REQUIRED and after[name] == Answer.OPTIONAL
    ]  # fmt: skip
    return Knowing(tuple(sorted(taught)), tuple(passes_by), known)


def _required(answers: Answers) -> dict[str, Answer]:
    rooms = {f"room {name}": status for name, status in answers.rooms.items()}
    return {**rooms, **answers.items, **answers.acts, **answers.chests, **answers.doors}
