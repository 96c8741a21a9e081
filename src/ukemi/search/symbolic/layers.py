"""Cheapest runs in a symbolic space: positions in layers by what it costs to come to them.

Breadth-first search with a layer for each cost, from the start and back from where a run is to lead until both
meet: I. Pohl, "Bi-directional search", Machine Intelligence 6 (1971). Sets half as far away are much smaller diagrams.
"""

from __future__ import annotations

from collections.abc import Mapping
from time import perf_counter
from typing import TYPE_CHECKING

from oxidd.bdd import BDDFunction
from oxidd.util import DDMemoryError

from ...rules.actions import Key
from ..limits import CutShortError
from ..space import Run
from .diagrams import Diagrams, Step
from .zones import Onward

if TYPE_CHECKING:
    from .space import SymbolicSpace

#: How long to look for cheapest runs.
LAYERS_SECONDS = 4.0


class CheapestRuns:
    """The cheapest runs from the start, as far as they can be told in time.

    Args:
        space: The space.
        within: The only positions that runs may go through.
    """

    def __init__(self, space: SymbolicSpace, within: Diagrams) -> None:
        self.space = space
        self._within = within
        self._from_start = Layers(space, space.start, space.forward, space.backward, within)
        self._seconds = 0.0

    def run_to(self, targets: Diagrams) -> tuple[Run | None, int]:
        """A cheapest run into a set, where it was found in time, and what every run costs at least."""
        near = self._from_start
        for cost, layer in enumerate(near.layers):
            if both := layer & targets:
                return _run(near.followed(both, cost)[::-1], cost), cost
        far = Layers(self.space, targets, self.space.backward, self.space.forward, self._within)
        try:
            while near.waiting and far.waiting:
                self._extend(far if not far.layers or far.ahead < near.ahead else near)
                # Every run of less was told before: of what this one costs, where do both meet?
                cost = len(near.layers) + len(far.layers) - 1
                for one, reached in near.waiting.items():
                    if one <= cost and (both := reached & far.layers[cost - one]):
                        return self._meeting(both, one, far, cost), cost
        except CutShortError:
            near.waiting = {}
        except DDMemoryError:  # all that is known of costs is let go of, so that others have room
            near.waiting, near.layers, far.layers = {}, [], []
            self.space.tidy()
        return None, len(near.layers) + len(far.layers)

    def _extend(self, layers: Layers) -> None:
        if self._seconds > LAYERS_SECONDS:
            raise CutShortError
        began = perf_counter()
        layers.extend()
        self._seconds += perf_counter() - began

    def _meeting(self, both: Diagrams, come: int, far: Layers, cost: int) -> Run:
        """A run by way of some positions that were come to from the start, and lead on."""
        steps = self._from_start.followed(both, come)[::-1]
        here = self.space.start
        for step in steps:
            here = Diagrams({step.target: step.after(here.parts[step.source])})
        return _run(steps + far.followed(here, cost - come), cost)


def _run(steps: list[Step], cost: int) -> Run:
    return Run(tuple(step.action.move for step in steps), cost)


