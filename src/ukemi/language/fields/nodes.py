"""The raw values a level is read from: a scalar, a sequence or a mapping, with its place.

PyYAML's nodes have this shape as they are, so a file is read without a copy; values given in
Python are wrapped by :func:`plain_node`.
"""

from __future__ import annotations

from typing import Any, Protocol

from ...level.conditions import Condition
from ...level.place import Place

_TAG = "tag:yaml.org,2002:"
TEXT, WHOLE, BOOL, NULL, NUMBER = (_TAG + kind for kind in ("str", "int", "bool", "null", "float"))


class Node(Protocol):
    """One raw value."""

    id: str
    tag: str
    value: Any
    start_mark: Any


class PlainNode:
    """A value given in Python."""

    __slots__ = ("id", "tag", "value")
    start_mark = None

    def __init__(self, id: str, tag: str, value: Any) -> None:
        self.id = id
        self.tag = tag
        self.value = value


def plain_node(value: Any) -> Node:
    """Wrap a Python value.

    Args:
        value: Text, a whole number, a truth value, a condition, ``None``, or a list, tuple or
            mapping of these.

    Returns:
        The node; a value of any other type becomes a scalar that no field accepts.
    """
    match value:
        case dict():
            pairs = [(plain_node(key), plain_node(one)) for key, one in value.items()]
            return PlainNode("mapping", _TAG + "map", pairs)
        case list() | tuple() | set() | frozenset():
            ordered = sorted(value) if isinstance(value, (set, frozenset)) else value
            return PlainNode("sequence", _TAG + "seq", [plain_node(one) for one in ordered])
        case bool():
            return PlainNode("scalar", BOOL, str(value).lower())
        case int():
            return PlainNode("scalar", WHOLE, str(value))
        case str():
            return PlainNode("scalar", TEXT, value)
        case Condition():
            return PlainNode("scalar", TEXT, str(value))
        case None:
            return PlainNode("scalar", NULL, "")
        case float():
            return PlainNode("scalar", NUMBER, str(value))
    return PlainNode("scalar", _TAG + type(value).__name__, repr(value))


def place_of(node: Node, offset: int = 0) -> Place | None:
    """Where a node stands in its file.

    Returns:
        The place, or ``None`` for a value given in Python.
    """
    mark = node.start_mark
    if mark is None:
        return None
    if not offset:
        return Place(mark.line + 1, mark.column + 1)
    if node.id == "scalar":
        style = getattr(node, "style", None)
        if style in ("|", ">") or "\n" in node.value[:offset]:
            offset = 0  # the text's own lines are folded: its start is all that is known
        elif style in ("'", '"'):
            offset += 1
    return Place(mark.line + 1, mark.column + 1 + offset)


def shown(node: Node) -> str:
    """A node's text for a message, cut where it is long."""
    if node.id != "scalar":
        return {"sequence": "a list", "mapping": "a mapping"}[node.id]
    text = "nothing" if node.tag == NULL else repr(node.value)
    return text if len(text) <= 60 else text[:57] + "...'"
