"""Rename a thing everywhere in a level file."""

from __future__ import annotations

from ...level import Level, LevelError, Problem
from ...level.names import in_list, is_name, nearest
from ..fields.notes import Notes
from ..fields.reading import read_level
from ..files.loading import csv_reader
from ..files.saving import dumps
from .mentions import KINDS, mentions, names_of
from .yaml_nodes import compose


def renamed_text(level: Level, old: str, new: str, kind: str | None = None) -> str:
    """The text of a level's file with one name changed wherever it stands.

    Args:
        old: The name of a room, item, flag, lock, door, chest, act, switch or event.
        new: The new name.
        kind: Which of :data:`KINDS` it is, where several are called so.

    Returns:
        The text; comments and layout are kept.

    Raises:
        LevelError: Nothing is called so, several things are, or the new name is none or taken.
    """
    kind = _kind_of(level, old, kind)
    if not is_name(new):
        rule = "a name is a letter, then letters, digits, '-' or '_'"
        raise _refused(level, f"{new!r} cannot be a name: {rule}", new)
    if new in names_of(level)[kind]:
        raise _refused(level, f"there is a {kind} {new!r} already", new)
    text = dumps(level)
    root, notes = compose(text, level.file), Notes()
    read_level(root, level.file, level.name, csv_reader(level.file), notes)
    for begin, end, _ in reversed(mentions(root, notes, text, old, kind)):
        text = text[:begin] + new + text[end:]
    return text


def _kind_of(level: Level, old: str, kind: str | None) -> str:
    names = names_of(level)
    kinds = [one for one in KINDS if old in names[one] and kind in (None, one)]
    if len(kinds) > 1:
        both = in_list("an item" if one == "item" else f"a {one}" for one in kinds)
        raise _refused(level, f"{old!r} is the name of {both}: say which", old)
    if not kinds:
        known = sorted(set().union(*names.values()))
        message = f"nothing is called {old!r}" if kind is None else f"no {kind} is called {old!r}"
        raise _refused(level, message, old, nearest(old, known))
    return kinds[0]


def _refused(level: Level, message: str, text: str, near: str | None = None) -> LevelError:
    return LevelError([Problem("unknown-name", message, None, text, near)], level.file)
