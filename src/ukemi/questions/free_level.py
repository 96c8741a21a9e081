"""A level in which nothing is ever lost, whatever its size: there the relaxed level is the level.

Every move in such a level is free (:mod:`ukemi.facts.nothing_lost`): players never get stuck, no reward
can be missed, and the landmarks are everything that every run must do.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from functools import cached_property

from ..facts.landmark_plans import finishing_plan
from ..facts.landmarks import Landmarks
from ..facts.lower_bounds import LowerBound
from ..facts.nothing_lost import nothing_lost
from ..facts.walking_graph import WalkingGraph
from ..level import Level
from ..rules import Rules
from ..spaces import CutShortError, Limits, Route, replay
from .subjects import Subject


class FreeLevel:
    """The possible moves of a level without loss, and everything that must precede each.

    Attributes:
        marks: The landmarks.
        places: The number of each room.
        bits: The bit of each subject in the landmarks, by name.
        walked: The bit of each gate, by name.
    """

    def __init__(
        self,
        rules: Rules,
        limits: Limits,
        subjects: Sequence[Subject],
        marks: Landmarks,
        bits: Mapping[str, int],
        walked: Mapping[str, int],
    ) -> None:
        self.rules = rules
        self.limits = limits
        self.subjects = {one.name: one for one in subjects}
        self.marks = marks
        self.bits = bits
        self.walked = walked
        self.places = {room: place for place, room in enumerate(rules.places)}

    @property
    def can_finish(self) -> bool:
        """Whether the level can be finished."""
        return self.marks.finish is not None

    @property
    def required(self) -> int:
        """The bits of all that every finishing run does; none if nothing finishes."""
        return self.marks.finish or 0

    @property
    def rooms(self) -> set[str]:
        """The rooms that can be entered."""
        return {self.rules.places[place] for place in self.marks.before_room}

    def reached(self, name: str) -> bool:
        """Whether something can be done, or has been before the first move."""
        marks, subject = self.marks, self.subjects[name]
        return subject.variable in marks.before or marks.start[subject.variable] != subject.before

    # -- runs ---------------------------------------------------------------------------------

    @cached_property
    def finishing(self) -> Route | None:
        """A finishing run without what is of no use to it."""
        return self.finishing_with([])

    def finishing_with(self, names: Collection[str]) -> Route | None:
        """A finishing run that does some things; ``None`` if time or memory ends first."""
        asked = {self.subjects[name].variable for name in names}
        try:
            moves = finishing_plan(self.marks, asked)
            if moves is None:
                return None
            least = self.at_least(asked).least
            return replay(self.rules, moves, at_least=least, limits=self.limits)
        except (CutShortError, MemoryError):
            return None

    def at_least(self, asked: set[int]) -> LowerBound:
        """Return a lower bound on the cost of the finishing runs that change some variables."""
        marks = self.marks
        done = self.required
        for variable in asked:
            done |= marks.before.get(variable, 0)
        asked = asked | {
            one.variable for one in self.subjects.values() if done & self.bits[one.name]
        }
        rooms = [place for place, bit in enumerate(marks.rooms) if done & bit]
        return LowerBound(self.rules, self.walking, asked, rooms, marks.ends)

    @cached_property
    def walking(self) -> WalkingGraph:
        """The rooms and the walks between them."""
        return WalkingGraph(self.rules)

    def run_without(self, moves: Collection[int]) -> Route | None:
        """A finishing run that makes none of some moves."""
        plan = finishing_plan(self.but(moves))
        return None if plan is None else replay(self.rules, plan, limits=self.limits)

    def doing(self, names: Collection[str]) -> list[int]:
        """The moves that do one of some things, by number."""
        variables = {self.subjects[name].variable for name in names}
        return sorted({number for one in variables for number in self._changing.get(one, ())})

    @cached_property
    def _changing(self) -> dict[int, list[int]]:
        """For each variable, the moves that may change it, by number."""
        found: dict[int, list[int]] = {}
        for move in self.rules.moves:
            for variable in move.changes:
                found.setdefault(variable, []).append(move.number)
        return found

    def but(self, moves: Collection[int], watching: bool = False) -> Landmarks:
        """Return the landmarks of the level without some moves, and with the bits of the subjects if asked to."""
        marks = self.marks
        watched = marks.watched if watching else None
        return Landmarks(marks.lacks, None, self.limits, watched, without=moves)


def free_level(
    level: Level,
    rules: Rules,
    limits: Limits,
    subjects: Sequence[Subject],
    gates: Mapping[str, Collection[int]],
) -> FreeLevel | None:
    """Return what is known of a level if one look shows that nothing is ever lost in it.

    Returns:
        That; ``None`` if it is not plain, or if claims ask for more than landmarks show.
    """
    expected = level.expected
    if any(room.deadly for room in level.rooms.values()):
        return None
    if expected.never or expected.possible or expected.always_possible:
        return None
    bits = {subject.name: 1 << n for n, subject in enumerate(subjects)}
    watched = {one.variable: bits[one.name] for one in subjects}
    walked = {name: 1 << len(bits) + n for n, name in enumerate(gates)}
    marked = {number: walked[name] for name, walks in gates.items() for number in walks}
    try:
        marks = nothing_lost(rules, limits, watched, marked)
    except (CutShortError, MemoryError):
        return None
    return None if marks is None else FreeLevel(rules, limits, subjects, marks, bits, walked)
