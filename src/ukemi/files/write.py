"""Writing levels, with the comments of the file they came from."""

from __future__ import annotations

import json
import os
from io import StringIO
from pathlib import Path
from typing import Any

from ..level import Level, LevelError, Problem
from .json_text import json_text
from .plain import level_dict
from .read import loads
from .writing import write_file


def dumps(level: Level) -> str:
    """A level as the text of a level file.

    A level that was read from a file and not changed gives the text of that file; one that was
    changed gives the text with just the changes made, and its comments kept.

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
        if not as_json:
            return _changed(level.text, level_dict(original), new)
    return _json(new) if as_json else _yaml(new)


def save(level: Level, path: str | os.PathLike[str]) -> None:
    """Write a level to a file; the file is replaced whole or not at all.

    Args:
        level: The level.
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
    _refuse_unfinished(level)
    target = Path(path)
    came_as_json = level.file is not None and level.file.endswith(".json")
    to_json = target.suffix == ".json"
    if came_as_json == to_json:
        text = dumps(level)
    else:
        text = _json(level_dict(level)) if to_json else _yaml(level_dict(level))
    _try_reading(level, text, target)
    write_file(path, text)


def redone(text: str, old: dict[str, Any], new: dict[str, Any], file: str | None = None) -> str:
    """The text of a level file with what changed written anew, and its comments kept.

    Args:
        text: The text.
        old: What it says.
        new: What it is to say.
        file: The file's name: JSON where it ends so.
    """
    return _json(new) if file is not None and file.endswith(".json") else _changed(text, old, new)


def _refuse_unfinished(level: Level) -> None:
    for missing in (what for what in ("start", "goal") if not getattr(level, what)):
        raise LevelError([Problem("bad-value", f"the level has no {missing} yet: no level file")])


def _try_reading(level: Level, text: str, target: Path) -> None:
    """See that what is to be saved can be read again as what it is."""
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


def _json(said: dict[str, Any]) -> str:
    return json_text(said) + "\n"


def _round_trip() -> Any:
    from ruamel.yaml import YAML

    yaml = YAML()
    yaml.preserve_quotes = True
    yaml.width = 100_000
    yaml.indent(mapping=2, sequence=4, offset=2)
    return yaml


def _yaml(said: dict[str, Any]) -> str:
    """A level built in code: one part a line, with its fields in braces."""
    from ruamel.yaml.comments import CommentedMap, CommentedSeq

    tree = CommentedMap()
    for key, value in said.items():
        if isinstance(value, dict):
            tree[key] = CommentedMap((name, _braced(one)) for name, one in value.items())
            if key == "maps":
                _draw_as_text(tree[key])
        elif isinstance(value, list):
            tree[key] = CommentedSeq(_entry(one) for one in value)
        else:
            tree[key] = value
    return _dumped(tree)


def _draw_as_text(maps: Any) -> None:
    """Write maps that are text as blocks, a row a line."""
    from ruamel.yaml.scalarstring import LiteralScalarString

    for name, rows in maps.items():
        # A first row that begins with a space would be taken for deeper indentation.
        if isinstance(rows, str) and not rows.startswith(" "):
            maps[name] = LiteralScalarString(rows)


def _braced(value: Any) -> Any:
    """A value written on one line, in braces or brackets."""
    from ruamel.yaml.comments import CommentedMap, CommentedSeq

    if isinstance(value, dict):
        made: Any = CommentedMap((key, _braced(one)) for key, one in value.items())
    elif isinstance(value, list):
        made = CommentedSeq(_braced(one) for one in value)
    else:
        return value
    made.fa.set_flow_style()
    return made


def _entry(passage: Any) -> Any:
    from ruamel.yaml.comments import CommentedMap

    if isinstance(passage, str):
        return passage
    return CommentedMap((text, _braced(fields)) for text, fields in passage.items())


def _dumped(tree: Any) -> str:
    into = StringIO()
    _round_trip().dump(tree, into)
    return into.getvalue()


def _changed(text: str, old: dict[str, Any], new: dict[str, Any]) -> str:
    tree = _round_trip().load(text)
    _merge(tree, old, new)
    return _dumped(tree)


def _merge(tree: Any, old: dict[str, Any], new: dict[str, Any]) -> None:
    """Make the changes from ``old`` to ``new`` in a tree that says ``old`` in its own way."""
    for key in old.keys() - new.keys():
        tree.pop(key, None)
    for key, value in new.items():
        before = old.get(key)
        if value == before:
            continue
        inside = tree.get(key)
        if not value:  # what was a block would be written below its own comment
            tree[key] = _braced(value)
        elif isinstance(value, dict) and isinstance(before, dict) and isinstance(inside, dict):
            _merge(inside, before, value)
        elif key == "passages" and isinstance(value, list) and _says(inside, before):
            _merge_list(inside, before or [], value)
        else:
            tree[key] = _braced(value)


def _says(inside: Any, before: Any) -> bool:
    """Whether a list in the tree has an entry for each of the list it says."""
    return isinstance(inside, list) and len(inside) == len(before or [])


def _merge_list(tree: Any, old: list[Any], new: list[Any]) -> None:
    from difflib import SequenceMatcher

    matcher = SequenceMatcher(
        a=[json.dumps(one) for one in old], b=[json.dumps(one) for one in new]
    )
    for what, old_from, old_to, new_from, new_to in reversed(matcher.get_opcodes()):
        if what == "equal":
            continue
        for number in range(old_to - 1, old_from - 1, -1):
            del tree[number]
        for number, one in enumerate(new[new_from:new_to]):
            tree.insert(old_from + number, _entry(one))
