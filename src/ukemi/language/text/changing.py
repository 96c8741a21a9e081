"""Return levels with a change: new values, or a new name for a thing."""

from __future__ import annotations

from ...level import Level
from ..files.loading import loads
from ..files.saving import dumps
from .editing import REMOVED, Edit, edited_text
from .rename_things import renamed_text

__all__ = ["REMOVED", "Edit", "change", "rename"]


def change(level: Level, *edits: Edit) -> Level:
    """Return a level with new values in its file.

    Args:
        level: The level; it stays as it is.
        edits: What to set: each an :class:`Edit`, made one after another.

    Returns:
        The changed level. Written to a file, it has the comments of the old one.

    Raises:
        LevelError: The level has no start or no goal, there is nothing at a path, or the changed
            level is not a level.

    Example:
        A key moved, and a passage taken out:

        >>> level = loads("{start: quay, goal: mill, items: {key: {}}, rooms: {quay: {items: key}, "
        ...               "mill: {}}, passages: [quay <-> mill, mill -> quay]}")
        >>> changed = change(level, Edit(("rooms", "quay", "items"), []),
        ...                  Edit(("rooms", "mill", "items"), ["key"]), Edit(("passages", 1), REMOVED))
        >>> list(changed.rooms["mill"].items), len(changed.passages)
        (['key'], 1)
    """
    return loads(edited_text(dumps(level), list(edits), level.file), level.file)


def rename(level: Level, old: str, new: str, kind: str | None = None) -> Level:
    """Return a level with a new name for a thing, everywhere in its file.

    Args:
        level: The level; it stays as it is.
        old: The name of a room, item, flag, lock, door, chest, act, switch or event.
        new: The new name.
        kind: ``room``, ``item``, ``flag``, ``lock`` or ``thing`` (all else), where several are called
            so.

    Returns:
        The changed level. Written to a file, it has the comments of the old one.

    Raises:
        LevelError: Nothing is called so, several things are, or the new name is none or taken.

    Example:
        >>> level = loads("{start: quay, goal: at mill, rooms: [quay, mill], passages: [quay <-> mill]}")
        >>> print(rename(level, "mill", "granary").goal)
        at granary
    """
    return loads(renamed_text(level, old, new, kind), level.file)
