"""Which rewards can be had, which can be missed, and which exclude each other.

A level that passes, and one that fails (the reward lies beyond a way that leads nowhere)::

    {start: quay, goal: mill, items: {ledger: {kind: reward}}, rooms: {quay: {items: ledger},
     mill: {}}, passages: [quay <-> mill]}
    {start: quay, goal: mill, items: {ledger: {kind: reward}}, rooms: {quay: {}, mill: {},
     race: {items: ledger}}, passages: [quay <-> mill, quay -> race]}
"""

from __future__ import annotations

from collections.abc import Iterator

from ...level import Place
from ...level.names import in_list
from ...rules.words import move_words
from ...spaces import Route
from ..answers import LOOK_FURTHER, Answer
from ..registry import Checked, finding
from ..result import Finding
from ..reward_answers import reward_place


@finding
def rewards(checked: Checked) -> Iterator[Finding]:
    """Tell each reward that is out of reach, had only when stuck, or missed, and those at odds."""
    level, questions = checked.level, checked.questions
    together = checked.answers.all_rewards
    claim = level.expected.rewards
    grave, mild = ("note", "note") if claim == "any" else ("error", "warning")
    for name, answer in checked.answers.rewards.items():
        subject = questions.rewards[name]
        place = reward_place(level, subject)
        if questions.finish == Answer.NO:
            continue  # then no reward is in any finishing run, and that is told already
        if answer.status == Answer.NEVER:
            message = f"No run gets the reward {name}."
            mend = "see what its room, chest or act waits for"
            yield Finding("reward-out-of-reach", grave, name, message, "", mend, place)
        elif answer.status == Answer.ONLY_WHEN_STUCK:
            reason, route = questions.taking(subject)
            message = f"The reward {name} can be had, but whoever takes it can no longer finish."
            why, mend = "Taking it is the last thing the player does", "let it be taken earlier"
            if reason is not None:
                why, mend = reason.why, reason.mend
            yield Finding("reward-only-when-stuck", grave, name, message, why, mend, place, route)
        elif answer.missable == Answer.YES and (run := checked.missed[name]) is not None:
            yield _missed(name, mild, place, run)
        unsure = ""
        if not answer.status.proven and together != Answer.YES:
            unsure = "had"
        elif claim == "never-missed" and not answer.missable.proven:
            unsure = "missed"
        if unsure and claim != "any":
            message = f"Whether the reward {name} can be {unsure} is not settled: the search was cut short."
            yield Finding("undecided", "warning", name, message, "", LOOK_FURTHER, place)
    if together == Answer.NO and questions.finish == Answer.YES:
        names = questions.excluding()
        if names:
            message = f"No finishing run takes {in_list(names)} together."
            why = "Each of them can be had, but taking some shuts out the rest"
            mend = "place another of what they compete for, or say `rewards: any` if that is meant"
            place = reward_place(level, questions.rewards[names[0]])
            code = "rewards-exclude-each-other"
            yield Finding(code, mild, names[0], message, why, mend, place)


def _missed(name: str, severity: str, place: Place | None, route: Route) -> Finding:
    wrong = route.moves[-1].what
    message = f"After `{move_words(wrong)}` the level can still be finished, but without {name}."
    mend = "keep a way back to it open, or say `rewards: any` if that is meant"
    return Finding("reward-can-be-missed", severity, name, message, "", mend, place, route, wrong)
