"""The positions of a symbolic space by what the cheapest run to them costs."""

from __future__ import annotations

from time import perf_counter
from typing import TYPE_CHECKING

from oxidd.bdd import BDDFunction
from oxidd.util import DDMemoryError

from ...rules import Move
from ..limits import CutShortError
from ..space import Run
from .diagrams import Diagrams
from .effects import Key

if TYPE_CHECKING:
    from .space import SymbolicSpace

#: How long to look for cheapest runs.
LAYERS_SECONDS = 4.0


class Layers:
    """The positions by what the cheapest run to them costs, as far as anybody asked.

    Breadth-first search with a layer for each cost.

    Args:
        space: The space.
        within: The only positions that runs may go through; ``None`` for any.
    """

    def __init__(self, space: SymbolicSpace, within: Diagrams | None = None) -> None:
        self.space = space
        self._within = within
        self.layers: list[Diagrams] = []
        self._seen = Diagrams({})
        self._waiting: dict[int, Diagrams] = {0: space.start}
        self._given_up = False
        self._seconds = 0.0
        self._allowed = LAYERS_SECONDS

    @property
    def bound(self) -> int:
        """What a run to a position that is in no layer costs at least."""
        return len(self.layers)

    def run_to(self, targets: Diagrams) -> Run | None:
        """A cheapest run into a set; ``None`` where it is in no layer that was worked out in time."""
        for cost, layer in enumerate(self.layers):
            if both := layer & targets:
                return self._back_from(both, cost)
        while not self._given_up and self._waiting:
            try:
                if self._seconds > self._allowed:
                    raise CutShortError
                layer = self._next()
            except (CutShortError, DDMemoryError):
                self._given_up = True
                self._waiting = {}
                self.space.encoding.manager.gc()
                return None
            if both := layer & targets:
                return self._back_from(both, len(self.layers) - 1)
        return None

    def _next(self) -> Diagrams:
        """Work out the layer of the next cost."""
        began = perf_counter()
        space, cost = self.space, len(self.layers)
        layer = self._inside(self._waiting.get(cost, Diagrams({}))) - self._seen
        later: dict[int, dict[Key, BDDFunction]] = {}
        ahead = layer
        while ahead:
            free: dict[Key, BDDFunction] = {}
            for key, positions in ahead.parts.items():
                for step in space.out.get(key, ()):
                    space.limits.check()
                    after = step.after(positions)
                    if not after.satisfiable():
                        continue
                    moved = step.action.move.cost
                    found = later.setdefault(moved, {}) if moved else free
                    known = found.get(step.target)
                    found[step.target] = after if known is None else known | after
            ahead = self._inside(Diagrams(free)) - layer - self._seen
            layer = layer | ahead
        self._waiting.pop(cost, None)
        self._seen = self._seen | layer
        for moved, reached in later.items():
            fresh = self._inside(Diagrams(reached)) - self._seen
            if fresh:
                self._waiting[cost + moved] = fresh | self._waiting.get(cost + moved, Diagrams({}))
        self.layers.append(layer)
        self._seconds += perf_counter() - began
        return layer

    def _inside(self, positions: Diagrams) -> Diagrams:
        return positions if self._within is None else positions & self._within

    def _back_from(self, targets: Diagrams, cost: int) -> Run:
        """A run into some positions of a layer, followed back from layer to layer.

        Whatever is chosen of the positions before, it leads on into those after.
        """
        here, total = targets, cost
        moves: list[Move] = []
        while cost or not here & self.space.start:
            here, cost, move = self._came(here, cost)
            moves.append(move)
        moves.reverse()
        return Run(tuple(moves), total)

    def _came(self, here: Diagrams, cost: int) -> tuple[Diagrams, int, Move]:
        for key, positions in here.parts.items():
            for step in self.space.into.get(key, ()):
                moved = step.action.move.cost
                from_ = (
                    self.layers[cost - moved].parts.get(step.source) if 0 < moved <= cost else None
                )
                if from_ is not None and (both := step.before(positions) & from_).satisfiable():
                    return Diagrams({step.source: both}), cost - moved, step.action.move
        return self._came_free(here, cost)

    def _came_free(self, here: Diagrams, cost: int) -> tuple[Diagrams, int, Move]:
        """The move before one that costs nothing: it comes from within the same layer."""
        rings = [here]
        seen = here
        while not (entered := self._entered(rings[-1], cost)):
            ring = self._free_before(rings[-1], self.layers[cost]) - seen
            assert ring, "a position came from nowhere"
            seen = seen | ring
            rings.append(ring)
        # From the ring that was entered at a cost, one free move leads into the ring before it.
        for ring in rings[-2::-1]:
            for step in self.space.steps:
                if step.action.move.cost or step.source not in entered.parts:
                    continue
                if step.target in ring.parts:
                    source = entered.parts[step.source] & step.before(ring.parts[step.target])
                    if source.satisfiable():
                        if ring is rings[0]:
                            return Diagrams({step.source: source}), cost, step.action.move
                        entered = Diagrams({step.target: step.after(source)}) & ring
                        break
        raise AssertionError("a position came from nowhere")

    def _free_before(self, targets: Diagrams, layer: Diagrams) -> Diagrams:
        """The positions of a layer from which a move that costs nothing leads into a set."""
        found = Diagrams({})
        for step in self.space.steps:
            from_ = layer.parts.get(step.source)
            if step.action.move.cost == 0 and step.target in targets.parts and from_ is not None:
                before = step.before(targets.parts[step.target]) & from_
                found = found | Diagrams({step.source: before})
        return found

    def _entered(self, ring: Diagrams, cost: int) -> Diagrams:
        """Those of some positions of a layer that a move which costs something leads to."""
        if cost == 0 and (both := ring & self.space.start):
            return both
        for step in self.space.steps:
            moved = step.action.move.cost
            if 0 < moved <= cost and step.target in ring.parts:
                from_ = self.layers[cost - moved].parts.get(step.source)
                if from_ is not None:
                    reached = step.after(from_) & ring.parts[step.target]
                    if reached.satisfiable():
                        return Diagrams({step.target: reached})
        return Diagrams({})
