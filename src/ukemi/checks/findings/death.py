"""Can the player die?

A level that passes, and one that fails (two steps too cold)::

    {start: quay, goal: mill, items: {warmth: {kind: supply, vital: true}}, inventory:
     {start: {warmth: 3}}, rooms: [quay, mill], passages: [quay -> mill: {loses: {warmth: 2}}]}
    the same with `{warmth: 2}`
"""

from __future__ import annotations

from collections.abc import Iterator

from ...rules.words import move_words
from ..places import place_of_move, subject_of_move
from ..registry import Checked, finding
from ..result import Finding


@finding
def can_die(checked: Checked) -> Iterator[Finding]:
    """Tell the shortest way to die."""
    level, rules = checked.level, checked.questions.rules
    route = checked.questions.dying()
    if route is None:
        return
    last = route.positions[-1]
    gone = [
        name
        for name, item in level.items.items()
        if item.vital and any(last[carried] == 0 for carried in rules.carried(name))
    ]
    if not route.moves:
        place = level.places.get("inventory")
        message = "The player is dead from the start."
        yield Finding("can-die", "warning", "start", message, place=place)
        return
    what = route.moves[-1].what
    yield Finding(
        "can-die",
        "warning",
        subject_of_move(level, what),
        f"After `{move_words(what)}` the player can be dead.",
        f"{gone[0]} is at 0, and it is vital",
        f"give more {gone[0]} at the start or on the way, or let the move take less",
        place_of_move(level, what),
        route,
    )
