"""The positions that a crowd has reached, with the possible moves in each, as arrays."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from ..checks import Answer
from ..level import Level
from ..rules import DEAD, END, FINISHED, Position, Rules
from .outlook import LookAhead
from .players import KINDS

Numbered = npt.NDArray[np.int64]

#: The status of a position: unknown, play goes on, finished, dead, stuck, and perhaps stuck.
UNKNOWN, GOES_ON, ENDED_FINISHED, ENDED_DEAD, LOST, UNSURE = range(6)


class KnownPositions:
    """The positions that players have reached.

    Args:
        outlook: Tells whether a position is lost.

    Attributes:
        doors: The doors that are shut at first, by name.
        width: The greatest number of moves that any room could offer.
        kinds, costs, movers: For each move its kind, its cost, and which of the players makes it.
        standing: For each position, the room of each player.
        status: The status of each position; unknown until :meth:`learn`.
        shut: For each position, the doors beside a player that are shut and cannot be opened from there now.
    """

    def __init__(self, level: Level, rules: Rules, outlook: LookAhead) -> None:
        self.level, self.rules, self._outlook = level, rules, outlook
        places = range(len(rules.places))
        self.width = max(1, *(len(rules.moves_at(place)) for place in places))
        kinds = [KINDS.index(move.what["do"]) for move in rules.moves]
        self.kinds = np.array(kinds or [0], dtype=np.int8)
        self.costs = np.array([move.cost for move in rules.moves] or [0])
        self.movers = np.array(
            [rules.standing.index(rules.place_of(move.what.get("by"))) for move in rules.moves]
            or [0]
        )
        opened = {door.thing: rules.index.get(("opened", door.thing)) for door, _ in level.doors()}
        self.doors = [name for name, variable in opened.items() if variable is not None]
        self._opened = [opened[name] for name in self.doors]
        self._doors_at: dict[int, list[int]] = {}
        for door, _ in level.doors():
            for room in dict.fromkeys(door.ends) if door.thing in self.doors else ():
                place = rules.places.index(room)
                self._doors_at.setdefault(place, []).append(self.doors.index(door.thing))
        self._numbers: dict[Sequence[int], int] = {}
        self._positions: list[Sequence[int]] = []
        self._first = np.zeros(64, dtype=np.int64)
        self._count = np.zeros(64, dtype=np.int64)
        self._moves = np.zeros(256, dtype=np.int32)
        self._after = np.zeros(256, dtype=np.int32)
        self._used = 0
        self.standing = np.zeros((64, len(rules.standing)), dtype=np.int64)
        self.status = np.zeros(64, dtype=np.int8)
        self.shut = np.zeros((64, len(self.doors)), dtype=bool)
        start = np.array([self._number(rules.start())])
        self.learn(start, start)

    def value(self, number: int, variable: int) -> int:
        """The value of a variable in a position."""
        return self._positions[number][variable]

    def options(self, positions: Numbered) -> tuple[Numbered, Numbered]:
        """For some positions, the moves that can be made, and where each leads; -1 for none."""
        count = self._count[positions]
        columns = np.arange(max(1, int(count.max())))
        at = np.minimum(self._first[positions][:, None] + columns, len(self._moves) - 1)
        there = columns < count[:, None]
        return np.where(there, self._moves[at], -1), np.where(there, self._after[at], 0)

    def learn(self, before: Numbered, after: Numbered) -> None:
        """Learn of positions, each reached from one that is known: their moves, and whether they are lost."""
        new = self.status[after] == UNKNOWN
        pairs = dict(zip(after[new].tolist(), before[new].tolist(), strict=True))
        for number, source in pairs.items():
            self._look(number)
            self.status[number] = self._status(number, source)

    def _look(self, number: int) -> None:
        """Find out which moves can be made in a position, and which doors cannot be opened there."""
        position = self._positions[number]
        unlocked = set()
        first = self._used
        for move, after in self.rules.successors(tuple(position)):
            if self._used == len(self._moves):
                self._moves, self._after = (
                    np.pad(one, (0, len(one))) for one in (self._moves, self._after)
                )
            self._moves[self._used], self._after[self._used] = move.number, self._number(after)
            self._used += 1
            if move.what["do"] == "unlock":
                unlocked.add(move.what["name"])
        self._first[number], self._count[number] = first, self._used - first
        for place in {position[variable] for variable in self.rules.standing}:
            for door in self._doors_at.get(place, ()):
                variable = self._opened[door]
                assert variable is not None
                if not position[variable] and self.doors[door] not in unlocked:
                    self.shut[number, door] = True

    def _status(self, number: int, source: int) -> int:
        position = self._positions[number]
        if position[END] in (FINISHED, DEAD):
            return ENDED_FINISHED if position[END] == FINISHED else ENDED_DEAD
        first = int(self._first[number])
        back = self._after[first : first + int(self._count[number])]
        if self.status[source] == GOES_ON and (back == source).any():
            return GOES_ON  # whoever can go back can do all that could be done before
        answer = self._outlook.can_finish(tuple(position))
        return {Answer.NO: LOST, Answer.UNKNOWN: UNSURE}.get(answer, GOES_ON)

    def _number(self, position: Position) -> int:
        # As bytes, a position takes an eighth of the memory.
        key: Sequence[int] = bytes(position) if max(position) < 256 else position
        number = self._numbers.get(key)
        if number is None:
            number = self._numbers[key] = len(self._positions)
            self._positions.append(key)
            if number == len(self.status):
                self._grow()
            self.standing[number] = [position[place] for place in self.rules.standing]
        return number

    def _grow(self) -> None:
        more = len(self.status)
        for name in ("_first", "_count", "standing", "status", "shut"):
            one = getattr(self, name)
            setattr(self, name, np.pad(one, ((0, more), *[(0, 0)] * (one.ndim - 1))))
