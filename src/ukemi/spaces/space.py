"""Spaces: the reachable positions of a level, as sets.

Every question of a check is a short formula over these sets, whatever holds them. Sets know ``|``, ``&``,
``-`` and ``<=``, and are false where they are empty.
"""

from __future__ import annotations

import gc
from abc import ABC, abstractmethod
from collections.abc import Collection
from typing import Any, Generic, Protocol, TypeVar

from ..rules import Move, Position, Rules
from ..rules.expressions import Expression
from ..values import dataclass
from .alike import Alike
from .estimate import MakeEstimate
from .limits import Limits


class PositionSet(Protocol):
    """A set of positions of one space. It is false if it is empty."""

    def __or__(self: S, other: S, /) -> S: ...

    def __and__(self: S, other: S, /) -> S: ...

    def __sub__(self: S, other: S, /) -> S: ...

    def __le__(self: S, other: S, /) -> bool: ...


S = TypeVar("S", bound=PositionSet)


@dataclass(frozen=True, eq=False)
class Run:
    """Moves from the start, with what is known of how few steps would do.

    Attributes:
        at_least: A lower bound on the cost of any run to the same end.
    """

    moves: tuple[Move, ...]
    at_least: int

    @property
    def cost(self) -> int:
        """The cost."""
        return sum(move.cost for move in self.moves)

    @property
    def shortest(self) -> bool:
        """Whether it is proven that none costs less."""
        return self.cost <= self.at_least


class Space(ABC, Generic[S]):
    """The reachable positions of a level.

    Args:
        limits: How far the search may go.

    Attributes:
        reachable: The positions that were reached.
        unexplored: Those whose moves were not all followed; empty if the space is complete.
        start: The one the level begins in.
        alike: Tells players apart again, where one position stands for all that are alike.
        by_position: Whether it is quick to ask whether a set contains one position after another.
    """

    reachable: S
    unexplored: S
    start: S
    alike: Alike | None = None
    by_position: bool

    def __init__(self, rules: Rules, limits: Limits) -> None:
        self.rules = rules
        self.limits = limits

    @property
    def complete(self) -> bool:
        """Whether every position that can be reached has been."""
        return not self.unexplored

    @abstractmethod
    def before(self, targets: S, within: S | None = None) -> S:
        """The positions from which some targets can be reached, the targets themselves included.

        Args:
            within: The positions that the ways to them may go through; ``None`` for any reached.
        """

    @abstractmethod
    def after(
        self,
        sources: S,
        around: int | None = None,
        without: Collection[int] = (),
        avoiding: S | None = None,
    ) -> S:
        """The positions that some positions lead to, themselves included.

        Args:
            sources: Where to begin.
            around: A room that the ways never enter.
            without: Moves that they never make, by number.
            avoiding: Positions that the runs never reach.
        """

    @abstractmethod
    def leading(
        self, sources: S, targets: S, changing: tuple[int, int] | None = None
    ) -> dict[Move, S]:
        """The moves that lead from some positions to others, and the positions each leads from.

        Args:
            sources: Where they lead from.
            targets: Where they lead to.
            changing: A variable that the moves change, and its value before; ``None`` for all moves.
        """

    @abstractmethod
    def where(self, guard: Expression) -> S:
        """The positions reached in which a guard holds."""

    @abstractmethod
    def ended(self, end: int) -> S:
        """The positions reached whose run has ended in one way, or goes on: a value of :data:`END`."""

    @abstractmethod
    def at(self, place: int) -> S:
        """The positions reached in which the player is in a room."""

    @abstractmethod
    def places(self, positions: S) -> set[int]:
        """The rooms in which the player is in some positions."""

    @abstractmethod
    def having(self, variable: int, value: int, within: S) -> S:
        """Return the positions, among some, in which a variable has a value."""

    @abstractmethod
    def count(self, positions: S) -> int:
        """Return the number of positions in a set."""

    @abstractmethod
    def contains(self, positions: S, position: Position) -> bool:
        """Whether a position is in a set."""

    @abstractmethod
    def only(self, position: Position) -> S:
        """The set of one position; empty where that was not reached."""

    @abstractmethod
    def run_to(
        self, targets: S, within: S | None = None, estimate: MakeEstimate | None = None
    ) -> Run | None:
        """Return a run from the start into a set, a cheapest one if the limits allow.

        Args:
            within: The positions that the run may pass, its first and last included; ``None`` for any.
            estimate: Estimates what runs into the set still cost, from any position on.

        Returns:
            The run, with what any such run costs at least; ``None`` if there is none.

        Raises:
            CutShortError: The limits were met first, and no run is at hand.
        """

    def tidy(self) -> None:
        """Release unused memory."""
        gc.collect()


#: A space, whichever kind of sets it has.
AnySpace = Space[Any]
