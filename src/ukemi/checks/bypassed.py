"""``bypassed``: a door with a key that no finishing run needs, since there is a way round.

A level that passes, and one that fails (a second way in)::

    {start: quay, goal: mill, items: {key: {}}, rooms: {quay: {items: key}, mill: {}},
     passages: [quay <-> mill: {lock: key}]}
    the same with `quay <-> yard` and `yard <-> mill` besides
"""

from __future__ import annotations

from collections.abc import Iterator

from ..level import Has, HasAll, Passage
from ..level.conditions import atoms
from .answers import Answer
from .case import Case
from .cases import Cases
from .result import Finding


def check_bypassed(cases: Cases, doors: dict[str, Answer]) -> Iterator[Finding]:
    """Tell each door with a key both sides of which are entered without it ever being opened.

    Args:
        cases: The level under check.
        doors: The status of each door.

    Yields:
        A warning for each, with the way round.
    """
    for passage, lock in cases.level.doors():
        has_key = any(
            isinstance(atom, HasAll) or (isinstance(atom, Has) and atom.name in cases.level.items)
            for atom in atoms(lock.needs)
        )
        if not has_key or doors[passage.thing] not in (Answer.OPTIONAL, Answer.NEVER):
            continue
        if not cases.may_bypass(passage):
            continue
        if len(set(passage.ends)) < 2:
            continue
        case = cases.about_door(passage)
        far = _far_side(case, passage)
        if far is not None:
            room, route = case.rules.places[case.found.places[far]], case.route_to(far)
        else:
            way = cases.way_round(passage)
            if way is None:
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
            shortest=far is not None and case.found.exact(far),
        )


def _far_side(case: Case, door: Passage) -> int | None:
    """The cheapest position on the side of a door that takes longer to come to without opening it."""
    sides = [_cheapest_without(case, door.thing, room) for room in door.ends]
    if None in sides:
        return None
    return max((side for side in sides if side is not None), key=case.found.costs.__getitem__)


def _cheapest_without(case: Case, door: str, room: str) -> int | None:
    """The cheapest position in a room, from which a run finishes, with a door still unopened."""
    bit, place = case.bits[door], case.rules.places.index(room)
    found = [
        number
        for number, here in enumerate(case.found.places)
        if here == place and case.can_finish[number] and not case.did[number] & bit
    ]
    return min(found, key=case.found.costs.__getitem__, default=None)
