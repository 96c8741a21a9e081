"""``bypassed``: a door with a key that no finishing run needs, since there is a way round.

A level that passes, and one that fails (a second way in)::

    {start: quay, goal: mill, items: {key: {}}, rooms: {quay: {items: key}, mill: {}},
     passages: [quay <-> mill: {lock: key}]}
    the same with `quay <-> yard` and `yard <-> mill` besides
"""

from __future__ import annotations

from collections.abc import Collection, Iterator
from itertools import permutations

from ...level import Has, HasAll, Passage
from ...level.conditions import atoms
from ...level.names import in_list
from ...spaces import CutShortError
from ..answers import Answer
from ..questions import Questions
from ..registry import Checked, finding
from ..result import Finding
from ..smallest import irreducible


@finding
def bypassed(checked: Checked) -> Iterator[Finding]:
    """Tell each door with a key both sides of which are entered without it ever being opened."""
    level, questions = checked.level, checked.questions
    for passage, lock in level.doors():
        has_key = any(
            isinstance(atom, HasAll) or (isinstance(atom, Has) and atom.name in level.items)
            for atom in atoms(lock.needs)
        )
        if not has_key or checked.answers.doors[passage.thing] not in (
            Answer.OPTIONAL,
            Answer.NEVER,
        ):
            continue
        if len(set(passage.ends)) < 2 or (way := questions.way_round(passage)) is None:
            continue
        room, route = way
        try:
            instead = _needed_instead(questions, passage)
        except CutShortError:
            instead = None
        name = passage.thing
        message = f"No finishing run needs {name}: {room} is reached without opening it."
        why, severity = "There is a shortcut round it", "warning"
        mend = f"close the shortcut, or take the lock off {name}"
        if instead is None:
            why += "; whether it asks for anything else is not settled: the search was cut short"
        elif instead:
            severity = "note"
            message = (
                f"{name} can be done without, but then "
                f"{in_list(instead, 'or')} is needed to get to {room}."
            )
            why = f"With the lock off {name}, nobody would need {in_list(instead, 'or')} there"
            mend = "nothing need be done where both ways are meant"
        yield Finding("bypassed", severity, name, message, why, mend, passage.place, route)


def _needed_instead(questions: Questions, door: Passage) -> list[str]:
    """What the way round a door asks for, that nobody would need with the lock off the door.

    Args:
        questions: Answers for the level.
        door: The door.

    Returns:
        Things of which one at least is done by everybody who gets to a side of it with the door
        shut, though not by everybody who gets to another; none where the lock changes nothing.

    Raises:
        CutShortError: The time was over first.
    """
    sides = list(permutations(dict.fromkeys(door.ends), 2))
    if not door.two_way and door.part_of is None:
        sides = [(door.a, door.b)]
    found = (_needed_beyond(questions, door, near, far) for near, far in sides)
    return next((some for some in found if some), [])


def _needed_beyond(questions: Questions, door: Passage, near: str, far: str) -> list[str]:
    """What the way round asks for of whoever gets to the far side, and not of those on the near."""
    subjects = [one for one in questions.subjects if one.kind != "event" and one.name != door.thing]
    subjects.sort(key=lambda one: one.kind == "item")  # doors, chests and acts say more
    others = [one.name for one in subjects]

    def comes_to(room: str, done: Collection[str]) -> bool:
        undone = [name for name in others if name not in done]
        return questions.comes_without(room, [door.thing, *undone])

    done = irreducible(others, lambda some: comes_to(near, some))
    if comes_to(far, done):
        return []
    rest = [name for name in others if name not in done]
    return irreducible(rest, lambda shut: not questions.comes_without(far, [door.thing, *shut]))
