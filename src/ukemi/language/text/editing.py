"""Small edits of a level file: one value set, added or taken out, and every other byte left as it is."""

from __future__ import annotations

import json
import re
from bisect import bisect
from collections.abc import Iterator
from copy import deepcopy
from enum import Enum
from typing import Any

import yaml

from ...level import LevelError, Problem
from ...level.names import nearest
from ...values import dataclass
from ..fields.nodes import BOOL, NULL, NUMBER, WHOLE
from .yaml_layout import flow, whole
from .yaml_nodes import compose

Path = tuple[str | int, ...]

#: The fields whose entries have names of their own: a path does not make up one of these.
NAMED = frozenset(
    {"rooms", "items", "locks", "events", "legend", "players", "scatter", "chests", "switches"}
    | {"acts", "maps", "levels", "passages"}
)


class Removed(Enum):
    """The value that removes a field; there is one object in every process."""

    REMOVED = "removed"

    def __repr__(self) -> str:
        return self.name


#: As a value: what is at the path is taken out.
REMOVED: Any = Removed.REMOVED


@dataclass(frozen=True)
class Edit:
    """A new value for one field of a level file.

    Attributes:
        path: Where it is: the fields and, in lists, numbers from 0 that lead to it; the number
            after the last of a list adds to it.
        value: The new value, as plain data; :data:`REMOVED` removes the field.
    """

    path: Path
    value: Any


def plain(text: str, file: str | None = None) -> Any:
    """The data of a level file.

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
        edits: The edits, one after another. A field on the way that is missing is made; a room, an
            item or anything else with a name of its own is not.

    Raises:
        LevelError: There is nothing at a path.

    Example:
        >>> edited({"rooms": {"quay": {}}}, [Edit(("rooms", "quay", "items"), ["grain"])])
        {'rooms': {'quay': {'items': ['grain']}}}
    """
    document = deepcopy(document)
    for edit in edits:
        if not edit.path:
            raise _no_such(edit, 0, ())
        inside = document
        for number, step in enumerate(edit.path[:-1]):
            inside = _step_into(inside, edit, number, step)
        _set(inside, edit)
    return document


def _step_into(inside: Any, edit: Edit, number: int, step: str | int) -> Any:
    if isinstance(inside, dict):
        if inside.get(step) is None:
            made_up = number > 0 and edit.path[number - 1] in NAMED and step not in inside
            if made_up or edit.value is REMOVED or not isinstance(step, str):
                raise _no_such(edit, number, inside)
            inside[step] = {}
        return inside[step]
    if isinstance(inside, list) and isinstance(step, int) and 0 <= step < len(inside):
        return inside[step]
    raise _no_such(edit, number, inside)


def _set(inside: Any, edit: Edit) -> None:
    last, value = edit.path[-1], edit.value
    if isinstance(inside, list):
        here = isinstance(last, int) and 0 <= last < len(inside) + (value is not REMOVED)
    else:
        here = isinstance(inside, dict) and (value is not REMOVED or last in inside)
    if not here:
        raise _no_such(edit, len(edit.path) - 1, inside)
    if value is REMOVED:
        del inside[last]
    elif isinstance(inside, list) and last == len(inside):
        inside.append(deepcopy(value))
    else:
        inside[last] = deepcopy(value)


def _no_such(edit: Edit, number: int, inside: Any) -> LevelError:
    """The error of a path that leads nowhere, with the nearest name there is."""
    step = edit.path[number] if edit.path else ""
    where = "/".join(map(str, edit.path[:number])) or "the level"
    if isinstance(inside, list):
        message = f"{where} is a list of {len(inside)}; it has no entry {step!r}"
        names: list[str] = []
    elif isinstance(inside, dict):
        message = f"there is no {step!r} in {where}"
        names = [name for name in inside if isinstance(name, str)]
    else:
        message, names = f"{where} has no parts, so there is no {step!r} in it", []
    return LevelError(
        [Problem("unknown-name", message, None, str(step), nearest(str(step), names))]
    )


