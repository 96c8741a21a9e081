"""Which things precede which on every finishing run?

If e and f are both required, e comes before f iff e was done in every position from which a move of W
does f for the first time. A room was entered, or a gate walked, if no run that avoids it gets that far.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

from ..rules import Move
from ..spaces import Route
from ..spaces.space import S
from .can_finish import run
from .context import Context
from .named_sets import Sets
from .transitive_reduction import GATE, ROOM, Pairs, ordered

if TYPE_CHECKING:
    from .free_level import FreeLevel


def ask(
    context: Context[S], required: Sequence[str], rooms: Sequence[str], gates: Sequence[str]
) -> Pairs | None:
    """Return what comes before what in every finishing run; ``None`` if that is undecided.

    Args:
        required: The things that every finishing run does.
        rooms: The rooms that every finishing run enters.
        gates: The gates that every finishing run walks through.
    """

    def by_landmarks(free: FreeLevel) -> Pairs:
        marks = free.marks
        bits, before = {}, {}
        for name in required:
            bits[name] = free.bits[name]
            before[name] = marks.before.get(free.subjects[name].variable, 0)
        for room in rooms:
            place = free.places[room]
            bits[room + ROOM], before[room + ROOM] = marks.rooms[place], marks.before_room[place]
        for gate in gates:
            bit = free.walked[gate]
            bits[gate + GATE], before[gate + GATE] = bit, marks.before_marked[bit]
        return ordered(before, bits, context.limits)

    def by_sets(sets: Sets[S]) -> Pairs | None:
        names = [*required, *(room + ROOM for room in rooms), *(gate + GATE for gate in gates)]
        if not sets.complete:
            return None
        if sets.finishing is None:
            return () if not names else None
        return _order(sets, names)

    return context.decide(None, free=by_landmarks, sets=by_sets)


def required_gates(context: Context[S]) -> list[str] | None:
    """Return the gates that every finishing run walks through; ``None`` if that is undecided."""

    def by_landmarks(free: FreeLevel) -> list[str]:
        return [name for name, bit in free.walked.items() if free.required & bit]

    def by_sets(sets: Sets[S]) -> list[str] | None:
        finishing = run(context)
        if finishing is None or not sets.complete:
            return [] if sets.complete else None
        walked = [{move.number for move in run.moves} for run in (finishing, *sets.finishing_runs)]
        gates = [one for one, walks in context.gates.items() if all(walks & run for run in walked)]
        return [
            one
            for one in gates
            if sets.cannot_finish_without(one + GATE)
            or not sets.not_yet(one + GATE) & sets.finished
        ]

    return context.decide(None, free=by_landmarks, sets=by_sets)


def _order(sets: Sets[S], names: Sequence[str]) -> Pairs:
    """Return the order of some things, rooms and gates.

    If known runs do two things in different orders, no order between them is looked for. A room can be entered, and a
    gate walked, more than once. Everything that precedes the first time precedes each later time, too, so one
    question covers all times.
    """
    bits = {name: 1 << number for number, name in enumerate(names)}
    firsts = [_first_done(sets, run, names) for run in sets.finishing_runs]
    before = dict.fromkeys(names, 0)
    in_turn = sorted(names, key=firsts[0].__getitem__)
    for name in in_turn:
        sets.space.limits.check()
        earlier = [one for one in in_turn if all(first[one] < first[name] for first in firsts)]
        if not earlier:
            continue
        right_before = _right_before(sets, name)
        for other in reversed(earlier):
            if before[name] & bits[other]:
                continue  # it comes before something that comes before this
            if sets.done_in_all(other, right_before):
                before[name] |= bits[other] | before[other]
    return ordered(before, bits, sets.space.limits)


def _first_done(sets: Sets[S], finishing: Route, names: Iterable[str]) -> dict[str, int]:
    """When a run first does, enters or walks through each of some things."""
    rules = sets.rules
    shown: dict[int, list[str]] = {}
    walked: dict[int, str] = {}
    for name in names:
        if name.endswith(GATE):
            walked.update(dict.fromkeys(sets.gates[name.removesuffix(GATE)], name))
        elif not name.endswith(ROOM):
            shown.setdefault(sets.subjects[name].variable, []).append(name)
    found: dict[str, int] = {}
    for number, position in enumerate(finishing.positions):
        sets.space.limits.check()
        changed: Iterable[int] = shown
        if number:
            move = finishing.moves[number - 1]
            changed = {*move.changes, *rules.changes_by_itself} & shown.keys()
            if move.number in walked:
                found.setdefault(walked[move.number], number)
        for variable in changed:
            for name in shown[variable]:
                if position[variable] != sets.subjects[name].before:
                    found.setdefault(name, number)
        for room in rules.rooms_of(position):
            found.setdefault(room + ROOM, number)
    return found


def _right_before(sets: Sets[S], name: str) -> S:
    """The positions from which a move does, enters or walks something, and can still finish."""
    good = sets.can_finish
    if name.endswith(ROOM):
        here = sets.at(name.removesuffix(ROOM))
        return sets.joined(sets.space.leading(good - here, good & here).values())
    if name.endswith(GATE):
        walks = sets.gates[name.removesuffix(GATE)]
        leading: dict[Move, S] = sets.space.leading(good, good)
        return sets.joined(some for move, some in leading.items() if move.number in walks)
    subject = sets.subjects[name]
    changing = (subject.variable, subject.before)
    return sets.joined(sets.space.leading(good, good, changing).values())
