"""Rewards that no finishing run collects, rewards that can be missed, and rewards that exclude each
other.
"""

from __future__ import annotations

from collections.abc import Iterator

from ...level import Place
from ...level.names import in_list
from ...questions import together
from ...questions.missable import reward_place
from ...questions.verdict import LOOK_FURTHER, Answer
from ...reasons.missed import on_branches
from ...rules.words import move_words
from ...spaces import Route
from ..finding import Finding
from ..registry import Answered, finding


@finding
def rewards(answered: Answered) -> Iterator[Finding]:
    """Report rewards that are out of reach, collected only when stuck, missable or at odds with each other."""
    level, context = answered.level, answered.context
    all_rewards = answered.answers.all_rewards
    claim = level.expected.rewards
    grave, mild = ("note", "note") if claim == "any" else ("error", "warning")
    for name, answer in answered.answers.rewards.items():
        subject = context.rewards[name]
        place = reward_place(level, subject)
        if answered.answers.finish == Answer.NO:
            continue  # then no finishing run takes any reward, and another finding reports that
        if answer.status == Answer.NEVER:
            message = f"No run gets the reward {name}."
            mend = "see what its room, chest or act waits for"
            yield Finding("reward-out-of-reach", grave, name, message, "", mend, place)
        elif answer.status == Answer.ONLY_WHEN_STUCK:
            route, lost = together.had_by_losing(context, subject)
            message = f"The reward {name} can be collected, but a player who takes it can no longer finish."
            why, mend = "Taking it is the last thing the player does", "let it be taken earlier"
            if route is not None and lost:
                reason = answered.explain(route)
                why, mend = reason.why, reason.mend
            yield Finding("reward-only-when-stuck", grave, name, message, why, mend, place, route)
        elif answer.missable == Answer.YES and (run := answered.missed[name]) is not None:
            yield _missed(answered, name, mild, place, run)
        unsure = ""
        if not answer.status.proven and all_rewards != Answer.YES:
            unsure = "had"
        elif claim == "never-missed" and not answer.missable.proven:
            unsure = "missed"
        if unsure and claim != "any":
            message = (
                f"Whether the reward {name} can be {unsure} is undecided: the search was cut short."
            )
            yield Finding("undecided", "warning", name, message, "", LOOK_FURTHER, place)
    if all_rewards == Answer.NO and answered.answers.finish == Answer.YES:
        names = together.excluding(context)
        if names:
            message = f"No finishing run takes {in_list(names)} together."
            why = "The player can collect each of them, but taking some makes the rest impossible"
            mend = "place another of what they compete for, or say `rewards: any` if that is meant"
            if branches := on_branches(level, names):
                why = f"No run plays both {in_list(branches)}: no way leads from one to the other"
                mend = "place both before the ways part or after they meet, or say `rewards: any` if that is meant"
            place = reward_place(level, context.rewards[names[0]])
            code = "rewards-exclude-each-other"
            yield Finding(code, mild, names[0], message, why, mend, place)


def _missed(
    answered: Answered, name: str, severity: str, place: Place | None, route: Route
) -> Finding:
    wrong = route.moves[-1].what
    message = f"After `{move_words(wrong)}` the level can still be finished, but without {name}."
    mend = "keep a way back to it open, or say `rewards: any` if that is meant"
    why = answered.why_missed(route)
    return Finding("reward-can-be-missed", severity, name, message, why, mend, place, route, wrong)
