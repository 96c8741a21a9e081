"""The symbolic space: sets of positions as decision diagrams, one a room.

Symbolic model checking: J. R. Burch, E. M. Clarke, K. L. McMillan, D. L. Dill, L. J. Hwang, "Symbolic
model checking: 10^20 states and beyond", Information and Computation 98 (1992). The player's room
partitions the sets (a disjunctive partition), so that walking leaves a diagram unchanged; moves are
applied one after another to all known positions of a zone (chaining: O. Roig, J. Cortadella, E. Pastor,
"Verification of asynchronous circuits by BDD-based model checking of Petri nets", ICATPN 1995).
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Collection, Sequence
from itertools import count
from typing import NamedTuple

from oxidd.bdd import BDDFunction
from oxidd.util import DDMemoryError

from ...rules import END, FINISHED, PLACE, Move, Position, Rules
from ...rules.actions import Action, Key, actions_of
from ...rules.expressions import TRUE, Expression, all_of
from ..estimate import MakeEstimate
from ..limits import CutShortError, Limits
from ..space import Run, Space
from .cost_layers import MOST_NODES, CheapestRuns
from .diagrams import Diagrams, DiagramStep
from .encoding import Encoding, TooLargeError
from .estimated_steps import EstimatedSteps
from .zones import ZoneExit, zones_of

#: The memory that a node of a diagram takes with its cache entries, in bytes.
BYTES_A_NODE = 25

#: After so many seconds, the positions of a level take long; or after a quarter of the time that there is.
LONG = 3.0

#: The greatest number of steps in a level.
MOST_STEPS = 20_000


class _Born(NamedTuple):
    """The known positions of a zone at one moment, and the step that added the last of them."""

    number: int
    positions: BDDFunction
    step: DiagramStep | None


class SymbolicSpace(Space[Diagrams]):
    """The reachable positions of a level, as decision diagrams.

    Args:
        limits: How far the search may go.
        nodes: How many nodes the diagrams may have, where the memory allows it.
        on_finish: Called as soon as a finished position is known.
        meanwhile: Called once if its positions take longer than :data:`LONG`.
        actions: The actions of its moves, if they are not those of the rules.

    Attributes:
        nodes_a_run: The nodes that the next search for a cheapest run may make.

    Raises:
        TooLargeError: The level has values that diagrams are not good for.
        TooManyBranchesError: A move turns out in too many ways.
    """

    reachable: Diagrams
    by_position = False

    def __init__(
        self,
        rules: Rules,
        limits: Limits,
        nodes: int,
        on_finish: Callable[[], None] = lambda: None,
        meanwhile: Callable[[], None] = lambda: None,
        actions: Sequence[Action] | None = None,
    ) -> None:
        super().__init__(rules, limits)
        self._on_finish = on_finish
        self._meanwhile, self._waits = meanwhile, True
        self._long = limits.share(4).a_part(LONG)
        if actions is None:
            actions = list(actions_of(rules, limits.check))
        memory = limits.memory or 4 << 30
        self.nodes = max(1 << 16, min(nodes, memory // 2 // BYTES_A_NODE))
        self.encoding = Encoding(rules, actions, self.nodes, limits)
        self.out: dict[Key, list[DiagramStep]] = {}
        self.into: dict[Key, list[DiagramStep]] = {}
        self.steps: list[DiagramStep] = []
        self._changing: dict[int, list[DiagramStep]] = {}
        for action in actions:
            limits.check()
            self._if_long()
            step = self._step_of(action)
            if step is None:
                continue
            self.steps.append(step)
            if len(self.steps) > MOST_STEPS:
                raise TooLargeError("its moves turn out in too many ways")
            for variable in action.changed:
                self._changing.setdefault(variable, []).append(step)
            self.out.setdefault(step.source, []).append(step)
            self.into.setdefault(step.target, []).append(step)
        self.zones = zones_of(self.steps)
        self.forward = ZoneExit(self.zones, self.out, lambda step: (step.target, step.after))
        self.backward = ZoneExit(self.zones, self.into, lambda step: (step.source, step.before))
        start = rules.start()
        self.start = Diagrams(
            {(start[PLACE], start[END]): self.encoding.cube(dict(enumerate(start)))}
        )
        self._born: dict[Key, list[_Born]] = {}
        self.reachable, self.unexplored = self._closed(self.start, self.forward, None, self._born)
        self._runs: list[tuple[Diagrams, CheapestRuns]] = []
        self.nodes_a_run = MOST_NODES

    def _step_of(self, action: Action) -> DiagramStep | None:
        """An action as diagrams; ``None`` if it cannot be made."""
        encoding, branch = self.encoding, action.branch
        conditions = all_of(*branch.conditions) if branch.conditions else TRUE
        asked, becomes = encoding.guard(conditions, action.source), encoding.true
        values: dict[int, int] = {}
        amounts: dict[int, int] = {}
        for variable in action.changed:
            if variable not in encoding.bits:
                continue
            if variable in branch.becomes:
                values[variable] = branch.becomes[variable]
                continue
            amount, most = branch.adds[variable], encoding.most[variable]
            least = max(0, -amount)
            most -= max(0, amount)
            asked = asked & encoding.between(variable, least, most)
            if least == most:  # it is known what it becomes
                values[variable] = most + amount
            else:
                amounts[variable] = amount
                becomes = becomes & encoding.between(variable, least + amount, most + amount)
        if not asked.satisfiable():
            return None
        becomes = becomes & encoding.cube(values)
        added = encoding.added(amounts) if amounts else None
        return DiagramStep(action, asked, becomes, encoding.over(values), added)

    def _if_long(self) -> None:
        """Do once what is to be done if the positions take long."""
        if self._waits and self._long.over:
            self._waits = False
            self._meanwhile()

    # -- closures -----------------------------------------------------------------------------

    def _closed(
        self,
        begin: Diagrams,
        onward: ZoneExit,
        within: Diagrams | None,
        born: dict[Key, list[_Born]] | None = None,
    ) -> tuple[Diagrams, Diagrams]:
        """Return everything that the steps lead to, and the part that was not followed when the limits
        ended the search.

        It follows whole sets, not only the new positions, and it follows the newest zone first: both keep
        the diagrams small. A hall waits for the others: each of its neighbours leads back to it. Its dead ends are
        followed one after another, each back into the hall, before the next.

        Args:
            begin: Where to begin, within the set.
            onward: What leads on.
            within: The set that is not left; ``None`` for all there is.
            born: Records when positions became known, for each zone.
        """
        if within is not None:
            onward = onward.alike_in(within)
        zones = onward.zones
        known: dict[Key, BDDFunction] = {}
        for room, one in begin.parts.items():
            zone = zones.of(room)
            known[zone] = known[zone] | one if zone in known else one
        moments, rounds = count(), count()
        if born is not None:
            for zone, one in known.items():
                born[zone] = [_Born(next(moments), one, None)]
        waiting = dict.fromkeys(known)
        followed: dict[DiagramStep, BDDFunction] = {}
        zone = (0, 0)

        def reached(zone: Key, to: Key, lead: Callable[[BDDFunction], BDDFunction]) -> BDDFunction:
            fresh = lead(known[zone])
            return fresh if within is None else fresh & within.parts.get(to, self.encoding.false)

        def grown(
            zone: Key, step: DiagramStep, to: Key, lead: Callable[[BDDFunction], BDDFunction]
        ) -> bool:
            """Add the positions that a step from a zone leads to; return whether any is new."""
            if followed.get(step) == known[zone]:
                return False  # the source set has not changed since this step was last followed
            followed[step] = known[zone]
            self.limits.check()
            before = known.get(to, self.encoding.false)
            try:
                after = before | reached(zone, to, lead)
            except DDMemoryError:  # once more, after releasing unused memory
                self.tidy()
                after = before | reached(zone, to, lead)
            if after == before:
                return False
            if born is not None:
                self._if_long()
                if to[1] == FINISHED and to not in known:
                    self._on_finish()
                born.setdefault(to, []).append(_Born(next(moments), after, step))
            known[to] = after
            return True

        def follow(zone: Key) -> None:
            inside, outward = onward[zone]
            while sum(grown(zone, *one) for one in inside):
                pass  # follow each step repeatedly, until none leads to anything new
            for lead in outward:
                if grown(zone, *lead):
                    to = lead[1]
                    waiting.pop(to, None)
                    waiting[to] = None
                    if onward.has_many_exits(zone) and onward.is_dead_end(to):
                        follow(to)
                        del waiting[to]

        try:
            while waiting:
                zone = min(reversed(waiting), key=onward.has_many_exits)
                del waiting[zone]
                if born is not None:
                    self.limits.progress(next(rounds), "rooms of positions", len(waiting))
                follow(zone)
        except (CutShortError, DDMemoryError):
            left = {one: known[one] for one in (zone, *waiting)}
            return zones.spread(known), zones.spread(left)
        return zones.spread(known), Diagrams({})

    def before(self, targets: Diagrams, within: Diagrams | None = None) -> Diagrams:
        within = self.reachable if within is None else within
        found, cut = self._closed(targets, self.backward, within)
        if cut:
            raise CutShortError
        return found

    def after(
        self,
        sources: Diagrams,
        around: int | None = None,
        without: Collection[int] = (),
        avoiding: Diagrams | None = None,
    ) -> Diagrams:
        within = None if avoiding is None else self.reachable - avoiding
        anyhow = around is None and not without
        onward = self.forward if anyhow else self._leaving_out(around, without)
        found, cut = self._closed(sources, onward, within)
        if cut:
            raise CutShortError
        return found

    def leading_to_finish(self) -> Diagrams:
        """All positions from which the level can be finished, whether they can be reached or not.

        Raises:
            CutShortError: Time or memory ended first.
        """
        finished = {key: self.encoding.true for key in self.into if key[1] == FINISHED}
        found, cut = self._closed(Diagrams(finished), self.backward, None)
        if cut:
            raise CutShortError
        return found

    def _leaving_out(self, place: int | None, without: Collection[int]) -> ZoneExit:
        """Return the steps without those that enter a room or belong to some moves."""
        steps = [
            step
            for step in self.steps
            if step.target[0] != place and step.action.move.number not in without
        ]
        out: dict[Key, list[DiagramStep]] = {}
        for step in steps:
            out.setdefault(step.source, []).append(step)
        return ZoneExit(zones_of(steps), out, lambda step: (step.target, step.after))

    # -- single moves -------------------------------------------------------------------------

    def leading(
        self, sources: Diagrams, targets: Diagrams, changing: tuple[int, int] | None = None
    ) -> dict[Move, Diagrams]:
        found: dict[Move, Diagrams] = {}
        for step in self._that_change(changing):
            if step.source in sources.parts and step.target in targets.parts:
                self.limits.check()
                to, from_ = targets.parts[step.target], sources.parts[step.source]
                if changing is not None:
                    to = to & ~self.encoding.equal(*changing, step.target)
                    from_ = from_ & self.encoding.equal(*changing, step.source)
                from_ = step.before(to) & from_
                if from_.satisfiable():
                    one = Diagrams({step.source: from_})
                    move = step.action.move
                    found[move] = found[move] | one if move in found else one
        return found

    def _that_change(self, changing: tuple[int, int] | None) -> Sequence[DiagramStep]:
        """Return the steps that may change a variable; all steps if none is given, or if no steps are
        recorded for it.
        """
        if changing is None or changing[0] in (PLACE, END):
            return self.steps
        return self._changing.get(changing[0], ())

    def tidy(self) -> None:
        self.encoding.manager.gc()

    # -- sets ---------------------------------------------------------------------------------

    def where(self, guard: Expression) -> Diagrams:
        return self.reachable & Diagrams(
            {key: self.encoding.guard(guard, key) for key in self.reachable.parts}
        )

    def ended(self, end: int) -> Diagrams:
        return Diagrams({key: one for key, one in self.reachable.parts.items() if key[1] == end})

    def at(self, place: int) -> Diagrams:
        return Diagrams({key: one for key, one in self.reachable.parts.items() if key[0] == place})

    def places(self, positions: Diagrams) -> set[int]:
        return {place for place, _ in positions.parts}

    def having(self, variable: int, value: int, within: Diagrams) -> Diagrams:
        return Diagrams(
            {
                key: one & self.encoding.equal(variable, value, key)
                for key, one in within.parts.items()
            }
        )

    def count(self, positions: Diagrams) -> int:
        return sum(int(one.sat_count(self.encoding.count)) for one in positions.parts.values())

    def contains(self, positions: Diagrams, position: Position) -> bool:
        part = positions.parts.get((position[PLACE], position[END]))
        return part is not None and self.encoding.holds(part, position)

    def only(self, position: Position) -> Diagrams:
        key = (position[PLACE], position[END])
        if not self.contains(self.reachable, position):
            return Diagrams({})
        return Diagrams({key: self.encoding.cube(dict(enumerate(position)))})

    # -- runs ---------------------------------------------------------------------------------

    def run_to(
        self,
        targets: Diagrams,
        within: Diagrams | None = None,
        estimate: MakeEstimate | None = None,
    ) -> Run | None:
        if not targets:
            return None
        within = self.reachable if within is None else within & self.reachable
        targets = targets & within
        everywhere = within == self.reachable
        if not targets or not self.start <= within:
            return None
        if self.unexplored and everywhere:
            return self._any_run(targets, 0)
        shared = self._cheapest_runs(within)
        if (near := shared.near(targets)) is not None:
            return near
        runs, least = None, 0
        if estimate is not None:
            steps = EstimatedSteps(self, estimate(), targets)
            if steps.consistent:
                runs, least = CheapestRuns(self, within, steps), steps.least
        if least and everywhere and (run := self._any_run(targets, least)).shortest:
            return run
        cheapest, bound = (runs or shared).run_to(targets)
        if cheapest is not None or bound is None:
            return cheapest
        run = self._any_run(targets, max(least, bound))
        if not everywhere and not self._stays(run, within):
            raise CutShortError
        return run

    def _stays(self, run: Run, within: Diagrams) -> bool:
        """Whether a run stays within a set."""
        position = self.rules.start()
        for move in run.moves:
            after = self.rules.after(position, move)
            if after is None or not self.contains(within, after):
                return False
            position = after
        return True

    def _cheapest_runs(self, within: Diagrams) -> CheapestRuns:
        """Return the cheapest runs in a set; the results for the last two sets are kept."""
        for known, runs in self._runs:
            if known == within:
                return runs
        runs = CheapestRuns(self, within)
        self._runs = [*self._runs[-1:], (within, runs)]
        return runs

    def _any_run(self, targets: Diagrams, bound: int) -> Run:
        """A run along which the positions were found."""
        firsts = [(self._first(room, part), room) for room, part in targets.parts.items()]
        born, room = min(
            ((one, room) for one, room in firsts if one is not None), key=lambda one: one[0].number
        )
        here = born.positions & targets.parts[room]
        moves: list[Move] = []  # the last of them first
        while born.step is not None:  # whatever is chosen of the positions before, it leads here
            step = born.step
            earlier = step.before(here)
            before = self._first(step.source, earlier, born.number)
            assert before is not None, "a position came from nowhere"
            moves += [*reversed(self.zones.walk(step.target, room)), step.action.move]
            born, room, here = before, step.source, before.positions & earlier
        moves += reversed(self.zones.walk(next(iter(self.start.parts)), room))
        return Run(tuple(reversed(moves)), bound)

    def _first(self, room: Key, wanted: BDDFunction, most: int = 1 << 60) -> _Born | None:
        """Return when the first of some positions of a room became known; the known positions only grow."""
        records = self._born.get(self.zones.of(room), [])
        low, high = 0, bisect_left(records, most, key=lambda one: one.number)
        if not high or not (records[high - 1].positions & wanted).satisfiable():
            return None
        high -= 1
        while low < high:
            middle = (low + high) // 2
            if (records[middle].positions & wanted).satisfiable():
                high = middle
            else:
                low = middle + 1
        return records[low]
