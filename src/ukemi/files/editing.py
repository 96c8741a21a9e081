"""Small edits of a level file: one value set, added or taken out, and nothing else touched."""

from __future__ import annotations

import json
from copy import deepcopy
from dataclasses import dataclass
from enum import Enum
from typing import Any

import yaml

from ..level.language.nodes import BOOL, NULL, NUMBER, WHOLE
from .write import redone
from .yaml_nodes import compose

Path = tuple[str | int, ...]


class Removed(Enum):
    """What stands for nothing at all; there is one of it in every process."""

    REMOVED = "removed"

    def __repr__(self) -> str:
        return self.name


#: As a value: what is at the path is taken out.
REMOVED: Any = Removed.REMOVED


@dataclass(frozen=True)
class Edit:
    """One value of a level file set anew.

    Attributes:
        path: Where it is: the fields and, in lists, numbers from 0 that lead to it; the number
            after the last of a list adds to it.
        value: What it becomes, as plain data; :data:`REMOVED` takes it out.
    """

    path: Path
    value: Any


def plain(text: str, file: str | None = None) -> Any:
    """What a level file says, as plain data.

    Args:
        text: The text of the file.
        file: Its name.

    Raises:
        LevelError: It is neither YAML nor JSON.

    Example:
        >>> plain("{start: quay, rooms: [quay, mill]}")
        {'start': 'quay', 'rooms': ['quay', 'mill']}
    """
    return _plain(compose(text, file))


def _plain(node: Any) -> Any:
    if node.id == "mapping":
        return {key.value: _plain(value) for key, value in node.value}
    if node.id == "sequence":
        return [_plain(one) for one in node.value]
    if node.tag == BOOL:
        return node.value.lower() == "true"
    if node.tag in (WHOLE, NUMBER):
        return int(node.value) if node.tag == WHOLE else float(node.value)
    return None if node.tag == NULL else node.value


def edited(document: Any, edits: list[Edit]) -> Any:
    """Plain data with edits made.

    Args:
        document: The data; they stay as they are.
        edits: The edits, one after another.

    Example:
        >>> edited({"rooms": {"quay": {}}}, [Edit(("rooms", "quay", "items"), ["grain"])])
        {'rooms': {'quay': {'items': ['grain']}}}
    """
    document = deepcopy(document)
    for edit in edits:
        inside = document
        *way, last = edit.path
        for step in way:
            if inside is not None and isinstance(step, str) and inside.get(step) is None:
                inside[step] = {}
            inside = inside[step]
        if edit.value is REMOVED:
            del inside[last]
        elif isinstance(inside, list) and last == len(inside):
            inside.append(deepcopy(edit.value))
        else:
            inside[last] = deepcopy(edit.value)
    return document


def edited_text(text: str, edits: list[Edit], file: str | None = None) -> str:
    """The text of a level file with edits made, comments and layout kept.

    Args:
        text: The text.
        edits: The edits, one after another.
        file: The file's name: JSON where it ends so.

    Returns:
        The new text; it says just what :func:`edited` gives.

    Raises:
        LevelError: The text is neither YAML nor JSON.

    Example:
        >>> print(edited_text("rooms:\\n  quay: {}  # wet\\n", [Edit(("rooms", "quay", "items"), ["oar"])]))
        rooms:
          quay: {items: [oar]}  # wet
    """
    for edit in edits:
        before = plain(text, file)
        after = edited(before, [edit])
        new = _spliced(text, edit, file)
        if new is None or plain(new, file) != after:
            new = redone(text, before, after, file)
        text = new
    return text


def _spliced(text: str, edit: Edit, file: str | None) -> str | None:
    """The text with one edit spliced in; ``None`` where that takes more than a splice."""
    as_json = file is not None and file.endswith(".json")
    splice = _Splice(text, as_json)
    node, way, value = compose(text, file), list(edit.path), edit.value
    while len(way) > 1:
        found = _at(node, way[0])
        if found is None or (found.id == "scalar" and found.tag == NULL):
            if value is REMOVED:
                return None
            for step in reversed(way[1:]):
                value = {step: value}
            way = way[:1]
        else:
            node, way = found, way[1:]
    return splice.removed(node, way[0]) if value is REMOVED else splice.put(node, way[0], value)


def _at(node: Any, step: str | int) -> Any:
    if node.id == "sequence":
        return node.value[step] if isinstance(step, int) and step < len(node.value) else None
    pairs = node.value if node.id == "mapping" else ()
    return next((value for key, value in pairs if key.value == step), None)


