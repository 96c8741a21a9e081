"""Raw values, with their places, from YAML or JSON text."""

from __future__ import annotations

import re
from typing import Any

import yaml

from ..level import LevelError, Place, Problem
from ..level.language.nodes import BOOL, NULL, NUMBER, TEXT, WHOLE, Node

_Base: Any = getattr(yaml, "CSafeLoader", yaml.SafeLoader)


_plain_others = re.compile(
    r"(?P<bool>true|True|TRUE|false|False|FALSE)"
    r"|(?P<null>null|Null|NULL|~|)"
    r"|(?P<int>-?(?:0|[1-9][0-9]*))"
    r"|(?P<float>-?(?:[0-9]+\.?[0-9]*|\.[0-9]+)(?:[eE][-+]?[0-9]+)?)"
).fullmatch
_TAGS = {"bool": BOOL, "null": NULL, "int": WHOLE, "float": NUMBER}
_MAY_BE_OTHER = frozenset(["", *"tTfFnN~-.0123456789"])
_Scalar, _Mapping = yaml.ScalarNode, yaml.MappingNode


class _Loader(_Base):  # type: ignore[misc]
    """Reads plain scalars as JSON does, so that a room may be called ``no`` or ``on``."""

    def resolve(self, kind: Any, value: Any, implicit: Any) -> str:
        """The tag of a node that says none itself; called for every node, so kept short."""
        if kind is _Scalar:
            if value[:1] in _MAY_BE_OTHER and implicit[0]:
                found = _plain_others(value)
                if found is not None and found.lastgroup is not None:
                    return _TAGS[found.lastgroup]
            return TEXT
        return _MAPPING if kind is _Mapping else _SEQUENCE


_MAPPING, _SEQUENCE = "tag:yaml.org,2002:map", "tag:yaml.org,2002:seq"


def compose(text: str, file: str | None = None) -> Node:
    """Parse YAML (or JSON, which is part of it) into nodes.

    Args:
        text: The text of a level file.
        file: Its name, for messages.

    Returns:
        The root node.

    Raises:
        LevelError: The text is not YAML, is empty, or holds more than one document.
    """
    if file is not None and file.endswith(".json"):
        text = _check_json(text, file)
    if _too_deep(text):
        message = "lists or mappings are nested too deeply to read"
        raise LevelError([Problem("syntax", message)], file)
    try:
        node: Any = yaml.compose(text, Loader=_Loader)
    except yaml.MarkedYAMLError as error:
        raise LevelError([_yaml_problem(error, text)], file) from None
    except yaml.reader.ReaderError as error:
        line = text.count("\n", 0, error.position) + 1
        message = f"the character U+{_code(error.character):04X} cannot stand in a level file"
        raise LevelError([Problem("syntax", message, Place(line, 1))], file) from None
    if node is None or node.tag == NULL:
        hint = "begin with a line such as `start: quay`"
        raise LevelError([Problem("syntax", f"there is no level here; {hint}", Place(1, 1))], file)
    _mark_indents(node, text)
    return node  # type: ignore[no-any-return]


def _mark_indents(node: Any, text: str) -> None:
    """Note how far the maps of a level are indented, so that messages can name their columns."""
    for key, maps in node.value if node.id == "mapping" else ():
        if key.value != "maps" or maps.id != "mapping":
            continue
        lines = text.splitlines()
        for name, value in maps.value:
            if value.id == "scalar" and value.style == "|":
                digit = re.search(r"\|-?\+?([1-9])", lines[value.start_mark.line])
                first = lines[value.start_mark.line + 1 : value.start_mark.line + 2]
                if digit:
                    value.indent = name.start_mark.column + int(digit[1])
                elif first:
                    value.indent = len(first[0]) - len(first[0].lstrip(" "))


#: Far deeper than a level goes, and far from where the C parser would overrun its stack.
_DEEPEST = 200
_deeply_indented = re.compile(r"^[ \t?:-]{1000}", re.MULTILINE).search


def _too_deep(text: str) -> bool:
    if _deeply_indented(text):
        return True
    if text.count("[") + text.count("{") < _DEEPEST:
        return False
    depth = 0
    for bracket in re.finditer(r"[\[\]{}]", text):
        depth += 1 if bracket[0] in "[{" else -1
        if depth > _DEEPEST:
            return True
    return False


def _code(character: Any) -> int:
    return ord(character) if isinstance(character, str) else int(character)


def _check_json(text: str, file: str) -> str:
    import json

    try:
        json.loads(text)
    except json.JSONDecodeError as error:
        place = Place(error.lineno, error.colno)
        raise LevelError([Problem("syntax", f"broken JSON: {error.msg}", place)], file) from None
    except RecursionError:
        message = "lists or objects are nested too deeply to read"
        raise LevelError([Problem("syntax", message)], file) from None
    # JSON writes a character beyond the sixteen-bit range as two escapes, which YAML has not.
    return re.sub(
        r"\\u[dD][89abAB][0-9a-fA-F]{2}\\u[dD][c-fC-F][0-9a-fA-F]{2}",
        lambda pair: json.loads(f'"{pair[0]}"'),
        text,
    )


def _yaml_problem(error: yaml.MarkedYAMLError, text: str) -> Problem:
    mark = error.problem_mark or error.context_mark
    said = error.problem or "it cannot be parsed"
    if mark is None:
        return Problem("syntax", f"broken YAML: {said}")
    lines = text.splitlines()
    line = lines[mark.line].strip() if mark.line < len(lines) else ""
    shown = f", at {line[:60]!r}" if line else ", at the end of the file"
    if line and "\t" in lines[mark.line][: mark.column + 1]:
        said = "a tab cannot indent; use spaces"
    place = Place(mark.line + 1, mark.column + 1)
    return Problem("syntax", f"broken YAML: {said}{shown}", place, line)
