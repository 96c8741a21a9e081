"""``bypassed``: a door with a key that no finishing run needs, since there is a way round."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from itertools import permutations

from ...level import Has, HasAll, Passage
from ...level.conditions import atoms
from ...level.names import in_list
from ...questions import way_round
from ...questions.context import AnyContext
from ...questions.smallest import irreducible
from ...questions.verdict import Answer
from ...spaces import CutShortError
from ..finding import Finding
from ..registry import Answered, finding


@finding
def bypassed(answered: Answered) -> Iterator[Finding]:
    """Report each door with a key, if both of its sides are reachable without ever opening it."""
    level, context = answered.level, answered.context
    for passage, lock in level.doors():
        has_key = any(
            isinstance(atom, HasAll) or (isinstance(atom, Has) and atom.name in level.items)
            for atom in atoms(lock.needs)
        )
        if not has_key or answered.answers.doors.get(passage.thing) not in (
            Answer.OPTIONAL,
            Answer.NEVER,
        ):
            continue
        if len(set(passage.ends)) < 2 or (way := way_round.ask(context, passage)) is None:
            continue
        room, route = way
        try:
            instead = _needed_instead(context, passage)
        except CutShortError:
            instead = None
        name = passage.thing
        walked = [str(move.what["name"]) for move in route.moves if move.what["do"] == "walk"]
        by = f" (by {walked[-1]})" if walked and walked[-1] != room else ""
        message = f"No finishing run needs {name}: {room} is reached{by} without opening it."
        why, severity = "There is a shortcut round it", "warning"
        mend = f"close the shortcut, or take the lock off {name}"
        if instead is None:
            why += "; whether it asks for anything else is undecided: the search was cut short"
        elif instead:
            severity = "note"
            message = (
                f"{name} can be done without, but then "
                f"{in_list(instead, 'or')} is needed to get to {room}."
            )
            why = f"With the lock off {name}, {in_list(instead, 'or')} would not be needed there"
            mend = "nothing, if you mean both ways"
        yield Finding("bypassed", severity, name, message, why, mend, passage.place, route)


def _needed_instead(context: AnyContext, door: Passage) -> list[str]:
    """Return the things that the way round a door needs, and that are not needed if the door has no lock.

    Args:
        context: The level.
        door: The door.

    Returns:
        Things of which a player who gets to one side with the door shut does at least one, though players
        who get to the other side do not; none if the lock changes nothing.

    Raises:
        CutShortError: The time was over first.
    """
    sides = list(permutations(dict.fromkeys(door.ends), 2))
    if not door.two_way and door.part_of is None:
        sides = [(door.a, door.b)]
    found = (_needed_beyond(context, door, near, far) for near, far in sides)
    return next((some for some in found if some), [])


def _needed_beyond(context: AnyContext, door: Passage, near: str, far: str) -> list[str]:
    """Return the things that the far side needs and the near side does not."""
    subjects = [one for one in context.subjects if one.kind != "event" and one.name != door.thing]
    subjects.sort(key=lambda one: one.kind == "item")  # doors, chests and acts say more
    others = [one.name for one in subjects]

    def comes_to(room: str, done: Collection[str]) -> bool:
        undone = [name for name in others if name not in done]
        return way_round.comes_without(context, room, [door.thing, *undone])

    done = irreducible(others, lambda some: comes_to(near, some))
    if comes_to(far, done):
        return []
    rest = [name for name in others if name not in done]
    return irreducible(
        rest, lambda shut: not way_round.comes_without(context, far, [door.thing, *shut])
    )
