"""``bypassed``: a door with a key that no finishing run needs, since there is a way round.

A level that passes, and one that fails (a second way in)::

    {start: quay, goal: mill, items: {key: {}}, rooms: {quay: {items: key}, mill: {}},
     passages: [quay <-> mill: {lock: key}]}
    the same with `quay <-> yard` and `yard <-> mill` besides
"""

from __future__ import annotations

from collections.abc import Iterator

from ...level import Has, HasAll
from ...level.conditions import atoms
from ..answers import Answer
from ..checked import Checked, finding
from ..result import Finding


@finding
def bypassed(checked: Checked) -> Iterator[Finding]:
    """Tell each door with a key both sides of which are entered without it ever being opened.

    Args:
        checked: What was asked of the level.

    Yields:
        A warning for each, with the way round.
    """
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
        yield Finding(
            "bypassed",
            "warning",
            passage.thing,
            f"No finishing run needs {passage.thing}: {room} is reached without opening it.",
            "There is a way round",
            f"close the way round, or take the lock off {passage.thing}",
            passage.place,
            route,
        )
