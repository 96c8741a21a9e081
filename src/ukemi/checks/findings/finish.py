"""Can the level be finished?

A level that passes, and one that fails::

    {start: quay, goal: mill, rooms: [quay, mill], passages: [quay <-> mill]}
    {start: quay, goal: mill, rooms: [quay, mill], passages: [mill -> quay]}
"""

from __future__ import annotations

from ...level.names import in_list
from ..answers import LOOK_FURTHER, Answer
from ..registry import Checked, finding
from ..result import Finding


@finding
def cannot_finish(checked: Checked) -> list[Finding]:
    """Say so where the level cannot be finished, or where that is not settled."""
    questions = checked.questions
    level, rules = checked.level, questions.rules
    claimed = level.expected.finish
    place = level.expected.places.get("finish") or level.places.get("goal")
    if questions.finish == Answer.UNKNOWN:
        message = "Whether the level can be finished is not settled: the search was cut short."
        mend = LOOK_FURTHER
        return [Finding("undecided", "warning", "finish", message, mend=mend, place=place)]
    if questions.finish == Answer.NO:
        severity = "note" if claimed == "impossible" else "error"
        start = in_list(sorted(rules.rooms_of(rules.start())))
        message = f"Nothing finishes the level from {start}, whatever the player does."
        reason = questions.explained_start()
        if reason is None:
            why, mend = "The player is dead from the start", "start with more of what is vital"
        else:
            why, mend = reason.why, reason.mend
        return [Finding("cannot-finish", severity, "goal", message, why, mend, place)]
    if claimed == "impossible":
        message = "`finish: impossible` is claimed, but the level can be finished."
        route = questions.finishing()
        return [Finding("expectation-failed", "error", "finish", message, place=place, route=route)]
    return []