class Layers:
    """Positions by what the cheapest runs from some others to them cost, or those back from them.

    Args:
        space: The space.
        begin: Where the runs begin.
        onward: What leads on from a position.
        back: What leads back.
        within: The only positions that they may go through.

    Attributes:
        layers: The positions that it costs 0, 1, 2 and so on to come to.
        waiting: By cost, those that were come to and are not in a layer yet.
    """

    def __init__(
        self,
        space: SymbolicSpace,
        begin: Diagrams,
        onward: Onward,
        back: Onward,
        within: Diagrams,
    ) -> None:
        self.limits = space.limits
        self.layers: list[Diagrams] = []
        self.waiting: dict[int, Diagrams] = {0: begin}
        self._begin = begin
        self._onward = onward
        self._back = back
        self._within = within
        self._seen = Diagrams({})

    @property
    def ahead(self) -> int:
        """How large the diagrams are that the next layer is worked out from."""
        return self.waiting.get(len(self.layers), Diagrams({})).nodes()

    def extend(self) -> None:
        """Work out the layer of the next cost."""
        cost = len(self.layers)
        layer = (self.waiting.get(cost, Diagrams({})) & self._within) - self._seen
        later: dict[int, dict[Key, BDDFunction]] = {}
        ahead = layer
        while ahead:
            free: dict[Key, BDDFunction] = {}
            for room, positions in ahead.parts.items():
                for step, to, lead in self._onward.at(room):
                    self.limits.check()
                    after = lead(positions)
                    if after.satisfiable():
                        moved = step.action.move.cost
                        found = later.setdefault(moved, {}) if moved else free
                        known = found.get(to)
                        found[to] = after if known is None else known | after
            ahead = (Diagrams(free) & self._within) - layer - self._seen
            layer = layer | ahead
        self.waiting.pop(cost, None)
        self._seen = self._seen | layer
        for moved, reached in later.items():
            fresh = (Diagrams(reached) & self._within) - self._seen
            if fresh:
                self.waiting[cost + moved] = fresh | self.waiting.get(cost + moved, Diagrams({}))
        self.layers.append(layer)

    def followed(self, targets: Diagrams, cost: int) -> list[Step]:
        """The steps from some positions that it costs so much to come to, back to where it began.

        Whatever is chosen of the positions that a step leads back to, it leads on into those after.
        """
        here = targets
        steps: list[Step] = []
        while cost or not here & self._begin:
            here, step = self._came(here, cost) or self._came_free(here, cost)
            cost -= step.action.move.cost
            steps.append(step)
        return steps

    def _came(self, here: Diagrams, cost: int) -> tuple[Diagrams, Step] | None:
        """The last step to some positions, where it costs something, and where it was made."""
        for room, positions in here.parts.items():
            for step, source, lead in self._back.at(room):
                before = self._before(step, cost).get(source)
                if before is not None:
                    both = lead(positions) & before
                    if both.satisfiable():
                        return Diagrams({source: both}), step
        return None

    def _before(self, step: Step, cost: int) -> Mapping[Key, BDDFunction]:
        """The layer that a step which costs something leads from, where it leads to so much."""
        earlier = cost - step.action.move.cost
        return self.layers[earlier].parts if 0 <= earlier < min(cost, len(self.layers)) else {}

    def _came_free(self, here: Diagrams, cost: int) -> tuple[Diagrams, Step]:
        """The last step to some positions, where it costs nothing: it comes from the same layer.

        Rings of positions are laid around them, each a free step further away, until one has
        positions that were come to at a cost; from there, steps lead from ring to ring.
        """
        rings = [here]
        seen = here
        while not (there := self._entered(rings[-1], cost)):
            further: dict[Key, BDDFunction] = {}
            for room, positions in rings[-1].parts.items():
                for step, source, lead in self._back.at(room):
                    if step.action.move.cost == 0 and source in self.layers[cost].parts:
                        one = lead(positions) & self.layers[cost].parts[source]
                        further[source] = further[source] | one if source in further else one
            rings.append(Diagrams(further) - seen)
            assert rings[-1], "a position came from nowhere"
            seen = seen | rings[-1]
        for ring in rings[-2:0:-1]:
            there = self._freely(there, ring)[1]
        made, _, step = self._freely(there, rings[0])
        return made, step

    def _freely(self, sources: Diagrams, ring: Diagrams) -> tuple[Diagrams, Diagrams, Step]:
        """A free step from some positions into others: where it is made, where it leads, itself."""
        for room, positions in ring.parts.items():
            for step, source, lead in self._back.at(room):
                if step.action.move.cost == 0 and source in sources.parts:
                    both = lead(positions) & sources.parts[source]
                    if both.satisfiable():
                        to, onward = self._onward.lead(step)
                        into = Diagrams({to: onward(both)}) & ring
                        return Diagrams({source: both}), into, step
        raise AssertionError("a position came from nowhere")

    def _entered(self, ring: Diagrams, cost: int) -> Diagrams:
        """Those of some positions of a layer where it begins, or that a step which costs leads to."""
        if cost == 0:
            return ring & self._begin
        for room, positions in ring.parts.items():
            for step, source, _ in self._back.at(room):
                before = self._before(step, cost).get(source)
                if before is not None:
                    entered = self._onward.lead(step)[1](before) & positions
                    if entered.satisfiable():
                        return Diagrams({room: entered})
        return Diagrams({})
