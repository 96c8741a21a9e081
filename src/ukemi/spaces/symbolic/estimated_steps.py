"""Steps whose costs are reduced by what they take off an estimate of the rest of the run.

With these costs, the cheapest runs are the same, but few positions cost less than all of a cheapest run: the others need
not be looked at. S. Edelkamp and F. Reffel, "OBDDs in heuristic search", KI 1998; the costs: D. B.
Johnson, "Efficient algorithms for shortest paths in sparse networks", Journal of the ACM 24 (1977).
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator
from typing import TYPE_CHECKING

from oxidd.bdd import BDDFunction

from ...rules import PLACE
from ...rules.actions import Key
from ...rules.reads import variables
from ..estimate import Estimate, Term
from .diagrams import Diagrams, DiagramStep
from .zones import ZoneExit, Zones

if TYPE_CHECKING:
    from .diagram_space import SymbolicSpace


class EstimatedSteps:
    """The steps of a space, each with its cost reduced by what it takes off an estimate.

    A step is left out where a step of a move that may come first can be made instead.

    Args:
        estimate: The estimate; a term that is not 0 in all targets is left out.
        targets: Where runs are to lead.

    Attributes:
        consistent: Whether no step takes more off the estimate than it costs; else these steps are of no use.
        least: What all runs cost at least, by the estimate.
        forward, backward: The steps at each room, onward and back.
    """

    def __init__(self, space: SymbolicSpace, estimate: Estimate, targets: Diagrams) -> None:
        self._space = space
        self._terms = [one for one in estimate.terms if not self._due(one, targets)]
        steps = list(self._all())
        self.consistent = all(step.cost >= 0 for step in steps)
        position = space.rules.start()
        self.least = sum(term.cost for term in self._terms if term.due(position))
        blocked = self._blocked(steps, estimate.first)
        out: dict[Key, list[DiagramStep]] = {}
        into: dict[Key, list[DiagramStep]] = {}
        for step in steps:
            out.setdefault(step.source, []).append(step)
            into.setdefault(step.target, []).append(step)

        def onward(step: DiagramStep) -> tuple[Key, Callable[[BDDFunction], BDDFunction]]:
            never = blocked.get(step)
            if never is None:
                return step.target, step.after
            return step.target, lambda positions: step.after(never.imp_strict(positions))

        def back(step: DiagramStep) -> tuple[Key, Callable[[BDDFunction], BDDFunction]]:
            never = blocked.get(step)
            if never is None:
                return step.source, step.before
            return step.source, lambda positions: never.imp_strict(step.before(positions))

        rooms = Zones({}, {})
        self.forward = ZoneExit(rooms, out, onward)
        self.backward = ZoneExit(rooms, into, back)

    def _due(self, term: Term, targets: Diagrams) -> bool:
        """Whether a cost is still to come in some targets."""
        for key, part in targets.parts.items():
            self._space.limits.check()
            if (part & self._still_due(term, key)).satisfiable():
                return True
        return False

    def _all(self) -> Iterator[DiagramStep]:
        by_variable: dict[int, list[Term]] = {}
        by_room = [term for term in self._terms if term.rooms is not None]
        for term in self._terms:
            for variable in {*variables(term.guard)}:
                by_variable.setdefault(variable, []).append(term)
        for step in self._space.steps:
            self._space.limits.check()
            here, there = step.source[PLACE], step.target[PLACE]
            touched = {
                id(term): term
                for variable in step.action.changed
                for term in by_variable.get(variable, ())
            }
            if here != there:
                touched |= {
                    id(term): term
                    for term in by_room
                    if term.rooms is not None and (here in term.rooms) != (there in term.rooms)
                }
            yield from self._split(step, touched.values())

    def _split(self, step: DiagramStep, terms: Iterable[Term]) -> Iterator[DiagramStep]:
        """A step, in parts by what each takes off the estimate."""
        true = self._space.encoding.true
        parts = {step.action.move.cost: step.asked}
        for term in terms:
            before = self._still_due(term, step.source)
            after = step.before(self._still_due(term, step.target))
            changes = (
                (-term.cost, before & ~after),
                (term.cost, after & ~before),
                (0, true & ~(before ^ after)),
            )
            split: dict[int, BDDFunction] = {}
            for cost, asked in parts.items():
                for change, where in changes:
                    one = asked & where
                    if one.satisfiable():
                        known = split.get(cost + change)
                        split[cost + change] = one if known is None else known | one
            parts = split
        for cost, asked in parts.items():
            yield DiagramStep(step.action, asked, step.becomes, step.changed, step.added, cost)

    def _still_due(self, term: Term, at: Key) -> BDDFunction:
        """The positions of a room in which a cost is still to come."""
        encoding = self._space.encoding
        if term.rooms is not None and at[PLACE] not in term.rooms:
            return encoding.false
        return encoding.guard(term.guard, at)

    def _blocked(
        self, steps: Iterable[DiagramStep], first: Collection[int]
    ) -> dict[DiagramStep, BDDFunction]:
        """Where each step is left out, since another comes first."""
        by_room: dict[Key, list[DiagramStep]] = {}
        for step in steps:
            by_room.setdefault(step.source, []).append(step)
        found: dict[DiagramStep, BDDFunction] = {}
        for some in by_room.values():
            never = self._space.encoding.false
            for step in sorted(some, key=lambda one: one.action.move.number not in first):
                if never.satisfiable():
                    found[step] = never
                if step.action.move.number in first:
                    never = never | step.asked
        return found
