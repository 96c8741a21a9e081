"""A part of a space: what can happen as long as no move leaves it. No move from outside may lead into it."""

from __future__ import annotations

from collections.abc import Collection

from ..rules import Move, Position
from ..rules.expressions import Expression
from .estimate import MakeEstimate
from .space import Run, S, Space


class PartOfSpace(Space[S]):
    """Some positions of a space, as if no move led out of them.

    Args:
        whole: The space, complete.
        kept: The positions; every run to one of them must go through them only.
    """

    def __init__(self, whole: Space[S], kept: S) -> None:
        super().__init__(whole.rules, whole.limits)
        self.whole = whole
        self.reachable, self.unexplored, self.start = kept, whole.unexplored, whole.start
        self.alike, self.by_position = whole.alike, whole.by_position

    def before(self, targets: S, within: S | None = None) -> S:
        inside = self.reachable if within is None else within & self.reachable
        return self.whole.before(targets & self.reachable, inside)

    def after(
        self,
        sources: S,
        around: int | None = None,
        without: Collection[int] = (),
        avoiding: S | None = None,
    ) -> S:
        outside = self.whole.reachable - self.reachable
        outside = outside if avoiding is None else outside | avoiding
        return self.whole.after(sources & self.reachable, around, without, outside)

    def leading(
        self, sources: S, targets: S, changing: tuple[int, int] | None = None
    ) -> dict[Move, S]:
        kept = self.reachable
        return self.whole.leading(sources & kept, targets & kept, changing)

    def where(self, guard: Expression) -> S:
        return self.whole.where(guard) & self.reachable

    def ended(self, end: int) -> S:
        return self.whole.ended(end) & self.reachable

    def at(self, place: int) -> S:
        return self.whole.at(place) & self.reachable

    def places(self, positions: S) -> set[int]:
        return self.whole.places(positions)

    def having(self, variable: int, value: int, within: S) -> S:
        return self.whole.having(variable, value, within)

    def count(self, positions: S) -> int:
        return self.whole.count(positions)

    def contains(self, positions: S, position: Position) -> bool:
        return self.whole.contains(positions, position)

    def only(self, position: Position) -> S:
        return self.whole.only(position) & self.reachable

    def run_to(
        self, targets: S, within: S | None = None, estimate: MakeEstimate | None = None
    ) -> Run | None:
        inside = self.reachable if within is None else within & self.reachable
        return self.whole.run_to(targets & self.reachable, inside, estimate)
