"""Rules in which wings that are alike are counted, not told apart.

For each state a wing can be in, a variable says how many wings are in it; which of them they are is
left out. Only of the wing the player is in is more known: its state, and which room of it. One
position of these rules stands for all that come of it by exchanging wings.

Counter abstraction: E. A. Emerson and R. J. Trefler, "From asymmetry to full symmetry: new
techniques for symmetry reduction in model checking", CHARME 1999; that it is exact: C. N. Ip and
D. L. Dill, "Better verification through symmetry", Formal Methods in System Design 9 (1996).
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass, replace

from ...rules import PLACE, Move, Position, Rules
from ...rules.expressions import AllOf, AtLeast, Expression, Is
from ...rules.reads import changed
from ...rules.steps import Add, AddUpTo, Flip, Require, Set, Step, TakeUpTo, When
from .alike import Deed, Wing
from .partial import with_known

#: The most states of a wing to tell apart.
MOST_STATES = 100

#: The values of a wing's variables, and the index of the room the player is in, or -1.
State = tuple[tuple[int, ...], int]


class _Uncounted(Exception):
    """The wings of a group cannot be counted."""


@dataclass(eq=False, slots=True)
class _Done:
    """What a counted move stands for: a deed of a wing in a state."""

    group: int
    deed: int
    state: int
    after: int


@dataclass(eq=False)
class _Group:
    """Wings that are alike, and the states they can be in."""

    wings: list[Wing]
    states: list[State]
    numbers: dict[State, int]
    counters: list[int]
    here: int


#: A move of the rules that were counted, by its number, with the group, the wing and which deed of
#: it that is, or none.
_Told = tuple[int, tuple[int, int, int] | None]


class Counting:
    """Rules with alike wings counted.

    Args:
        rules: The rules.
        groups: Wings that are alike.

    Attributes:
        rules: The counted rules: the same variables and some more. Those of counted wings stay at
            what they begin with, and the first wing's rooms stand for those of all.
        groups: How many groups could be counted.
        merged: The rooms and the variables of the wings that are counted, by group.
    """

    def __init__(self, rules: Rules, groups: Sequence[list[Wing]]) -> None:
        self.original = rules
        self._variables = list(rules.variables)
        self._initial = list(rules.initial)
        self._groups: list[_Group] = []
        self._moves: list[Move] = []
        self._done: dict[int, _Done] = {}
        self._first = max((move.number for move in rules.moves), default=0) + 1
        for wings in groups:
            self._count(wings)
        self._rooms = {
            room for group in self._groups for wing in group.wings for room in wing.rooms
        }
        self.groups = len(self._groups)
        self.merged = tuple(
            tuple((wing.rooms, wing.variables) for wing in group.wings) for group in self._groups
        )
        self.rules = self._counted_rules()

    def _counted_rules(self) -> Rules:
        rules = self.original
        counted: dict[int, set[int]] = {}
        for group in self._groups:
            for wing in group.wings:
                for deed in wing.deeds:
                    counted.setdefault(deed.move.number, set()).add(deed.place)
        moves = []
        for move in rules.moves:
            gone = counted.get(move.number, set())
            places = tuple(
                place for place in move.places if place not in gone and place not in self._rooms
            )
            if places:
                moves.append(replace(move, places=places) if places != move.places else move)
        index = {name: number for number, name in enumerate(self._variables)}
        return Rules(
            self._variables, index, rules.places, self._initial, moves + self._moves,
            rules.settling, rules.goal,
        )  # fmt: skip

    # -- counting one group -------------------------------------------------------------------

    def _count(self, wings: list[Wing]) -> None:
        wing = wings[0]
        begin: State = (tuple(self.original.initial[v] for v in wing.variables), -1)
        states, numbers = [begin], {begin: 0}
        made: list[tuple[int, int, int, Expression | bool, list[Step], int | None]] = []
        try:
            for number, state in enumerate(states):  # grows as it is walked
                for index, deed in enumerate(wing.deeds):
                    done = _applied(wing, state, deed)
                    if done is None:
                        continue
                    guard, steps, after, to = done
                    if after not in numbers:
                        if len(states) >= MOST_STATES:
                            return
                        numbers[after] = len(states)
                        states.append(after)
                    made.append((number, index, numbers[after], guard, steps, to))
        except _Uncounted:
            return
        group = len(self._groups)
        counters = [
            self._add_variable(group, n, len(wings) if n == 0 else 0) for n in range(len(states))
        ]
        here = self._add_variable(group, -1, 0)
        self._groups.append(_Group(wings, states, numbers, counters, here))
        for number, index, after_number, guard, steps, to in made:
            self._add_move(group, index, number, after_number, guard, steps, to)

    def _add_variable(self, group: int, state: int, begins: int) -> int:
        self._variables.append(("alike", str(group), str(state)))
        self._initial.append(begins)
        return len(self._variables) - 1

    def _add_move(
        self,
        group_number: int,
        index: int,
        state: int,
        after: int,
        guard: Expression | bool,
        steps: list[Step],
        to: int | None,
    ) -> None:
        group = self._groups[group_number]
        wing = group.wings[0]
        deed = wing.deeds[index]
        inside, inside_after = group.states[state][1] >= 0, group.states[after][1] >= 0
        asks: list[Expression] = []
        changes: list[Step] = []
        if inside:
            asks.append(Is(group.here, state))
        else:
            asks.append(AtLeast(group.counters[state], 1))
        if not isinstance(guard, bool):
            asks.append(guard)
        if inside and not inside_after:
            changes += [Set(group.here, 0), Add(group.counters[after], 1)]
        elif inside_after and not inside:
            changes += [Add(group.counters[state], -1), Set(group.here, after)]
        elif inside and state != after:
            changes.append(Set(group.here, after))
        elif state != after:
            changes += [Add(group.counters[state], -1), Add(group.counters[after], 1)]
        if inside_after:
            changes.append(Set(PLACE, wing.rooms[group.states[after][1]]))
        elif to is not None:
            changes.append(Set(PLACE, to))
        number = self._first + len(self._moves)
        asked = asks[0] if len(asks) == 1 else AllOf(tuple(asks))
        self._moves.append(
            Move(number, deed.move.what, (deed.place,), asked, (*steps, *changes), deed.move.cost)
        )
        self._done[number] = _Done(group_number, index, state, after)

    # -- runs and positions of the rules that were counted -------------------------------------

    def unfold(self, moves: Iterable[Move]) -> list[int]:
        """Choose for each counted move a wing that it can be made in.

        Args:
            moves: A run of the counted rules.

        Returns:
            The numbers of the moves of a run of the rules that were counted.
        """
        return [number for number, _ in self._unfold(moves)]

    def unfold_all(self, moves: Iterable[Move]) -> list[list[int]]:
        """The same once for each wing that the last move can as well be made in, by exchanging it."""
        run = self._unfold(moves)
        last = run[-1][1] if run else None
        if last is None:
            return [[number for number, _ in run]]
        group, wing, _ = last
        every = range(len(self._groups[group].wings))
        return [self._exchanged(run, group, {wing: other, other: wing}) for other in every]

    def _unfold(self, moves: Iterable[Move]) -> list[_Told]:
        states = [[0] * len(group.wings) for group in self._groups]
        inside = -1
        run: list[_Told] = []
        for move in moves:
            done = self._done.get(move.number)
            if done is None:
                run.append((move.number, None))
                continue
            group, wings = self._groups[done.group], states[done.group]
            wing = inside if group.states[done.state][1] >= 0 else wings.index(done.state)
            wings[wing] = done.after
            inside = wing if group.states[done.after][1] >= 0 else -1
            deed = group.wings[wing].deeds[done.deed]
            run.append((deed.move.number, (done.group, wing, done.deed)))
        return run

    def _exchanged(self, run: list[_Told], group: int, swap: dict[int, int]) -> list[int]:
        """The numbers of a run's moves when two wings that are alike change places."""
        wings = self._groups[group].wings
        return [
            wings[swap[made[1]]].deeds[made[2]].move.number
            if made is not None and made[0] == group and made[1] in swap
            else number
            for number, made in run
        ]

    def like_rooms(self, room: int) -> list[int]:
        """The rooms that a room stands for: those of the wings that are counted with its wing."""
        for group in self._groups:
            if room in group.wings[0].rooms:
                index = group.wings[0].rooms.index(room)
                return [wing.rooms[index] for wing in group.wings]
        return [room]

    def closed(self, wanted: Collection[int]) -> bool:
        """Whether exchanging wings leaves a set of variables as it is."""
        return all(
            len({variable in wanted for variable in alike}) == 1
            for group in self._groups
            for alike in zip(*(wing.variables for wing in group.wings), strict=True)
        )

    def tells(self, variable: int) -> bool:
        """Whether positions tell a variable's own value."""
        return not any(variable in w.variables for group in self._groups for w in group.wings)

    def tells_room(self, room: int) -> bool:
        """Whether positions tell whether the player is in a room."""
        return room not in self._rooms

    def values(self, position: Position, last: Position) -> Position:
        """The values of a position with no wings counted.

        Args:
            position: A position of the counted rules.
            last: The end of a run to it, unfolded.

        Returns:
            The values of all variables of the rules that were counted.
        """
        values = list(position[: len(self.original.variables)])
        values[PLACE] = last[PLACE]
        for group in self._groups:
            for wing in group.wings:
                for variable in wing.variables:
                    values[variable] = last[variable]
        return tuple(values)

    def some_values(self, position: Position) -> Position:
        """The values of one of the positions that a counted one stands for."""
        values = list(position[: len(self.original.variables)])
        for group in self._groups:
            states = [
                state
                for number, counter in enumerate(group.counters)
                for state in [group.states[number]] * position[counter]
            ]
            if len(states) < len(group.wings):
                states.append(group.states[position[group.here]])
                values[PLACE] = group.wings[-1].rooms[states[-1][1]]
            for wing, (own, _) in zip(group.wings, states, strict=True):
                for variable, value in zip(wing.variables, own, strict=True):
                    values[variable] = value
        return tuple(values)

    def counted(self, values: Sequence[int]) -> Position | None:
        """The position that stands for some values; ``None`` where no wing is ever in such a state."""
        found = [*values, *([0] * (len(self._variables) - len(values)))]
        place = values[PLACE]
        for group in self._groups:
            for wing in group.wings:
                room = wing.rooms.index(place) if place in wing.rooms else -1
                state = group.numbers.get((tuple(values[v] for v in wing.variables), room))
                if state is None:
                    return None
                if room >= 0:
                    found[group.here] = state
                    found[PLACE] = group.wings[0].rooms[room]
                else:
                    found[group.counters[state]] += 1
                for variable in wing.variables:
                    found[variable] = self.original.initial[variable]
        return tuple(found)

    def same_in_all(self, measure: Callable[[Position], int]) -> bool:
        """Whether what a measure makes of each state is the same for each wing that can be in it."""
        first = list(self.original.initial)
        for group in self._groups:
            for own, _ in group.states:
                found = set()
                for wing in group.wings:
                    values = first.copy()
                    for variable, value in zip(wing.variables, own, strict=True):
                        values[variable] = value
                    found.add(measure(tuple(values)))
                if len(found) > 1:
                    return False
        return True


