"""Can the player die?"""

from __future__ import annotations

from collections.abc import Iterator

from ...questions import die
from ...rules.move_places import place_of_move, subject_of_move
from ...rules.words import move_words
from ..finding import Finding
from ..registry import Answered, finding


@finding
def can_die(answered: Answered) -> Iterator[Finding]:
    """Report the shortest way to die."""
    level, rules = answered.level, answered.context.rules
    route = die.ask(answered.context).route
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
        f"{gone[0]} is at 0, and it is vital" if gone else "It is a fall onto nothing",
        f"give more {gone[0]} at the start or on the way, or let the move take less"
        if gone
        else "draw something below that bears weight, or a wall before the edge",
        place_of_move(level, what),
        route,
    )
