"""Large levels: each question answered from what matters to it, or from regions."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable
from functools import cached_property

from ..level import Condition, Passage
from ..rules.names import Names
from ..rules.reads import rooms_named, variables
from ..search import Limits, Route
from ..search.reduced.alike import find_alike
from ..search.reduced.bounds import takes_at_least
from ..search.reduced.regions import Regions
from ..search.reduced.runs import run_into, run_to
from .answers import Answer
from .case import Case
from .cases import Cases
from .free import Free
from .goal import Goal
from .keys import units
from .losses import Losses
from .order import Pairs, ordered
from .slices import MOST_COMPARED, Slices, size
from .statuses import status
from .subjects import Subject, item_sources


class PartCases(Cases):
    """Answers each question from what matters to it.

    Args:
        whole: The level under check, whose search was cut short.
        limits: How far the search may go; its time has begun.
    """

    in_parts = True

    def __init__(self, whole: Case, limits: Limits) -> None:
        super().__init__(whole)
        self.free = Free(whole, whole.rules, limits)
        self.slices = Slices(whole, limits, self.free)
        self.of_goal = Goal(whole, self.slices, self.free)
        self.losses = Losses(self.slices)
        self._like: dict[tuple[str, Hashable], Answer] = {}
        self._runs: dict[tuple[str, ...], Route | None] = {}

    @property
    def positions(self) -> int:
        """How many positions and regions were looked at, all questions together."""
        looked = self.slices.positions + self.free.looked + self.losses.looked
        looked += self.of_goal.free.looked + self.of_goal.without.looked
        return len(self.whole.found.positions) + looked

    # -- parts of the level -------------------------------------------------------------------

    @cached_property
    def _names(self) -> Names:
        return Names(self.whole.level)

    @cached_property
    def _variables(self) -> dict[str, int]:
        """The variable of each door, chest, act and placed item."""
        return {subject.name: subject.variable for subject in self.whole.subjects}

    @property
    def goal(self) -> Case:
        """What matters to finishing and to getting stuck."""
        return self.of_goal.case

    @property
    def all_is_free(self) -> Answer:
        """Whether nothing that can be done is ever lost, whatever the player does."""
        return self.free.all_is_free

    @property
    def settled(self) -> bool:
        """Whether it is settled who can finish and who can get stuck."""
        if self.all_is_free == Answer.YES:
            return True
        return self.goal.finish.proven and self.goal.stuck.proven

    # Once the time is over, what was seen of the whole level has to do.

    def about(self, *subjects: str) -> Case:
        """What matters to finishing with or without some subjects."""
        return self._about(subjects)

    def _about(
        self, subjects: Iterable[str], rooms: Iterable[str] = (), prune: bool = True
    ) -> Case:
        if self.slices.limits.over:
            return self.whole
        wanted = [self._variables[name] for name in subjects]
        places = [self._names.places[room] for room in rooms]
        rules = self.slices.slicer.slice(wanted, places)
        return self.slices.case(rules, wanted, places, prune)

    def about_all(self, *subjects: str) -> Case:
        """What matters to finishing with all of some subjects together."""
        if not subjects or not self.slices.large or self.slices.limits.over:
            return self.about(*subjects)
        wanted = [self._variables[name] for name in subjects]
        return self.slices.together(self.slices.slicer.slice(wanted), wanted)

    def about_order(self, subjects: Iterable[str], rooms: Iterable[str]) -> Case:
        """What matters to the order in which finishing runs do some things and enter some rooms."""
        return self._about(subjects, rooms)

    def about_room(self, room: str) -> Case:
        """What matters to finishing with or without entering a room."""
        return self._about((), [room])

    def about_door(self, door: Passage) -> Case:
        """What matters to passing by a door."""
        return self._about([door.thing], door.ends)

    def about_units(self, item: str) -> Case:
        """What matters to how many units of an item a run leaves."""
        if self.slices.limits.over:
            return self.whole
        sources = [self._variables[name] for name in item_sources(self.level, item)]
        named = [n for n, variable in enumerate(self.whole.rules.variables) if variable[-1] == item]
        rules = self.slices.slicer.slice([*sources, *named])
        case = self.slices.case(rules)
        counting = case.counting
        if counting is None or counting.same_in_all(lambda values: units(self.whole, item, values)):
            return case
        return self.slices.case(rules, [*sources, *named])

    def about_condition(self, condition: Condition) -> Case:
        """What matters to whether a condition can come to hold."""
        if self.slices.limits.over:
            return self.whole
        asked = self._names.guard(condition)
        rules = self.slices.slicer.slice((), (), [asked])
        return self.slices.case(rules, variables(asked), rooms_named(asked), prune=False)

    # -- answers ------------------------------------------------------------------------------

    def may_bypass(self, door: Passage) -> bool:
        """Whether both sides of a door can be come to without it, as far as the passages tell."""
        parts = self.slices.slicer.ground.parts
        return len({parts[self._names.places[room]] for room in door.ends}) == 1

    def way_round(self, door: Passage) -> tuple[str, Route] | None:
        """A side of a door and a way there, where both can be come to in runs that never open it."""
        if not self.free.known:
            return None
        opened = self._variables[door.thing]
        opening = [move.number for move in self.whole.rules.moves if opened in move.changes]
        finder = self.free.finder.but(without=opening)
        found = self.free.explore(finder)
        start = self.whole.rules.start()
        sides = []
        for room in door.ends:
            run = run_into(finder, found, self._names.places[room], start)
            if run is None:
                return None
            sides.append((room, self.whole.replay(run)))
        return max(sides, key=lambda side: side[1].steps)

    def status_of(self, subject: Subject) -> Answer:
        """The status of a door, chest, act or placed item."""
        key = ("status", self._in_first(subject.variable))
        return self._once(key, lambda: self._status_of(subject))

    def status_of_room(self, room: str) -> Answer:
        """The status of a room."""
        key = ("room", self._in_first(len(self.whole.rules.variables) + self._names.places[room]))
        return self._once(key, lambda: self._status_of_room(room))

    def missable(self, reward: str) -> Answer:
        """Whether a reward can be missed, by the thing that hands it over."""
        key = ("missable", self._in_first(self._variables[reward]))
        return self._once(key, lambda: self._missable(reward))

    def _missable(self, reward: str) -> Answer:
        found = self.losses.slip(self._variables[reward]).found
        return super().missable(reward) if found is None else Answer.YES if found else Answer.NO

    def missed(self, reward: str) -> Route | None:
        """The cheapest run to where a reward is missed; ``None`` where that is at the start."""
        slip = self.losses.slip(self._variables[reward])
        if slip.found is None:
            return super().missed(reward)
        return self.whole.replay(list(slip.moves)) if slip.moves else None

    def _once(self, key: tuple[str, Hashable], ask: Callable[[], Answer]) -> Answer:
        """The answer to a question, asked once of all that are alike."""
        if key not in self._like:
            self._like[key] = ask()
        return self._like[key]

    def _in_first(self, node: int) -> Hashable:
        """The same for variables, and for rooms after them, that belong to wings that are alike."""
        return self._first_of.get(node, node)

    @cached_property
    def _first_of(self) -> dict[int, Hashable]:
        rules = self.whole.rules
        if not self.slices.large or size(rules) > MOST_COMPARED:
            return {}
        return {
            node: (group, index)
            for group, wings in enumerate(find_alike(rules))
            for wing in wings
            for index, node in enumerate(
                (*wing.variables, *(room + len(rules.variables) for room in wing.rooms))
            )
        }

    def _status_of(self, subject: Subject) -> Answer:
        number = subject.variable
        in_goal = number in self.of_goal.changes
        free = self.of_goal.free if number in self.of_goal.tracked else self.free
        if free.known:
            found = free.regions
            before = subject.before
            some = any(found.regions[n].position[number] != before for n in found.finished)
            reached = some or any(one.position[number] != before for one in found.regions)
            if not some:
                return status(False, False, reached, True)
            if not in_goal:
                return Answer.OPTIONAL
            marks = self.of_goal.marks if self.of_goal.marked(number) else None
            if marks is not None and marks.finish is not None:
                needed = marks.finish & self.whole.bits[subject.name]
                return Answer.REQUIRED if needed else Answer.OPTIONAL
            tells = number in self.of_goal.reads and self.goal.tells(number)
            if self.goal.complete and tells:  # all who finish are in it
                bit = self.whole.bits[subject.name]
                missing = any(not self.goal.did[n] & bit for n in self.goal.finished)
                return Answer.OPTIONAL if missing else Answer.REQUIRED
            without = self.of_goal.without.finishes(number)
            if without.proven:
                return Answer.OPTIONAL if without == Answer.YES else Answer.REQUIRED
        if self.slices.limits.over:
            return Answer.UNKNOWN
        told = self._status_in(self.about(subject.name), subject.name)
        if told.proven or not self.goal.complete:
            return told
        return self._status_in(self._about([subject.name], prune=False), subject.name)

    def _status_in(self, case: Case, subject: str) -> Answer:
        """The status of a subject, as far as the positions of a case tell it."""
        bit = case.bits[subject]
        done = [bool(case.did[n] & bit) for n in case.finished]
        reached = any(did & bit for did in case.did)
        found_status = status(any(done), not all(done), reached, case.sees_all)
        if not found_status.proven and any(done) and case.complete:
            return status(True, not all(done), True, True)
        return found_status

    def _status_of_room(self, room: str) -> Answer:
        place = self._names.places[room]
        found = self.free.regions
        if self.free.known:
            able = found.reaching(found.finished)
            some = any(able[n] and place in one.rooms for n, one in enumerate(found.regions))
            if not some:
                reached = any(place in one.rooms for one in found.regions)
                return status(False, False, reached, True)
            marks = self.of_goal.marks
            if marks is not None and marks.finish is not None:
                return Answer.REQUIRED if marks.finish & marks.rooms[place] else Answer.OPTIONAL
            if place == self.whole.found.places[0]:
                return Answer.REQUIRED
            if self.goal.complete and self.goal.tells_room(place):
                ways = (self.goal.entered[n] >> place & 1 for n in self.goal.finished)
                return Answer.REQUIRED if all(ways) else Answer.OPTIONAL
            without = self.of_goal.without.finishes(self.of_goal.without.room(place))
            if without.proven:
                return Answer.OPTIONAL if without == Answer.YES else Answer.REQUIRED
        if self.slices.limits.over:
            return Answer.UNKNOWN
        told = self._room_status_in(self.about_room(room), place)
        if told.proven or not self.goal.complete:
            return told
        return self._room_status_in(self._about((), [room], prune=False), place)

    def _room_status_in(self, case: Case, place: int) -> Answer:
        """The status of a room, as far as the positions of a case tell it."""
        finished = [not case.entered[n] >> place & 1 for n in case.finished]
        some = any(here == place and case.can_finish[n] for n, here in enumerate(case.found.places))
        reached = place in case.found.places
        complete = case.sees_all or (case.complete and some)
        return status(some, any(finished), reached, complete)

    def order(self, statuses: dict[str, Answer], rooms: dict[str, Answer]) -> Pairs | None:
        """What must come before what, where landmarks or regions tell."""
        marks = self.of_goal.marks
        required = [one for one in self.whole.subjects if statuses[one.name] == Answer.REQUIRED]
        if not all(self.of_goal.marked(one.variable) for one in required):
            return None
        if marks is None:
            return None if self.goal.complete else self._order_by_regions(required, rooms)
        bits: dict[str, int] = {}
        before: dict[str, int] = {}
        for subject in required:
            bits[subject.name] = self.whole.bits[subject.name]
            before[subject.name] = marks.before[subject.variable]
        for room, answer in rooms.items():
            if answer == Answer.REQUIRED:
                place = self._names.places[room]
                bits[room + "\0"] = marks.rooms[place]
                before[room + "\0"] = marks.before_room[place]
        return ordered(before, bits)

    def _order_by_regions(
        self, required: Iterable[Subject], rooms: dict[str, Answer]
    ) -> Pairs | None:
        """What comes first in every finishing run: what nothing else can be done before it without."""
        nodes = {one.name: one.variable for one in required}
        if not self.of_goal.free.known:
            return None
        for room, answer in rooms.items():
            if answer == Answer.REQUIRED:
                nodes[room + "\0"] = self.of_goal.without.room(self._names.places[room])
        before = dict.fromkeys(nodes, 0)
        for node in nodes.values():
            possible = self.of_goal.without.before(node)
            if possible is None:
                return None
            for name, other in nodes.items():
                if not possible >> other & 1:
                    before[name] |= 1 << node
        return ordered(before, {name: 1 << node for name, node in nodes.items()})

    def finishing_run(self, *subjects: str) -> Route | None:
        """A finishing run that does some things, not always a shortest one."""
        if subjects not in self._runs:
            self._runs[subjects] = self._finishing_run(subjects)
        return self._runs[subjects]

    def _finishing_run(self, subjects: tuple[str, ...]) -> Route | None:
        wanted = [one for one in self.whole.subjects if one.name in subjects]
        rules = self.slices.slicer.slice(one.variable for one in wanted)
        finder = Regions(rules)
        found = self.free.explore(finder)
        for number in found.finished:
            position = found.regions[number].position
            if all(position[one.variable] != one.before for one in wanted):
                asked = [one.variable for one in wanted]
                return self.whole.replay(run_to(finder, found, number, rules.start(), asked))
        return None

    def cannot_finish_with(self, *subjects: str) -> bool:
        """Whether it is proven that no finishing run does all of some things."""
        wanted = [one for one in self.whole.subjects if one.name in subjects]
        finder = Regions(self.slices.slicer.slice(one.variable for one in wanted))
        found = self.free.explore(finder)
        return found.complete and not any(
            all(found.regions[n].position[one.variable] != one.before for one in wanted)
            for n in found.finished
        )

    def takes_at_least(self, *subjects: str) -> int:
        """The steps that a finishing run which does some things takes at least; 0 if not known."""
        asked = {self._variables[name] for name in subjects}
        marks = self.of_goal.marks
        if marks is not None and marks.finish is not None:
            done = marks.finish
            for variable in asked:
                done |= marks.before.get(variable, 0)
            asked |= {
                one.variable for one in self.whole.subjects if done & self.whole.bits[one.name]
            }
            rooms = [place for place, bit in enumerate(marks.rooms) if done & bit]
            ends = marks.ends
        elif marks is None and not self.goal.complete and self.of_goal.free.known:
            asked |= {
                one.variable
                for one in self.whole.subjects
                if self.status_of(one) == Answer.REQUIRED
            }
            rooms = [
                place
                for room, place in self._names.places.items()
                if self.status_of_room(room) == Answer.REQUIRED
            ]
            found = self.of_goal.free.regions
            ends = {room for number in found.finished for room in found.regions[number].rooms}
        else:
            return 0
        return takes_at_least(self.whole.rules, self.slices.slicer.ground, asked, rooms, ends)
