"""Estimate what runs into some positions still cost, from any position on."""

from __future__ import annotations

from collections.abc import Collection, Iterator

from ..rules import END, Move, Rules
from ..rules.expressions import TRUE, AnyOf, AtLeast, Expression, Is
from ..rules.reads import CHANGING, each_step
from ..rules.steps import Add, Set
from ..spaces.estimate import Estimate, Term
from ..spaces.space import S, Space
from .safe_moves import SafeMoves
from .walking_graph import WalkingGraph


def remaining_cost(rules: Rules, space: Space[S], targets: S, finishing: bool = False) -> Estimate:
    """Estimate what runs into some positions still cost.

    Two costs are still to come: what every run has to do and has not done yet; and each bridge to a part of the
    level in which something is left to do, there and back. With several players, only what has to be done is
    counted: anyone may be there already.

    Args:
        rules: The rules of a level.
        space: The space that holds the positions.
        finishing: Whether those are all the finished positions in which some things were done. Having
            more, or having done more, never leads out of them; so safe moves may come first.
    """
    duties = [*_duties(rules, space, targets)]
    terms = [term for duty in duties for term in duty.terms()]
    if len(rules.standing) > 1:
        return Estimate(terms, frozenset())
    ends = space.places(targets)
    terms += _bridges(WalkingGraph(rules), duties, ends)
    return Estimate(terms, _first(rules, duties) if finishing else frozenset())


class _Duty:
    """A change of a variable that every run makes.

    Attributes:
        value: Its value at the start.
        makers: The moves that change it.
        for_good: Whether it changes once, to a value that all targets have.
        rooms: The rooms in which those moves are made.
    """

    def __init__(self, rules: Rules, variable: int, makers: list[Move], for_good: bool) -> None:
        self.variable, self.makers, self.for_good = variable, makers, for_good
        self.value = rules.initial[variable]
        self.rooms = frozenset(place for move in makers for place in move.places)
        self._cost = min(move.cost for move in makers)

    @property
    def undone(self) -> Expression:
        """Holds as long as some of it is left to do."""
        falls = self.for_good and self.value
        return AtLeast(self.variable, 1) if falls else Is(self.variable, self.value)

    def terms(self) -> Iterator[Term]:
        """Yield the costs that are still to pay for it."""
        if self.for_good and self.value:  # so many units are to be taken, one by one
            for count in range(1, self.value + 1):
                yield Term(self._cost, None, AtLeast(self.variable, count))
        else:
            yield Term(self._cost, None, self.undone)


def _duties(rules: Rules, space: Space[S], targets: S) -> Iterator[_Duty]:
    """The changes that every run into some positions makes, no two by the same move."""
    makers: dict[int, list[Move]] = {}
    for move in rules.moves:
        for variable in move.changes:
            makers.setdefault(variable, []).append(move)
    standing = {*rules.standing}
    left_out = {END, *rules.changes_by_itself}
    rooms = [targets & space.at(place) for place in space.places(targets)]

    def having(variable: int, value: int) -> Iterator[tuple[S, S]]:
        """For each room, yield the targets there, and those with a value. A caller often needs few rooms."""
        for some in rooms:
            space.limits.check()
            yield some, space.having(variable, value, some)

    certain: list[_Duty] = []
    others: list[_Duty] = []
    for variable, some in makers.items():
        if variable in left_out or any(standing.intersection(move.changes) for move in some):
            continue  # walks are counted by the rooms that they lead to
        final = _final(rules, variable, some)
        if final is not None and all(some <= have for some, have in having(variable, final)):
            certain.append(_Duty(rules, variable, some, True))
        elif not any(have for _, have in having(variable, rules.initial[variable])):
            others.append(_Duty(rules, variable, some, False))
    counted: set[int] = set()
    for duty in (*certain, *others):
        numbers = {move.number for move in duty.makers}
        if counted.isdisjoint(numbers):
            counted |= numbers
            yield duty


def _final(rules: Rules, variable: int, makers: Collection[Move]) -> int | None:
    """The value that a variable can only move to and then keeps, if there is such a value."""
    steps = [
        step
        for move in makers
        for step in each_step(move.steps)
        if isinstance(step, CHANGING) and step.variable == variable
    ]
    start = rules.initial[variable]
    if start == 0 and all(isinstance(step, Set) and step.value == 1 for step in steps):
        return 1
    if start > 0 and all(isinstance(step, Add) and step.amount == -1 for step in steps):
        return 0
    return None


def _bridges(walking: WalkingGraph, duties: list[_Duty], ends: set[int]) -> Iterator[Term]:
    """Yield the cost of each bridge: there, if something is left to do beyond it, and back to where runs end."""
    parts = walking.parts
    root = parts[min(ends)]
    before = walking.tree(root)
    behind = {part: {part} for part in before}
    for part in reversed([*before]):
        if part != root:
            behind[before[part]] |= behind[part]
    for part, near in before.items():
        there, back = walking.cheapest(near, part), walking.cheapest(part, near)
        if part == root or back is None:
            continue
        far = frozenset(room for room, one in enumerate(parts) if one in behind[part])
        if not far.isdisjoint(ends):
            continue
        left = [duty.undone for duty in duties if duty.rooms <= far]
        if left and there is not None:
            rest = frozenset(range(len(parts))) - far
            yield Term(there + back, rest, AnyOf(tuple(left)))
        yield Term(back, far, TRUE)


def _first(rules: Rules, duties: list[_Duty]) -> frozenset[int]:
    """The safe moves that do what every run has to do, if no other move does it for less or gives more."""
    safety = SafeMoves(rules)
    if not safety.able:
        return frozenset()
    return frozenset(
        move.number
        for duty in duties
        if duty.for_good
        for move in duty.makers
        if move.number in safety.safe
        and all(move.cost <= other.cost and safety.gives_all(move, other) for other in duty.makers)
    )
