"""Can anyone get stuck, and by which mistakes?

A level that passes, and one that fails (the key opens one of two doors)::

    {start: quay, goal: mill, items: {iron-key: {}}, rooms: {quay: {items: iron-key}, mill: {},
     store: {}}, passages: [quay <-> mill: {lock: iron-key}, quay <-> store: {lock: iron-key}]}
    the same with `iron-key: {use: spent}`
"""

from __future__ import annotations

from ...rules.words import move_words
from ..answers import LOOK_FURTHER, Answer
from ..places import place_of_move, subject_of_move
from ..questions import Questions
from ..reason import Reason
from ..registry import Checked, finding
from ..result import Finding, Mistake


@finding
def can_get_stuck(checked: Checked) -> list[Finding]:
    """Tell each mistake after which nothing finishes; those with one cause are one finding."""
    level, questions = checked.level, checked.questions
    allowed = level.expected.stuck == "possible"
    severity = "note" if allowed else "error"
    findings: list[Finding] = []
    causes: dict[tuple[str, ...], list[tuple[Reason, Mistake]]] = {}
    if questions.finish != Answer.NO:
        for reason, mistake in questions.mistakes():
            causes.setdefault(reason.cause, []).append((reason, mistake))
    for group in causes.values():
        group.sort(key=lambda one: (one[1].route.steps, one[1].route.moves[-1].number))
        (reason, first), *others = group
        findings.append(
            Finding(
                "can-get-stuck",
                severity,
                subject_of_move(level, first.move),
                f"After `{move_words(first.move)}` the level can no longer be finished: a softlock.",
                reason.why,
                reason.mend,
                place_of_move(level, first.move),
                first.route,
                first.move,
                tuple(mistake for _, mistake in others),
            )
        )
    if not findings and questions.stuck == Answer.POSSIBLE and questions.finish != Answer.NO:
        findings += _stuck_without_mistake(questions, severity)
    if questions.stuck == Answer.UNKNOWN and not allowed:
        message = "Whether anyone can get stuck is not settled: the search was cut short."
        mend = LOOK_FURTHER
        place = level.expected.places.get("stuck")
        findings.append(Finding("undecided", "warning", "stuck", message, mend=mend, place=place))
    return findings


def _stuck_without_mistake(questions: Questions, severity: str) -> list[Finding]:
    """A stuck position of a search cut short before any move into it was proven to be the mistake."""
    found = questions.stuck_somewhere()
    if found is None:
        return []
    reason, route = found
    last = route.moves[-1].what if route.moves else {"do": "finish"}
    message = (
        "This route ends where nothing finishes; the search was cut short before it could tell "
        "which of its moves is the mistake."
    )
    subject, place = subject_of_move(questions.level, last), place_of_move(questions.level, last)
    return [
        Finding("can-get-stuck", severity, subject, message, reason.why, reason.mend, place, route)
    ]
