"""Claims of the designer that fail."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from ...level import Claim, Condition, Level, Place
from ...questions import claims, status
from ...questions.answers import Answers
from ...questions.context import AnyContext
from ...questions.subjects import item_sources
from ...questions.verdict import LOOK_FURTHER, Answer
from ...spaces import Route
from ..finding import Finding
from ..registry import Answered, finding


@finding
def expectation_failed(answered: Answered) -> Iterator[Finding]:
    """Report each claim that fails, and each that is undecided.

    Some claims have a finding of their own (the level can be finished, players never get stuck, rewards
    can be collected); those findings report them.
    """
    context, answers = answered.context, answered.answers
    expected = answered.level.expected
    yield from _rewards(context.level, answers)
    yield from _conditions(context)
    for wanted, claimed in (
        (Answer.REQUIRED, expected.required),
        (Answer.OPTIONAL, expected.optional),
    ):
        for claim in claimed:
            yield from _status(context, claim, wanted, answers)
    yield from _order(context)
    if answers.finish != Answer.NO:
        yield from _shortest(context.level, answered.routes.get("finish"))


def _failed(
    message: str, place: Place | None, subject: str, route: Route | None = None, why: str = ""
) -> Finding:
    mend = "change the level, or what `expect` claims"
    return Finding("expectation-failed", "error", subject, message, why, mend, place, route)


def _undecided(claim: str, place: Place | None) -> Finding:
    message = f"Whether {claim} is undecided: the search was cut short."
    mend = LOOK_FURTHER
    return Finding("undecided", "warning", "expect", message, mend=mend, place=place)


def _rewards(level: Level, answers: Answers) -> Iterator[Finding]:
    claim = level.expected.rewards
    place = level.expected.places.get("rewards")
    if claim == "together":
        if answers.all_rewards == Answer.NO:
            message = "You expect `rewards: together`, but no finishing run takes every reward."
            yield _failed(message, place, "rewards")
        elif answers.all_rewards == Answer.UNKNOWN:
            yield _undecided("one finishing run takes every reward", place)
    if claim == "never-missed":
        missed = [name for name, one in answers.rewards.items() if one.missable == Answer.YES]
        if missed:
            message = f"You expect `rewards: never-missed`, but {missed[0]} can be missed."
            yield _failed(message, place, missed[0])


def _conditions(context: AnyContext) -> Iterator[Finding]:
    expected = context.level.expected
    holding, losing = claims.holds, claims.becomes_impossible
    never, possible, always = expected.never, expected.possible, expected.always_possible
    yes, no = Answer.YES, Answer.NO
    asked = (
        ("never", never, holding, yes, "can hold", "never holds"),
        ("possible", possible, holding, no, "holds in no position", "can hold"),
        ("always-possible", always, losing, yes, "can become impossible", "is always possible"),
    )
    for word, claimed_ones, ask, wrong, failing, claimed in asked:
        for claim in claimed_ones:
            assert isinstance(claim.says, Condition)
            verdict = ask(context, claim.says)
            if verdict.answer == wrong:
                message = f"You expect `{word}: {claim.says}`, but it {failing}."
                yield _failed(message, claim.place, str(claim.says), verdict.route)
            elif verdict.answer == Answer.UNKNOWN:
                yield _undecided(f"`{claim.says}` {claimed}", claim.place)


def _order(context: AnyContext) -> Iterator[Finding]:
    for claim in context.level.expected.order:
        for first, then in pairwise(claim.names):
            verdict = claims.comes_without(context, then, first)
            if verdict.answer == Answer.YES:
                message = f"You expect `order: {first}, {then}`, but {then} can come without {first} before it."
                yield _failed(message, claim.place, then, verdict.route)
            elif verdict.answer == Answer.UNKNOWN:
                yield _undecided(f"{first} always comes before {then}", claim.place)


def _status(
    context: AnyContext, claim: Claim, wanted: Answer, answers: Answers
) -> Iterator[Finding]:
    name = str(claim.says)
    known = {**answers.doors, **answers.chests, **answers.acts, **answers.items, **answers.rooms}
    found = known.get(name)
    if found is None:  # an item, or nothing that a quick check asks about
        found = _asked(context, name)
    if found == Answer.UNKNOWN:
        yield _undecided(f"{name} is {wanted}", claim.place)
    elif found != wanted:
        message = f"You expect `{wanted}: {name}`, but it is {found}."
        route = _counterexample(context, name) if wanted == Answer.REQUIRED else None
        yield _failed(message, claim.place, name, route)


def _asked(context: AnyContext, name: str) -> Answer:
    if name in context.level.rooms:
        return status.of_room(context, name)
    names = [name] if name in context.by_name else item_sources(context.level, name)
    return status.ask(context, names)


def _counterexample(context: AnyContext, name: str) -> Route | None:
    """A finishing run without what is claimed to be required, where there is one."""
    if name in context.level.rooms:
        return status.finishing_around(context, name)
    sources = [name] if name in context.by_name else item_sources(context.level, name)
    return status.finishing_without(context, sources)


def _shortest(level: Level, finish: Route | None) -> Iterator[Finding]:
    bounds = level.expected.shortest
    if bounds is None:
        return
    place = level.expected.places.get("shortest")
    if bounds.at_most is not None and (finish is None or finish.steps > bounds.at_most):
        if finish is not None and finish.at_least > bounds.at_most:
            message = f"You expect `shortest: at-most {bounds.at_most}`, but it takes {finish.at_least} steps"
            message += "." if finish.shortest else " at least."
            yield _failed(message, place, "shortest", finish)
        else:
            yield _undecided(f"the shortest run has at most {bounds.at_most} steps", place)
    if bounds.at_least is not None:
        if finish is not None and finish.steps < bounds.at_least:
            message = (
                f"You expect `shortest: at-least {bounds.at_least}`, but {finish.steps} steps do."
            )
            yield _failed(message, place, "shortest", finish)
        elif finish is None or finish.at_least < bounds.at_least:
            yield _undecided(f"the shortest run has at least {bounds.at_least} steps", place)
