"""One check of one level: every question asked, in order."""

from __future__ import annotations

from dataclasses import replace
from time import perf_counter

from ..facts.relaxed import Relaxed
from ..level import Level
from ..level.joined import Joined
from ..spaces import Limits, Route
from .accepting import sort_out
from .answering import answering
from .answers import Answer
from .causes import causes_first
from .measures import measure
from .over_landmarks import nothing_is_lost
from .questions import Questions
from .registry import Checked, finding, layout
from .result import KINDS, Answers, Knowing, Report, SearchInfo, by_weight
from .reward_answers import Missed, reward_answers
from .spare import with_spare


def check_level(
    level: Level,
    limits: Limits | None = None,
    with_codes: bool = False,
    try_spare: bool = True,
) -> Report:
    """Check a level.

    Args:
        level: The level.
        limits: How far the search may go.
        with_codes: Whether to ask everything again for a player who knows its codes.
        try_spare: Whether to try which keys can be spared.

    Returns:
        The report.

    Raises:
        LevelError: The level cannot be played.
    """
    report = _check(level, limits, try_spare)
    if not with_codes:
        return report
    return replace(report, knowing=_check_knowing(report, limits, try_spare))


def _check(level: Level, limits: Limits | None, try_spare: bool) -> Report:
    began = perf_counter()
    questions = answering(level, (limits or Limits()).begin())
    report = report_on(questions, try_spare)
    return replace(report, search=replace(report.search, seconds=perf_counter() - began))


def report_on(questions: Questions, try_spare: bool = True) -> Report:
    """Ask every question of a level; the report tells no time.

    Args:
        questions: Answers them.
        try_spare: Whether to try which keys can be spared.
    """
    routes: dict[str, Route] = {}
    finish = questions.finishing()
    together, with_all = questions.with_every_reward()
    for name, route in (("finish", finish), ("all-rewards", with_all)):
        if route is not None:
            routes[name] = route
    answers, missed = _answers(questions, together, finish, with_all)
    if try_spare:
        answers = with_spare(questions, answers)
    told = finding.all(Checked(questions, answers, missed, routes))
    findings = [*layout.all(questions.level), *told]
    complete = _all_proven(answers) and questions.knows_mistakes
    unreached = questions.never_entered()
    findings = causes_first(questions.level, findings, unreached)
    listed, accepted = sort_out(questions.level, findings, complete)
    return Report(
        level=questions.level,
        answers=answers,
        routes=routes,
        findings=by_weight(listed),
        search=SearchInfo(questions.positions, complete, 0.0, questions.all_seen),
        unreached=unreached,
        accepted=by_weight(accepted),
    )


def unreached_rooms(level: Level, limits: Limits | None = None) -> frozenset[str]:
    """Return rooms that no run enters: all of a small level, and of a large one those soon proven.

    Args:
        level: The level.
        limits: How far to go.

    Returns:
        The rooms. If not all positions are looked at, they are those that stay out of reach even if
        nothing were ever lost.
    """
    limits = (limits or Limits()).begin()
    questions = answering(level, limits, at_once=True)
    free = None
    if not questions.all_seen and not level.several and not isinstance(level, Joined):
        free = nothing_is_lost(level, questions.rules, limits)
    if free is not None or questions.all_seen or level.several:
        return (free or questions).never_entered()
    entered = Relaxed(questions.rules, limits).reach(questions.rules.initial).rooms
    return frozenset(level.rooms.keys() - {questions.rules.places[place] for place in entered})


def _answers(
    questions: Questions, together: Answer, finish: Route | None, with_all: Route | None
) -> tuple[Answers, Missed]:
    subjects = questions.statuses()
    by_name = {name: status for kind in subjects.values() for name, status in kind.items()}
    rooms = questions.room_statuses()
    order = None
    if all(status.proven for status in (*by_name.values(), *rooms.values())):
        must = [name for name, status in by_name.items() if status == Answer.REQUIRED]
        must_enter = [name for name, status in rooms.items() if status == Answer.REQUIRED]
        must_walk = questions.required_gates()
        order = None if must_walk is None else questions.order(must, must_enter, must_walk)
    rewards, missed = reward_answers(questions, by_name)
    answers = Answers(
        finish=questions.finish,
        stuck=questions.stuck,
        all_rewards=together,
        deadly=questions.deadly,
        rewards=rewards,
        doors=subjects["door"],
        chests=subjects["chest"],
        acts=subjects["act"],
        rooms=rooms,
        items=subjects["item"],
        events=subjects["event"],
        order=order,
        measures=measure(questions, finish, with_all),
        levels=questions.levels(),
    )
    return answers, missed


def _all_answers(answers: Answers) -> list[Answer]:
    kinds = [getattr(answers, kind) for kind in KINDS]
    rewards = [part for one in answers.rewards.values() for part in (one.status, one.missable)]
    first = [answers.finish, answers.stuck, answers.all_rewards, answers.deadly]
    first += [one.status for one in answers.levels.values()]
    return [*first, *rewards, *(status for kind in kinds for status in kind.values())]


def _all_proven(answers: Answers) -> bool:
    """Whether no answer is unknown."""
    return answers.order is not None and all(one.proven for one in _all_answers(answers))


def _check_knowing(report: Report, limits: Limits | None, try_spare: bool) -> Knowing | None:
    taught = {
        act.teaches
        for room in report.level.rooms.values()
        for act in room.all_acts()
        if act.teaches
    }
    if not taught:
        return None
    known = _check(report.level.knowing(taught), limits, try_spare)
    # What is accepted may only be so for a player who does not know.
    told = tuple(one for one in known.findings if one.code != "accepted-nothing")
    known = replace(known, findings=told)
    before, after = _required(report.answers), _required(known.answers)
    passes_by = [
        name for name, status in before.items()
        if status == Answer.REQUIRED and after[name] == Answer.OPTIONAL
    ]  # fmt: skip
    return Knowing(tuple(sorted(taught)), tuple(passes_by), known)


def _required(answers: Answers) -> dict[str, Answer]:
    rooms = {f"room {name}": status for name, status in answers.rooms.items()}
    return {**rooms, **answers.items, **answers.acts, **answers.chests, **answers.doors}