class _Splice:
    """Puts text into a file where a node stands."""

    def __init__(self, text: str, as_json: bool) -> None:
        self.text = text
        self.as_json = as_json
        self.lines = [0]
        for line in text.splitlines(keepends=True):
            self.lines.append(self.lines[-1] + len(line))

    def offset(self, mark: Any) -> int:
        line: int = min(mark.line, len(self.lines) - 1)
        return self.lines[line] + int(mark.column)

    def end(self, node: Any) -> int:
        """Where what a node says ends, comments and empty lines after it left out."""
        parts = node.value if node.id != "scalar" else ()
        if node.id != "scalar" and not node.flow_style and parts:
            last = parts[-1]
            return self.end(last[1] if node.id == "mapping" else last)
        end = self.offset(node.end_mark)
        if node.id == "scalar" and node.style in ("|", ">"):
            begin = self.offset(node.start_mark)
            return begin + len(self.text[begin:end].rstrip())
        return end

    def said(self, value: Any) -> str:
        """A value on one line."""
        if self.as_json:
            return json.dumps(value, ensure_ascii=False)
        dumped = yaml.safe_dump(
            value, default_flow_style=True, allow_unicode=True, width=1 << 20, sort_keys=False
        )
        return dumped.removesuffix("\n").removesuffix("...").rstrip("\n")

    def pair(self, key: str | int, value: Any) -> str:
        return f"{self.said(key)}: {self.said(value)}"

    def replaced(self, begin: int, end: int, new: str) -> str:
        return self.text[:begin] + new + self.text[end:]

    def put(self, node: Any, step: str | int, value: Any) -> str | None:
        found = _at(node, step)
        if found is not None:
            return self._set(node, found, value)
        if node.id == "scalar" or (not node.flow_style and not node.value):
            return None
        if node.id == "sequence" and step != len(node.value):
            return None
        new = self.said(value) if node.id == "sequence" else self.pair(step, value)
        if node.flow_style:
            if not node.value:
                return self.replaced(
                    self.offset(node.end_mark) - 1, self.offset(node.end_mark) - 1, new
                )
            last = node.value[-1][1] if node.id == "mapping" else node.value[-1]
            at = self.end(last)
            return self.replaced(at, at, f", {new}")
        indent = " " * node.start_mark.column
        if node.id == "sequence":
            new = (
                f"- {new.removeprefix('{').removesuffix('}')}"
                if isinstance(value, dict)
                else f"- {new}"
            )
        at = self.text.find("\n", self.end(node))
        if at < 0:
            return f"{self.text}\n{indent}{new}\n"
        return self.replaced(at, at, f"\n{indent}{new}")

    def _set(self, parent: Any, node: Any, value: Any) -> str | None:
        begin, end = self.offset(node.start_mark), self.end(node)
        if node.id == "scalar" and node.style == "|" and isinstance(value, str):
            return self._redrawn(node, value)
        if node.id == "mapping" and isinstance(value, dict) and len(node.value) == len(value) == 1:
            (key, inside), (new_key,) = node.value[0], value
            if _plain(inside) == value[new_key]:  # called otherwise, all else is the same
                return self.replaced(
                    self.offset(key.start_mark), self.offset(key.end_mark), self.said(new_key)
                )
        if node.id == "scalar" and not node.value and begin == end:
            return self.replaced(begin, end, f" {self.said(value)}")
        if node.id != "scalar" and not node.flow_style:
            return None
        new = self.said(value)
        if isinstance(value, dict) and parent.id == "sequence" and not self.as_json:
            new = new.removeprefix("{").removesuffix("}")  # a passage with its fields
        return self.replaced(begin, end, new)

    def _redrawn(self, node: Any, value: str) -> str | None:
        """A drawing with characters changed where they stand."""
        old, new = node.value.split("\n"), value.split("\n")
        if len(old) != len(new):
            return None
        lines = self.text.splitlines(keepends=True)
        first = node.start_mark.line + 1
        for number, (before, after) in enumerate(zip(old, new, strict=True)):
            if before != after:
                line = lines[first + number]
                at = line.find(before) if before.strip() else -1
                if at < 0:
                    return None
                lines[first + number] = line[:at] + after + line[at + len(before) :]
        return "".join(lines)

    def removed(self, node: Any, step: str | int) -> str | None:
        number = step
        if node.id == "mapping":
            number = next(n for n, (key, _) in enumerate(node.value) if key.value == step)
        assert isinstance(number, int)
        parts = [
            pair if node.id == "mapping" else (one, one) for one in node.value for pair in [one]
        ]
        if len(parts) == 1 and node.flow_style:
            whole = self.offset(node.start_mark), self.offset(node.end_mark)
            return self.replaced(*whole, "{}" if node.id == "mapping" else "[]")
        if len(parts) == 1:
            return None
        begin, end = self.offset(parts[number][0].start_mark), self.end(parts[number][1])
        if node.flow_style:
            if number + 1 < len(parts):
                return self.replaced(begin, self.offset(parts[number + 1][0].start_mark), "")
            return self.replaced(self.end(parts[number - 1][1]), end, "")
        start = self.text.rfind("\n", 0, begin) + 1
        if self.text[start:begin].strip(" -"):
            return None
        after = self.text.find("\n", end)
        return self.replaced(start, len(self.text) if after < 0 else after + 1, "")
