"""The sets of positions that questions are formulas over.

F is the set of finished positions, and W the set of positions from which F is reachable (or may be
reachable, if the search was cut short). Computation tree logic: E. M. Clarke and E. A. Emerson, "Design
and synthesis of synchronization skeletons using branching time temporal logic", 1981.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping
from functools import cached_property
from typing import TYPE_CHECKING, Generic, TypeVar

from ..facts.relaxed import Reach, Relaxed
from ..graph import closure
from ..level import Level
from ..level.conditions import Condition, SomeoneAt
from ..level.joined import Joined
from ..rules import FINISHED, PLACE, PLAYING, Move, Position, Rules
from ..rules.variables import Names
from ..spaces import CutShortError, Route, replay
from ..spaces.estimate import Estimate
from ..spaces.space import Run, S, Space
from .in_time import in_time
from .known_runs import KnownRuns
from .subjects import Subject
from .transitive_reduction import GATE, ROOM

if TYPE_CHECKING:
    from ..facts.relaxed_plan import Planner

T = TypeVar("T")

#: Positions to plan from, to find a run that keeps out of a room.
AROUND = 40

#: How many sets of positions of a campaign that do none of some things are kept, the latest ones.
AVOIDED = 30


class Sets(Generic[S]):
    """The named sets of a level in a space, and the runs into them.

    Args:
        space: The sets of its positions.
        subjects: By name, each thing that a run can do, and the variable that shows whether it did.
        gates: For each gate by name, the moves that walk through it, by number.
        shown_by: The rules that routes are replayed by, if the space remembers more than they do.

    Attributes:
        complete: Whether the space has every position that can be reached.
        finishing_runs: The finishing runs that were found so far.
        forgets: Whether a position does not show earlier deeds: a campaign forgets a level when the
            player leaves it. Then only the ways to a position show them.
    """

    def __init__(
        self,
        level: Level,
        space: Space[S],
        subjects: Mapping[str, Subject],
        gates: Mapping[str, Collection[int]],
        shown_by: Rules | None = None,
    ) -> None:
        self.level = level
        self.space = space
        self.rules = space.rules
        self.subjects = subjects
        self.gates = gates
        self.complete: bool = space.complete
        self.forgets = isinstance(level, Joined) and shown_by is None
        self._shown_by = shown_by or space.rules
        self._not_yet: dict[str, S] = {}
        self._can_take: dict[frozenset[str], S] = {}
        self._reach_without: dict[str, Reach] = {}
        self._around: dict[int, set[int]] = {}  # for a room, the rooms that ways round it lead to
        self.finishing_runs: list[Route] = []
        self._entered: list[set[str]] = []
        self._in_vain = 0
        self._known_runs = KnownRuns(subjects)
        self._avoided: dict[tuple[frozenset[str], frozenset[str]], S] = {}

    # -- the sets -----------------------------------------------------------------------------

    @cached_property
    def nothing(self) -> S:
        """The empty set."""
        return self.finished - self.finished

    @cached_property
    def playing(self) -> S:
        """The positions in which the run goes on."""
        return self.space.ended(PLAYING)

    @cached_property
    def finished(self) -> S:
        """The finished positions, F."""
        return self.space.ended(FINISHED)

    @cached_property
    def can_finish(self) -> S:
        """The positions from which a finishing run was found, W."""
        known = self.joined([self.finished, *self._can_take.values()])
        return known if self.playing <= known else self.space.before(known)

    @cached_property
    def lost(self) -> S:
        """The positions from which it is proven that nothing finishes, though the run goes on."""
        if self.complete:
            return self.playing - self.can_finish
        return self.playing - self.space.before(self.finished | self.space.unexplored)

    def or_unexplored(self, positions: S) -> S:
        """Some positions, and those whose moves were not all followed."""
        return positions if self.complete else positions | self.space.unexplored

    def joined(self, some: Iterable[S]) -> S:
        """The union of some sets."""
        found = self.nothing
        for one in some:
            found = found | one
        return found

    def where(self, condition: Condition) -> S:
        """The positions reached in which a condition holds."""
        return self.space.where(self._names.guard(condition))

    @cached_property
    def _names(self) -> Names:
        return Names(self.level)

    # -- what was done ------------------------------------------------------------------------

    def undone(self, name: str, among: S) -> S:
        """Return the positions, among some, that show a thing as not done."""
        subject = self.subjects[name]
        return self.space.having(subject.variable, subject.before, among)

    def done(self, name: str, among: S | None = None) -> S:
        """Return the positions, among some or all, that show a thing as done."""
        among = self.space.reachable if among is None else among
        return among - self.undone(name, among)

    def finished_with(self, names: Iterable[str]) -> S:
        """The finished positions that show all of some things as done."""
        found = self.finished
        for name in names:
            found = self.done(name, found)
        return found

    def can_take(self, names: Iterable[str]) -> S:
        """The positions from which a finishing run does all of some things, or has done them."""
        names = [*dict.fromkeys(names)]  # in order: the work must be the same in every process
        key = frozenset(names)
        if not key:
            return self.can_finish
        if key not in self._can_take:
            within = self.can_finish if "can_finish" in self.__dict__ else self.space.reachable
            self._can_take[key] = self.space.before(self.finished_with(names), within)
        return self._can_take[key]

    def done_any(self, names: Iterable[str]) -> S:
        """The reached positions that show one at least of some things as done."""
        return self.joined(self.done(name) for name in names)

    def without(self, names: Collection[str], among: S) -> S:
        """Return the given positions that a run can reach without doing any of some things."""
        shown = self._shown(names, among)
        for name in names:
            among = self.undone(name, among) if name in shown else among
        left = [name for name in names if name not in shown]
        return self._avoiding(left, among) & among if left else among

    def _shown(self, names: Collection[str], among: S) -> set[str]:
        """Those of some things of which each of some positions shows whether they were ever done.

        In a campaign, those of a level that keeps its state, and those of the level that the player is in, if it can
        be entered once only.
        """
        level = self.level
        if not self.forgets or not isinstance(level, Joined):
            return {*names}
        here = {level.stage_of(self.rules.places[one]) for one in self.space.places(among)}
        once = here - self._again if len(here) == 1 else set()
        stages = level.campaign.stages
        return {
            name for name in names if (stage := level.stage_of(name)) in once or stages[stage].keeps
        }

    @cached_property
    def _again(self) -> set[str]:
        """The levels of a campaign that can be entered again."""
        return self.level.campaign.again() if isinstance(self.level, Joined) else set()

    def _avoiding(self, names: Collection[str], among: S) -> S:
        """The positions on runs to some positions of a campaign that do none of some things; such sets are kept.

        Levels that lead to none of those positions are left out. In those before the things, every position counts.
        """
        assert isinstance(self.level, Joined)
        stages = [*map(self.level.stage_of, self.rules.places)]
        on_the_way = closure(self.space.places(among), self._into.__getitem__)
        levels = frozenset(stages[place] for place in on_the_way)
        if (frozenset(names), levels) not in self._avoided:
            if len(self._avoided) == AVOIDED:
                del self._avoided[next(iter(self._avoided))]
            before = levels - self.level.campaign.following(map(self.level.stage_of, names))
            places = [*enumerate(stages)]
            known = self.joined(self.space.at(one) for one, stage in places if stage in before)
            other = self.joined(self.space.at(one) for one, stage in places if stage not in levels)
            avoided = other | self.done_any(names)
            start = (known | self.space.start) - avoided
            found = self.space.after(start, avoiding=avoided) if start else start
            self._avoided[frozenset(names), levels] = found
        return self._avoided[frozenset(names), levels]

    def some_without(self, names: Collection[str], among: S) -> bool:
        """Whether a run reaches one of some positions without doing any of some things.

        In a campaign, known runs and the relaxed level often decide that without another search.
        """
        shown = self._shown(names, among)
        left = [name for name in names if name not in shown]
        among = self.without([name for name in names if name in shown], among)
        if not left or not among:
            return bool(among)
        places = self.space.places(among)

        def wanted(position: Position) -> bool:
            return position[PLACE] in places and self.space.contains(among, position)

        if self._known_runs.one_reaches(wanted, left):
            return True
        if not self.may_do_without(names, among):
            return False
        found = self.without(left, among)
        if found and among <= self.finished:  # a run without these often does without others, too
            self.done_on_the_way(found, left)
        return bool(found)

    def done_on_the_way(self, positions: S, avoiding: Collection[str]) -> Collection[str]:
        """The things that a run does on its way to some positions; all but those to avoid if no run is found in time.

        Args:
            positions: Positions that a run reaches without doing any of the things to avoid.
        """
        shown = self._shown(avoiding, positions)
        left = [name for name in avoiding if name not in shown]
        within = self._avoiding(left, positions) if left else None
        run = self.in_time(lambda: self.space.run_to(positions, within), None)
        if run is None:
            return self.subjects.keys() - {*avoiding}
        return self._known_runs.add(replay(self.rules, run.moves).positions)

    def may_do_without(self, names: Collection[str], among: S) -> bool:
        """Whether a run may reach one of some positions so; false only if the relaxed level proves that none does."""
        asked = (self.subjects[name] for name in names)
        kept = {one.variable: one.before for one in asked}
        reach = self.relaxed.reach(self.rules.initial, keeping=kept)
        if reach.standing[PLACE].isdisjoint(self.space.places(among)):
            return False
        return reach.finishes or not among <= self.finished

    def some_finish_with(self, names: Collection[str]) -> bool:
        """Whether some finishing run does one at least of some things."""
        if self.forgets:
            return bool(self.done_any(names) & self.can_finish)
        return any(bool(self.done(name, self.finished)) for name in names)

    def done_in_all(self, name: str, positions: S) -> bool:
        """Whether every way to some positions does, enters or walks something."""
        if not name.endswith((ROOM, GATE)) and not self.forgets:
            return not self.undone(name, positions)
        if name.endswith(ROOM) and not self.level.several:
            room = name.removesuffix(ROOM)
            return self.only_through(room, positions) or not positions & self.not_yet(name)
        return not positions & self.not_yet(name)

    def not_yet(self, name: str) -> S:
        """Return the positions on runs that have not yet done, entered or walked something."""
        if name not in self._not_yet:
            self._not_yet[name] = self._without_yet(name)
        return self._not_yet[name]

    def _without_yet(self, name: str) -> S:
        start = self.space.start
        if name.endswith(GATE):
            return self.space.after(start, without=self.gates[name.removesuffix(GATE)])
        if not name.endswith(ROOM):
            return self.never_in(self.done(name))
        room = name.removesuffix(ROOM)
        if self.level.several:
            return self.never_in(self.at(room))
        place = self.rules.places.index(room)
        start = start - self.space.at(place)
        return self.space.after(start, around=place) if start else start

    def finishes_around(self, room: str) -> bool:
        """Whether some finishing run never enters a room."""
        around = self.can_finish - self.at(room)
        return self.space.start <= self.space.before(self.finished & around, around)

    def never_in(self, positions: S) -> S:
        """Return the positions on runs that avoid a set."""
        start = self.space.start - positions
        return self.space.after(start, avoiding=positions) if start else start

    # -- rooms --------------------------------------------------------------------------------

    def at(self, room: str) -> S:
        """The positions in which a player is in a room."""
        if self.level.several:
            return self.where(SomeoneAt(room))
        return self.space.at(self.rules.places.index(room))

    def rooms(self, positions: S) -> set[str]:
        """The rooms in which a player is in some positions."""
        if not self.level.several:
            return {self.rules.places[place] for place in self.space.places(positions)}
        return {room for room in self.rules.places if positions & self.at(room)}

    def only_through(self, room: str, positions: S) -> bool:
        """Whether every way to some positions enters a room, were every passage open."""
        place = self.rules.places.index(room)
        if place not in self._around:
            start = {self.rules.start()[PLACE]} - {place}
            self._around[place] = closure(start, lambda here: self._leads[here] - {place})
        return self._around[place].isdisjoint(self.space.places(positions))

    @cached_property
    def _leads(self) -> list[set[int]]:
        """For each room, the rooms that passages lead to."""
        leads: list[set[int]] = [set() for _ in self.rules.places]
        for move in self.rules.moves:
            if (to := move.leads_to) is not None:
                for place in move.places:
                    leads[place].add(to)
        return leads

    @cached_property
    def _into(self) -> list[set[int]]:
        """For each room, the rooms that lead to it."""
        into: list[set[int]] = [set() for _ in self.rules.places]
        for here, others in enumerate(self._leads):
            for there in others:
                into[there].add(here)
        return into

    def cannot_finish_without(self, name: str) -> bool:
        """Whether the relaxed level shows that no run finishes without entering a room, or walking a gate.

        ``False`` if it does not show that, or if sets of positions are quicker to ask.
        """
        return not self.space.by_position and not self._reach_but(name).finishes

    def _reach_but(self, name: str) -> Reach:
        """The reach of the relaxed level if a room is not entered, or a gate not walked."""
        if name not in self._reach_without:
            if name.endswith(GATE):
                moves = self.gates[name.removesuffix(GATE)]
            else:
                place = self.rules.places.index(name.removesuffix(ROOM))
                moves = [move.number for move in self.rules.moves if move.leads_to == place]
            self._reach_without[name] = self.relaxed.reach(self.rules.initial, moves)
        return self._reach_without[name]

    @cached_property
    def relaxed(self) -> Relaxed:
        """The level in which nothing is ever lost."""
        return Relaxed(self.rules, self.space.limits)

    @cached_property
    def _planner(self) -> Planner:
        from ..facts.relaxed_plan import Planner  # for large levels only

        return Planner(self.relaxed)

    # -- runs ---------------------------------------------------------------------------------

    def route(self, run: Run, *more: Move, certain: bool = True) -> Route:
        """A run and further moves, replayed by the rules."""
        at_least = run.at_least + sum(move.cost for move in more) if certain else 0
        moves = [*run.moves, *more]
        if self.space.alike is not None:
            moves = self.space.alike.in_own_names(moves)
        if self._shown_by is not self.rules:
            moves = [self._shown_by.moves[move.number] for move in moves]
        return replay(self._shown_by, moves, at_least=at_least)

    def run_to(self, positions: S) -> Run | None:
        """A cheapest run into some positions; what can finish was never lost on the way."""
        if not self.complete or not positions <= self.can_finish:
            return self.space.run_to(positions)
        return self._cheapest(positions, self.can_finish)

    def _cheapest(self, targets: S, within: S, finishing: bool = False) -> Run | None:
        """A cheapest run into some positions; in one level, by an estimate."""
        if isinstance(self.level, Joined):
            return self.space.run_to(targets, within)

        def estimate() -> Estimate:
            from ..facts.remaining_cost import remaining_cost  # for diagrams only

            return remaining_cost(self.rules, self.space, targets, finishing)

        return self.space.run_to(targets, within, estimate)

    def route_to(self, positions: S, certain: bool = True) -> Route | None:
        """A route into some positions; ``None`` if there is none, or if time or memory ends first.

        Args:
            certain: Whether all these positions are known, so that a bound on the cost holds.
        """
        run = self.in_time(lambda: self.run_to(positions), None)
        return None if run is None else self.route(run, certain=certain)

    @cached_property
    def finishing(self) -> Route | None:
        """A cheapest finishing run, if the limits allow one."""
        return self.finishing_with([])

    def finishing_with(self, names: Collection[str]) -> Route | None:
        """A cheapest finishing run that does all of some things, if the limits allow one."""
        finished = self.finished_with(names)
        if not self.complete:
            return self.route_to(finished)
        run = self.in_time(lambda: self._cheapest(finished, self.can_take(names), True), None)
        return None if run is None else self._keep(self.route(run))

    def left_out(self, room: str) -> bool:
        """Whether a known finishing run never enters a room."""
        return self.finishing is not None and any(room not in rooms for rooms in self._entered)

    def _keep(self, run: Route) -> Route:
        """Keep a finishing run, with the rooms that it enters."""
        self.finishing_runs.append(run)
        if self.forgets:
            self._known_runs.add(run.positions)
        rooms_of = self._shown_by.rooms_of
        self._entered.append({room for position in run.positions for room in rooms_of(position)})
        return run

    def finds_run_around(self, place: int) -> bool:
        """Whether a guided search soon finds a finishing run that never enters a room.

        After two searches in vain it is not tried again; and not where sets of positions are quicker to ask.
        """
        if self.space.by_position or self._in_vain > 1:
            return False
        from ..facts.guided import find_run  # for large levels only

        start = self.rules.start()
        run = self.in_time(lambda: find_run(self._planner, start, AROUND, around=place), None)
        if run is None:
            self._in_vain += 1
            return False
        self._keep(self.route(Run(tuple(run), 0), certain=False))
        return True

    def quickest(self, leading: Mapping[Move, S]) -> tuple[Run, Move] | None:
        """The cheapest run to one of some moves, the move itself the last."""
        if self.space.alike is not None:  # a run does not show in which of like positions it ends
            ways = [(run, move) for move, some in leading.items() if (run := self.run_to(some))]
            return min(
                ways, key=lambda one: (one[0].cost + one[1].cost, one[1].number), default=None
            )
        sources: dict[int, S] = {}
        for move, some in leading.items():
            known = sources.get(move.cost)
            sources[move.cost] = some if known is None else known | some
        runs = {cost: run for cost, some in sources.items() if (run := self.run_to(some))}
        if not runs:
            return None
        cost, run = min(runs.items(), key=lambda one: one[0] + one[1].cost)
        end = replay(self.rules, run.moves).positions[-1]
        moves = (
            move
            for move, some in leading.items()
            if move.cost == cost and self.space.contains(some, end)
        )
        return run, min(moves, key=lambda move: move.number)

    def must_be_complete(self) -> None:
        """Refuse an answer that only every position can prove.

        Raises:
            CutShortError: Not every position was reached.
        """
        if not self.complete:
            raise CutShortError

    def in_time(self, ask: Callable[[], T], otherwise: T) -> T:
        """Return what is asked, or a value that claims nothing if time or memory ends first."""
        return in_time(ask, otherwise, self.space.tidy)
