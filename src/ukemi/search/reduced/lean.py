"""What of a run is of use to how it ends."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ...rules import END, PLACE, Move, Position, Rules
from ...rules.expressions import AllOf, AnyOf, AtLeast, Expression, Is
from ...rules.steps import Add, AddUpTo, Require, Set, run
from .regions import Region, Regions

#: A move and the room it is made in.
Made = tuple[Move, int]


@dataclass(frozen=True)
class Leg:
    """A part of a run: all that was free to do in a region, and the move that led out of it."""

    region: Region
    out: Made | None

    def all(self, regions: Regions) -> list[Made]:
        """Every move of it but plain walks."""
        made = [one for one in self.region.done if not regions.is_plain_walk(one[0])]
        return made if self.out is None else [*made, self.out]


def needed(
    rules: Rules, start: Position, legs: list[Leg], wanted: Iterable[int]
) -> list[list[Made]]:
    """The moves of a run that something after them asks for, from its end back to its start.

    As relaxed plans are found: J. Hoffmann and B. Nebel, "The FF planning system", Journal of
    Artificial Intelligence Research 14 (2001). Nothing free is undone by what is free, so that
    what is found is a run, but not always a shortest one; it must be played before it is told.

    Args:
        rules: The rules.
        start: Where the run begins.
        legs: The parts of the run, in order.
        wanted: The variables that it is to have changed.

    Returns:
        For each part, the moves that are of use, without plain walks.
    """
    before = _values_before(rules, start, legs)
    to_change = {variable: start[variable] for variable in wanted}
    wants: dict[int, int] = {}
    kept: list[list[Made]] = []
    for leg, known in zip(reversed(legs), reversed(before), strict=True):
        kept.append(_Back(leg, known, wants, to_change).needed())
    return kept[::-1]


def _values_before(rules: Rules, start: Position, legs: list[Leg]) -> list[list[dict[int, int]]]:
    """For each part and each move in it, the values of what it changes before it is made."""
    values = list(start)
    found = []
    for leg in legs:
        known = []
        for move, room in leg.region.done:
            known.append({variable: values[variable] for variable in move.changes})
            values[PLACE] = room
            run(move.steps, values)
        if leg.out is not None:
            values[PLACE] = leg.out[1]
            run(leg.out[0].steps, values)
        run(rules.settling, values)
        found.append(known)
    return found


class _Back:
    """Goes back through one part of a run.

    Args:
        leg: The part.
        before: For each move in it, the values of what it changes before it is made.
        wants: What of each variable is asked for after it; in the end, before it.
        to_change: The variables that are to change at some time, with their first values.
    """

    def __init__(
        self,
        leg: Leg,
        before: list[dict[int, int]],
        wants: dict[int, int],
        to_change: dict[int, int],
    ) -> None:
        self.leg = leg
        self.before = before
        self.wants = wants
        self.to_change = to_change
        self._rooms: set[int] = set()
        self._entered_at: dict[int, list[int]] = {}
        for room, (_, _, number) in leg.region.entered.items():
            self._entered_at.setdefault(number, []).append(room)

    def needed(self) -> list[Made]:
        done = self.leg.region.done
        kept: set[int] = set()
        if self.leg.out is not None:
            self._keep(*self.leg.out)
        for number in range(len(done), -1, -1):
            for room in reversed(self._entered_at.get(number, ())):
                if room in self._rooms:
                    walk, source, _ = self.leg.region.entered[room]
                    self._keep(walk, source)
                    if number < len(done) and done[number] == (walk, source):
                        kept.add(number)  # a walk that gives something
            if number > 0 and self._is_of_use(number - 1):
                kept.add(number - 1)
                self._keep(*done[number - 1])
        made = [done[number] for number in sorted(kept)]
        return made if self.leg.out is None else [*made, self.leg.out]

    def _is_of_use(self, number: int) -> bool:
        return any(
            before < self.wants.get(variable, before) or before == self.to_change.get(variable)
            for variable, before in self.before[number].items()
            if variable != PLACE
        )

    def _keep(self, move: Move, room: int) -> None:
        self._rooms.add(room)
        for step in move.steps:
            if isinstance(step, Add | AddUpTo) and step.variable in self.wants:
                left = self.wants[step.variable] - step.amount
                self.wants[step.variable] = max(left, 0)
            elif isinstance(step, Set):
                self.wants.pop(step.variable, None)
        for step in move.steps:
            if isinstance(step, Require):
                self._want(step.expression)
        self._want(move.guard)

    def _want(self, expression: Expression) -> None:
        match expression:
            case AllOf(parts) | AnyOf(parts):
                for part in parts:
                    self._want(part)
            case AtLeast(variable, least):
                self.wants[variable] = max(self.wants.get(variable, 0), least)
            case Is(variable, 1) if variable > END:
                self.wants[variable] = 1
            case _:
                pass
