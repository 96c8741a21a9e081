"""``left-behind``: a level of a campaign that can be entered without what it takes to finish.

A campaign that passes is one whose way out of the level asks for it (``when: lantern``); one that
fails has a level with a dark stair, and a lantern in the level before that may be left lying.
"""

from __future__ import annotations

from collections.abc import Iterator

from ...level.joined import Joined
from ...rules import PLACE
from ..accounts import account
from ..checked import Checked, finding
from ..places import subject_of_move
from ..result import Finding


@finding
def left_behind(checked: Checked) -> Iterator[Finding]:
    """Tell each level that can be entered with too little of something ever to finish.

    Args:
        checked: What was asked of the campaign.

    Yields:
        An error for each level and item, a note where getting stuck is allowed.
    """
    level, questions = checked.level, checked.questions
    if not isinstance(level, Joined):
        return
    severity = "note" if level.expected.stuck == "possible" else "error"
    for stage, item, least, route in questions.left_behind():
        wants = item if least == 1 else f"{least} {item}"
        left = subject_of_move(level, route.moves[-1].what)
        here = questions.rules.places[route.positions[-1][PLACE]]
        yield Finding(
            "left-behind",
            severity,
            f"{stage}/{item}",
            f"{stage} can be entered without {wants}, and then nothing finishes.",
            f"It is left behind in {left} ({account(level, questions.rules, item, route, {here})})",
            f"let the way out of {left} ask for it (`when: {wants}`), or place {wants} in {stage}",
            level.campaign.stages[stage].place,
            route,
            route.moves[-1].what,
        )
