"""Writing levels, with the comments of the file they came from."""

from __future__ import annotations

import json
import os
import pathlib
from typing import Any

from ...level import Level, LevelError, Problem
from ..built_campaign import Campaign
from ..fields.plain import level_dict
from ..text.editing import REMOVED, Edit, Path, edited_text, plain
from ..text.yaml_layout import whole
from .loading import loads, read_text
from .replacing import rewrite, write_file


def dumps(level: Level) -> str:
    """A level as the text of a level file.

    A level that was read from a file and not changed gives the text of that file. A changed level gives
    the text with only the changes made, and its comments kept.

    Args:
        level: The level.

    Returns:
        YAML; JSON for a level that was read from a ``.json`` file.

    Raises:
        LevelError: The level has no start or no goal.

    Example:
        >>> print(dumps(loads("{start: quay, goal: quay, rooms: [quay]}  # a lone quay")))
        {start: quay, goal: quay, rooms: [quay]}  # a lone quay
    """
    _refuse_unfinished(level)
    as_json = level.file is not None and level.file.endswith(".json")
    new = level_dict(level)
    if level.text is not None:
        original = loads(level.text, level.file)
        if original == level:
            return level.text
        changed = _changed(level, original, new)
        if changed is not None:
            return changed
    return whole(new, as_json)


def _changed(level: Level, original: Level, new: dict[str, Any]) -> str | None:
    """The text that a level was read from with the changes made; ``None`` if that cannot say them."""
    assert level.text is not None
    edits = _changes(plain(level.text, level.file), level_dict(original), new)
    try:
        text = edited_text(level.text, edits, level.file)
        return text if loads(text, level.file) == level else None
    except LevelError:
        return None


def save(level: Level | Campaign, path: str | os.PathLike[str]) -> None:
    """Write a level to a file; the file is replaced whole or not at all.

    A campaign is written to its file, and each of its levels that has no file in that folder to one of its name
    beside it; no other file there is replaced.

    If it is the file that the level was read from, it must not have changed since.

    Args:
        level: The level, or the campaign.
        path: The file; one that ends in ``.json`` is written as JSON, any other as YAML.

    Raises:
        LevelError: It has no start or no goal, or could not be read again from that file.
        OSError: The file cannot be written.

    Example:
        >>> from pathlib import Path
        >>> from tempfile import mkdtemp
        >>> path = Path(mkdtemp()) / "quay.yaml"
        >>> save(loads("{start: quay, goal: quay, rooms: [quay]}"), path)
        >>> path.read_text()
        '{start: quay, goal: quay, rooms: [quay]}'
    """
    target = pathlib.Path(path)
    if isinstance(level, Campaign):
        _save_campaign(level, target)
        return
    _refuse_unfinished(level)
    came_as_json = level.file is not None and level.file.endswith(".json")
    to_json = target.suffix == ".json"
    text = dumps(level) if came_as_json == to_json else whole(level_dict(level), to_json)
    _try_reading(level, text, target)
    own = level.file is not None and level.text is not None and target.exists()
    if own and target.resolve() == pathlib.Path(str(level.file)).resolve():
        rewrite(path, str(level.text), text)
        level.text = text  # what the file says now, for the next time
    else:
        write_file(path, text)


def _save_campaign(campaign: Campaign, target: pathlib.Path) -> None:
    """Write the file of a campaign, and the levels that have none beside it."""
    campaign.joined()  # it reports whatever is wrong before anything is written
    folder = target.parent.resolve()
    files: dict[str, str] = {}
    new: list[tuple[Level, pathlib.Path]] = []
    for name, level in campaign.levels.items():
        own = pathlib.Path(level.file).resolve() if level.file else None
        if own is not None and own.is_relative_to(folder) and own != target.resolve():
            files[name] = own.relative_to(folder).as_posix()
            continue
        file = target.parent / f"{name}{target.suffix or '.yaml'}"
        known = campaign.written.get(str(file.resolve()))
        if (file.exists() and known != read_text(file)) or file == target:
            message = f"{file} is there already: it is not replaced by the level {name!r}"
            raise LevelError([Problem("bad-value", message, None, name)])
        files[name] = file.name
        new.append((level, file))
    for level, file in new:
        save(level, file)
        campaign.written[str(file.resolve())] = read_text(file)
    write_file(target, whole(campaign.plain(files), target.suffix == ".json"))


def _refuse_unfinished(level: Level) -> None:
    for missing in (what for what in ("start", "goal") if not getattr(level, what)):
        raise LevelError([Problem("bad-value", f"the level has no {missing} yet: no level file")])


def _try_reading(level: Level, text: str, target: pathlib.Path) -> None:
    """Refuse a text that does not read back as the level that is to be saved."""
    try:
        again = loads(text, os.fspath(target))
        if "name" not in again.places:
            again.name = level.name  # a level that says no name is called by its file
        same = again == level
    except LevelError as error:
        why = f"{error.problems[0]}; it was not saved"
        raise LevelError(
            [Problem("bad-value", f"saved as {target}, it could not be read: {why}")]
        ) from None
    if not same:
        message = f"a level file cannot say all of this level; {target} was not written"
        raise LevelError([Problem("bad-value", message)])


def _changes(said: Any, old: dict[str, Any], new: dict[str, Any], path: Path = ()) -> list[Edit]:
    """The edits that turn what a file says into a new version.

    Args:
        said: The data of the file, as it was written.
        old: The same in the way of :func:`~ukemi.language.fields.plain.level_dict`.
        new: The new version, in the same way.
        path: Where in the file this is.
    """
    edits = [Edit((*path, key), REMOVED) for key in old if key not in new and key in said]
    for key, value in new.items():
        before, inside = old.get(key), said.get(key)
        if value == before:
            continue
        if isinstance(value, dict) and isinstance(before, dict) and isinstance(inside, dict):
            edits += _changes(inside, before, value, (*path, key))
        elif key == "passages" and isinstance(inside, list) and len(inside) == len(before or ()):
            edits += _changes_of_list(before or [], value, (*path, key))
        else:
            edits.append(Edit((*path, key), value))
    return edits


def _changes_of_list(old: list[Any], new: list[Any], path: Path) -> list[Edit]:
    from difflib import SequenceMatcher

    matcher = SequenceMatcher(a=[*map(json.dumps, old)], b=[*map(json.dumps, new)], autojunk=False)
    edits: list[Edit] = []
    length = len(old)
    for what, old_from, old_to, new_from, new_to in reversed(matcher.get_opcodes()):
        if what == "equal":
            continue
        same = min(old_to - old_from, new_to - new_from)
        edits += [Edit((*path, old_from + n), new[new_from + n]) for n in range(same)]
        for number in range(old_to - 1, old_from + same - 1, -1):
            edits.append(Edit((*path, number), REMOVED))
            length -= 1
        added = new[new_from + same : new_to]
        if added and old_from + same == length:
            edits += [Edit((*path, length + n), one) for n, one in enumerate(added)]
            length += len(added)
        elif added:  # in the middle: the rest is written again
            return [Edit(path, new)]
    return edits
