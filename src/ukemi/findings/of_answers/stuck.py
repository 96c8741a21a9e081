"""Can anyone get stuck, and by which mistakes?"""

from __future__ import annotations

from ...questions import get_stuck
from ...questions.verdict import LOOK_FURTHER, Answer
from ...reasons.reason import Reason
from ...rules.move_places import place_of_move, subject_of_move
from ...rules.words import move_words
from ..finding import Finding, Mistake
from ..registry import Answered, finding


@finding
def can_get_stuck(answered: Answered) -> list[Finding]:
    """Report each mistake after which nothing finishes; those with one cause are one finding."""
    level, context = answered.level, answered.context
    allowed = level.expected.stuck == "possible"
    severity = "note" if allowed else "error"
    findings: list[Finding] = []
    causes: dict[tuple[str, ...], list[tuple[Reason, Mistake]]] = {}
    if answered.answers.finish != Answer.NO:
        for route in get_stuck.mistakes(context):
            reason = answered.explain(route)
            mistake = Mistake(route.moves[-1].what, route)
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
    if (
        not findings
        and answered.answers.stuck == Answer.POSSIBLE
        and answered.answers.finish != Answer.NO
    ):
        findings += _stuck_without_mistake(answered, severity)
    if answered.answers.stuck == Answer.UNKNOWN and not allowed:
        message = "Whether a player can get stuck is undecided: the search was cut short."
        mend = LOOK_FURTHER
        place = level.expected.places.get("stuck")
        findings.append(Finding("undecided", "warning", "stuck", message, mend=mend, place=place))
    return findings


def _stuck_without_mistake(answered: Answered, severity: str) -> list[Finding]:
    """Report a stuck position, if the search was cut short before any move into it was proven a mistake."""
    route = get_stuck.somewhere(answered.context)
    if route is None:
        return []
    reason = answered.explain(route)
    last = route.moves[-1].what if route.moves else {"do": "finish"}
    message = (
        "This route ends where nothing finishes; the search was cut short before it could decide "
        "which of its moves is the mistake."
    )
    subject, place = subject_of_move(answered.level, last), place_of_move(answered.level, last)
    return [
        Finding("can-get-stuck", severity, subject, message, reason.why, reason.mend, place, route)
    ]
