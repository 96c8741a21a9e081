"""Find one finishing run quickly: a greedy search that follows relaxed plans.

In the relaxed level no move takes anything away, so a plan for it is found without going back. Such a
plan says how far a position still is from finishing, and which moves to try first.

Greedy best-first search on the cost of relaxed plans: J. Hoffmann and B. Nebel, "The FF planning system:
fast plan generation through heuristic search", Journal of Artificial Intelligence Research 14 (2001),
253-302. Following a plan to the end: V. Vidal, "A lookahead strategy for heuristic search
planning", ICAPS 2004, 150-160.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from functools import cached_property
from heapq import heappop, heappush
from itertools import groupby
from math import inf
from operator import itemgetter

from ..rules import DEAD, END, FINISHED, PLACE, Move, Position, Rules
from ..rules.branches import Branch
from ..rules.expressions import TRUE, AtLeast, Expression, Is, Within, conjuncts, fold
from ..rules.reads import variables
from ..spaces.limits import CutShortError, Limits
from ..values import dataclass
from .relaxed import Relaxed

#: The estimate for a position whose relaxed plan was not found: any other position comes first.
FAR = 1_000_000

#: Positions to plan from for a first run: most levels of 20 to 160 rooms take fewer than 110, a few up to 240.
PLANS = 250

#: How many actions a plan may go through, on average: a level of eighty rooms takes eight hundred.
ACTIONS_A_PLAN = 1_000

#: If a move has more outcomes than this, plans use only some of its outcomes.
MANY_WAYS = 16


@dataclass(eq=False, slots=True)
class _Action:
    """A move as it turns out in one room.

    Attributes:
        asked: The conditions, one part at a time.
        branch: What it changes.
        once: Whether it disables itself.
        taken: The variables it takes units of; it can be repeated only as long as there are some.
    """

    move: Move
    place: int
    asked: list[Expression]
    branch: Branch
    once: bool
    taken: list[int]


class Guide:
    """Plans from positions of one level, were nothing ever lost.

    Args:
        relaxed: The relaxed level; its limits apply here, too.

    Raises:
        CutShortError: The time was over, or moves turn out in too many ways.
    """

    def __init__(self, relaxed: Relaxed) -> None:
        if not relaxed.able:
            raise CutShortError
        self.relaxed = relaxed
        self.work = 0
        self.rules = relaxed.rules
        self.actions: list[_Action] = []
        self.at: list[list[int]] = [[] for _ in self.rules.places]
        self.watching: dict[int, list[tuple[int, int]]] = {}
        for (number, place), found in groupby(relaxed.branches, key=lambda one: one[:2]):
            relaxed.limits.check()
            branches = [branch for _, _, branch in found if branch.becomes[END] != DEAD]
            for branch in branches if len(branches) <= MANY_WAYS else _telling(branches):
                self._add(self.rules.moves[number], place, branch)

    def _add(self, move: Move, place: int, branch: Branch) -> None:
        number = len(self.actions)
        asked = [part for one in branch.conditions for part in conjuncts(one)]
        once = any(
            isinstance(one, Is) and branch.becomes.get(one.variable, one.value) != one.value
            for one in asked
        )
        taken = [one for one, amount in branch.adds.items() if amount < 0]
        self.actions.append(_Action(move, place, asked, branch, once, taken))
        self.at[place].append(number)
        for part, one in enumerate(asked):
            for variable in variables(one):
                self.watching.setdefault(variable, []).append((number, part))

    def closes(self, move: Move) -> int:
        """Return how much a move may close off: 0 in the same room, 1 for a walk that can be walked back, 2 for another."""
        to = move.leads_to
        if to is None:
            return 0
        return 1 if all((to, place) in self._free_walks for place in move.places) else 2

    @cached_property
    def _free_walks(self) -> set[tuple[int, int | None]]:
        """From which room to which there is a walk that asks for nothing."""
        free = [move for move in self.rules.moves if move.is_plain_walk and move.guard is TRUE]
        return {(place, move.leads_to) for move in free for place in move.places}

    def plan(self, position: Position, around: int | None = None) -> list[Move] | None:
        """Return the moves of a relaxed plan, each once, those it begins with first.

        Args:
            around: A room that the plan does not enter.

        Returns:
            The moves; ``None`` if no plan was found.
        """
        return _Planning(self, position, around).plan()


def _telling(branches: list[Branch]) -> Iterator[Branch]:
    """The branches of a move, but for those that change only what earlier branches change in the same way."""
    known: set[tuple[int, int, bool]] = set()
    for one in branches:
        changes = {(variable, value, False) for variable, value in one.becomes.items()}
        changes |= {(variable, amount, True) for variable, amount in one.adds.items()}
        if not changes <= known:
            known |= changes
            yield one


#: The number of waiting actions whose examination counts as one action that happens.
_LOOKED_AT = 64

#: What something costs, and the actions for it, by number.
Effort = tuple[float, list[int]]

NOTHING: Effort = (0.0, [])


def _together(parts: Iterable[Effort]) -> Effort:
    each = [*parts]
    return sum(cost for cost, _ in each), [one for _, by in each for one in by]


def _cheapest(parts: Iterable[Effort]) -> Effort:
    return min(parts, key=itemgetter(0), default=(inf, []))


def _least(
    steps: Iterable[tuple[int, int, float, float, int]],
    missing: int,
    enough: Callable[[int], bool],
) -> Effort:
    """The effort of the first actions that change a variable far enough.

    Args:
        steps: What changes it: the value that is set, or how much is added and how many times at most; then
            the cost and the action.
        missing: How far the variable is to change.
        enough: Whether a value that is set is far enough.
    """
    total = 0.0
    used: list[int] = []
    for value, amount, most, cost, number in steps:
        if not amount:
            if enough(value):
                return cost, [number]
            continue
        used.append(number)
        times = -(-missing // amount)
        if times <= most:
            return total + times * cost, used
        total += most * cost
        missing -= amount * int(most)
    return inf, []


class _Planning:
    """The costs of everything that is reachable from one position in the relaxed level, cheapest first."""

    def __init__(self, guide: Guide, position: Position, around: int | None) -> None:
        self.guide = guide
        self.position = position
        self.around = around
        #: How each room is entered: the action, or -1 for the one the player is in.
        self.entered: dict[int, int] = {}
        #: How each variable gets higher (or lower): a value set, or units added, each by an action.
        self.higher: dict[int, list[tuple[int, int, float, float, int]]] = {}
        self.lower: dict[int, list[tuple[int, int, float, float, int]]] = {}
        self.waits = [0] * len(guide.actions)
        self.costs = [0.0] * len(guide.actions)
        self.done: set[int] = set()
        self.supported: dict[tuple[int, int], list[int]] = {}
        self.ahead: list[tuple[float, int]] = []

    def plan(self) -> list[Move] | None:
        self._enter(self.position[PLACE], -1, 0.0)
        while self.ahead:
            self.guide.relaxed.limits.check()
            self.guide.work += 1
            cost, number = heappop(self.ahead)
            if number in self.done:
                continue
            self.done.add(number)
            branch = self.guide.actions[number].branch
            if branch.becomes[END] == FINISHED:
                return [self.guide.actions[one].move for one in self._in_order(number)]
            self._happen(number, cost)
        return None

    def _enter(self, place: int, by: int, cost: float) -> None:
        if place in self.entered or place == self.around:
            return
        self.entered[place] = by
        for number in self.guide.at[place]:
            action = self.guide.actions[number]
            self.costs[number] += cost + max(action.move.cost, 1)
            for part in range(len(action.asked)):
                if not self._support(number, part):
                    self.waits[number] += 1
            if not self.waits[number]:
                heappush(self.ahead, (self.costs[number], number))

    def _support(self, number: int, part: int) -> bool:
        """Add the cost of a part of what an action asks; return whether that part can hold by now."""
        cost, by = self._cost(self.guide.actions[number].asked[part])
        if cost == inf:
            return False
        self.costs[number] += cost
        self.supported[number, part] = by
        return True

    def _happen(self, number: int, cost: float) -> None:
        action = self.guide.actions[number]
        branch, values = action.branch, self.position
        changed = []
        for variable, value in branch.becomes.items():
            if variable > END and value != values[variable]:
                steps = self.higher if value > values[variable] else self.lower
                steps.setdefault(variable, []).append((value, 0, 1, cost, number))
                changed.append(variable)
        times = 1.0 if action.once else min((values[one] for one in action.taken), default=inf)
        for variable, amount in branch.adds.items():
            steps = self.higher if amount > 0 else self.lower
            steps.setdefault(variable, []).append((0, abs(amount), max(times, 1), cost, number))
            changed.append(variable)
        for variable in changed:
            watching = self.guide.watching.get(variable, ())
            self.guide.work += len(watching) // _LOOKED_AT
            for other, part in watching:
                if (other, part) in self.supported:
                    continue
                if self.guide.actions[other].place in self.entered and self._support(other, part):
                    self.waits[other] -= 1
                    if not self.waits[other]:
                        heappush(self.ahead, (self.costs[other], other))
        self._enter(branch.becomes[PLACE], number, cost)

    def _cost(self, asked: Expression) -> Effort:
        """Return the effort of making an expression hold."""
        return fold(asked, self._atom, _together, _cheapest)

    def _atom(self, asked: Expression, positive: bool) -> Effort:
        match asked:
            case AtLeast(variable, least):
                return self._to(variable, least) if positive else self._down(variable, least - 1)
            case Is(variable, value):
                up, down = self._to, self._down
                if positive:
                    return _together((up(variable, value), down(variable, value)))
                if self.position[variable] != value:
                    return NOTHING
                return _cheapest((up(variable, value + 1), down(variable, value - 1)))
            case Within():
                return NOTHING
        raise TypeError(f"not a guard: {asked!r}")

    def _to(self, variable: int, wanted: int) -> Effort:
        """Return the effort of raising a variable to some value."""
        missing = wanted - self.position[variable]
        if missing <= 0:
            return NOTHING
        return _least(self.higher.get(variable, ()), missing, lambda value: value >= wanted)

    def _down(self, variable: int, wanted: int) -> Effort:
        """Return the effort of lowering a variable to some value."""
        missing = self.position[variable] - wanted
        if missing <= 0:
            return NOTHING
        return _least(self.lower.get(variable, ()), missing, lambda value: value <= wanted)

    def _in_order(self, last: int) -> Iterator[int]:
        """The actions that make an action possible, and that action, each after those that make it possible."""
        seen: set[int] = set()
        ahead = [(last, False)]
        while ahead:
            number, supported = ahead.pop()
            if supported:
                yield number
            elif number >= 0 and number not in seen:
                seen.add(number)
                ahead.append((number, True))
                action = self.guide.actions[number]
                rests = [
                    one for part in range(len(action.asked)) for one in self.supported[number, part]
                ]
                ahead += [(one, False) for one in (*rests, self.entered[action.place])]


def finishing_run(rules: Rules, limits: Limits) -> list[Move] | None:
    """Return a finishing run from the start, if a few plans lead to one.

    Args:
        limits: How long it may take.
    """
    try:
        return find_run(Guide(Relaxed(rules, limits)), rules.start(), PLANS)
    except CutShortError:
        return None


def find_run(
    guide: Guide,
    start: Position,
    budget: int,
    hopeless: Callable[[Position], bool] = lambda position: False,
    around: int | None = None,
) -> list[Move] | None:
    """Find a finishing run from a position; it need not be a short one.

    Args:
        guide: Plans for the level.
        start: A position, which has settled.
        budget: The most positions to plan from.
        hopeless: Tells positions from which it is known that nothing finishes.
        around: A room that the run does not enter.

    Returns:
        The moves; ``None`` if it is proven that nothing finishes so.

    Raises:
        CutShortError: The budget or the time was used up before either was certain.
    """
    rules, limits = guide.rules, guide.relaxed.limits
    came: dict[Position, tuple[Position, Move] | None] = {start: None}
    ahead = [(0.0, 0, start)]
    planned, most = 0, guide.work + budget * ACTIONS_A_PLAN

    def goes_on(position: Position, move: Move, after: Position) -> bool:
        if after in came or after[END] == DEAD or after[PLACE] == around or hopeless(after):
            return False
        came[after] = (position, move)
        return True

    while ahead:
        _, _, position = heappop(ahead)
        if position[END] == FINISHED:
            return _moves(came, position)
        if planned >= budget or guide.work > most or limits.over:
            raise CutShortError
        planned += 1
        plan = guide.plan(position, around)
        if plan is None and not guide.relaxed.reach(position).finishes:
            continue
        helps = {move.number for move in plan or ()}
        far = FAR if plan is None else _cost(plan)
        here, left = position, sorted(plan or (), key=guide.closes)
        while left:  # follow the plan to its end
            for move in left:
                after = rules.after(here, move)
                if after is not None and goes_on(here, move, after):
                    break
            else:
                break
            left.remove(move)
            heappush(ahead, (_cost(left), -len(came), after))
            here = after
        for move, after in rules.successors(position):
            if goes_on(position, move, after):
                first = 0.5 if move.number in helps else 0.0
                heappush(ahead, (far - first, -len(came), after))
    return None


def _cost(plan: list[Move]) -> float:
    return sum(max(move.cost, 1) for move in plan)


def _moves(came: dict[Position, tuple[Position, Move] | None], end: Position) -> list[Move]:
    moves = []
    while (step := came[end]) is not None:
        end, move = step
        moves.append(move)
    return moves[::-1]
