"""A play as plain values, to keep and to run again."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..checks import Answer
from ..level.names import nearest

#: The version of the form in which sessions are kept.
VERSION = 1

#: How a session can end.
ENDS = ("playing", "finished", "dead", "stuck")

#: What each kind of move says besides ``do``.
_FIELDS = {
    "walk": ("name", "to"),
    "unlock": ("name",),
    "take": ("item", "in"),
    "open": ("name",),
    "act": ("name",),
    "drop": ("item", "in"),
    "finish": (),
}


class SessionError(ValueError):
    """What should be a session is none, or one of another level."""


@dataclass(frozen=True)
class Session:
    """The moves of a play.

    Attributes:
        level: The name of the level.
        moves: The moves as reports write them; taking up what was put down has ``again``.
        ends: How the play stood at the end: ``playing``, ``finished``, ``dead`` or ``stuck``.
    """

    level: str
    moves: tuple[dict[str, Any], ...]
    ends: str = "playing"

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
        plain: The values.
        level: The name of the level it has to be of; ``None`` for any.

    Returns:
        The session.

    Raises:
        SessionError: They are no session, or one of another level; the message says where.

    Example:
        >>> plain = {"ukemi-session": 1, "level": "Mill", "moves": [{"do": "finish"}]}
        >>> read_session(plain).moves
        ({'do': 'finish'},)
        >>> read_session(plain, "Quay")
        Traceback (most recent call last):
        ukemi.play.session.SessionError: a session of the level 'Mill', not of 'Quay'
    """
    if not isinstance(plain, dict) or "ukemi-session" not in plain:
        raise SessionError("not a session: it has no `ukemi-session`")
    if plain["ukemi-session"] != VERSION:
        raise SessionError(f"a session of version {plain['ukemi-session']!r}; known is {VERSION}")
    name, moves, ends = plain.get("level"), plain.get("moves"), plain.get("ends", "playing")
    if not isinstance(name, str) or not isinstance(moves, list):
        raise SessionError("a damaged session: it needs `level`, a text, and `moves`, a list")
    if ends not in ENDS:
        raise SessionError(f"a damaged session: `ends` is {ends!r}, not one of {', '.join(ENDS)}")
    for number, move in enumerate(moves, 1):
        _check_move(number, move)
    if level is not None and name != level:
        raise SessionError(f"a session of the level {name!r}, not of {level!r}")
    return Session(name, tuple(moves), ends)


def _check_move(number: int, move: Any) -> None:
    if not isinstance(move, dict) or not isinstance(move.get("do"), str):
        raise SessionError(f"a damaged session: move {number} is {move!r}, which has no `do`")
    fields = _FIELDS.get(move["do"])
    if fields is None:
        near = nearest(move["do"], _FIELDS)
        hint = f"; did you mean {near!r}?" if near else ""
        raise SessionError(f"a damaged session: move {number} does {move['do']!r}{hint}")
    for field in fields:
        if not isinstance(move.get(field), str):
            raise SessionError(f"a damaged session: move {number} ({move['do']}) needs `{field}`")


def how_it_ends(end: int, can_finish: Answer) -> str:
    """How a play stands: the value of :data:`~ukemi.rules.END`, and whether it can still finish."""
    if end:
        return ("playing", "finished", "dead")[end]
    return "stuck" if can_finish == Answer.NO else "playing"
