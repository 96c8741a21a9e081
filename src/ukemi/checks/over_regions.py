"""Every question of a level in which nothing is ever lost, whatever its size.

All that can be done in such a level is free: one region holds it all (:mod:`ukemi.search.reduced`).
Nobody gets stuck, no reward can be missed, and what every run must do is told by landmarks.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator
from functools import cached_property

from ..level import Condition, Level, Passage
from ..rules import PLACE, Move, Position, Rules
from ..rules.names import Names
from ..rules.reads import looked_at
from ..search import CutShortError, Limits, Route, replay
from ..search.reduced import nothing_lost
from ..search.reduced.bounds import takes_at_least
from ..search.reduced.ground import Ground
from ..search.reduced.landmarks import Landmarks, UncountedError
from ..search.reduced.macro import Explored, explore_regions
from ..search.reduced.regions import Regions
from ..search.reduced.runs import run_into, run_to
from .answers import Answer, settled
from .keys import units_as_sum
from .order import GATE, ROOM, Pairs, ordered
from .questions import Questions, Statuses
from .reason import Reason, Reasons
from .result import Mistake
from .statuses import counts_as_room

#: Regions to look at for a run: the one that holds all, and finished ones.
MOST_REGIONS = 3_000


def nothing_is_lost(level: Level, rules: Rules, limits: Limits) -> OverRegions | None:
    """What answers the questions of a level where one look tells that nothing is ever lost.

    Args:
        level: The level.
        rules: Its rules.
        limits: How far the search may go.

    Returns:
        The answers; ``None`` where that is not plain.
    """
    finder = Regions(rules)
    if not nothing_lost.nothing_is_lost(finder, rules.start()):
        return None
    found = OverRegions(level, rules, finder, limits)
    return found if found.able else None


class OverRegions(Questions):
    """Answers questions from the one region there is, and the finished ones beyond it.

    Args:
        level: The level; nothing in it is ever lost.
        rules: Its rules.
        finder: What finds its regions.
        limits: How far the search may go.
    """

    all_seen = False

    def __init__(self, level: Level, rules: Rules, finder: Regions, limits: Limits) -> None:
        super().__init__(level, rules)
        self.finder = finder
        self.limits = limits
        self.found = self._explore(finder)
        self._bits = {subject.name: 1 << n for n, subject in enumerate(self.subjects)}
        self._watched = {one.variable: self._bits[one.name] for one in self.subjects}
        self._walked = {name: 1 << len(self._bits) + n for n, name in enumerate(self.gates)}

    def _explore(self, finder: Regions) -> Explored:
        return explore_regions(finder, self.rules.start(), MOST_REGIONS, self.limits)

    @cached_property
    def able(self) -> bool:
        """Whether landmarks tell what runs must do, and no claim asks for more than that."""
        expected = self.level.expected
        claims = (*expected.never, *expected.possible, *expected.always_possible)
        return self.found.complete and not claims and self._marks is not None

    @cached_property
    def _region(self) -> int:
        """The number of the region in which the run goes on."""
        return next(n for n, one in enumerate(self.found.regions) if not one.over)

    @cached_property
    def _marks(self) -> Landmarks | None:
        region = self.found.regions[self._region]
        last = [(move, after) for move, _, after in self.finder.ways_on(region)]
        if any(move.what["do"] not in ("walk", "finish") for move, _ in last):
            return None
        asked = looked_at(self.rules.settling) - {PLACE}
        if any(move.what["do"] == "walk" and asked & {*move.changes} for move, _ in last):
            return None  # it is not the room alone that ends the run
        about = {move.number for move, _ in last if move.what["do"] == "walk"}
        ending = frozenset(self.finder.ending_in(region))
        free = self.finder.safety.safe | self.finder.safety.giving
        try:
            marked = {
                number: self._walked[name] for name, walks in self.gates.items() for number in walks
            }
            return Landmarks(self.rules, self._watched, free, about - free, ending, marked)
        except UncountedError:
            return None

    # -- finishing ----------------------------------------------------------------------------

    @property
    def positions(self) -> int:  # noqa: D102
        return len(self.found.regions)

    @property
    def finish(self) -> Answer:  # noqa: D102
        return settled(bool(self.found.finished), True)

    @property
    def stuck(self) -> Answer:  # noqa: D102
        return Answer.NEVER if self.found.finished else Answer.POSSIBLE

    @property
    def deadly(self) -> Answer:  # noqa: D102
        return Answer.NO

    @cached_property
    def _plain(self) -> Route | None:
        return self._finishing([])

    def finishing(self) -> Route | None:  # noqa: D102
        return self._plain

    def _finishing(self, names: list[str]) -> Route | None:
        """A finishing run that does some things, without what is of no use to it."""
        wanted = [one for one in self.subjects if one.name in names]
        for number in self.found.finished:
            position = self.found.regions[number].position
            if all(position[one.variable] != one.before for one in wanted):
                asked = [one.variable for one in wanted]
                moves = run_to(self.finder, self.found, number, self.rules.start(), asked)
                return replay(self.rules, moves, at_least=self._at_least(set(asked)))
        return None

    def _at_least(self, asked: set[int]) -> int:
        """The steps that a finishing run which changes some variables takes at least."""
        marks = self._marks
        assert marks is not None
        done = marks.finish or 0
        for variable in asked:
            done |= marks.before.get(variable, 0)
        asked = asked | {one.variable for one in self.subjects if done & self._bits[one.name]}
        rooms = [place for place, bit in enumerate(marks.rooms) if done & bit]
        return takes_at_least(self.rules, self._ground, asked, rooms, marks.ends)

    @cached_property
    def _ground(self) -> Ground:
        return Ground(self.rules)

    def with_every_reward(self) -> tuple[Answer, Route | None]:  # noqa: D102
        route = self._finishing(list(self.rewards.values())) if self.rewards else self._plain
        return settled(route is not None, True), route

    def finishing_without(self, names: list[str]) -> Route | None:  # noqa: D102
        return self._run_within(self._without(names))

    def _without(self, names: Collection[str]) -> Regions:
        """The finder of regions in which some things are never done."""
        variables = {one.variable for one in self.subjects if one.name in names}
        doing = [m.number for m in self.rules.moves if not variables.isdisjoint(m.changes)]
        return self.finder.but(without=doing)

    def finishing_around(self, room: str) -> Route | None:  # noqa: D102
        place = self.rules.places.index(room)
        if place == self.rules.start()[PLACE]:
            return None
        return self._run_within(self.finder.but(closed=[place]))

    def _run_within(self, finder: Regions) -> Route | None:
        found = self._explore(finder)
        for number in found.finished:
            return replay(self.rules, run_to(finder, found, number, self.rules.start(), []))
        return None

    # -- getting stuck: never, but where nothing finishes at all ------------------------------

    def mistakes(self) -> Iterator[tuple[Reason, Mistake]]:  # noqa: D102
        return iter(())

    @property
    def knows_mistakes(self) -> bool:  # noqa: D102
        return True

    def losing_moves(self) -> Iterable[Move]:  # noqa: D102
        return ()

    def can_finish_from(self, position: Position) -> Answer:  # noqa: D102
        return self.finish

    def explain(self, route: Route) -> Reason:  # noqa: D102
        rooms = {self.rules.places[one] for one in self.found.regions[self._region].rooms}
        reasons = Reasons(self.level, self.rules, self.limits)
        return reasons.explain(route.positions[-1], route, rooms, False)

    def explained_start(self) -> Reason | None:  # noqa: D102
        return self.explain(replay(self.rules, []))

    def stuck_somewhere(self) -> tuple[Reason, Route] | None:  # noqa: D102
        return None

    def dying(self) -> Route | None:  # noqa: D102
        return None

    # -- what runs do -------------------------------------------------------------------------

    def statuses(self) -> Statuses:  # noqa: D102
        found: Statuses = {"door": {}, "chest": {}, "act": {}, "item": {}, "event": {}}
        for subject in self.subjects:
            found[subject.kind][subject.name] = self._status(subject.variable, subject.before)
        return found

    def _status(self, variable: int, before: int) -> Answer:
        marks = self._marks
        assert marks is not None
        reached = any(one.position[variable] != before for one in self.found.regions)
        if not reached:
            return Answer.NEVER
        if marks.finish is None:
            return Answer.ONLY_WHEN_STUCK
        return Answer.REQUIRED if marks.finish & self._watched[variable] else Answer.OPTIONAL

    def status_of_any(self, names: list[str]) -> Answer:  # noqa: D102
        some = [one for one in self.subjects if one.name in names]
        statuses = {self._status(one.variable, one.before) for one in some}
        if Answer.REQUIRED in statuses:
            return Answer.REQUIRED
        if Answer.OPTIONAL in statuses:
            if len(some) == 1:
                return Answer.OPTIONAL
            return Answer.OPTIONAL if self.finishing_without(names) else Answer.REQUIRED
        return Answer.ONLY_WHEN_STUCK if Answer.ONLY_WHEN_STUCK in statuses else Answer.NEVER

    def room_statuses(self) -> dict[str, Answer]:  # noqa: D102
        marks = self._marks
        assert marks is not None
        inside = {room for one in self.found.regions for room in one.rooms}
        inside |= {one.position[PLACE] for one in self.found.regions}
        found = {}
        for place, room in enumerate(self.rules.places):
            if not counts_as_room(self.level, room):
                continue
            if place not in inside:
                found[room] = Answer.NEVER
            elif marks.finish is None:
                found[room] = Answer.ONLY_WHEN_STUCK
            else:
                needed = marks.finish & marks.rooms[place]
                found[room] = Answer.REQUIRED if needed else Answer.OPTIONAL
        return found

    def required_gates(self) -> list[str] | None:  # noqa: D102
        marks = self._marks
        assert marks is not None
        done = marks.finish or 0
        return [name for name, bit in self._walked.items() if done & bit]

    def order(  # noqa: D102
        self, required: list[str], rooms: list[str], gates: list[str]
    ) -> Pairs | None:
        marks = self._marks
        assert marks is not None
        variables = {one.name: one.variable for one in self.subjects}
        bits, before = {}, {}
        for name in required:
            bits[name], before[name] = self._bits[name], marks.before.get(variables[name], 0)
        for room in rooms:
            place = self.rules.places.index(room)
            bits[room + ROOM], before[room + ROOM] = marks.rooms[place], marks.before_room[place]
        for gate in gates:
            bit = self._walked[gate]
            bits[gate + GATE], before[gate + GATE] = bit, marks.before_marked[bit]
        return ordered(before, bits)

    def missable(self, subject: str) -> tuple[Answer, Route | None]:  # noqa: D102
        # What nobody can have is missed from the start; whatever can be had stays to be had.
        can_be_had = self.status_of_any([subject]) in (Answer.REQUIRED, Answer.OPTIONAL)
        missed = not can_be_had and bool(self.found.finished)
        return (Answer.YES if missed else Answer.NO), None

    def taking(self, subject: str) -> tuple[Reason | None, Route | None]:  # noqa: D102
        return None, None

    def excluding(self) -> list[str]:  # noqa: D102
        return []

    # -- doors, claims, keys ------------------------------------------------------------------

    def way_round(self, door: Passage) -> tuple[str, Route] | None:  # noqa: D102
        parts = self._ground.parts
        if len({parts[self.rules.places.index(room)] for room in door.ends}) > 1:
            return None
        finder = self._without([door.thing])
        found = self._explore(finder)
        sides = []
        for room in door.ends:
            place = self.rules.places.index(room)
            moves = run_into(finder, found, place, self.rules.start()) if found.complete else None
            if moves is None:
                return None
            sides.append((room, replay(self.rules, moves)))
        return max(sides, key=lambda side: side[1].steps)

    def comes_without(self, room: str, names: Collection[str]) -> bool:  # noqa: D102
        place = self.rules.places.index(room)
        found = self._explore(self._without(names))
        if any(place in one.rooms for one in found.regions):
            return True
        if not found.complete:
            raise CutShortError
        return False

    def holding(self, condition: Condition) -> tuple[Answer, Route | None]:  # noqa: D102
        asked = Names(self.level).guard(condition)
        held = any(asked.holds(one.position) for one in self.found.regions)
        return (Answer.YES if held else Answer.UNKNOWN), None

    def losing(self, condition: Condition) -> tuple[Answer, Route | None]:  # noqa: D102
        return Answer.UNKNOWN, None

    def most_left(self, item: str) -> tuple[int, int] | None:  # noqa: D102
        ends = [self.found.regions[number].position for number in self.found.finished]
        if not ends:
            return None
        constant, terms = units_as_sum(self.level, self.rules, item)

        def units(position: tuple[int, ...] | list[int]) -> int:
            return constant + sum(n * position[variable] for variable, n in terms)

        # Whoever does as little as possible uses up least: what every run must use up counts.
        marks = self._marks
        assert marks is not None and marks.finish is not None
        initial = units(self.rules.initial)
        if all(units(end) == initial for end in ends):
            return initial, initial
        return None

    def never_entered(self) -> frozenset[str]:  # noqa: D102
        inside = {room for one in self.found.regions for room in one.rooms}
        inside |= {one.position[PLACE] for one in self.found.regions}
        return frozenset(self.level.rooms.keys() - {self.rules.places[place] for place in inside})