def edited_text(text: str, edits: list[Edit], file: str | None = None) -> str:
    """The text of a level file with edits made, and everything else left byte for byte.

    An edit is spliced in where its value stands. If the result does not read back as intended, the value
    around it is written again, and so on outwards. Comments are always kept: those of what goes stand on
    lines of their own.

    Args:
        edits: The edits, one after another.
        file: The file's name: JSON if it ends so.

    Returns:
        The new text; it says just what :func:`edited` gives.

    Raises:
        LevelError: The text is neither YAML nor JSON, or there is nothing at a path.

    Example:
        >>> print(edited_text("rooms:\\n  quay: {}  # wet\\n", [Edit(("rooms", "quay", "items"), ["oar"])]))
        rooms:
          quay: {items: [oar]}  # wet
    """
    for edit in edits:
        after = edited(plain(text, file), [edit])
        versions = (new for new in _versions(text, edit, after, file) if new is not None)
        text = next(new for new in versions if _says(new, after, file))
    return text


def _says(text: str, document: Any, file: str | None) -> bool:
    try:
        return bool(plain(text, file) == document)
    except LevelError:
        return False


def _versions(text: str, edit: Edit, after: Any, file: str | None) -> Iterator[str | None]:
    """Texts that may say what an edit gives, those that change the least first; the last one does."""
    as_json = file is not None and file.endswith(".json")
    yield from _spliced(text, edit, after, file, as_json)
    if not as_json and "*" in text:  # a value that several places share
        for names in (_aliases_near(text, edit, file), None):
            if names != set():
                spelled_out = _without_aliases(text, file, names)
                yield from _spliced(spelled_out, edit, after, file, as_json)
    yield whole(after, as_json, _comments(text, 0, len(text), compose(text, file)))


def _spliced(
    text: str, edit: Edit, after: Any, file: str | None, as_json: bool
) -> Iterator[str | None]:
    splice = _Splice(text, as_json, compose(text, file))
    nodes = [splice.root]
    for step in edit.path[:-1]:
        found = _at(nodes[-1], step)
        if found is None:
            break
        nodes.append(found)
    depth = len(nodes) - 1
    if depth and nodes[-1].id == "scalar":  # a field with nothing written after it
        nodes.pop()
        depth -= 1
    value = after
    for step in edit.path[: depth + 1]:
        value = _part(value, step)
    if edit.value is REMOVED:
        yield splice.removed(nodes[-1], edit.path[-1]) if depth == len(edit.path) - 1 else None
    else:
        yield splice.put(nodes[-1], edit.path[depth], value)
    for number in range(len(nodes) - 1, 0, -1):
        value = after
        for step in edit.path[:number]:
            value = _part(value, step)
        yield splice.rewritten(nodes[number], value)


def _part(value: Any, step: str | int) -> Any:
    if isinstance(value, list):
        return value[step] if isinstance(step, int) and step < len(value) else None
    return value.get(step) if isinstance(value, dict) else None


def _at(node: Any, step: str | int) -> Any:
    if node.id == "sequence":
        return node.value[step] if isinstance(step, int) and step < len(node.value) else None
    pairs = node.value if node.id == "mapping" else ()
    return next((value for key, value in pairs if key.value == step), None)


# -- what stands where ----------------------------------------------------------------------------


_comment = re.compile(r"(?:(?<=\s)|^)#[^\r\n]*", re.MULTILINE)


def _comments(text: str, begin: int, end: int, root: Any) -> list[str]:
    """The comments that stand between two places of a text, without what looks like one in a value."""
    scalars = (node for node in _nodes(root, set()) if node.id == "scalar")
    spans = sorted((one.start_mark.index, one.end_mark.index) for one in scalars)
    found = []
    for one in _comment.finditer(text, begin, end):
        before = spans[max(bisect(spans, (one.start(), len(text))) - 1, 0)] if spans else (0, 0)
        inside = before if before[0] <= one.start() < before[1] else None
        if inside is None or (text[inside[0]] in "|>" and one.start() < text.find("\n", inside[0])):
            found.append(one[0].rstrip())
    return found


def _nodes(node: Any, seen: set[int]) -> Iterator[Any]:
    """The nodes of a file in the order in which they stand; a shared one once."""
    if id(node) not in seen:
        seen.add(id(node))
        yield node
        for part in node.value if node.id != "scalar" else ():
            for one in part if node.id == "mapping" else (part,):
                yield from _nodes(one, seen)


