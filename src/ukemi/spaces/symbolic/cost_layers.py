"""Cheapest runs in a symbolic space: positions in layers by the cost of reaching them.

Breadth-first search with a layer for each cost, from the start and back from where a run is to lead until both
meet: I. Pohl, "Bi-directional search", Machine Intelligence 6 (1971). Sets half as far away are much smaller diagrams.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING

from oxidd.bdd import BDDFunction
from oxidd.util import DDMemoryError

from ...rules.actions import Key
from ..limits import CutShortError
from ..space import Run
from .diagrams import Diagrams, DiagramStep
from .zones import ZoneExit

if TYPE_CHECKING:
    from .diagram_space import SymbolicSpace
    from .estimated_steps import EstimatedSteps

#: The nodes of diagrams that a search may make, in all: three seconds or so. They are counted, and not the
#: time, so that the same run is found on every machine. After a search that fails, the next may make half as many, but
#: not less than the second number.
MOST_NODES, LEAST_NODES = 2_500_000, 300_000

#: The nodes that the search from the start makes for each set.
NODES_A_TARGET = 5_000


class CheapestRuns:
    """The cheapest runs from the start that stay within a set, if the time allows.

    Args:
        estimated: Steps that count what they cost less what they take off an estimate; ``None`` for the
            steps of the space.
    """

    def __init__(
        self, space: SymbolicSpace, within: Diagrams, estimated: EstimatedSteps | None = None
    ) -> None:
        self.space = space
        self._within = within
        by = estimated or space
        self._onward, self._back = by.forward, by.backward
        self._least = 0 if estimated is None else estimated.least
        self._from_start = CostLayers(space, space.start, self._onward, self._back, within)
        self._nodes = 0
        self._cut = False

    def near(self, targets: Diagrams) -> Run | None:
        """A cheapest run into a set, if it is short.

        All sets share the search from the start; for each set it goes on a little.
        """
        layers, nodes = self._from_start, 0
        known = self.known(targets)
        try:
            while known is None and layers.waiting and nodes < NODES_A_TARGET:
                nodes += self._extend(layers)
                known = self.known(targets)
        except CutShortError:
            layers.waiting, self._cut = {}, True
        except DDMemoryError:
            self._forget(layers)
        return known

    def known(self, targets: Diagrams) -> Run | None:
        """A cheapest run into a set, if the search from the start has reached it."""
        near = self._from_start
        for cost, layer in enumerate(near.layers):
            if both := layer & targets:
                return self._run(near.followed(both, cost)[::-1], cost)
        return None

    def run_to(self, targets: Diagrams) -> tuple[Run | None, int | None]:
        """Return a cheapest run into a set, if it was found in time, and what every run costs at least.

        The cost is ``None`` if no run stays within the set that runs have to stay in.
        """
        near = self._from_start
        if (known := self.known(targets)) is not None:
            return known, known.cost
        far = CostLayers(self.space, targets, self._back, self._onward, self._within)
        try:
            while near.waiting and far.waiting:
                self._extend(far if not far.layers or far.made < near.made else near)
                # No cheaper run exists: in which position at this cost do both searches meet?
                cost = len(near.layers) + len(far.layers) - 1
                for one, reached in near.waiting.items():
                    if one <= cost and (both := reached & far.layers[cost - one]):
                        return self._meeting(both, one, far, cost), cost
        except CutShortError:
            near.waiting, self._cut = {}, True
            self.space.nodes_a_run = max(self.space.nodes_a_run // 2, LEAST_NODES)
        except DDMemoryError:
            self._forget(near, far)
        least = self._least + len(near.layers) + len(far.layers)
        return None, least if self._cut else None

    def _extend(self, layers: CostLayers) -> int:
        """Work out one more layer; return the nodes that were made."""
        before = self._nodes
        for nodes in layers.extend():
            self._nodes += nodes
            if self._nodes > self.space.nodes_a_run:
                raise CutShortError
        return self._nodes - before

    def _forget(self, *searches: CostLayers) -> None:
        """Make room when the memory is full; the search is over."""
        for one in searches:
            one.forget()
        self.space.tidy()
        self._cut = True

    def _meeting(self, both: Diagrams, come: int, far: CostLayers, cost: int) -> Run:
        """Return a run through some positions that were reached from the start and lead to the target."""
        steps = self._from_start.followed(both, come)[::-1]
        here = self.space.start
        for step in steps:
            here = Diagrams({step.target: step.after(here.parts[step.source])})
        return self._run(steps + far.followed(here, cost - come), cost)

    def _run(self, steps: list[DiagramStep], cost: int) -> Run:
        return Run(tuple(step.action.move for step in steps), self._least + cost)


class CostLayers:
    """Positions in layers, by the cost of a cheapest run from some positions to them, or from them to those.

    Args:
        begin: Where the runs begin.
        onward: The steps to follow.
        back: What leads back.
        within: The only positions that they may go through.

    Attributes:
        layers: The positions at cost 0, 1, 2 and so on.
        waiting: By cost, the positions that were reached and are not in a layer yet.
        made: The nodes that the last layer took, so that the next one is likely to take more.
    """

    def __init__(
        self,
        space: SymbolicSpace,
        begin: Diagrams,
        onward: ZoneExit,
        back: ZoneExit,
        within: Diagrams,
    ) -> None:
        self.limits = space.limits
        self._manager = space.encoding.manager
        self._nodes = 0
        self.layers: list[Diagrams] = []
        self.made = 0
        self.waiting: dict[int, Diagrams] = {0: begin}
        self._rings: list[list[Diagrams]] = []  # of each layer, by the free steps that came last
        self._onward = onward
        self._back = back
        self._within = within
        self._seen = Diagrams({})

    def extend(self) -> Iterator[int]:
        """Work out the layer of the next cost; yield the nodes that are made meanwhile."""
        cost = len(self.layers)
        self.made, self._nodes = 0, self._manager.num_inner_nodes()
        layer = ahead = (self.waiting.pop(cost, Diagrams({})) & self._within) - self._seen
        rings: list[Diagrams] = []
        later: dict[int, dict[Key, BDDFunction]] = {}
        while ahead:
            rings.append(ahead)
            self._seen = self._seen | ahead
            free: dict[Key, BDDFunction] = {}
            for room, positions in ahead.parts.items():
                for step, to, lead in self._onward.at(room):
                    self.limits.check()
                    after = lead(positions)
                    if after.satisfiable():
                        moved = step.cost
                        found = later.setdefault(moved, {}) if moved else free
                        known = found.get(to)
                        found[to] = after if known is None else known | after
                yield self._just_made()
            ahead = (Diagrams(free) & self._within) - self._seen
            layer = layer | ahead
        for moved, reached in later.items():
            fresh = (Diagrams(reached) & self._within) - self._seen
            if fresh:
                self.waiting[cost + moved] = fresh | self.waiting.get(cost + moved, Diagrams({}))
        self.layers.append(layer)
        self._rings.append(rings)
        yield self._just_made()

    def _just_made(self) -> int:
        """Return the nodes that were made since this was asked last; 0 if unused nodes were released."""
        before, self._nodes = self._nodes, self._manager.num_inner_nodes()
        new = max(self._nodes - before, 0)
        self.made += new
        return new

    def followed(self, targets: Diagrams, cost: int) -> list[DiagramStep]:
        """Return the steps back to the start from some positions of a given cost.

        Every choice among the positions before a step leads on into the positions after it.
        """
        here = targets
        steps: list[DiagramStep] = []
        while True:
            rings = self._rings[cost] if cost < len(self._rings) else [here]
            ring, here = next((n, both) for n, one in enumerate(rings) if (both := one & here))
            if not cost and not ring:
                return steps
            here, step = self._came(here, cost, ring)
            cost -= step.cost
            steps.append(step)

    def _came(self, here: Diagrams, cost: int, ring: int) -> tuple[Diagrams, DiagramStep]:
        """The last step to some positions, and where it was made.

        Args:
            here: The positions.
            cost: The layer that they are in.
            ring: How many free steps lead to them from where the layer begins.
        """
        for room, positions in here.parts.items():
            for step, source, lead in self._back.at(room):
                before = self._before(step.cost, cost, ring).get(source)
                if before is not None:
                    both = lead(positions) & before
                    if both.satisfiable():
                        return Diagrams({source: both}), step
        raise AssertionError("a position came from nowhere")

    def _before(self, price: int, cost: int, ring: int) -> Mapping[Key, BDDFunction]:
        """The positions from which a step of some price leads into a ring of a layer."""
        if ring:
            return {} if price else self._rings[cost][ring - 1].parts
        known = price and 0 <= cost - price < len(self.layers)
        return self.layers[cost - price].parts if known else {}

    def forget(self) -> None:
        """Let go of all that is known of costs, so that others have room."""
        self.waiting, self.layers, self._rings = {}, [], []
