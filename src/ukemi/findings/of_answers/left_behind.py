"""``left-behind``: a level of a campaign that can be entered without what it takes to finish."""

from __future__ import annotations

from collections.abc import Iterator

from ...level.joined import Joined
from ...questions import stages
from ...reasons.accounts import account
from ...rules import PLACE, Rules
from ...spaces import Route
from ..finding import Finding
from ..registry import Answered, finding


@finding
def left_behind(answered: Answered) -> Iterator[Finding]:
    """Report each level and item, if a player can enter the level with too little of the item to finish."""
    level, context = answered.level, answered.context
    if not isinstance(level, Joined):
        return
    severity = "note" if level.expected.stuck == "possible" else "error"
    for stage, item, least, route in stages.left_behind(context):
        wants = item if least == 1 else f"{least} {item}"
        left = _left_in(context.rules, item, route)
        here = context.rules.places[route.positions[-1][PLACE]]
        yield Finding(
            "left-behind",
            severity,
            f"{stage}/{item}",
            f"{stage} can be entered without {wants} ({_way(route)}), and then nothing finishes.",
            f"It is left behind in {left} ({account(level, context.rules, item, route, {here})})",
            f"let the way out of {left} ask for it (`when: {wants}`), or place {wants} in {stage}",
            level.campaign.stages[stage].place,
            route,
            route.moves[-1].what,
        )


def _way(route: Route) -> str:
    """The way onward that a route ends with."""
    last = next(move.what for move in reversed(route.moves) if "to" in move.what)
    return f"{last['level']} -> {last['to']}" if "level" in last else str(last["to"])


def _left_in(rules: Rules, item: str, route: Route) -> str:
    """The last level of a route that the player left with something still lying there, or carrying less."""
    lies = [n for one, n in rules.index.items() if one[0] != "carried" and one[-1] == item]
    carried = rules.carried(item)
    found = ""
    for number, move in enumerate(route.moves):
        if "to" not in move.what or move.what["do"] != "finish":
            continue
        before, after = route.positions[number], route.positions[number + 1]
        here = f"{move.what['level']}/"
        lying = any(before[n] for n in lies if rules.variables[n][1].startswith(here))
        if not found or lying or any(after[n] < before[n] for n in carried):
            found = str(move.what["level"])
    return found