def _shared(text: str, file: str | None) -> Iterator[tuple[bool, Any, Any]]:
    """The values of a file in order: whether each is a use (`*`) of a shared value, its parser event, its node."""
    nodes = _nodes(compose(text, file), set())
    anchors: dict[str, Any] = {}
    events: Any = yaml.parse(text, Loader=getattr(yaml, "CSafeLoader", yaml.SafeLoader))
    for event in events:
        if isinstance(event, yaml.AliasEvent):
            yield True, event, anchors[str(event.anchor)]
        elif isinstance(event, (yaml.ScalarEvent, yaml.CollectionStartEvent)):
            node = next(nodes)
            if event.anchor:
                anchors[str(event.anchor)] = node
            yield False, event, node


def _aliases_near(text: str, edit: Edit, file: str | None) -> set[str]:
    """The names of the anchors on the way to what an edit changes, and in it."""
    node: Any = compose(text, file)
    spans = [(node.start_mark.index, node.end_mark.index)]
    for step in edit.path:
        node = _at(node, step)
        if node is None:
            break
        spans.append((node.start_mark.index, node.end_mark.index))
    begin, end = spans[-1]
    found = set()
    for _, event, node in _shared(text, file):
        span = (node.start_mark.index, node.end_mark.index)
        if event.anchor and (span in spans or begin <= span[0] < end):
            found.add(str(event.anchor))
    return found


def _without_aliases(text: str, file: str | None, names: set[str] | None) -> str:
    """A text in which each use of an anchor says its value, for some anchors or for all."""
    uses: list[tuple[int, int, str]] = [
        (event.start_mark.index, event.end_mark.index, flow(_plain(node)))
        for is_use, event, node in _shared(text, file)
        if is_use and (names is None or event.anchor in names)
    ]
    for begin, end, said in reversed(uses):
        text = text[:begin] + said + text[end:]
    return text


