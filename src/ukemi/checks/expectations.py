"""What the designer claims about a level, and which claims fail.

A level that passes, and one that fails::

    {start: quay, goal: mill, rooms: [quay, mill], passages: [quay -> mill],
     expect: {required: mill, shortest: {at-most: 1}}}
    the same with `expect: {optional: mill}`
"""

from __future__ import annotations

from collections.abc import Collection, Iterator

from ..level import Claim, Condition, Place
from ..rules import END, PLACE, PLAYING, Position
from ..rules.names import Names
from ..search import OutOfBudgetError, Route, find_finish, reaching
from .answers import Answer
from .case import Case
from .cases import Cases
from .result import Answers, Finding
from .subjects import item_sources


def check_expectations(
    cases: Cases, answers: Answers, routes: dict[str, Route], shortest: Collection[str]
) -> Iterator[Finding]:
    """Tell each claim that fails, and each that is not settled.

    Claims that have a finding of their own (that the level can be finished, that nobody gets
    stuck, that rewards can be had) are told by those.

    Args:
        cases: The level under check.
        answers: The answers to the other questions.
        routes: The routes found.
        shortest: The names of those that are proven to be shortest ones.

    Yields:
        ``expectation-failed`` and ``undecided``.
    """
    expected = cases.level.expected
    yield from _rewards(cases.whole, answers)
    for test, claims in (
        (_never, expected.never),
        (_possible, expected.possible),
        (_always_possible, expected.always_possible),
    ):
        for claim in claims:
            assert isinstance(claim.says, Condition)
            yield from test(cases.about_condition(claim.says), claim)
    for wanted, claims in (
        (Answer.REQUIRED, expected.required),
        (Answer.OPTIONAL, expected.optional),
    ):
        for claim in claims:
            yield from _status(cases, claim, wanted, answers)
    yield from _shortest(cases.goal, routes.get("finish"), "finish" in shortest)


def _failed(
    message: str, place: Place | None, subject: str, route: Route | None = None, why: str = ""
) -> Finding:
    mend = "mend the level, or change what expect claims"
    return Finding("expectation-failed", "error", subject, message, why, mend, place, route)


def _undecided(claim: str, place: Place | None) -> Finding:
    message = f"Whether {claim} is not settled: the search was cut short."
    mend = "raise --max-positions or --max-seconds"
    return Finding("undecided", "warning", "expect", message, mend=mend, place=place)


def _rewards(case: Case, answers: Answers) -> Iterator[Finding]:
    claim = case.level.expected.rewards
    place = case.level.expected.places.get("rewards")
    if claim == "together":
        if answers.all_rewards == Answer.NO:
            message = "`rewards: together` is claimed, but no finishing run takes every reward."
            yield _failed(message, place, "rewards")
        elif answers.all_rewards == Answer.UNKNOWN:
            yield _undecided("one finishing run takes every reward", place)
    if claim == "never-missed":
        missed = [name for name, one in answers.rewards.items() if one.missable == Answer.YES]
        if missed:
            message = f"`rewards: never-missed` is claimed, but {missed[0]} can be missed."
            yield _failed(message, place, missed[0])


def _holding(case: Case, condition: Condition) -> list[int]:
    """The positions in which a condition holds, cheapest first."""
    return case.positions_with(Names(case.level).guard(condition).holds)


def _never(case: Case, claim: Claim) -> Iterator[Finding]:
    assert isinstance(claim.says, Condition)
    found = _holding(case, claim.says)
    if found:
        message = f"`never: {claim.says}` is claimed, but it comes to hold."
        yield _failed(message, claim.place, str(claim.says), case.route_to(found[0]))
    elif not case.complete:
        yield _undecided(f"`{claim.says}` never holds", claim.place)


def _possible(case: Case, claim: Claim) -> Iterator[Finding]:
    assert isinstance(claim.says, Condition)
    if _holding(case, claim.says):
        return
    if case.complete:
        message = f"`possible: {claim.says}` is claimed, but it holds in no position."
        yield _failed(message, claim.place, str(claim.says))
    else:
        yield _undecided(f"`{claim.says}` can come to hold", claim.place)


def _always_possible(case: Case, claim: Claim) -> Iterator[Finding]:
    assert isinstance(claim.says, Condition)
    may = reaching(case.found, [*_holding(case, claim.says), *case.unexplored])
    lost = [
        number
        for number, position in enumerate(case.found.positions)
        if position[END] == PLAYING and not may[number]
    ]
    if lost:
        first = min(lost, key=case.found.costs.__getitem__)
        message = f"`always-possible: {claim.says}` is claimed, but it can become impossible."
        yield _failed(message, claim.place, str(claim.says), case.route_to(first))
    elif not case.complete:
        yield _undecided(f"`{claim.says}` is always possible", claim.place)


def _status(cases: Cases, claim: Claim, wanted: Answer, answers: Answers) -> Iterator[Finding]:
    name = str(claim.says)
    known = {**answers.doors, **answers.chests, **answers.acts, **answers.items, **answers.rooms}
    found = known.get(name)
    if found is None:
        found = cases.status_of_item(name)
    if found == Answer.UNKNOWN:
        yield _undecided(f"{name} is {wanted}", claim.place)
    elif found != wanted:
        message = f"`{wanted}: {name}` is claimed, but it is {found}."
        yield _failed(message, claim.place, name, _counterexample(cases, name, wanted))


def _counterexample(cases: Cases, name: str, wanted: Answer) -> Route | None:
    """A finishing run without what is claimed to be required, where there is one."""
    if wanted != Answer.REQUIRED:
        return None

    if name in cases.level.rooms:
        case = cases.about_room(name)
        return _run_avoiding(case, case.rules.places.index(name))
    sources = [name] if name in cases.whole.bits else item_sources(cases.level, name)
    case = cases.about(*sources)
    mask = sum(case.bits[source] for source in sources)
    numbers = [number for number in case.finished if not case.did[number] & mask]
    return case.route_to(numbers[0]) if numbers else None


def _run_avoiding(case: Case, place: int) -> Route | None:
    """A finishing run that never enters a room; with the fewest moves."""

    def enters(position: Position) -> bool:
        return position[PLACE] == place

    if enters(case.found.positions[0]):
        return None
    try:
        moves = find_finish(case.rules, case.rules.initial, len(case.found.positions), enters)
    except OutOfBudgetError:
        return None
    return case.replay(moves) if moves is not None else None


def _shortest(case: Case, finish: Route | None, exact: bool) -> Iterator[Finding]:
    bounds = case.level.expected.shortest
    if bounds is None or case.finish == Answer.NO:
        return
    place = case.level.expected.places.get("shortest")
    if bounds.at_most is not None and (finish is None or finish.steps > bounds.at_most):
        if exact and finish is not None:
            message = f"`shortest: at-most {bounds.at_most}` is claimed, but it takes {finish.steps} steps."
            yield _failed(message, place, "shortest", finish)
        else:
            yield _undecided(f"the shortest run has at most {bounds.at_most} steps", place)
    if bounds.at_least is not None:
        if finish is not None and finish.steps < bounds.at_least:
            message = (
                f"`shortest: at-least {bounds.at_least}` is claimed, but {finish.steps} steps do."
            )
            yield _failed(message, place, "shortest", finish)
        elif case.found.bound < bounds.at_least and not case.complete:
            yield _undecided(f"the shortest run has at least {bounds.at_least} steps", place)
