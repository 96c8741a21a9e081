"""Leaving out of a level what cannot matter to a question.

Program slicing (M. Weiser, "Program slicing", IEEE Transactions on Software Engineering 10 (1984))
on the level's moves: what matters is what the question asks for, what the moves that change it ask
for, and so on. Rooms need one thought more, since every walk changes where the player is: a part of
the level that hangs on a single passage, in which nothing matters and from which the player can
always come back the way it went in, is a detour that changes nothing.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from ...rules import END, PLACE, Move, Rules
from ...rules.expressions import Expression, Is
from ...rules.reads import changed, leaves, looked_at, variables
from ...rules.steps import ByValue, Require, Step, When
from .ground import Ground


class Slicer:
    """Cuts a level's rules down to what matters to a question.

    Args:
        rules: The rules.
    """

    def __init__(self, rules: Rules) -> None:
        self.rules = rules
        self.ground = Ground(rules)
        self._beside: dict[int, list[int]] = {}
        for number, to in self.ground.walks.items():
            for here in rules.moves[number].places:
                self._beside.setdefault(here, []).append(to)
        self._rooms = [self._named(move.guard) for move in rules.moves]
        self._writers: dict[int, list[int]] = {}
        for number, move in enumerate(rules.moves):
            for variable in move.changes:
                if variable != PLACE:
                    self._writers.setdefault(variable, []).append(number)
        # What happens by itself in a room counts as a move made there; the rest always matters.
        self._by_itself: list[tuple[int, set[int], set[int]]] = []
        self._always: set[int] = set()
        self._always_rooms: set[int] = set()
        self._settling(rules.settling)

    def _named(self, expression: Expression) -> list[int]:
        """The rooms an expression names, and those beside one that it wants the player away from.

        A part that is left out is taken for the room where it hangs; it must not hang where the
        player is wanted not to be.
        """
        found = []
        for leaf, positive in leaves(expression):
            if isinstance(leaf, Is) and leaf.variable == PLACE:
                found.append(leaf.value)
                if not positive:
                    found += self._beside.get(leaf.value, [])
        return found

    def _settling(self, steps: Iterable[Step]) -> None:
        for step in steps:
            if isinstance(step, ByValue) and step.variable == PLACE:
                for place, inside in step.cases.items():
                    self._by_itself.append((place, looked_at(inside), changed(inside)))
            elif isinstance(step, When):
                self._always.update(variables(step.expression))
                self._always_rooms.update(self._named(step.expression))
                self._settling(step.steps)

    def slice(
        self, targets: Iterable[int], rooms: Iterable[int] = (), asked: Iterable[Expression] = ()
    ) -> Rules:
        """The rules with the moves that matter to a question.

        The moves left out change nothing that is asked for, directly or in the end: the runs of
        the slice are runs of the level, and each run of the level becomes one of the slice, no
        longer than it was, that agrees with it on all that is asked for, by leaving them out.

        Args:
            targets: The variables asked for.
            rooms: The rooms asked for.
            asked: Conditions asked for.

        Returns:
            The same variables with fewer moves, each with its number; what does not matter keeps
            the value it begins with.
        """
        relevant: set[int] = set()
        ahead: list[int] = []
        kept: set[int] = set()
        parts: set[int] = set()
        hubs: list[int] = []

        def want(*wanted: int) -> None:
            for variable in wanted:
                if variable not in relevant and variable != PLACE:
                    relevant.add(variable)
                    ahead.append(variable)

        def enter(places: Iterable[int]) -> None:
            for place in places:
                if self.ground.parts[place] not in parts:
                    hubs.append(self.ground.parts[place])

        def keep(number: int) -> None:
            if number not in kept:
                kept.add(number)
                want(*self.rules.moves[number].reads)
                enter(self._rooms[number])
                if number in self.ground.walks:
                    enter((self.ground.walks[number],))

        enter(
            (self.rules.initial[PLACE], *rooms, *self._always_rooms, *self._named(self.rules.goal))
        )
        enter(self._rough_parts())
        want(END, *targets, *self._always, *variables(self.rules.goal))
        for expression in asked:
            want(*variables(expression))
            enter(self._named(expression))
        while ahead or hubs:
            while ahead:
                variable = ahead.pop()
                for number in self._writers.get(variable, ()):
                    keep(number)
            while hubs:
                self._join(hubs.pop(), parts)
            hang = self._hanging(parts)
            for number in kept:
                # Made in a part that is left out, a move can as well be made where that part hangs.
                places = self.rules.moves[number].places
                enter(p for p in places if p in hang and hang[p] not in places)
            for place, reads, writes in self._by_itself:
                if self.ground.parts[place] not in parts and writes & relevant:
                    enter((place,))
                if writes & relevant:
                    want(*reads)
            for number, to in self.ground.walks.items():
                if number in kept or self.ground.parts[to] not in parts:
                    continue
                if any(
                    self.ground.parts[here] in parts for here in self.rules.moves[number].places
                ):
                    keep(number)
        relevant |= {PLACE, END}
        settling = self._kept_settling(relevant)
        relevant |= changed(settling)
        moves = [_kept_part(move, relevant) for move in self.rules.moves if move.number in kept]
        return self.rules.with_moves(moves, settling)

    def _kept_settling(self, relevant: set[int]) -> tuple[Step, ...]:
        """What happens by itself, without the rooms in which nothing that matters does."""

        def kept(step: Step) -> Step:
            if isinstance(step, When):
                return When(step.expression, tuple(kept(one) for one in step.steps))
            if isinstance(step, ByValue) and step.variable == PLACE:
                cases = {
                    place: inside
                    for place, inside in step.cases.items()
                    if changed(inside) & relevant
                }
                return ByValue(PLACE, cases)
            return step

        return tuple(kept(step) for step in self.rules.settling)

    def _rough_parts(self) -> list[int]:
        """A room of each part that does not hang on plain passages alone: those stay."""
        ground = self.ground
        first = {part: room for room, part in reversed(list(enumerate(ground.parts)))}
        return [
            room
            for part, room in first.items()
            if not ground.clean[part] or not all(plain for _, plain, _ in ground.links[part])
        ]

    def _hanging(self, parts: set[int]) -> dict[int, int]:
        """For each room of the parts left out, the room where what it belongs to hangs."""
        ground = self.ground
        hang: dict[int, int] = {}
        ahead = [
            (there, room)
            for part in parts
            for there, _, room in ground.links[part]
            if there not in parts
        ]
        for part, room in ahead:
            if part not in hang:
                hang[part] = room
                ahead += [(there, room) for there, _, _ in ground.links[part] if there not in parts]
        return {room: hang[part] for room, part in enumerate(ground.parts) if part in hang}

    def _join(self, part: int, parts: set[int]) -> None:
        """Add a part, and those on the way between it and the parts there are."""
        if part in parts:
            return
        if not parts:
            parts.add(part)
            return
        came = {part: part}
        ahead = [part]
        for here in ahead:
            if here in parts:
                while here != came[here]:
                    here = came[here]
                    parts.add(here)
                return
            for there, _, _ in self.ground.links[here]:
                if there not in came:
                    came[there] = here
                    ahead.append(there)
        parts.add(part)  # no way leads there, not even a shut one


def _kept_part(move: Move, relevant: set[int]) -> Move:
    """A move without the steps that only change what does not matter."""
    if relevant.issuperset(move.changes):
        return move
    steps = move.steps
    kept = (step for step in steps if isinstance(step, Require) or changed([step]) & relevant)
    return replace(move, steps=tuple(kept))