def _applied(
    wing: Wing, state: State, deed: Deed
) -> tuple[Expression | bool, list[Step], State, int | None] | None:
    """What is left of a deed for a wing in a state: the guard, the steps, the state after it.

    Returns:
        Those, and where it leads outside of the wing; ``None`` where it cannot be done.

    Raises:
        _Uncounted: What it does to the wing depends on something outside of it.
    """
    values, room = state
    inside = deed.place in wing.rooms
    if inside != (room >= 0) or (inside and wing.rooms[room] != deed.place):
        return None
    known = dict(zip(wing.variables, values, strict=True))
    known[PLACE] = deed.place
    guard = with_known(deed.move.guard, known)
    if guard is False:
        return None
    steps: list[Step] = []
    if not _apply(deed.move.steps, known, set(wing.variables), steps):
        return None
    place = known.pop(PLACE)
    to = None
    if place in wing.rooms:
        room = wing.rooms.index(place)
    else:
        room = -1
        to = place if place != deed.place else None
    return guard, steps, (tuple(known[v] for v in wing.variables), room), to


def _apply(steps: Iterable[Step], known: dict[int, int], own: set[int], left: list[Step]) -> bool:
    """Apply what steps do to a wing; keep what they do outside of it."""
    for step in steps:
        match step:
            case Set(variable, value) if variable in known:
                known[variable] = value
            case Add(variable, amount) if variable in own:
                known[variable] += amount
            case AddUpTo(variable, amount, most) if variable in own:
                known[variable] = min(known[variable] + amount, most)
            case TakeUpTo(variable, amount) if variable in own:
                known[variable] = max(known[variable] - amount, 0)
            case Flip(variable) if variable in own:
                known[variable] = 1 - known[variable]
            case Require(expression):
                needed = with_known(expression, known)
                if needed is False:
                    return False
                if not isinstance(needed, bool):
                    left.append(Require(needed))
            case When(expression, inner):
                chosen = with_known(expression, known)
                if chosen is True:
                    if not _apply(inner, known, own, left):
                        return False
                elif not isinstance(chosen, bool):
                    _only_outside([step], known)
                    kept: list[Step] = []
                    if not _apply(inner, dict(known), own, kept):
                        kept = [Require(AllOf((Is(PLACE, -1),)))]
                    left.append(When(chosen, tuple(kept)))
            case Set() | Add() | AddUpTo() | TakeUpTo() | Flip():
                left.append(step)
            case _:
                raise _Uncounted
    return True


def _only_outside(steps: list[Step], known: dict[int, int]) -> None:
    """See that steps which may or may not be done change nothing of a wing, nor where one is."""
    if not changed(steps).isdisjoint(known):
        raise _Uncounted
