"""Find one finishing run quickly: a greedy search that follows relaxed plans.

Greedy best-first search on the cost of relaxed plans: J. Hoffmann and B. Nebel, "The FF planning system:
fast plan generation through heuristic search", Journal of Artificial Intelligence Research 14 (2001),
253-302. Following a plan to the end: V. Vidal, "A lookahead strategy for heuristic search
planning", ICAPS 2004, 150-160. Learning what misleads plans during the search: M. Fickert and J. Hoffmann,
"Complete local search: boosting hill-climbing through online relaxation refinement", ICAPS 2017.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable
from heapq import heappop, heappush
from math import inf

from ..rules import DEAD, END, FINISHED, PLACE, Move, Position, Rules
from ..rules.expressions import Within, conjuncts
from ..rules.reads import looked_at, variables
from ..spaces.limits import CutShortError, Limits
from .regions import Region, Regions, Way
from .relaxed import Relaxed
from .relaxed_plan import Planner

#: The estimate for a position whose relaxed plan was not found: any other position comes first.
FAR = 1_000_000

#: How many actions a plan may go through, on average: a level of eighty rooms takes eight hundred.
ACTIONS_A_PLAN = 1_000

#: How many plans may fail to come nearer before plans follow one more flag; the greatest number of such flags.
IDLE, MOST_EXACT = 25, 4

#: The steps that a move costs more each time that no plan is found after it.
MISLED = 50


def finishing_run(rules: Rules, limits: Limits, plans: int) -> list[Move] | None:
    """Return a finishing run from the start, if some plans lead to one.

    Args:
        limits: How long it may take.
        plans: The most positions to plan from.
    """
    try:
        return find_run(Planner(Relaxed(rules, limits)), rules.start(), plans)
    except CutShortError:
        return None


def find_run(
    planner: Planner,
    start: Position,
    budget: int,
    hopeless: Callable[[Position], bool] = lambda position: False,
    around: int | None = None,
) -> list[Move] | None:
    """Find a finishing run from a position; it need not be a short one.

    Args:
        planner: Plans for the level.
        start: A position, which has settled.
        budget: The most positions to plan from.
        hopeless: Tells positions from which it is known that nothing finishes.
        around: A room that the run does not enter.

    Returns:
        The moves; ``None`` if it is proven that nothing finishes so.

    Raises:
        CutShortError: The budget or the time was used up before either was certain.
    """

    def allowed(after: Position) -> bool:
        return after[END] != DEAD and after[PLACE] != around and not hopeless(after)

    search = _Search(planner, start, budget, allowed, around)
    run = search.run()
    return None if run is None else search.without_detours(run)


class _Search:
    """A search that forgets the positions it has seen when it begins again, but not what it has learned.

    Args:
        allowed: Whether a run may enter a position.
    """

    def __init__(
        self,
        planner: Planner,
        start: Position,
        budget: int,
        allowed: Callable[[Position], bool],
        around: int | None,
    ) -> None:
        self._planner, self._start, self._around = planner, start, around
        self._rules, self._limits = planner.rules, planner.relaxed.limits
        self._regions = Regions(self._rules, self._limits, planner.safe, allowed, around)
        self._plans = budget
        self._most = planner.work + budget * ACTIONS_A_PLAN
        #: For each position: the position before it, the moves between them, and the move that was chosen.
        self._came: dict[Position, tuple[Position, list[Move], Move]] = {}
        self._ahead: list[tuple[float, int, Position]] = []

    def run(self) -> list[Move] | None:
        """Return a finishing run; ``None`` if there is none.

        Raises:
            CutShortError: The budget or the time was used up.
        """
        planner, seen = self._planner, set[Position]()
        self._came, self._ahead = {}, [(0.0, 0, self._start)]
        blamed: Counter[int] = Counter()
        best, idle = inf, 0
        while self._ahead:
            _, _, before = heappop(self._ahead)
            if before[END] == FINISHED:
                return self._moves_to(before)
            helped, here, region = self._regions.helped(before)
            if region.key in seen:
                continue
            seen.add(region.key)
            if helped and here not in self._came:
                self._came[here] = (before, helped, helped[-1])
            plan = self._plan(here)
            if plan is None:
                if before in self._came:
                    planner.extra[self._came[before][2].number] += MISLED
                if not planner.relaxed.reach(here).finishes:
                    continue
            estimate = FAR if plan is None else _cost(plan)
            idle = 0 if estimate < best else idle + 1
            best = min(best, estimate)
            blamed.update(self._blamed(*self._follow(here, region, plan or [])))
            if idle == 0:
                blamed.clear()
            elif idle >= IDLE and blamed and len(planner.exact) < MOST_EXACT:
                planner.exact = (*planner.exact, blamed.most_common(1)[0][0])
                return self.run()
            helps = {move.number for move in plan or ()}
            for move, way, after in self._regions.out_of(region):
                self._add(here, way, move, after, estimate - (0.5 if move.number in helps else 0.0))
        return None

    def _plan(self, here: Position) -> list[Move] | None:
        """Return a plan from a position.

        Raises:
            CutShortError: The budget or the time was used up.
        """
        self._plans -= 1
        if self._plans < 0 or self._planner.work > self._most or self._limits.over:
            raise CutShortError
        return self._planner.plan(here, self._around)

    def _follow(
        self, here: Position, region: Region, plan: list[Move]
    ) -> tuple[Position, list[Move]]:
        """Make what can be made of a plan; return the position after that, and what is left of the plan."""
        left = plan
        while first := self._regions.first_of(region, left) or self._making_room(here, left):
            move, way, after = first
            helped, after, region = self._regions.helped(after)
            done = {move.number, *(one.number for one in helped)}
            left = [one for one in left if one.number not in done]
            self._add(here, [*way, *helped], move, after, _cost(left))
            here = after
        return here, left

    def _making_room(self, here: Position, left: Collection[Move]) -> Way | None:
        """Put down what the rest of a plan asks for last, if another of its moves can be made then."""
        drops = [move for move in self._rules.moves_at(here[PLACE]) if move.what["do"] == "drop"]
        asked = [self._asked_by(move) for move in left] if drops else []

        def first_asked(drop: Move) -> int:
            among = (
                number for number, some in enumerate(asked) if not some.isdisjoint(drop.changes)
            )
            return next(among, len(asked))

        for drop in sorted(drops, key=first_asked, reverse=True):
            after = self._rules.after(here, drop)
            if after is not None and self._regions.first_of(self._regions.helped(after)[2], left):
                return drop, [drop], after
        return None

    @staticmethod
    def _asked_by(move: Move) -> set[int]:
        """The variables that a move asks for, but for what bounds the inventory."""
        parts = (part for part in conjuncts(move.guard) if not isinstance(part, Within))
        return {one for part in parts for one in variables(part)}

    def _blamed(self, here: Position, left: Iterable[Move]) -> set[int]:
        """The variables that plans do not follow and that keep what is left of a plan from being made."""
        parts = (part for move in left for part in conjuncts(move.guard))
        failing = {one for part in parts if not part.holds(here) for one in variables(part)}
        return (failing & self._planner.both_ways).difference(self._planner.exact)

    def _add(
        self, here: Position, way: list[Move], chosen: Move, after: Position, estimate: float
    ) -> None:
        if after not in self._came and after != self._start:
            self._came[after] = (here, way, chosen)
            heappush(self._ahead, (estimate, -len(self._came), after))

    def _moves_to(self, position: Position) -> list[Move]:
        ways = []
        while position in self._came:
            position, way, _ = self._came[position]
            ways.append(way)
        return [move for way in reversed(ways) for move in way]

    def without_detours(self, run: list[Move]) -> list[Move]:
        """The run without moves that nothing later asks for, and with the shortest walks between the others."""
        while not self._limits.over:
            shorter, end = self._regions.made(self._start, self._asked_for(run))
            if end[END] != FINISHED or len(shorter) >= len(run):
                break
            run = shorter
        return run

    def _asked_for(self, run: list[Move]) -> list[Move]:
        rules = self._rules
        asked = {*looked_at(rules.settling), *variables(rules.goal)}
        kept = []
        for move, walk in reversed([*self._regions.walks(self._start, run)]):
            gives = {one for one in move.changes if rules.variables[one][0] != "lying"}
            if move.number not in self._planner.safe or gives & asked:
                asked.update(move.reads)
                if not walk:
                    kept.append(move)
        return kept[::-1]


def _cost(plan: Iterable[Move]) -> float:
    return sum(max(move.cost, 1) for move in plan)
