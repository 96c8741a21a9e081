"""What comes before what on every finishing run, as a formula over sets of positions."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING, Any

from ..rules import Move
from ..spaces import Route
from .order import GATE, ROOM, Pairs, ordered

if TYPE_CHECKING:
    from .over_sets import OverSets


class Before:
    """Finds the order of things that every finishing run does.

    One thing comes before another where it was done in all positions right before the other. Those are
    the positions from which a move does the other for the first time, on runs that can still finish. A
    room was entered, a gate walked, where no run that keeps out of it gets that far.

    Args:
        sets: The sets of positions of the level.
        run: A finishing run: what it does the other way round needs no proof.
    """

    def __init__(self, sets: OverSets, run: Route) -> None:
        self.sets = sets
        self.run = run

    def order(self, names: list[str]) -> Pairs:
        """The order of some things, rooms and gates.

        Args:
            names: Their names, those of rooms and gates with their marks.

        Raises:
            CutShortError: The time was over first.
        """
        sets = self.sets
        bits = {name: 1 << number for number, name in enumerate(names)}
        first = self._first_done(names)
        before = dict.fromkeys(names, 0)
        in_turn = sorted(names, key=first.__getitem__)
        for name in in_turn:
            sets.space.limits.check()
            earlier = [other for other in in_turn if first[other] < first[name]]
            loose = self._right_before(name) if earlier else None
            for other in reversed(earlier):
                if before[name] & bits[other]:
                    continue  # it comes before something that comes before this
                if sets.done_in_all(other, loose) or (
                    name.endswith((ROOM, GATE)) and sets.done_in_all(other, self._first(name))
                ):
                    before[name] |= bits[other] | before[other]
        return ordered(before, bits, self.sets.limits)

    def _first_done(self, names: list[str]) -> dict[str, int]:
        """When the run first does, enters or walks through each of some things."""
        rules, sets = self.sets.rules, self.sets
        shown: dict[int, list[str]] = {}
        for name in names:
            if not name.endswith((ROOM, GATE)):
                shown.setdefault(sets.subject(name).variable, []).append(name)
        walked = {
            number: name
            for name in names
            if name.endswith(GATE)
            for number in sets.gates[name.removesuffix(GATE)]
        }
        found: dict[str, int] = {}
        for number, position in enumerate(self.run.positions):
            sets.space.limits.check()
            changed: Iterable[int] = shown
            if number:
                move = self.run.moves[number - 1]
                changed = {*move.changes, *rules.changes_by_itself} & shown.keys()
                if move.number in walked:
                    found.setdefault(walked[move.number], number)
            for variable in changed:
                for name in shown[variable]:
                    if position[variable] != sets.subject(name).before:
                        found.setdefault(name, number)
            for room in rules.rooms_of(position):
                found.setdefault(room + ROOM, number)
        return found

    def _right_before(self, name: str) -> Any:
        """The positions from which a move does, enters or walks something, and can still finish."""
        sets = self.sets
        good = sets.can_finish
        if name.endswith(ROOM):
            here = sets.at(name.removesuffix(ROOM))
            return self._joined(sets.space.leading(good - here, good & here))
        if name.endswith(GATE):
            return self._walking(name, good)
        subject = sets.subject(name)
        return self._joined(sets.space.leading(good, good, (subject.variable, subject.before)))

    def _first(self, name: str) -> Any:
        """The positions from which something is entered or walked first, and that can still finish."""
        sets = self.sets
        sources = sets.not_yet(name) & sets.can_finish
        if name.endswith(GATE):
            return self._walking(name, sources)
        here = sets.at(name.removesuffix(ROOM))
        return self._joined(sets.space.leading(sources, here & sets.can_finish))

    def _walking(self, gate: str, sources: Any) -> Any:
        """Those of some positions from which a walk leads through a gate and can still finish."""
        walks = self.sets.gates[gate.removesuffix(GATE)]
        leading = self.sets.space.leading(sources, self.sets.can_finish)
        return self._joined({move: some for move, some in leading.items() if move.number in walks})

    def _joined(self, leading: dict[Move, Any]) -> Any:
        found = self.sets.finished - self.sets.finished
        for sources in leading.values():
            found = found | sources
        return found