class _Splice:
    """Puts text into a file where a node stands."""

    def __init__(self, text: str, as_json: bool, root: Any) -> None:
        self.text = text
        self.as_json = as_json
        self.root = root
        self.newline = "\r\n" if "\r\n" in text else "\n"

    def end(self, node: Any) -> int:
        """Where the text of a node ends, without the comments and empty lines after it."""
        parts = node.value if node.id != "scalar" else ()
        if node.id != "scalar" and not node.flow_style and parts:
            last = parts[-1]
            return self.end(last[1] if node.id == "mapping" else last)
        end: int = node.end_mark.index
        if node.id == "scalar" and node.style in ("|", ">"):
            begin: int = node.start_mark.index
            return begin + len(self.text[begin:end].rstrip())
        return end

    def said(self, value: Any) -> str:
        """A value on one line."""
        return json.dumps(value, ensure_ascii=False) if self.as_json else flow(value)

    def replaced(self, begin: int, end: int, new: str) -> str:
        return self.text[:begin] + new + self.text[end:]

    def _line_end(self, at: int) -> int:
        """Where the line ends on which a place is, before its line break."""
        end = self.text.find("\n", at)
        end = len(self.text) if end < 0 else end
        return end - 1 if self.text[end - 1 : end] == "\r" else end

    def put(self, node: Any, step: str | int, value: Any) -> str | None:
        """The text with a value set, or added, in a mapping or a list."""
        found = _at(node, step)
        if found is not None:
            return self._set(node, found, value)
        if node.id == "scalar" or (not node.flow_style and not node.value):
            return None
        if node.id == "sequence" and step != len(node.value):
            return None
        new = self.said(value)
        if node.id == "mapping":
            new = f"{self.said(step)}: {new}"
        if node.flow_style:
            if not node.value:
                return self.replaced(node.end_mark.index - 1, node.end_mark.index - 1, new)
            last = node.value[-1][1] if node.id == "mapping" else node.value[-1]
            at = self.end(last)
            return self.replaced(at, at, f", {new}")
        indent = " " * node.start_mark.column
        if node.id == "sequence":
            new = "- " + (_bare(new) if isinstance(value, dict) and value else new)
        at = self._line_end(self.end(node))
        after = self.newline if at == len(self.text) else ""
        return self.replaced(at, at, f"{self.newline}{indent}{new}{after}")

    def _set(self, parent: Any, node: Any, value: Any) -> str | None:
        begin, end = node.start_mark.index, self.end(node)
        if node.id == "scalar" and node.style == "|" and isinstance(value, str):
            return self._redrawn(node, value)
        if node.id == "mapping" and isinstance(value, dict) and len(node.value) == len(value) == 1:
            (key, inside), (new_key,) = node.value[0], value
            if _plain(inside) == value[new_key]:  # called otherwise, all else is the same
                return self.replaced(key.start_mark.index, key.end_mark.index, self.said(new_key))
        if node.id == "scalar" and not node.value and begin == end:
            return self.replaced(begin, end, f" {self.said(value)}")
        if node.id != "scalar" and not node.flow_style:
            names = [one.value for one in node.value] if node.id == "sequence" else []
            if isinstance(value, dict) and [*value] == names:
                return self._with_fields(node, value)
            return self.rewritten(node, value)
        new = self.said(value)
        if isinstance(value, dict) and parent.id == "sequence" and not self.as_json:
            new = _bare(new)  # a passage with its fields
        return self.replaced(begin, end, new)

    def _with_fields(self, node: Any, value: dict[str, Any]) -> str | None:
        """The text with a list of names, one on a line, turned into a mapping."""
        text = self.text
        for name in reversed(node.value):
            begin = text.rfind("\n", 0, name.start_mark.index) + 1
            before = text[begin : name.start_mark.index]
            if before.strip() != "-":
                return None
            said = f"{self.said(name.value)}: {self.said(value[name.value])}"
            text = text[:begin] + before.replace("-", " ") + said + text[name.end_mark.index :]
        return text

    def rewritten(self, node: Any, value: Any) -> str | None:
        """The text with one node written again, on one line, after its comments."""
        begin, end = node.start_mark.index, self.end(node)
        comments = _comments(self.text, begin, end, self.root)
        return self.replaced(begin, end, self._after(comments, begin) + self.said(value))

    def _after(self, comments: list[str], begin: int) -> str:
        """Comments on lines of their own, indented like what follows them."""
        line = self.text[self.text.rfind("\n", 0, begin) + 1 : begin]
        indent = " " * max(len(line), 1)
        return "".join(f"{one}{self.newline}{indent}" for one in comments)

    def _redrawn(self, node: Any, value: str) -> str | None:
        """A drawing with characters changed where they stand."""
        old, new = node.value.split("\n"), value.split("\n")
        if len(old) != len(new):
            return None
        begin = self._line_end(node.start_mark.index)
        text = self.text
        for before, after in zip(old, new, strict=True):
            begin = text.find("\n", begin) + 1
            if before != after:
                line_end = self._line_end(begin) + len(text) - len(self.text)
                at = text.find(before, begin, line_end) if before.strip() else -1
                if at < 0:
                    return None
                text = text[:at] + after + text[at + len(before) :]
        return text

    def removed(self, node: Any, step: str | int) -> str | None:
        """The text without an entry of a mapping or a list; its comments keep lines of their own."""
        if node.id == "mapping":
            step = next(n for n, (key, _) in enumerate(node.value) if key.value == step)
        assert isinstance(step, int)
        parts = [one if node.id == "mapping" else (one, one) for one in node.value]
        if len(parts) == 1:
            return self.rewritten(node, {} if node.id == "mapping" else [])
        begin, end = parts[step][0].start_mark.index, self.end(parts[step][1])
        following = parts[step + 1][0].start_mark.index if step + 1 < len(parts) else None
        if node.flow_style:
            before = self.end(parts[step - 1][1])
            span = (before, end) if following is None else (begin, following)
            kept = "".join(
                f" {one}{self.newline} "
                for one in _comments(self.text, span[0], span[1], self.root)
            )
            return self.replaced(span[0], span[1], kept)
        start = self.text.rfind("\n", 0, begin) + 1
        prefix = self.text[start:begin]
        if prefix.strip(" -") or (node.id == "mapping" and prefix.strip()):
            # it begins in the middle of a line: what follows takes its place
            if following is None:
                return None
            comments = _comments(self.text, begin, following, self.root)
            return self.replaced(begin, following, self._after(comments, begin))
        line_end = self._line_end(end)
        comments = _comments(self.text, start, line_end, self.root)
        indent = " " * (len(prefix) - len(prefix.lstrip(" ")))
        kept = "".join(f"{indent}{one}{self.newline}" for one in comments)
        after = self.text.find("\n", line_end)
        return self.replaced(start, len(self.text) if after < 0 else after + 1, kept)


def _bare(text: str) -> str:
    """A mapping on one line without its braces."""
    return text[1:-1] if text.startswith("{") and text.endswith("}") else text
