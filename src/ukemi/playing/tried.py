"""What has been tried in a play, of all that there is."""

from __future__ import annotations

import json
from typing import NamedTuple

from ..checks.subjects import Subject, subjects
from ..level import Level
from ..rules import Move, Position, Rules
from ..rules.words import move_words


class Tally(NamedTuple):
    """How much of one kind of thing has been tried.

    Attributes:
        kind: ``rooms entered``, ``doors opened`` and the like.
        tried: The names of what has been.
        left: The names of what has not.
    """

    kind: str
    tried: list[str]
    left: list[str]


class Tried:
    """Keeps what a play has tried; what is undone has still been tried.

    Args:
        level: The level.
        rules: Its rules.
    """

    def __init__(self, level: Level, rules: Rules) -> None:
        self.level = level
        self.rules = rules
        self.mistakes: dict[str, Move] = {}
        self._subjects: list[Subject] = subjects(level, rules)
        self._done: set[str] = set()
        self._entered: set[str] = set()

    def see(self, move: Move | None, after: Position, before: Position | None = None) -> None:
        """Note a move that was made, and the position it led to."""
        self._entered |= self.rules.rooms_of(after)
        for subject in self._subjects:
            if after[subject.variable] != subject.before:
                self._done.add(subject.name)

    def met(self, move: Move) -> None:
        """Note a mistake."""
        self.mistakes[json.dumps(move.what)] = move

    def tallies(self, mistakes: list[Move] | None) -> list[Tally]:
        """How much has been tried, kind by kind; kinds of which there is nothing are left out.

        Args:
            mistakes: Every mistake there is, where that is known.

        Returns:
            The tallies.
        """
        rooms = [room.name for room in self.level.rooms.values() if not _unseen(room.name, room)]
        tallies = [self._tally("rooms entered", rooms, self._entered)]
        for kind, words in _KINDS.items():
            names = [subject.name for subject in self._subjects if subject.kind == kind]
            tallies.append(self._tally(words, names, self._done))
        known = {
            move_words(move.what): move for move in [*(mistakes or []), *self.mistakes.values()]
        }
        met = {move_words(move.what) for move in self.mistakes.values()}
        tallies.append(self._tally("mistakes met", list(known), met))
        return [tally for tally in tallies if tally.tried or tally.left]

    @staticmethod
    def _tally(kind: str, names: list[str], seen: set[str]) -> Tally:
        tried = [name for name in names if name in seen]
        return Tally(kind, tried, [name for name in names if name not in seen])


_KINDS = {
    "door": "doors opened",
    "chest": "chests opened",
    "act": "acts done",
    "item": "items taken",
}


def _unseen(name: str, room: object) -> bool:
    """Whether a room is a cell of a map that only the cutting made one."""
    cell = getattr(room, "cell", None)
    return cell is not None and (str(cell) == name or getattr(room, "used_from", None) is not None)
