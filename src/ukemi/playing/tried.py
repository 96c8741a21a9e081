"""Count the things that a play has tried, out of all of them."""

from __future__ import annotations

import json
from typing import NamedTuple

from ..level import Level
from ..questions.subjects import Subject, subjects
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
    """Records what a play has tried; a move that is taken back still counts."""

    def __init__(self, level: Level, rules: Rules) -> None:
        self.level = level
        self.rules = rules
        self.mistakes: dict[str, Move] = {}
        self._subjects: list[Subject] = subjects(level, rules)
        self._done: set[str] = set()
        self._entered: set[str] = set()
        self._locks = [passage.thing for passage, _ in level.doors()] + [
            chest.name
            for room in level.rooms.values()
            for chest in room.chests.values()
            if level.lock_of(chest) is not None
        ]
        self._attempts: dict[str, set[str]] = {how: set() for how in LOCK_TRIES}

    def see(self, move: Move | None, after: Position, before: Position | None = None) -> None:
        """Note a move that was made, and the position it led to."""
        self._entered |= self.rules.rooms_of(after)
        if move is not None and move.what["do"] in ("unlock", "open"):
            self.attempt(move.what["name"], "right")
        for subject in self._subjects:
            if after[subject.variable] != subject.before:
                self._done.add(subject.name)

    def attempt(self, lock: str, how: str) -> None:
        """Note that a lock was tried."""
        self._attempts[how].add(lock)

    def met(self, move: Move) -> None:
        """Note a mistake."""
        self.mistakes[json.dumps(move.what)] = move

    def tallies(self, mistakes: list[Move] | None) -> list[Tally]:
        """Return how much has been tried of each kind; kinds without any thing are left out.

        Args:
            mistakes: Every mistake there is, where that is known.
        """
        rooms = [room.name for room in self.level.rooms.values() if not _unseen(room.name, room)]
        tallies = [self._tally("rooms entered", rooms, self._entered)]
        for kind, words in _KINDS.items():
            names = [subject.name for subject in self._subjects if subject.kind == kind]
            tallies.append(self._tally(words, names, self._done))
        for how, words in LOCK_TRIES.items():
            tallies.append(self._tally(words, self._locks, self._attempts[how]))
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


#: The ways to try a lock, with the words for each.
LOCK_TRIES = {
    "without": "locks tried without a key",
    "wrong": "locks tried with a wrong key",
    "right": "locks opened with the right key",
}

_KINDS = {
    "door": "doors opened",
    "chest": "chests opened",
    "act": "acts done",
    "item": "items taken",
}


def _unseen(name: str, room: object) -> bool:
    """Whether a room is a cell of a map that is a room only because of how the map was cut."""
    cell = getattr(room, "cell", None)
    return cell is not None and (str(cell) == name or getattr(room, "used_from", None) is not None)
