"""Find everything that can be done, and everything that every run must do before it, if nothing is ever
lost.

If every move is free (:mod:`ukemi.facts.nothing_lost`), done things stay done and no move blocks another:
whether a thing can be done depends only on the things that must precede it. Such a problem is an and-or
graph, and what all its solutions have in common is found by going over it once: E. Keyder, S. Richter and
M. Helmert, "Sound and complete landmarks for and/or graphs", ECAI 2010.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Collection, Iterable, Iterator, Mapping
from functools import reduce
from operator import and_
from typing import NamedTuple, TypeAlias

from ..rules import END, FINISHED, PLACE, PLAYING, Move, Rules
from ..rules.expressions import AtLeast, Expression, Is, Negated, all_of, fold
from ..rules.reads import changed, looked_at, variables
from ..rules.steps import Add, Require, Set
from ..spaces.limits import Limits
from .safe_moves import SafeMoves

#: Sets of things done, as bits.
Bits = int

#: What has to be added to before something holds: a variable, or all or some of several. Where a variable
#: must be added to more than once, the number is negated (``~variable``).
Lack: TypeAlias = "int | tuple[bool, tuple[Lack, ...]]"

_NOTHING: Lack = (True, ())


class UncountedError(Exception):
    """A move asks for a number that only several moves together reach; landmarks count nothing."""


class MayLoseError(Exception):
    """Something can be done by which something else may be lost."""


class Made(NamedTuple):
    """A move that can be made, the room in which that was found first, and how many were found before."""

    move: Move
    place: int
    time: int


class Lacks:
    """Finds, for each move of a level, what it asks for that does not hold from the start.

    Attributes:
        start: The first position.
        waiting: For each variable, the moves that may become possible when it changes.
        waiting_at: For each room, the moves that can be made in it.
        finishing: The moves that end the run by themselves.
    """

    def __init__(self, rules: Rules) -> None:
        self.rules = rules
        self.start = rules.start()
        self.waiting: dict[int, list[Move]] = {}
        self.waiting_at: dict[int, list[Move]] = {}
        self.finishing = [move for move in rules.moves if _finishes(move)]
        for move in rules.moves:
            if not _finishes(move):
                for variable in move.reads:
                    self.waiting.setdefault(variable, []).append(move)
                for place in move.places:
                    self.waiting_at.setdefault(place, []).append(move)
        self._values = list(self.start)
        self._ended: dict[int, int] = {}
        self._asks: dict[int, Expression] = {}
        self._of: dict[int, list[tuple[int, Lack]]] = {}
        self._added: dict[int, tuple[int, ...]] = {}

    def ended(self, place: int) -> int:
        """Whether and how a run ends by itself in a room, as soon as it is entered."""
        if not self.rules.settling:
            return PLAYING
        if place not in self._ended:
            values = list(self.start)
            values[PLACE] = place
            self._ended[place] = self.rules.settle(values)[END]
        return self._ended[place]

    def asks(self, move: Move) -> Expression:
        """All that a move asks for, in its guard and in its steps."""
        if move.number not in self._asks:
            self._asks[move.number] = all_of(move.guard, *_tests(move))
        return self._asks[move.number]

    def of(self, move: Move) -> list[tuple[int, Lack]]:
        """The rooms in which a move may become possible, and what it lacks in each at the start."""
        if move.number not in self._of:
            asks = self.asks(move)
            each = [
                (place, self._within(asks, place))
                for place in move.places
                if self.ended(place) == PLAYING
            ]
            self._of[move.number] = [(place, lack) for place, lack in each if lack is not None]
        return self._of[move.number]

    def _within(self, expression: Expression, place: int) -> Lack | None:
        """Return what an expression lacks in a room; ``None`` if it never holds there."""

        def atom(one: Expression, positive: bool) -> Lack | None:
            variable = self.lacked(one if positive else Negated(one), place)
            if variable is None:
                return _NOTHING
            counted = isinstance(one, AtLeast) and one.least > self.start[variable] + 1
            return None if variable == END else ~variable if counted else variable

        return fold(expression, atom, _lacks_every, _lacks_some)

    def added(self, move: Move) -> tuple[int, ...]:
        """The variables that a move increases."""
        if move.number not in self._added:
            self._added[move.number] = tuple(_added(move))
        return self._added[move.number]

    def lacked(self, expression: Expression, place: int) -> int | None:
        """The variable that has to be added to before an expression holds in a room.

        Args:
            expression: The expression; no conjunction, no disjunction.

        Returns:
            The variable, ``END`` for what never holds, which nothing adds to; ``None`` for what holds from the start.
        """
        match expression:
            case AtLeast(variable, least):
                return None if self.start[variable] >= least else variable
            case Is(variable, 1) if variable > END:
                return None if self.start[variable] == 1 else variable
        self._values[PLACE] = place
        return None if expression.holds(self._values) else END


def _lacks_every(parts: Iterable[Lack | None]) -> Lack | None:
    found: list[Lack] = []
    for part in parts:
        if part is None:
            return None
        found += part[1] if isinstance(part, tuple) and part[0] else [part]
    return found[0] if len(found) == 1 else (True, tuple(found))


def _lacks_some(parts: Iterable[Lack | None]) -> Lack | None:
    found = tuple(part for part in parts if part is not None)
    if _NOTHING in found:
        return _NOTHING
    return (found[0] if len(found) == 1 else (False, found)) if found else None


class Landmarks:
    """Everything that can be done, and everything that must precede it.

    Args:
        lacks: What the moves of the level ask for.
        safety: Tells the moves that only help; ``None`` if every move that can be made is known to.
        limits: How long it may take.
        watched: Variables that show that something was done, with its bit; ``None`` if only what is possible is
            asked.
        marked: Moves with a bit of their own, by number.
        without: Moves that must not be made, by number.

    Attributes:
        rooms: For each room, the bit that shows that it was entered; none if neither variables nor moves are given.
        before: For each watched variable, the bits of everything that every run does before a move first
            changes it.
        before_marked: For each bit of a marked move, the bits of everything that every run does before
            it.
        before_room: For each room, the bits of everything that every run does before it first enters the
            room.
        at_start: The bits of everything that has happened by itself before all moves.
        finish: The bits of everything that every finishing run does; ``None`` if no run finishes.
        ends: The rooms in which a run can finish.
        made: The moves that can be made, by number, but for those that end the run by themselves.
        came: For each room but the first, the walk by which it was found first.
        did: For each variable that can be added to, or is watched and can be changed, the move by
            which that was found first.

    Raises:
        UncountedError: A move asks for a number that only several moves together reach, or for something
            that the move itself changes.
        MayLoseError: A move can be made that does not only help.
        CutShortError: The time was over first.
    """

    def __init__(
        self,
        lacks: Lacks,
        safety: SafeMoves | None,
        limits: Limits,
        watched: Mapping[int, Bits] | None = None,
        marked: Mapping[int, Bits] | None = None,
        without: Collection[int] = (),
    ) -> None:
        self.lacks = lacks
        self.rules = rules = lacks.rules
        self._safety = safety
        self.limits = limits
        self.watched = watched or {}
        self.marked = marked or {}
        known = (*self.watched.values(), *self.marked.values())
        shift = max((bit.bit_length() for bit in known), default=0)
        self.rooms: list[Bits] = [0] * len(rules.places)
        if watched is not None or marked is not None:
            self.rooms = [1 << shift + place for place in range(len(rules.places))]
        self.before: dict[int, Bits] = {}
        self.before_room: dict[int, Bits] = {}
        self.before_marked: dict[Bits, Bits] = {}
        self.made: dict[int, Made] = {}
        self.came: dict[int, Made] = {}
        self.did: dict[int, Made] = {}
        self._have: dict[int, Bits] = {}
        self._at: dict[int, Bits] = {}
        self.start = lacks.start
        start = self.start[PLACE]
        self.at_start: Bits = 0
        for variable, bit in self.watched.items():
            if self.start[variable] != rules.initial[variable]:
                self.at_start |= bit
        self._at[start] = self.rooms[start] | self.at_start
        self.before_room[start] = 0
        self._looked_at = looked_at(rules.settling) - {PLACE}
        left_out = frozenset(without)
        self.finishing = [move for move in lacks.finishing if move.number not in left_out]
        self._run(left_out)
        self.ends, self.finish = self._finish()

    def _run(self, left_out: frozenset[int]) -> None:
        waiting, waiting_at = self.lacks.waiting, self.lacks.waiting_at
        first = waiting_at.get(self.start[PLACE], ())
        ahead = deque(move for move in first if move.number not in left_out)
        queued = {*left_out, *(move.number for move in ahead)}
        bare = not (
            self.watched or self.marked
        )  # there is nothing to learn of a move once it was made
        while ahead:
            self.limits.check()
            move = ahead.popleft()
            ways = dict(self._ways(move))
            if not (ways and bare):
                queued.discard(move.number)
            if not ways:
                continue
            needed = reduce(and_, ways.values())
            if move.number not in self.made:
                if self._safety is not None:
                    self._must_be_free(move, self._safety)
                self.made[move.number] = Made(move, next(iter(ways)), len(self.made))
            rooms, gains = self._make(self.made[move.number], needed)
            woken = [one for place in rooms for one in waiting_at.get(place, ())]
            woken += [one for variable in gains for one in waiting.get(variable, ())]
            for one in woken:
                if one.number not in queued:
                    queued.add(one.number)
                    ahead.append(one)

    def _must_be_free(self, move: Move, safety: SafeMoves) -> None:
        to = move.leads_to
        if to is None:
            free = move.number in safety.safe
        elif self.lacks.ended(to) == PLAYING:
            free = move.number in safety.giving
        else:  # by the room alone, and nothing else happens by itself
            free = self.lacks.ended(to) == FINISHED and self._looked_at.isdisjoint(move.changes)
        if not free or (to is not None and not self.watched.keys().isdisjoint(move.changes)):
            raise MayLoseError

    def _make(self, made: Made, needed: Bits) -> tuple[list[int], list[int]]:
        """Note the effects of a move; return the rooms and variables whose bits changed."""
        move = made.move
        after = needed
        if mark := self.marked.get(move.number):
            self.before_marked[mark] = self.before_marked.get(mark, -1) & needed
            after |= mark
        to = move.leads_to
        if to is not None:  # all else that a walk gives is received in the room that it leads to
            after |= self.rooms[to]
        for variable in move.changes:
            if variable in self.watched:
                self.did.setdefault(variable, made)
                self.before[variable] = self.before.get(variable, -1) & needed
                after |= self.watched[variable]
        rooms: list[int] = []
        gains: list[int] = []
        if to is not None and to != self.start[PLACE]:
            self.came.setdefault(to, made)
            self.before_room[to] = self.before_room.get(to, -1) & needed
            if _narrow(self._at, to, after):
                rooms.append(to)
        if to is None or self.lacks.ended(to) == PLAYING:
            for variable in self.lacks.added(move):
                self.did.setdefault(variable, made)
                if _narrow(self._have, variable, after):
                    gains.append(variable)
        return rooms, gains

    def _ways(self, move: Move) -> Iterator[tuple[int, Bits]]:
        """The rooms in which a move can be made, with what every run has done before that."""
        for place, lack in self.lacks.of(move):
            there = self._at.get(place)
            if there is not None:
                done = self._done(lack)
                if done is not None:
                    yield place, there | done

    def where(self, move: Move) -> list[int]:
        """The rooms in which a move can be made."""
        return [place for place, _ in self._ways(move)]

    def _done(self, lack: Lack) -> Bits | None:
        """Return the bits of everything that every run does before it has all that is lacking; ``None`` if it
        never has.
        """
        if isinstance(lack, int):
            if lack < 0 and ~lack in self._have:
                raise UncountedError
            return self._have.get(lack)
        every, parts = lack
        if every:
            found = 0
            for part in parts:
                done = self._done(part)
                if done is None:
                    return None
                found |= done
            return found
        ways = [way for way in map(self._done, parts) if way is not None]
        return reduce(and_, ways) if ways else None

    def _finish(self) -> tuple[set[int], Bits | None]:
        """Where runs finish, and what every finishing run has done; ``None`` where none finishes."""
        ways = [one for move in self.finishing for one in self._ways(move)]
        ways += [one for one in self._at.items() if self.lacks.ended(one[0]) == FINISHED]
        done = reduce(and_, (asked for _, asked in ways)) if ways else None
        return {place for place, _ in ways}, done


def _finishes(move: Move) -> bool:
    return any(isinstance(s, Set) and (s.variable, s.value) == (END, FINISHED) for s in move.steps)


def _added(move: Move) -> Iterator[int]:
    """The variables that a move increases."""
    for step in move.steps:
        if (isinstance(step, Set) and step.variable > END and step.value) or (
            isinstance(step, Add) and step.amount > 0
        ):
            yield step.variable


def _tests(move: Move) -> list[Expression]:
    """Return the conditions in the steps of a move."""
    tests: list[Expression] = []
    changed_before: set[int] = set()
    for step in move.steps:
        if isinstance(step, Require):
            if not changed_before.isdisjoint(variables(step.expression)):
                raise UncountedError
            tests.append(step.expression)
        changed_before |= changed([step])
    return tests


def _narrow(known: dict[int, Bits], key: int, found: Bits) -> bool:
    """Keep the bits that two findings share; return whether that changes what was known."""
    old = known.get(key)
    new = found if old is None else old & found
    known[key] = new
    return new != old
