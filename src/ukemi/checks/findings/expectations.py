"""What the designer claims about a level, and which claims fail.

A level that passes, and one that fails::

    {start: quay, goal: mill, rooms: [quay, mill], passages: [quay -> mill],
     expect: {required: mill, shortest: {at-most: 1}}}
    the same with `expect: {optional: mill}`
"""

from __future__ import annotations

from collections.abc import Iterator

from ...level import Claim, Condition, Level, Place
from ...spaces import Route
from ..answers import LOOK_FURTHER, Answer
from ..questions import Questions
from ..registry import Checked, finding
from ..result import Answers, Finding
from ..subjects import item_sources


@finding
def expectation_failed(checked: Checked) -> Iterator[Finding]:
    """Tell each claim that fails, and each that is not settled.

    Claims that have a finding of their own (that the level can be finished, that nobody gets
    stuck, that rewards can be had) are told by those.
    """
    questions, answers = checked.questions, checked.answers
    expected = checked.level.expected
    yield from _rewards(questions.level, answers)
    yield from _conditions(questions)
    for wanted, claims in (
        (Answer.REQUIRED, expected.required),
        (Answer.OPTIONAL, expected.optional),
    ):
        for claim in claims:
            yield from _status(questions, claim, wanted, answers)
    if answers.finish != Answer.NO:
        yield from _shortest(questions.level, checked.routes.get("finish"))


def _failed(
    message: str, place: Place | None, subject: str, route: Route | None = None, why: str = ""
) -> Finding:
    mend = "change the level, or what `expect` claims"
    return Finding("expectation-failed", "error", subject, message, why, mend, place, route)


def _undecided(claim: str, place: Place | None) -> Finding:
    message = f"Whether {claim} is not settled: the search was cut short."
    mend = LOOK_FURTHER
    return Finding("undecided", "warning", "expect", message, mend=mend, place=place)


def _rewards(level: Level, answers: Answers) -> Iterator[Finding]:
    claim = level.expected.rewards
    place = level.expected.places.get("rewards")
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


def _conditions(questions: Questions) -> Iterator[Finding]:
    expected, holding, losing = questions.level.expected, questions.holding, questions.losing
    never, possible, always = expected.never, expected.possible, expected.always_possible
    yes, no = Answer.YES, Answer.NO
    asked = (
        ("never", never, holding, yes, "comes to hold", "never holds"),
        ("possible", possible, holding, no, "holds in no position", "can come to hold"),
        ("always-possible", always, losing, yes, "can become impossible", "is always possible"),
    )
    for word, claims, ask, wrong, failing, claimed in asked:
        for claim in claims:
            assert isinstance(claim.says, Condition)
            found, route = ask(claim.says)
            if found == wrong:
                message = f"`{word}: {claim.says}` is claimed, but it {failing}."
                yield _failed(message, claim.place, str(claim.says), route)
            elif found == Answer.UNKNOWN:
                yield _undecided(f"`{claim.says}` {claimed}", claim.place)


def _status(
    questions: Questions, claim: Claim, wanted: Answer, answers: Answers
) -> Iterator[Finding]:
    name = str(claim.says)
    known = {**answers.doors, **answers.chests, **answers.acts, **answers.items, **answers.rooms}
    found = known.get(name)
    if found is None:
        found = questions.status_of_any(item_sources(questions.level, name))
    if found == Answer.UNKNOWN:
        yield _undecided(f"{name} is {wanted}", claim.place)
    elif found != wanted:
        message = f"`{wanted}: {name}` is claimed, but it is {found}."
        route = _counterexample(questions, name) if wanted == Answer.REQUIRED else None
        yield _failed(message, claim.place, name, route)


def _counterexample(questions: Questions, name: str) -> Route | None:
    """A finishing run without what is claimed to be required, where there is one."""
    if name in questions.level.rooms:
        return questions.finishing_around(name)
    names = {subject.name for subject in questions.subjects}
    sources = [name] if name in names else item_sources(questions.level, name)
    return questions.finishing_without(sources)


def _shortest(level: Level, finish: Route | None) -> Iterator[Finding]:
    bounds = level.expected.shortest
    if bounds is None:
        return
    place = level.expected.places.get("shortest")
    if bounds.at_most is not None and (finish is None or finish.steps > bounds.at_most):
        if finish is not None and finish.at_least > bounds.at_most:
            message = f"`shortest: at-most {bounds.at_most}` is claimed, but it takes {finish.at_least} steps"
            message += "." if finish.shortest else " at least."
            yield _failed(message, place, "shortest", finish)
        else:
            yield _undecided(f"the shortest run has at most {bounds.at_most} steps", place)
    if bounds.at_least is not None:
        if finish is not None and finish.steps < bounds.at_least:
            message = (
                f"`shortest: at-least {bounds.at_least}` is claimed, but {finish.steps} steps do."
            )
            yield _failed(message, place, "shortest", finish)
        elif finish is None or finish.at_least < bounds.at_least:
            yield _undecided(f"the shortest run has at least {bounds.at_least} steps", place)
