"""What must come before what in every finishing run."""

from __future__ import annotations

from ..rules import PLACE
from .answers import Answer
from .case import Case


def required_order(
    case: Case, statuses: dict[str, Answer], rooms: dict[str, Answer]
) -> tuple[tuple[str, str], ...] | None:
    """The order in which finishing runs must do what they are required to do.

    Two things are ordered when in every finishing run the first has been done, by an earlier
    move, when the second is done for the first time. Pairs that follow from others are left out
    (the transitive reduction: A. V. Aho, M. R. Garey and J. D. Ullman, "The transitive reduction
    of a directed graph", SIAM Journal on Computing 1 (1972)).

    Args:
        case: The level under check.
        statuses: The statuses of doors, chests, acts and placed items.
        rooms: The statuses of rooms.

    Returns:
        Pairs of names, the earlier first; ``None`` where the search was cut short.
    """
    if not case.complete:
        return None
    names = [name for name, status in statuses.items() if status == Answer.REQUIRED]
    places = [
        number
        for number, room in enumerate(case.rules.places)
        if rooms.get(room) == Answer.REQUIRED
    ]
    room_names = {place: case.rules.places[place] for place in places}
    shift = len(case.subjects)  # rooms take the bits after those of the subjects
    bits = {name: case.bits[name] for name in names}
    bits |= {_room_key(room): 1 << shift + place for place, room in room_names.items()}

    earlier: dict[str, int] = {}
    for name in names:
        earlier[name] = _done_before(case, case.bits[name], shift)
    for place, room in room_names.items():
        earlier[_room_key(room)] = _entered_before(case, place, shift)
    before = {
        name: {other for other in bits if other != name and bits[other] & mask}
        for name, mask in earlier.items()
    }
    pairs = []
    for name in bits:
        for other in bits:
            if other in before[name] and not any(
                other in before[between] for between in before[name]
            ):
                pairs.append((other.removesuffix("\0"), name.removesuffix("\0")))
    return tuple(pairs)


def _room_key(room: str) -> str:
    """A key no thing has: a room may share its name with a thing."""
    return room + "\0"


def _done_before(case: Case, bit: int, shift: int) -> int:
    """What was done whenever a subject is done for the first time, on the way to finishing."""
    mask = -1
    for before, moves in enumerate(case.found.moves):
        if case.did[before] & bit:
            continue
        for _, after in moves:
            if case.did[after] & bit and case.can_finish[after]:
                mask &= case.did[before] | case.entered[before] << shift
    return 0 if mask == -1 else mask


def _entered_before(case: Case, place: int, shift: int) -> int:
    """What was done whenever a room is entered for the first time, on the way to finishing."""
    positions = case.found.positions
    if positions[0][PLACE] == place:
        return 0
    entered = case.entered_avoiding(place)
    mask = -1
    for before, moves in enumerate(case.found.moves):
        if entered[before] == -1:
            continue
        for _, after in moves:
            if positions[after][PLACE] == place and case.can_finish[after]:
                mask &= case.did[before] | entered[before] << shift
    return 0 if mask == -1 else mask
