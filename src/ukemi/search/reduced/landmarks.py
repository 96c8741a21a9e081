"""What every run must do, where nothing is ever lost.

Where all that can be done is free (:mod:`ukemi.search.reduced.regions`), what is done stays done and
nothing stands in the way of anything else: whether something can be done is a matter of what must
be done before it alone. Such a problem is an and-or graph, and what all its solutions have in
common is found by going over it once: E. Keyder, S. Richter and M. Helmert, "Sound and complete
landmarks for and/or graphs", ECAI 2010.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Mapping

from ...rules import END, FINISHED, PLACE, Move, Rules
from ...rules.expressions import AllOf, AnyOf, AtLeast, Expression, Is, all_of
from ...rules.reads import each_step, variables
from ...rules.steps import Require, Set, When

#: Sets of things done, as bits.
Bits = int


class UncountedError(Exception):
    """A level asks for several of something at once, which landmarks do not count."""


class Landmarks:
    """What must have been done before each thing can be done.

    Args:
        rules: The rules; everything that can be done in them is free.
        watched: Variables that show that something was done, with its bit.
        free: The numbers of the moves that are free.
        about: The numbers of walks that end the run.
        ending: The rooms in which the run ends by itself.
        marked: Moves that are told by themselves, by number, with their bit.

    Attributes:
        rooms: For each room, the bit that shows that it was entered.
        before: For each watched variable, what every run has done before a move first changes it.
        before_marked: For each bit of a marked move, what every run has done before it is first made.
        before_room: For each room, what every run has done before it is first entered.
        finish: What every finishing run has done; ``None`` where none finishes.
        ends: The rooms in which a run can finish.

    Raises:
        UncountedError: Something is asked for in a number that takes several moves to reach.
    """

    def __init__(
        self,
        rules: Rules,
        watched: dict[int, Bits],
        free: Iterable[int],
        about: Iterable[int] = (),
        ending: frozenset[int] = frozenset(),
        marked: Mapping[int, Bits] | None = None,
    ) -> None:
        self.rules = rules
        self.ending = ending
        self.watched = watched
        self.marked = marked or {}
        known = (*watched.values(), *self.marked.values())
        shift = max((bit.bit_length() for bit in known), default=0)
        self.rooms: list[Bits] = [1 << shift + place for place in range(len(rules.places))]
        self.before: dict[int, Bits] = {}
        self.before_room: dict[int, Bits] = {}
        self.before_marked: dict[Bits, Bits] = {}
        self._have: dict[int, Bits] = {}
        self._at: dict[int, Bits] = {}
        self._start = rules.start()
        start = self._start[PLACE]
        self._at[start] = self.rooms[start]
        for variable, bit in watched.items():  # what has happened by itself before the first move
            if self._start[variable] != rules.initial[variable]:
                self._at[start] |= bit
        self.before_room[start] = 0
        self._run(set(free), set(about))
        self.ends: set[int] = set()
        self.finish = self._finish()

    def _run(self, free: set[int], about: set[int]) -> None:
        either = free | about
        moves = [move for move in self.rules.moves if move.number in either]
        shown = {PLACE, *self.watched}
        self._asks = {move.number: _asked(move) for move in moves}
        changes = {move.number: set(move.changes) for move in moves}
        for number in about:  # of these, what shows is all that lasts
            changes[number] &= shown
        waiting: dict[int, list[Move]] = {}
        waiting_at: dict[int, list[Move]] = {}
        for move in moves:
            for variable in move.reads:
                waiting.setdefault(variable, []).append(move)
            for place in move.places:
                waiting_at.setdefault(place, []).append(move)
        ahead = deque(waiting_at.get(self._start[PLACE], ()))
        queued = {move.number for move in ahead}
        while ahead:
            move = ahead.popleft()
            queued.discard(move.number)
            needed = self._move(move)
            if needed is None:
                continue
            woken: list[Move] = []
            after = needed
            if mark := self.marked.get(move.number):
                self.before_marked[mark] = self.before_marked.get(mark, -1) & needed
                after |= mark
            to = next(
                (s.value for s in move.steps if isinstance(s, Set) and s.variable == PLACE), None
            )
            if to is not None:  # whatever else a walk gives is had where it leads
                after |= self.rooms[to]
            for variable in changes[move.number]:
                after |= self.watched.get(variable, 0)
            for variable in changes[move.number]:
                if variable in self.watched:
                    self.before[variable] = self.before.get(variable, -1) & needed
                if variable == PLACE and to is not None:
                    if to == self._start[PLACE]:
                        continue
                    self.before_room[to] = self.before_room.get(to, -1) & needed
                    if _narrow(self._at, to, after):
                        woken += waiting_at.get(to, ())
                elif move.number in free and _narrow(self._have, variable, after):
                    woken += waiting.get(variable, ())
            for one in woken:
                if one.number not in queued:
                    queued.add(one.number)
                    ahead.append(one)

    def _move(self, move: Move) -> Bits | None:
        """What every run has done before a move can be made; ``None`` where it cannot."""
        found: Bits | None = None
        for place in move.places:
            there = None if place in self.ending else self._at.get(place)
            asks = self._asks.get(move.number, move.guard)
            asked = self._expression(asks, place) if there is not None else None
            if there is not None and asked is not None:
                found = there | asked if found is None else found & (there | asked)
        return found

    def _expression(self, expression: Expression, place: int) -> Bits | None:
        initial = self._start
        match expression:
            case AllOf(parts):
                found = 0
                for part in parts:
                    asked = self._expression(part, place)
                    if asked is None:
                        return None
                    found |= asked
                return found
            case AnyOf(parts):
                ways = [self._expression(part, place) for part in parts]
                open_ways = [way for way in ways if way is not None]
                common = -1
                for way in open_ways:
                    common &= way
                return common if open_ways else None
            case AtLeast(variable, least):
                if initial[variable] >= least:
                    return 0
                if least - initial[variable] > 1:
                    raise UncountedError
                return self._have.get(variable)
            case Is(variable, 1) if variable > END:
                return 0 if initial[variable] == 1 else self._have.get(variable)
        values = list(initial)
        values[PLACE] = place
        return 0 if expression.holds(values) else None

    def _finish(self) -> Bits | None:
        """What every finishing run has done; ``None`` where none finishes."""
        ways: list[Bits] = []
        for move in self.rules.moves:
            if any(isinstance(step, Set) and step.variable == END for step in move.steps):
                for place in move.places:
                    ways += self._end(move.guard, place)
        for step in each_step(self.rules.settling):
            ends = isinstance(step, When) and any(
                isinstance(one, Set) and one.variable == END and one.value == FINISHED
                for one in step.steps
            )
            if ends and isinstance(step, When):
                for place in self._at:
                    ways += self._end(step.expression, place)
        common = -1
        for way in ways:
            common &= way
        return common if ways else None

    def _end(self, goal: Expression, place: int) -> list[Bits]:
        there = self._at.get(place)
        asked = None if there is None else self._expression(goal, place)
        if there is None or asked is None:
            return []
        self.ends.add(place)
        return [there | asked]


def _asked(move: Move) -> Expression:
    """All that a move asks for, in its guard and in its steps."""
    tests = [step.expression for step in move.steps if isinstance(step, Require)]
    tested = [variable for test in tests for variable in variables(test)]
    if len(tested) > len(set(tested)):
        raise UncountedError  # what is spent first is missing for the second test
    return all_of(move.guard, *tests)


def _narrow(known: dict[int, Bits], key: int, found: Bits) -> bool:
    """Keep what is in common; whether that was news."""
    old = known.get(key)
    new = found if old is None else old & found
    known[key] = new
    return new != old
