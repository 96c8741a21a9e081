"""Large levels: each question answered from what matters to it, or from regions."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable
from functools import cached_property

from ..level import Condition, Passage
from ..rules import END, PLACE, Position, Rules
from ..rules.names import Names
from ..search import Limits, Route
from ..search.reduced.alike import find_alike
from ..search.reduced.bounds import takes_at_least
from ..search.reduced.counting import Counting
from ..search.reduced.landmarks import Landmarks, UncountedError
from ..search.reduced.macro import Explored, explore_regions, run_to
from ..search.reduced.prospects import Prospects
from ..search.reduced.reads import changed, looked_at, rooms_named, variables
from ..search.reduced.regions import Regions
from ..search.reduced.slices import Slicer
from ..search.reduced.slips import Slip, find_slip
from .answers import Answer, settled
from .case import Case
from .cases import Cases
from .keys import units
from .order import Pairs, ordered
from .statuses import status
from .subjects import Subject, item_sources

#: The most positions for one question; where each is tested for whether it is lost, which takes
#: longer, fewer; and the most regions.
EACH, EACH_PRUNED, MOST_REGIONS = 20_000, 20_000, 3_000

#: The most positions to look at for the cheapest run that has every reward.
MOST_TOGETHER = 6_000

#: The most positions for one question where wings that are alike are counted.
EACH_COUNTED = 50_000

#: The most moves, each counted once for each room it can be made in, to compare wings by.
MOST_COMPARED = 20_000

#: What tells the cases of one level apart: the moves, the variables, and how they were searched.
Key = tuple[Hashable, ...]


class PartCases(Cases):
    """Answers each question from what matters to it.

    Args:
        whole: The level under check, whose search was cut short.
        limits: How far the search may go; its time has begun.
    """

    in_parts = True

    def __init__(self, whole: Case, limits: Limits) -> None:
        super().__init__(whole)
        self.limits = limits
        self._names = Names(whole.level)
        self._cases: dict[Key, Case] = {}
        self._like: dict[tuple[str, Hashable], Answer] = {}
        self._slips: dict[str, Slip] = {}
        self._variables = {subject.name: subject.variable for subject in whole.subjects}
        self._looked = 0
        self._goal_is_large = False  # then so is whatever else matters to finishing too

    @property
    def positions(self) -> int:
        """How many positions and regions were looked at, all questions together."""
        looked = sum(len(case.found.positions) for case in self._cases.values())
        return len(self.whole.found.positions) + looked + self._looked

    # -- parts of the level -------------------------------------------------------------------

    @cached_property
    def slicer(self) -> Slicer:
        """What cuts the level down to what matters to a question."""
        return Slicer(self.whole.rules)

    @cached_property
    def goal(self) -> Case:
        """What matters to finishing and to getting stuck."""
        case = self._case(self.goal_rules)
        if case.finish == Answer.UNKNOWN:
            found = self.goal_regions
            case.finish = settled(bool(found.finished), found.complete)
        if case.stuck == Answer.UNKNOWN and self.all_is_free == Answer.YES:
            case.stuck = Answer.NEVER if case.finish == Answer.YES else Answer.UNKNOWN
        return case

    @cached_property
    def goal_rules(self) -> Rules:
        """The moves that matter to finishing and to getting stuck."""
        return self.slicer.slice(())

    @cached_property
    def _goal_changes(self) -> frozenset[int]:
        """The variables that matter to finishing and that some move changes."""
        kept = {move.number for move in self.goal_rules.moves}
        moves = (move for move in self.whole.rules.moves if move.number in kept)
        return frozenset(v for move in moves for v in changed(move.steps))

    @cached_property
    def _goal_reads(self) -> frozenset[int]:
        """The variables that matter to finishing, so that positions tell them apart."""
        return frozenset(
            v
            for move in self.goal_rules.moves
            for v in (*variables(move.guard), *looked_at(move.steps))
        )

    @property
    def settled(self) -> bool:
        """Whether it is settled who can finish and who can get stuck."""
        if self.all_is_free == Answer.YES:
            return True
        return self.goal.finish.proven and self.goal.stuck.proven

    def about(self, *subjects: str) -> Case:
        """What matters to finishing with or without some subjects."""
        wanted = [self._variables[name] for name in subjects]
        return self._case(self.slicer.slice(wanted), wanted)

    def about_all(self, *subjects: str) -> Case:
        """What matters to finishing with all of some subjects together."""
        if not subjects or not self._goal_is_large:
            return self.about(*subjects)
        wanted = [self._variables[name] for name in subjects]
        rules = self.slicer.slice(wanted)
        counted = self._counted(rules, (), ())
        if counted is not None and counted.counting is not None and counted.counting.closed(wanted):
            return counted
        # Of a run that has them all in the end, no position is lost to having them all.
        key = ("together", *_key(rules))
        if key not in self._cases:
            prospects = self._prospects(rules, wanted)
            limits = self._limits(MOST_TOGETHER)
            self._keep(key, Case(self.level, limits, rules, self.whole.rules, prospects))
        return self._cases[key]

    def about_room(self, room: str) -> Case:
        """What matters to finishing with or without entering a room."""
        places = [self._names.places[room]]
        return self._case(self.slicer.slice((), places), (), places)

    def about_order(self, subjects: Iterable[str], rooms: Iterable[str]) -> Case:
        """What matters to the order in which finishing runs do some things and enter some rooms."""
        wanted = [self._variables[one] for one in subjects]
        places = [self._names.places[room] for room in rooms]
        return self._case(self.slicer.slice(wanted, places), wanted, places)

    def about_units(self, item: str) -> Case:
        """What matters to how many units of an item a run leaves."""
        sources = [self._variables[name] for name in item_sources(self.level, item)]
        named = [n for n, variable in enumerate(self.whole.rules.variables) if variable[-1] == item]
        rules = self.slicer.slice([*sources, *named])
        case = self._case(rules)
        counting = case.counting
        if counting is None or counting.same_in_all(lambda values: units(self.whole, item, values)):
            return case
        return self._case(rules, [*sources, *named])

    def about_door(self, door: Passage) -> Case:
        """What matters to passing by a door."""
        wanted = [self._variables[door.thing]]
        rooms = [self._names.places[room] for room in door.ends]
        return self._case(self.slicer.slice(wanted, rooms), wanted, rooms)

    def about_condition(self, condition: Condition) -> Case:
        """What matters to whether a condition can come to hold."""
        asked = self._names.guard(condition)
        rules = self.slicer.slice((), (), [asked])
        return self._case(rules, variables(asked), rooms_named(asked), prune=False)

    def _case(
        self,
        rules: Rules,
        wanted: Iterable[int] = (),
        rooms: Iterable[int] = (),
        prune: bool = True,
    ) -> Case:
        """The positions of what matters to a question.

        Args:
            rules: What matters.
            wanted: The variables, and
            rooms: the rooms asked for; their wings are not counted with others.
            prune: Whether what follows where nothing finishes may be left out.
        """
        prune &= self.all_is_free != Answer.YES
        # What follows where all is lost counts for some questions: they share no case with others.
        key = ("pruned" if prune else "all", *_key(rules))
        case = self._cases.get(key)
        if case is None and not (prune and self._goal_is_large):
            case = self._keep(key, Case(self.level, self._limits(EACH), rules, self.whole.rules))
            self._goal_is_large |= rules is self.goal_rules and not case.complete
        if case is not None and (case.complete or not prune):
            return case if case.complete else self._counted(rules, wanted, rooms) or case
        counted = self._counted(rules, wanted, rooms)
        if counted is not None:
            return counted
        pruned = ("lost", *key)
        case = self._cases.get(pruned)
        if case is None:
            prospects = self._prospects(rules)
            limits = self._limits(EACH_PRUNED)
            case = self._keep(pruned, Case(self.level, limits, rules, self.whole.rules, prospects))
        return case

    def _counted(self, rules: Rules, wanted: Iterable[int], rooms: Iterable[int]) -> Case | None:
        """The positions with wings that are alike counted, where there are any, and if that is all."""
        if _size(rules) > MOST_COMPARED:
            return None
        counting = Counting(rules, find_alike(rules, wanted, rooms))
        if not counting.groups:
            return None
        key = ("counted", *_key(rules), counting.merged)
        case = self._cases.get(key)
        if case is None:
            limits = self._limits(EACH_COUNTED)
            found = Case(self.level, limits, counting.rules, self.whole.rules, counting=counting)
            case = self._keep(key, found)
        return case if case.complete else None

    def _keep(self, key: Key, case: Case) -> Case:
        case.share(self.whole)
        self._cases[key] = case
        return case

    def _prospects(self, rules: Rules, wanted: Iterable[int] = ()) -> Prospects:
        """What tells whether a run finishes, having changed some variables."""
        return Prospects(rules, MOST_REGIONS, self.limits, wanted)

    def _limits(self, positions: int) -> Limits:
        return self.limits.at_most(positions)

    # -- regions ------------------------------------------------------------------------------

    @cached_property
    def regions(self) -> Explored:
        """The regions of the whole level."""
        return self._explore(self._finder)

    @cached_property
    def _finder(self) -> Regions:
        return Regions(self.whole.rules)

    @cached_property
    def goal_regions(self) -> Explored:
        """The regions of what matters to finishing."""
        if self.all_is_free == Answer.YES:
            return self.regions
        return self._explore(Regions(self.goal_rules))

    def _explore(self, finder: Regions, most: int = MOST_REGIONS) -> Explored:
        found = explore_regions(finder, finder.rules.start(), most, self.limits)
        self._looked += len(found.regions)
        return found

    @property
    def plainly_free(self) -> bool:
        """Whether one look tells that nothing is ever lost."""
        return self._finder.nothing_is_lost(self.whole.rules.start())

    @cached_property
    def all_is_free(self) -> Answer:
        """Whether nothing that can be done is ever lost, whatever the player does."""
        if not self._finder.safety.able:
            return Answer.UNKNOWN
        found = self.regions
        playing = [one for one in found.regions if not one.over]
        dead = len(found.regions) - len(playing) - len(found.finished)
        free = found.complete and len(playing) == 1 and not dead
        return settled(free and not self._finder.passed_over(playing[0]), found.complete)

    @cached_property
    def landmarks(self) -> Landmarks | None:
        """What every run must do, where nothing is ever lost."""
        if self.all_is_free != Answer.YES:
            return None
        safety = self._finder.safety
        (playing,) = [one for one in self.regions.regions if not one.over]
        last = [(move, after) for move, _, after in self._finder.ways_on(playing)]
        if any(move.what["do"] not in ("walk", "finish") for move, _ in last):
            return None
        about = {move.number for move, _ in last if move.what["do"] == "walk"}
        about |= self._finder.ways_about(playing)
        ending = frozenset(self._finder.ending_in(playing))
        watched: dict[int, int] = {}
        for subject in self.whole.subjects:
            watched[subject.variable] = self.whole.bits[subject.name]
        try:
            free = safety.safe | safety.giving
            return Landmarks(self.whole.rules, watched, free, about - free, ending)
        except UncountedError:
            return None

    # -- answers ------------------------------------------------------------------------------

    def may_bypass(self, door: Passage) -> bool:
        """Whether both sides of a door can be come to without it, as far as the passages tell."""
        parts = self.slicer.ground.parts
        return len({parts[self._names.places[room]] for room in door.ends}) == 1

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
        found = self._slip(reward).found
        return super().missable(reward) if found is None else Answer.YES if found else Answer.NO

    def missed(self, reward: str) -> Route | None:
        """The cheapest run to where a reward is missed; ``None`` where that is at the start."""
        slip = self._slip(reward)
        if slip.found is None:
            return super().missed(reward)
        return self.whole.replay(list(slip.moves)) if slip.moves else None

    def _slip(self, reward: str) -> Slip:
        """How a reward can be missed, where wings are not counted: then positions tell."""
        variable = self._variables[reward]
        if reward not in self._slips:
            rules = self.slicer.slice([variable])
            if not self._goal_is_large or self._counted(rules, [variable], ()) is not None:
                self._slips[reward] = Slip(None)
                return self._slips[reward]
            before = self.whole.rules.initial[variable]
            own = self._prospects(rules)

            def can_finish(position: Position) -> bool | None:
                projected = self._on_goal(position)
                return own.finishes(position) if projected is None else projected

            slip = find_slip(
                rules,
                lambda position: position[variable] != before,
                can_finish,
                self._prospects(rules, [variable]),
                self._limits(EACH),
            )
            self._looked += slip.looked
            self._slips[reward] = slip
        return self._slips[reward]

    def _on_goal(self, position: Position) -> bool | None:
        """Whether a run finishes from a position, told from what matters to the goal."""
        if position[PLACE] not in self._goal_places:
            return None
        values = self.goal_rules.initial.copy()
        for variable in self._goal_tracked:
            values[variable] = position[variable]
        return self._goal_prospects.finishes(tuple(values))

    @cached_property
    def _goal_prospects(self) -> Prospects:
        return self._prospects(self.goal_rules)

    @cached_property
    def _goal_tracked(self) -> frozenset[int]:
        steps = [step for move in self.goal_rules.moves for step in move.steps]
        return frozenset(changed([*steps, *self.goal_rules.settling]) | {PLACE, END})

    @cached_property
    def _goal_places(self) -> frozenset[int]:
        """The rooms in which what matters to the goal tells where the player is."""
        kept = {move.number for move in self.goal_rules.moves}
        walks = self.slicer.ground.walks
        found = {to for number, to in walks.items() if number in kept}
        return frozenset(found | {self.whole.rules.initial[PLACE]})

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
        if not self._goal_is_large or _size(rules) > MOST_COMPARED:
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
        in_goal = number in self._goal_changes
        finder_knows = self._finder.safety.able and self.regions.complete
        if finder_knows:
            found = self.regions
            before = subject.before
            some = any(found.regions[n].position[number] != before for n in found.finished)
            reached = some or any(one.position[number] != before for one in found.regions)
            if not some:
                return status(False, False, reached, True)
            if not in_goal:
                return Answer.OPTIONAL
            marks = self.landmarks
            if marks is not None and marks.finish is not None:
                needed = marks.finish & self.whole.bits[subject.name]
                return Answer.REQUIRED if needed else Answer.OPTIONAL
            tells = number in self._goal_reads and self.goal.tells(number)
            if self.goal.complete and tells:  # all who finish are in it
                bit = self.whole.bits[subject.name]
                missing = any(not self.goal.did[n] & bit for n in self.goal.finished)
                return Answer.OPTIONAL if missing else Answer.REQUIRED
            without = self._finishes_without(number)
            if without.proven:
                return Answer.OPTIONAL if without == Answer.YES else Answer.REQUIRED
        case = self.about(subject.name)
        bit = case.bits[subject.name]
        done = [bool(case.did[n] & bit) for n in case.finished]
        reached = any(did & bit for did in case.did)
        found_status = status(any(done), not all(done), reached, case.sees_all)
        if not found_status.proven and any(done) and case.complete:
            return status(True, not all(done), True, True)
        return found_status

    def _finishes_without(self, variable: int) -> Answer:
        """Whether some run finishes without ever changing a variable."""
        moves = self.whole.rules.moves
        finder = Regions(
            self.goal_rules,
            frozenset(move.number for move in moves if variable in changed(move.steps)),
        )
        found = self._explore(finder)
        return settled(bool(found.finished), found.complete)

    def _status_of_room(self, room: str) -> Answer:
        place = self._names.places[room]
        found = self.regions
        if self._finder.safety.able and found.complete:
            able = found.reaching(found.finished)
            some = any(able[n] and place in one.rooms for n, one in enumerate(found.regions))
            if not some:
                reached = any(place in one.rooms for one in found.regions)
                return status(False, False, reached, True)
            marks = self.landmarks
            if marks is not None and marks.finish is not None:
                return Answer.REQUIRED if marks.finish & marks.rooms[place] else Answer.OPTIONAL
            if place == self.whole.found.positions[0][PLACE]:
                return Answer.REQUIRED
            if self.goal.complete and self.goal.tells_room(place):
                ways = (self.goal.entered[n] >> place & 1 for n in self.goal.finished)
                return Answer.REQUIRED if all(ways) else Answer.OPTIONAL
            without = self._explore(Regions(self.goal_rules, closed=frozenset([place])))
            if without.finished or without.complete:
                return Answer.OPTIONAL if without.finished else Answer.REQUIRED
        case = self.about_room(room)
        finished = [not case.entered[n] >> place & 1 for n in case.finished]
        some = any(
            position[PLACE] == place and case.can_finish[n]
            for n, position in enumerate(case.found.positions)
        )
        reached = any(position[PLACE] == place for position in case.found.positions)
        complete = case.sees_all or (case.complete and some)
        return status(some, any(finished), reached, complete)

    def order(self, statuses: dict[str, Answer], rooms: dict[str, Answer]) -> Pairs | None:
        """What must come before what, where landmarks tell."""
        marks = self.landmarks
        if marks is None:
            return None
        bits: dict[str, int] = {}
        before: dict[str, int] = {}
        for subject in self.whole.subjects:
            if statuses[subject.name] == Answer.REQUIRED:
                bits[subject.name] = self.whole.bits[subject.name]
                before[subject.name] = marks.before[subject.variable]
        for room, answer in rooms.items():
            if answer == Answer.REQUIRED:
                place = self._names.places[room]
                bits[room + "\0"] = marks.rooms[place]
                before[room + "\0"] = marks.before_room[place]
        return ordered(before, bits)

    def finishing_run(self, *subjects: str) -> Route | None:
        """A finishing run that does some things, not always a shortest one."""
        wanted = [one for one in self.whole.subjects if one.name in subjects]
        rules = self.slicer.slice(one.variable for one in wanted)
        finder = Regions(rules)
        found = self._explore(finder)
        for number in found.finished:
            position = found.regions[number].position
            if all(position[one.variable] != one.before for one in wanted):
                return self.whole.replay(run_to(finder, found, number, rules.start()))
        return None

    def cannot_finish_with(self, *subjects: str) -> bool:
        """Whether it is proven that no finishing run does all of some things."""
        wanted = [one for one in self.whole.subjects if one.name in subjects]
        finder = Regions(self.slicer.slice(one.variable for one in wanted))
        found = self._explore(finder)
        return found.complete and not any(
            all(found.regions[n].position[one.variable] != one.before for one in wanted)
            for n in found.finished
        )

    def takes_at_least(self, *subjects: str) -> int:
        """The steps that a finishing run which does some things takes at least; 0 if not known."""
        marks = self.landmarks
        if marks is None or marks.finish is None:
            return 0
        done = marks.finish
        for subject in self.whole.subjects:
            if subject.name in subjects:
                done |= marks.before.get(subject.variable, 0) | self.whole.bits[subject.name]
        asked = [one.variable for one in self.whole.subjects if done & self.whole.bits[one.name]]
        rooms = [place for place, bit in enumerate(marks.rooms) if done & bit]
        return takes_at_least(self.whole.rules, self.slicer.ground, asked, rooms, marks.ends)


def _size(rules: Rules) -> int:
    """How many moves there are, each counted once for each room it can be made in."""
    return sum(len(move.places) for move in rules.moves)


def _key(rules: Rules) -> Key:
    """The same for rules with the same moves and variables."""
    tracked = changed(step for move in rules.moves for step in move.steps)
    tracked |= changed(rules.settling)
    return tuple(move.number for move in rules.moves), frozenset(tracked)
