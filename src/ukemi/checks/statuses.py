"""The status of each door, chest, act, room and placed item in the runs of a level."""

from __future__ import annotations

from ..level import Level
from .answers import Answer


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


def counts_as_room(level: Level, room: str) -> bool:
    """Whether a room is one to a designer: of a map's cells, more than floor to stand on."""
    found = level.rooms[room]
    return not (found.beside or found.used_from is not None)
