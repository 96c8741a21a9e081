"""The status of each door, chest, act, room and placed item in the runs of a level."""

from __future__ import annotations

from .answers import Answer
from .case import Case
from .cases import Cases


def status(some: bool, some_without: bool, reached: bool, complete: bool) -> Answer:
    """The status of a thing.

    Args:
        some: Whether a finishing run that does it was found.
        some_without: Whether a finishing run that does not do it was found.
        reached: Whether any run that does it was found.
        complete: Whether all runs were seen.

    Returns:
        What is proven.
    """
    if some and some_without:
        return Answer.OPTIONAL
    if not complete:
        return Answer.UNKNOWN
    if some:
        return Answer.REQUIRED
    return Answer.ONLY_WHEN_STUCK if reached else Answer.NEVER


def subject_statuses(cases: Cases) -> dict[str, dict[str, Answer]]:
    """The status of each door, chest, act and placed item.

    Doing one of these shows in every position after it, so the finished positions tell.

    Args:
        cases: The level under check.

    Returns:
        For each kind of subject (``door``, ``chest``, ``act``, ``item``), the statuses by name.
    """
    statuses: dict[str, dict[str, Answer]] = {"door": {}, "chest": {}, "act": {}, "item": {}}
    case = cases.whole
    if cases.in_parts:
        for subject in case.subjects:
            statuses[subject.kind][subject.name] = cases.status_of(subject)
        return statuses
    some, all_of, reached = 0, -1, 0
    for mask in set(case.did):
        reached |= mask
    for number in case.finished:
        some |= case.did[number]
        all_of &= case.did[number]
    for subject in case.subjects:
        bit = case.bits[subject.name]
        without = bool(case.finished) and not all_of & bit
        found = status(bool(some & bit), without, bool(reached & bit), case.complete)
        statuses[subject.kind][subject.name] = found
    return statuses


def room_statuses(cases: Cases) -> dict[str, Answer]:
    """The status of each room; of a map's cells, those that are more than floor to stand on.

    Args:
        cases: The level under check.

    Returns:
        The statuses by room.
    """
    case = cases.whole
    if cases.in_parts:
        return {
            room: cases.status_of_room(room) for room in case.level.rooms if _counts(case, room)
        }
    places = case.found.places
    reached = set(places)
    some = {place for place, can in zip(places, case.can_finish, strict=True) if can}
    all_of = case.always_entered
    return {
        room: status(
            place in some,
            bool(case.finished) and not all_of >> place & 1,
            place in reached,
            case.complete,
        )
        for place, room in enumerate(case.rules.places)
        if _counts(case, room)
    }


def _counts(case: Case, room: str) -> bool:
    found = case.level.rooms[room]
    return not (found.beside or found.used_from is not None)
