"""Can the level be finished?"""

from __future__ import annotations

from ...level.maps.undrawn import undrawn
from ...level.names import in_list
from ...questions import can_finish
from ...questions.verdict import LOOK_FURTHER, Answer
from ...rules import DEAD, END
from ...spaces import replay
from ..finding import Finding
from ..registry import Answered, finding


@finding
def cannot_finish(answered: Answered) -> list[Finding]:
    """Report that the level cannot be finished, or that this is undecided."""
    context = answered.context
    level, rules = answered.level, context.rules
    claimed = level.expected.finish
    place = level.expected.places.get("finish") or level.places.get("goal")
    if answered.answers.finish == Answer.UNKNOWN:
        message = "Whether the level can be finished is undecided: the search was cut short."
        mend = LOOK_FURTHER
        return [Finding("undecided", "warning", "finish", message, mend=mend, place=place)]
    if answered.answers.finish == Answer.NO:
        severity = "note" if claimed == "impossible" else "error"
        start = in_list(sorted(rules.rooms_of(rules.start())))
        message = f"Nothing finishes the level from {start}, whatever the player does."
        at_start = replay(rules, [])
        reason = None if at_start.positions[0][END] == DEAD else answered.explain(at_start)
        if reason is None:
            why, mend = "The player is dead from the start", "start with more of what is vital"
        else:
            why, mend = reason.why, reason.mend
        if left_out := undrawn(level, lambda tile: tile.lock is not None or bool(tile.items)):
            why = f"{why}; {left_out}"
        return [Finding("cannot-finish", severity, "goal", message, why, mend, place)]
    if claimed == "impossible":
        message = "You expect `finish: impossible`, but the level can be finished."
        route = can_finish.run(context)
        return [Finding("expectation-failed", "error", "finish", message, place=place, route=route)]
    return []
