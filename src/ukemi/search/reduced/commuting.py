"""Whether what is free can as well be done before every choice as after it."""

from __future__ import annotations

from collections.abc import Iterable

from ...rules import END, FINISHED, PLACE, Move
from ...rules.expressions import AllOf, Expression, Is
from ...rules.steps import Add, Require, Set
from .regions import Regions


def commutes(regions: Regions) -> bool:
    """Whether regions tell exactly what can come to pass, and every choice that loses the level.

    A choice made before something free then leads to where it would have led after it, so that each
    position that can be reached belongs to a region that was come to, can finish if that can, and
    leaves the same choices (commuting moves: P. Godefroid, "Partial-Order Methods for the
    Verification of Concurrent Systems", LNCS 1032, 1996). It is not so of a drop, say: what was left
    undone before it may be out of reach after.

    Args:
        regions: What finds the regions.

    Returns:
        Whether it is plain from the moves, one by one.
    """
    return regions.safety.able and _Commuting(regions).all()


class _Commuting:
    def __init__(self, regions: Regions) -> None:
        self.regions = regions
        self.moves = regions.rules.moves
        self.safety = regions.safety
        self.free = [
            one for one in self.moves if one.number in self.safety.safe or self._two_way(one)
        ]
        self._is_free = {move.number for move in self.free}
        self._read = {variable for move in self.free for variable in move.reads}
        self._changed = {variable for move in self.free for variable in move.changes} - {PLACE}
        self._only_added = self._changed - {
            variable
            for move in self.free
            for step in move.steps
            if not isinstance(step, Add)
            for variable in ([step.variable] if isinstance(step, Set) else move.changes)
        }
        self._taken = {
            step.variable
            for move in self.free
            for step in move.steps
            if isinstance(step, Add) and step.amount < 0
        }

    def all(self) -> bool:
        return all(
            move.number in self._is_free or _finishes(move) or self._keeps_order(move)
            for move in self.moves
        )

    def _two_way(self, move: Move) -> bool:
        """Whether a walk changes nothing else, and can be walked back whenever it could be made."""
        to = self.regions.leads(move)
        if to is None or len(move.places) != 1 or PLACE in move.reads:
            return False
        return self._walks(move) and any(
            back.guard is move.guard
            and self.regions.leads(back) == move.places[0]
            and self._walks(back)
            for back in self.regions.rules.moves_at(to)
        )

    def _walks(self, move: Move) -> bool:
        return move.number in self.safety.giving and self.regions.is_plain_walk(move)

    def _keeps_order(self, move: Move) -> bool:
        """Whether a choice leaves what is free as it is, and what is free leaves the choice."""
        if PLACE in move.changes or END in move.changes:
            return False
        return self._is_left(move) and all(
            self._leaves(move, step) for step in move.steps if not isinstance(step, Require)
        )

    def _is_left(self, move: Move) -> bool:
        """Whether nothing free makes a choice impossible."""
        unset = {v for part in _parts(move.guard) for v in _asked_unset(part)}
        return self._changed.isdisjoint(unset) and self._taken.isdisjoint(move.reads)

    def _leaves(self, move: Move, step: object) -> bool:
        """Whether a step of a choice makes nothing free impossible, and can be made after it."""
        if not isinstance(step, Add | Set):
            touched = set(move.changes)
            return touched.isdisjoint(self._read) and touched.isdisjoint(self._changed)
        variable = step.variable
        if variable not in self._read and variable not in self._changed:
            return True
        if isinstance(step, Add):
            if variable in self._changed and variable not in self._only_added:
                return False
            if step.amount < 0:
                return variable not in self._read
        elif step.value != 1 or variable in self._only_added:
            return False
        closed = self.safety.closers.get(variable, ())
        return variable not in self.safety.bad and not any(
            one.number in self._is_free for one in closed
        )


def _finishes(move: Move) -> bool:
    return all(
        isinstance(step, Set) and (step.variable, step.value) == (END, FINISHED)
        for step in move.steps
    )


def _parts(guard: Expression) -> Iterable[Expression]:
    return guard.parts if isinstance(guard, AllOf) else (guard,)


def _asked_unset(part: Expression) -> Iterable[int]:
    """What a part of a guard wants not to have been done."""
    return (part.variable,) if isinstance(part, Is) and part.value == 0 else ()
