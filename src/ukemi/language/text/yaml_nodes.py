"""Raw values, with their places, from YAML or JSON text."""

from __future__ import annotations

import re
from bisect import bisect_right
from typing import Any

import yaml

from ...level import LevelError, Place, Problem
from ..fields.nodes import BOOL, NULL, NUMBER, TEXT, WHOLE, Node
from .syntax_errors import syntax_problem

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


def compose(text: str, file: str | None = None, as_json: bool | None = None) -> Node:
    """Parse YAML (or JSON, a part of YAML) into nodes.

    Args:
        text: The text of a level file.
        file: Its name, for messages.
        as_json: Whether it has to be JSON; ``None``: as the file's name says.

    Raises:
        LevelError: The text is not YAML, is empty, or holds more than one document.
    """
    if as_json or (as_json is None and file is not None and file.endswith(".json")):
        text = _check_json(text, file)
    hidden = _not_in_yaml(text)
    if hidden:
        place = _place(text, hidden.start())
        message = f"the character U+{ord(hidden[0]):04X} cannot stand in a level file"
        raise LevelError([Problem("syntax", message, place)], file)
    if _too_deep(text):
        message = "lists or mappings are nested too deeply to read"
        raise LevelError([Problem("syntax", message)], file)
    try:
        node: Any = yaml.compose(text, Loader=_Loader)
    except yaml.MarkedYAMLError as error:
        raise LevelError([syntax_problem(error, text)], file) from None
    if node is None or node.tag == NULL:
        hint = "begin with a line such as `start: quay`"
        raise LevelError([Problem("syntax", f"there is no level here; {hint}", Place(1, 1))], file)
    size, deep = _expanded(node, {}) if "*" in text else (0, 0)
    if (size > MOST_EXPANDED and size > text.count("\n") * 100) or deep > _DEEPEST:
        message = f"its aliases (`*`) make more than {MOST_EXPANDED:,} values of it"
        if size <= MOST_EXPANDED:
            message = "lists or mappings are nested too deeply to read"
        raise LevelError([Problem("syntax", message)], file)
    if _other_breaks(text):
        _count_lines(node, text)
    _mark_indents(node, text)
    return node  # type: ignore[no-any-return]


#: Line ends for YAML, but not for editors.
_other_breaks = re.compile("[\x85\u2028\u2029]").search


def _count_lines(root: Any, text: str) -> None:
    """Count the lines of places as an editor does."""
    starts = [0, *(one.end() for one in re.finditer(r"\r\n|\n|\r", text))]
    seen: set[int] = set()
    ahead = [root]
    while ahead:
        node = ahead.pop()
        if id(node) in seen:
            continue
        seen.add(id(node))
        for name in ("start_mark", "end_mark"):
            index = getattr(node, name).index
            line = bisect_right(starts, index) - 1
            mark = yaml.Mark("", index, line, index - starts[line], None, 0)
            setattr(node, name, mark)
        if node.id != "scalar":
            for part in node.value:
                ahead += part if node.id == "mapping" else (part,)


def _mark_indents(node: Any, text: str) -> None:
    """Note how far the maps of a level are indented, so that messages can name their columns."""
    for key, maps in node.value if node.id == "mapping" else ():
        if key.value != "maps" or maps.id != "mapping":
            continue
        lines = text.splitlines()
        drawn = [
            (inner, rows)
            for name, value in maps.value
            for inner, rows in (value.value if value.id == "mapping" else ((name, value),))
        ]
        for name, value in drawn:
            if value.id == "scalar" and value.style == "|":
                digit = re.search(r"\|-?\+?([1-9])", lines[value.start_mark.line])
                first = lines[value.start_mark.line + 1 : value.start_mark.line + 2]
                if digit:
                    value.indent = name.start_mark.column + int(digit[1])
                elif first:
                    value.indent = len(first[0]) - len(first[0].lstrip(" "))


#: Far deeper than a level goes, and far from where the C parser would overrun its stack.
_DEEPEST = 200
_deeply_indented = re.compile(r"^[ \t?:-]{400}", re.MULTILINE).search

#: The greatest number of values that the aliases of a file may expand to: a short file can otherwise
#: expand to any number.
MOST_EXPANDED = 100_000

#: Characters that neither YAML nor a terminal can hold.
_not_in_yaml = re.compile(
    "[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x84\x86-\x9f\ud800-\udfff\ufeff\ufffe\uffff]"
).search


def _too_deep(text: str) -> bool:
    """Whether the text nests deeper than a level does; a map's symbols may look like it."""
    if text.count("[") + text.count("{") < _DEEPEST and not _deeply_indented(text):
        return False
    depth = 0
    try:
        for event in yaml.parse(text, Loader=_Loader):
            if isinstance(event, yaml.CollectionStartEvent):
                depth += 1
                if depth > _DEEPEST:
                    return True
            elif isinstance(event, yaml.CollectionEndEvent):
                depth -= 1
    except yaml.YAMLError as error:
        return "nesting depth" in str(error)  # reading reports any other, with its place
    return False


def _expanded(node: Any, known: dict[int, tuple[int, int]]) -> tuple[int, int]:
    """Return how many values a node stands for, aliases counted each time, and how deep they nest."""
    if node.id == "scalar":
        return 1, 1
    if id(node) not in known:
        known[id(node)] = MOST_EXPANDED + 1, 1  # what holds itself has no end
        parts = (
            node.value if node.id == "sequence" else [one for pair in node.value for one in pair]
        )
        sizes = [_expanded(one, known) for one in parts] or [(0, 0)]
        known[id(node)] = 1 + sum(size for size, _ in sizes), 1 + max(deep for _, deep in sizes)
    return known[id(node)]


def _place(text: str, offset: int) -> Place:
    line_start = text.rfind("\n", 0, offset) + 1
    return Place(text.count("\n", 0, offset) + 1, offset - line_start + 1)


def _check_json(text: str, file: str | None) -> str:
    import json

    def refuse(constant: str) -> None:
        raise LevelError([Problem("syntax", f"broken JSON: {constant} is no number")], file)

    try:  # numbers stay text: nothing needs their length yet
        json.loads(text, parse_int=str, parse_float=str, parse_constant=refuse)
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
