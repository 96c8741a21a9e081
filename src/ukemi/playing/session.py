"""A play as plain values, to keep and to run again."""

from __future__ import annotations

from typing import Any

from ..checks import Answer
from ..language.fields.fields import Field, Fields
from ..language.fields.nodes import WHOLE, Node, plain_node, shown
from ..language.fields.notes import Notes, bad
from ..language.fields.types import BoolType, OneOf, Schema, TextType, WholeType
from ..values import dataclass, field

#: The version of the form in which sessions are kept.
VERSION = 1

#: How a session can end.
ENDS = ("playing", "finished", "dead", "stuck")

#: The fields of each kind of move besides ``do``.
_FIELDS = {
    "walk": ("name", "to"),
    "unlock": ("name",),
    "take": ("item", "in"),
    "open": ("name",),
    "act": ("name",),
    "drop": ("item", "in"),
    "give": ("item", "to"),
    "finish": (),
}


class _Spent:
    """Return the items that a move spent, with the count of each."""

    def read(self, notes: Notes, node: Node) -> dict[str, int]:
        if node.id != "mapping":
            raise bad("bad-value", f"`with` is a mapping to counts, not {shown(node)}", node)
        return {TextType().read(notes, key): WholeType(1).read(notes, n) for key, n in node.value}

    def schema(self) -> Schema:
        return {"type": "object", "additionalProperties": WholeType(1).schema()}


_MOVE = Fields(
    "a move",
    Field("do", OneOf(tuple(_FIELDS)), "The kind of move."),
    Field("name", TextType(), "The passage, door, chest, switch or act."),
    Field("level", TextType(), "In a campaign: the level that is finished."),
    Field("to", TextType(), "The room walked to, or the next level."),
    Field("by", TextType(), "The player who moves, if there are several."),
    Field("item", TextType(), "The item."),
    Field("in", TextType(), "The room it is taken or put down in.", attr="in"),
    Field("with", _Spent(), "The spent items.", attr="with"),
    Field("steps", WholeType(), "The cost."),
    Field("again", BoolType(), "Whether it takes up what was put down."),
)


class SessionError(ValueError):
    """The file is not a session, or it is a session of another level."""


@dataclass(frozen=True)
class Session:
    """The moves of a play.

    Attributes:
        level: The name of the level.
        moves: The moves as reports write them; taking up what was put down has ``again``.
        ends: How the play stood at the end: ``playing``, ``finished``, ``dead`` or ``stuck``.
        text: The text of the file that it was read from.
    """

    level: str
    moves: tuple[dict[str, Any], ...]
    ends: str = "playing"
    text: str = field(default="", compare=False, repr=False)

    def plain(self) -> dict[str, Any]:
        """The session as values that JSON can hold."""
        return {
            "ukemi-session": VERSION,
            "level": self.level,
            "ends": self.ends,
            "moves": list(self.moves),
        }


def read_session(plain: Any, level: str | None = None) -> Session:
    """A session from the values of its JSON.

    Args:
        plain: The values, or their nodes, which know their places.
        level: The name of the level it has to be of; ``None`` for any.

    Raises:
        SessionError: They are no session, or one of another level; the message says where.

    Example:
        >>> plain = {"ukemi-session": 1, "level": "Mill", "moves": [{"do": "finish"}]}
        >>> read_session(plain).moves
        ({'do': 'finish'},)
        >>> read_session(plain, "Quay")
        Traceback (most recent call last):
        ukemi.playing.session.SessionError: a session of the level 'Mill', not of 'Quay'
    """
    node = plain if hasattr(plain, "start_mark") else plain_node(plain)
    pairs = node.value if node.id == "mapping" else []
    if "ukemi-session" not in {key.value for key, _ in pairs if key.id == "scalar"}:
        raise SessionError("not a session: it has no `ukemi-session`")
    notes = Notes()
    values = _SESSION.read(notes, node)
    if notes.problems:
        problem = notes.problems[0]
        where = f"{problem.place.line}:{problem.place.column}: " if problem.place else ""
        hint = f"; did you mean {problem.near!r}?" if problem.near else ""
        raise SessionError(f"{where}a damaged session: {problem.message}{hint}")
    for needed in ("level", "moves"):
        if needed not in values:
            raise SessionError(f"a damaged session: it has no `{needed}`")
    if level is not None and values["level"] != level:
        raise SessionError(f"a session of the level {values['level']!r}, not of {level!r}")
    return Session(values["level"], values["moves"], values.get("ends", "playing"))


class _Version:
    """The version of the form."""

    def read(self, notes: Notes, node: Node) -> int:
        if node.id == "scalar" and node.tag == WHOLE and node.value == str(VERSION):
            return VERSION
        raise bad("bad-value", f"it is of version {node.value}; known is {VERSION}", node)

    def schema(self) -> Schema:
        return {"const": VERSION}


class _Moves:
    """The moves, one after another."""

    def read(self, notes: Notes, node: Node) -> tuple[dict[str, Any], ...]:
        if node.id != "sequence":
            raise bad("bad-value", f"`moves` is a list, not {shown(node)}", node)
        return tuple(self._move(notes, number, one) for number, one in enumerate(node.value, 1))

    def _move(self, notes: Notes, number: int, node: Node) -> dict[str, Any]:
        before = len(notes.problems)
        values = _MOVE.read(notes, node)
        if len(notes.problems) == before:
            what = values.get("do")
            needed = ("do",) if what is None else _FIELDS[what]
            for field in (one for one in needed if one not in values):
                words = f" ({what})" if what else ""
                raise bad("bad-value", f"move {number}{words} needs `{field}`", node)
        return values

    def schema(self) -> Schema:
        return {"type": "array", "items": _MOVE.schema()}


_SESSION = Fields(
    "a session",
    Field("ukemi-session", _Version(), "The version of this form."),
    Field("level", TextType(), "The name of the level."),
    Field("ends", OneOf(ENDS), "How the play stood at the end."),
    Field("moves", _Moves(), "The moves."),
)


def how_it_ends(end: int, can_finish: Answer) -> str:
    """Return how a play has ended, or that it goes on, as a value of :data:`~ukemi.rules.END`; and whether it
    can still finish.
    """
    if end:
        return ("playing", "finished", "dead")[end]
    return "stuck" if can_finish == Answer.NO else "playing"
