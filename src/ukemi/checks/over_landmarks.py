"""Every question of a level in which nothing is ever lost, whatever its size.

All that can be done in such a level is free (:mod:`ukemi.facts.nothing_lost`): nobody gets
stuck, no reward can be missed, and what every run must do is told by landmarks.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator
from functools import cached_property

from ..facts.bridges import WalkingGraph
from ..facts.landmark_plans import finishing_plan, plan_into
from ..facts.landmarks import Landmarks
from ..facts.lower_bounds import LowerBound
from ..facts.nothing_lost import nothing_lost
from ..level import Condition, Level, Passage
from ..rules import PLACE, Move, Position, Rules
from ..spaces import Limits, Route, replay
from .answers import Answer, settled
from .keys import units_as_sum
from .order import GATE, ROOM, Pairs, ordered
from .questions import Questions
from .reason import Reason, Reasons
from .result import Mistake
from .statuses import status
from .subjects import Subject
from .unless_cut import unless_cut


def nothing_is_lost(level: Level, rules: Rules, limits: Limits) -> OverLandmarks | None:
    """What answers the questions of a level where one look tells that nothing is ever lost.

    ``None`` where that is not plain, or where claims ask for more than landmarks tell.
    """
    expected = level.expected
    if expected.never or expected.possible or expected.always_possible:
        return None
    questions = OverLandmarks(level, rules, limits)
    return questions if questions.able else None


class OverLandmarks(Questions):
    """Answers questions from what can be done, and what must be done before it."""

    def __init__(self, level: Level, rules: Rules, limits: Limits) -> None:
        super().__init__(level, rules, limits)
        self._bits = {subject.name: 1 << n for n, subject in enumerate(self.subjects)}
        self._watched = {one.variable: self._bits[one.name] for one in self.subjects}
        self._places = {room: place for place, room in enumerate(rules.places)}
        self._walked = {name: 1 << len(self._bits) + n for n, name in enumerate(self.gates)}
        marked = {
            number: self._walked[name] for name, walks in self.gates.items() for number in walks
        }
        self._found = self._if_free(marked)

    @unless_cut(None)
    def _if_free(self, marked: dict[int, int]) -> Landmarks | None:
        return nothing_lost(self.rules, self.limits, self._watched, marked)

    @property
    def able(self) -> bool:
        """Whether nothing is ever lost; else nothing may be asked."""
        return self._found is not None

    @property
    def _marks(self) -> Landmarks:
        assert self._found is not None
        return self._found

    # -- finishing ----------------------------------------------------------------------------

    @property
    def all_seen(self) -> bool:
        return False

    @property
    def positions(self) -> int:
        return 1 + len(self._marks.made)  # those of one run that does all there is to do

    @property
    def _can_finish(self) -> bool:
        return self._marks.finish is not None

    @property
    def finish(self) -> Answer:
        return settled(self._can_finish, True)

    @property
    def stuck(self) -> Answer:
        return Answer.NEVER if self._can_finish else Answer.POSSIBLE

    @property
    def deadly(self) -> Answer:
        return Answer.NO

    @cached_property
    def _plain(self) -> Route | None:
        return self._finishing([])

    def finishing(self) -> Route | None:
        return self._plain

    @unless_cut(None)
    def _finishing(self, names: Collection[str]) -> Route | None:
        """A finishing run that does some things, without what is of no use to it."""
        asked = {self.subject(name).variable for name in names}
        moves = finishing_plan(self._marks, asked)
        if moves is None:
            return None
        return replay(self.rules, moves, at_least=self.at_least(asked).least, limits=self.limits)

    def at_least(self, asked: set[int]) -> LowerBound:
        """Return a lower bound on the cost of the finishing runs that change some variables."""
        marks = self._marks
        done = marks.finish or 0
        for variable in asked:
            done |= marks.before.get(variable, 0)
        asked = asked | {one.variable for one in self.subjects if done & self._bits[one.name]}
        rooms = [place for place, bit in enumerate(marks.rooms) if done & bit]
        return LowerBound(self.rules, self._ground, asked, rooms, marks.ends)

    @cached_property
    def _ground(self) -> WalkingGraph:
        return WalkingGraph(self.rules)

    def with_every_reward(self) -> tuple[Answer, Route | None]:
        names = set(self.rewards.values())
        route = self._finishing(names) if names else self._plain
        every = all(self._reached(self.subject(name)) for name in names)
        return settled(self._can_finish and every, True), route

    def finishing_without(self, names: list[str]) -> Route | None:
        return self._plain_run(self._doing(names))

    def finishing_around(self, room: str) -> Route | None:
        place = self._places[room]
        if place == self.rules.start()[PLACE]:
            return None
        there = [move.number for move in self.rules.moves if move.leads_to == place]
        return self._plain_run(there)

    @unless_cut(None)
    def _plain_run(self, without: Collection[int]) -> Route | None:
        moves = finishing_plan(self._but(without))
        return None if moves is None else replay(self.rules, moves, limits=self.limits)

    def _doing(self, names: Collection[str]) -> list[int]:
        """The moves that do one of some things."""
        variables = {self.subject(name).variable for name in names}
        return [m.number for m in self.rules.moves if not variables.isdisjoint(m.changes)]

    def _but(self, moves: Collection[int]) -> Landmarks:
        """What can be done where some moves are not made."""
        return Landmarks(self.rules, self._marks.safety, self.limits, without=moves)

    # -- getting stuck: never, but where nothing finishes at all ------------------------------

    def mistakes(self) -> Iterator[tuple[Reason, Mistake]]:
        return iter(())

    @property
    def knows_mistakes(self) -> bool:
        return True

    def losing_moves(self) -> Iterable[Move]:
        return ()

    def can_finish_from(self, position: Position) -> Answer:
        return self.finish

    def explain(self, route: Route) -> Reason:
        rooms = self.level.rooms.keys() - self.never_entered()
        reasons = Reasons(self.level, self.rules, self.limits)
        return reasons.explain(route.positions[-1], route, rooms, False)

    def explained_start(self) -> Reason | None:
        return self.explain(replay(self.rules, []))

    def stuck_somewhere(self) -> tuple[Reason, Route] | None:
        return None

    def dying(self) -> Route | None:
        return None

    # -- what runs do -------------------------------------------------------------------------

    def status(self, subject: Subject) -> Answer:
        return self._status(self._reached(subject), self._bits[subject.name])

    def room_status(self, room: str) -> Answer:
        place = self._places[room]
        return self._status(place in self._marks.before_room, self._marks.rooms[place])

    def _reached(self, subject: Subject) -> bool:
        """Whether something can be done, or has been before the first move."""
        marks, variable = self._marks, subject.variable
        return variable in marks.before or marks.start[variable] != subject.before

    def _status(self, reached: bool, bit: int) -> Answer:
        required = bool((self._marks.finish or 0) & bit)
        return status(reached and self._can_finish, not required, reached, True)

    @unless_cut(Answer.UNKNOWN)
    def status_of_any(self, names: list[str]) -> Answer:
        reached = any(self._reached(self.subject(name)) for name in names)
        without = self._but(self._doing(names)).finish is not None
        return status(reached and self._can_finish, without, reached, True)

    def required_gates(self) -> list[str] | None:
        done = self._marks.finish or 0
        return [name for name, bit in self._walked.items() if done & bit]

    @unless_cut(None)
    def order(self, required: list[str], rooms: list[str], gates: list[str]) -> Pairs | None:
        marks = self._marks
        bits, before = {}, {}
        for name in required:
            bits[name] = self._bits[name]
            before[name] = marks.before.get(self.subject(name).variable, 0)
        for room in rooms:
            place = self._places[room]
            bits[room + ROOM], before[room + ROOM] = marks.rooms[place], marks.before_room[place]
        for gate in gates:
            bit = self._walked[gate]
            bits[gate + GATE], before[gate + GATE] = bit, marks.before_marked[bit]
        return ordered(before, bits, self.limits)

    def missable(self, subject: str) -> tuple[Answer, Route | None]:
        # What nobody can have is missed from the start; whatever can be had stays to be had.
        missed = self._can_finish and not self._reached(self.subject(subject))
        return (Answer.YES if missed else Answer.NO), None

    def taking(self, subject: str) -> tuple[Reason | None, Route | None]:
        return None, None

    def excluding(self) -> list[str]:
        return []

    # -- doors, claims, keys ------------------------------------------------------------------

    @unless_cut(None)
    def way_round(self, door: Passage) -> tuple[str, Route] | None:
        parts = self._ground.parts
        if len({parts[self._places[room]] for room in door.ends}) > 1:
            return None
        marks = self._but(self._doing([door.thing]))
        sides = []
        for room in door.ends:
            moves = plan_into(marks, self._places[room]) if self._can_finish else None
            if moves is None:
                return None
            sides.append((room, replay(self.rules, moves, limits=self.limits)))
        return max(sides, key=lambda side: side[1].steps)

    def comes_without(self, room: str, names: Collection[str]) -> bool:
        return self._places[room] in self._but(self._doing(names)).before_room

    def holding(self, condition: Condition) -> tuple[Answer, Route | None]:
        return Answer.UNKNOWN, None

    def losing(self, condition: Condition) -> tuple[Answer, Route | None]:
        return Answer.UNKNOWN, None

    def most_left(self, item: str) -> tuple[int, int] | None:
        if not self._can_finish:
            return None
        constant, terms = units_as_sum(self.level, self.rules, item)
        before, after = (
            constant + sum(n * values[variable] for variable, n in terms)
            for values in (self.rules.initial, self._marks.start)
        )
        return before, after  # no move uses any up, or something could be lost by it

    def never_entered(self) -> frozenset[str]:
        inside = {self.rules.places[place] for place in self._marks.before_room}
        return frozenset(self.level.rooms.keys() - inside)
