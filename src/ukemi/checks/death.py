"""Can the player die?

A level that passes, and one that fails (two steps too cold)::

    {start: quay, goal: mill, items: {warmth: {kind: supply, vital: true}}, inventory:
     {start: {warmth: 3}}, rooms: [quay, mill], passages: [quay -> mill: {loses: {warmth: 2}}]}
    the same with `{warmth: 2}`
"""

from __future__ import annotations

from collections.abc import Iterator

from ..rules.words import move_words
from .answers import Answer, settled
from .case import Case
from .places import place_of_move, subject_of_move
from .result import Finding


def deadly(case: Case) -> Answer:
    """Whether a position in which the player is dead can be reached."""
    if not any(item.vital for item in case.level.items.values()):
        return Answer.NO
    return settled(bool(case.dead), case.sees_all)


def check_death(case: Case) -> Iterator[Finding]:
    """Tell the shortest way to die.

    Args:
        case: The level under check.

    Yields:
        ``can-die``, where the player can.
    """
    if not case.dead:
        return
    route = case.route_to(case.dead[0])
    last = route.positions[-1]
    gone = [
        name
        for name, item in case.level.items.items()
        if item.vital and last[case.rules.index["carried", name]] == 0
    ]
    if not route.moves:
        place = case.level.places.get("inventory")
        yield Finding(
            "can-die", "warning", "start", "The player is dead from the start.", place=place
        )
        return
    what = route.moves[-1].what
    yield Finding(
        "can-die",
        "warning",
        subject_of_move(case.level, what),
        f"After `{move_words(what)}` the player can be dead.",
        f"{gone[0]} is at 0, and it is vital",
        f"give more {gone[0]} at the start or on the way, or let the move take less",
        place_of_move(case.level, what),
        route,
    )
