"""Plans for the relaxed level, in which no move takes anything away: found without going back.

Such a plan says how far a position still is from finishing, and which moves to try first. J. Hoffmann and
B. Nebel, "The FF planning system: fast plan generation through heuristic search", Journal of Artificial
Intelligence Research 14 (2001), 253-302. Some flags keep their values: M. Katz, J. Hoffmann and C. Domshlak,
"Red-black relaxed plan heuristics", AAAI 2013.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping
from functools import cached_property
from heapq import heappop, heappush
from itertools import groupby
from math import inf
from operator import itemgetter

from ..rules import DEAD, END, FINISHED, PLACE, Move, Position
from ..rules.branches import Branch, turned_both_ways
from ..rules.expressions import AtLeast, Expression, Is, Within, conjuncts, fold
from ..rules.reads import variables
from ..spaces.limits import CutShortError
from ..values import dataclass
from .relaxed import Relaxed
from .safe_moves import SafeMoves

#: How often a plan is made again because it spends more than it gets, with the first time.
ATTEMPTS = 3

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


class Planner:
    """Makes plans from positions of one level, as if nothing were ever lost.

    Args:
        relaxed: The relaxed level; its limits apply here, too.

    Attributes:
        work: How many actions its plans have gone through so far.
        exact: The variables whose values plans follow, as they follow the room.
        extra: Costs that are added to those of moves, by number.
        added: The variables that moves add to; all others are only given values.

    Raises:
        CutShortError: The time was over, or moves turn out in too many ways.
    """

    def __init__(self, relaxed: Relaxed) -> None:
        if not relaxed.able:
            raise CutShortError
        self.relaxed = relaxed
        self.work = 0
        self.exact: tuple[int, ...] = ()
        self.extra: Counter[int] = Counter()
        self.rules = relaxed.rules
        self.actions: list[_Action] = []
        self.at: list[list[int]] = [[] for _ in self.rules.places]
        self.added = {one for _, _, branch in relaxed.branches for one in branch.adds}
        #: What asks for a change of a variable, to one value or (``None``) to any: actions and parts.
        self.watching: dict[tuple[int, int | None], list[tuple[int, int]]] = {}
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
            for change in self._changes_for(one):
                self.watching.setdefault(change, []).append((number, part))

    def _changes_for(self, asked: Expression) -> Iterator[tuple[int, int | None]]:
        """The changes that can make a condition hold."""
        match asked:
            case Is(variable, value) if variable not in self.added:
                yield variable, value
            case Within():
                pass  # plans go by no bound on what is carried
            case _:
                yield from ((variable, None) for variable in variables(asked))

    @cached_property
    def safe(self) -> Collection[int]:
        """The numbers of the moves that can only help."""
        return SafeMoves(self.rules, self.relaxed.limits).safe

    @cached_property
    def both_ways(self) -> set[int]:
        """The variables that moves set to different values."""
        return turned_both_ways(action.branch for action in self.actions)

    def plan(self, position: Position, around: int | None = None) -> list[Move] | None:
        """Return the moves of a relaxed plan, those it begins with first.

        In the relaxed level one key opens every door that it fits. So a plan that spends more than it gets is made
        again: each move that spends asks for what the moves before it spend, too.

        Args:
            around: A room that the plan does not enter.

        Returns:
            The moves; ``None`` if no plan was found.
        """
        moves: list[Move] | None = None
        spent: dict[tuple[int, int], int] = {}
        for _ in range(ATTEMPTS):
            found = _Planning(self, position, around, spent).plan()
            if found is None:
                return moves  # of the first attempt, if that one was better than none
            moves = [self.actions[one].move for one in found]
            missing = self._spent_before(position, dict.fromkeys(found))
            if missing is None:
                break
            spent = {**spent, **{one: max(spent.get(one, 0), n) for one, n in missing.items()}}
        return moves

    def _spent_before(
        self, position: Position, plan: Iterable[int]
    ) -> dict[tuple[int, int], int] | None:
        """For each action that spends, return the amount that earlier actions of the plan spend of the same variable;
        ``None`` if there is enough for all.
        """
        spent: Counter[int] = Counter()
        had: Counter[int] = Counter()
        before = {}
        for number in plan:
            for variable, amount in self.actions[number].branch.adds.items():
                if amount > 0:
                    had[variable] += amount
                elif self.rules.variables[variable][0] == "carried":
                    before[number, variable] = spent[variable]
                    spent[variable] -= amount
        enough = all(n <= position[one] + had[one] for one, n in spent.items())
        return None if enough else before


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

#: A room and the values of the variables that a plan follows there; an action, by number, in a stance.
Stance = tuple[int, ...]
Occurrence = tuple[int, Stance]

#: The cost of a condition, and the actions that make it hold.
Effort = tuple[float, list[Occurrence]]

NOTHING: Effort = (0.0, [])
NEVER: Effort = (inf, [])


def _together(parts: Iterable[Effort]) -> Effort:
    each = [*parts]
    return sum(cost for cost, _ in each), [one for _, by in each for one in by]


def _cheapest(parts: Iterable[Effort]) -> Effort:
    return min(parts, key=itemgetter(0), default=NEVER)


def _least(
    steps: Iterable[tuple[int, int, float, float, Occurrence]],
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
    used: list[Occurrence] = []
    for value, amount, most, cost, by in steps:
        if not amount:
            if enough(value):
                return cost, [by]
            continue
        used.append(by)
        times = -(-missing // amount)
        if times <= most:
            return total + times * cost, used
        total += most * cost
        missing -= amount * int(most)
    return NEVER


class _Planning:
    """The costs of everything that is reachable from one position in the relaxed level, cheapest first.

    An action occurs once in each stance in which its room is entered.

    Args:
        spent: For an action and a variable, how many more units the action asks for.
    """

    def __init__(
        self,
        planner: Planner,
        position: Position,
        around: int | None,
        spent: Mapping[tuple[int, int], int],
    ) -> None:
        self.planner = planner
        self.position = position
        self.around = around
        self.spent = spent
        #: How each stance is entered; ``None`` for the one the player is in.
        self.entered: dict[Stance, Occurrence | None] = {}
        self.stances: dict[int, list[Stance]] = {}
        #: How each variable gets higher (or lower): a value set, or units added, each by an action.
        self.higher: dict[int, list[tuple[int, int, float, float, Occurrence]]] = {}
        self.lower: dict[int, list[tuple[int, int, float, float, Occurrence]]] = {}
        #: How a variable that nothing is added to is first given a value.
        self.given: dict[tuple[int, int], Effort] = {}
        self.waits: dict[Occurrence, int] = {}
        self.costs: dict[Occurrence, float] = {}
        self.done: set[Occurrence] = set()
        self.happened: set[int] = set()
        self.supported: dict[tuple[Occurrence, int], list[Occurrence]] = {}
        self.ahead: list[tuple[float, Occurrence]] = []

    def plan(self) -> list[int] | None:
        planner = self.planner
        exact = (self.position[variable] for variable in planner.exact)
        self._enter((self.position[PLACE], *exact), None, 0.0)
        while self.ahead:
            planner.relaxed.limits.check()
            planner.work += 1
            cost, one = heappop(self.ahead)
            if one in self.done:
                continue
            self.done.add(one)
            if planner.actions[one[0]].branch.becomes[END] == FINISHED:
                return [number for number, _ in self._in_order(one)]
            self._happen(one, cost)
        return None

    def _enter(self, stance: Stance, by: Occurrence | None, cost: float) -> None:
        place = stance[0]
        if stance in self.entered or place == self.around:
            return
        self.entered[stance] = by
        self.stances.setdefault(place, []).append(stance)
        for number in self.planner.at[place]:
            action, one = self.planner.actions[number], (number, stance)
            extra = self.planner.extra[action.move.number]
            self.costs[one] = cost + max(action.move.cost, 1) + extra
            parts = range(len(action.asked))
            self.waits[one] = sum(not self._support(one, part) for part in parts)
            if not self.waits[one]:
                heappush(self.ahead, (self.costs[one], one))

    def _support(self, one: Occurrence, part: int) -> bool:
        """Add the cost of a part of what an action asks; return whether that part can hold by now."""
        cost, by = _InStance(self, one).cost(self.planner.actions[one[0]].asked[part])
        if cost == inf:
            return False
        self.costs[one] += cost
        self.supported[one, part] = by
        return True

    def _happen(self, one: Occurrence, cost: float) -> None:
        number, stance = one
        exact = self.planner.exact
        branch = self.planner.actions[number].branch
        if number not in self.happened:
            self.happened.add(number)
            for change in self._change(one, cost):
                self._wake(change)
        after = (
            branch.becomes.get(variable, value)
            for variable, value in zip(exact, stance[1:], strict=True)
        )
        self._enter((branch.becomes[PLACE], *after), one, cost)

    def _change(self, one: Occurrence, cost: float) -> Iterator[tuple[int, int | None]]:
        """Note how an action changes variables, and yield what is new; those that a plan follows are left out."""
        action, values = self.planner.actions[one[0]], self.position
        for variable, value in action.branch.becomes.items():
            followed = variable <= END or variable in self.planner.exact
            if value == values[variable] or followed or (variable, value) in self.given:
                continue
            if variable not in self.planner.added:
                self.given[variable, value] = (cost, [one])
                yield variable, value
            steps = self.higher if value > values[variable] else self.lower
            steps.setdefault(variable, []).append((value, 0, 1, cost, one))
            yield variable, None
        times = 1.0 if action.once else min((values[taken] for taken in action.taken), default=inf)
        for variable, amount in action.branch.adds.items():
            steps = self.higher if amount > 0 else self.lower
            steps.setdefault(variable, []).append((0, abs(amount), max(times, 1), cost, one))
            yield variable, None

    def _wake(self, change: tuple[int, int | None]) -> None:
        """Look again at what asks for a change."""
        watching = self.planner.watching.get(change, ())
        self.planner.work += len(watching) // _LOOKED_AT
        for number, part in watching:
            for stance in self.stances.get(self.planner.actions[number].place, ()):
                one = (number, stance)
                if (one, part) not in self.supported and self._support(one, part):
                    self.waits[one] -= 1
                    if not self.waits[one]:
                        heappush(self.ahead, (self.costs[one], one))

    def _in_order(self, last: Occurrence) -> Iterator[Occurrence]:
        """The actions that make an action possible, and that action, each after those that make it possible."""
        seen: set[Occurrence] = set()
        ahead = [(last, False)]
        while ahead:
            one, supported = ahead.pop()
            if supported:
                yield one
            elif one not in seen:
                seen.add(one)
                ahead.append((one, True))
                number, stance = one
                parts = range(len(self.planner.actions[number].asked))
                rests = [by for part in parts for by in self.supported[one, part]]
                ahead += [(by, False) for by in rests]
                if (entered := self.entered[stance]) is not None:
                    ahead.append((entered, False))


class _InStance:
    """Finds the effort of making a guard hold for an action in a stance."""

    def __init__(self, planning: _Planning, one: Occurrence) -> None:
        self._planning = planning
        self._number, stance = one
        self._exact = dict(zip(planning.planner.exact, stance[1:], strict=True))

    def cost(self, asked: Expression) -> Effort:
        """Return the effort of making an expression hold."""
        return fold(asked, self._atom, _together, _cheapest)

    def _atom(self, asked: Expression, positive: bool) -> Effort:
        match asked:
            case AtLeast(variable, least) if variable in self._exact:
                return NOTHING if (self._exact[variable] >= least) == positive else NEVER
            case Is(variable, value) if variable in self._exact:
                return NOTHING if (self._exact[variable] == value) == positive else NEVER
            case AtLeast(variable, least):
                return self._to(variable, least) if positive else self._down(variable, least - 1)
            case Is(variable, value):
                up, down = self._to, self._down
                if positive and variable not in self._planning.planner.added:
                    here = self._planning.position[variable] == value
                    return NOTHING if here else self._planning.given.get((variable, value), NEVER)
                if positive:
                    return _together((up(variable, value), down(variable, value)))
                if self._planning.position[variable] != value:
                    return NOTHING
                return _cheapest((up(variable, value + 1), down(variable, value - 1)))
            case Within():
                return NOTHING
        raise TypeError(f"not a guard: {asked!r}")

    def _to(self, variable: int, wanted: int) -> Effort:
        """Return the effort of raising a variable to some value."""
        wanted += self._planning.spent.get((self._number, variable), 0)
        missing = wanted - self._planning.position[variable]
        if missing <= 0:
            return NOTHING
        higher = self._planning.higher.get(variable, ())
        return _least(higher, missing, lambda value: value >= wanted)

    def _down(self, variable: int, wanted: int) -> Effort:
        """Return the effort of lowering a variable to some value."""
        missing = self._planning.position[variable] - wanted
        if missing <= 0:
            return NOTHING
        lower = self._planning.lower.get(variable, ())
        return _least(lower, missing, lambda value: value <= wanted)
