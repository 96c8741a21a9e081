"""Spaces: what can come to pass in a level, as sets of positions.

Every question of a check is a short formula over these sets, whatever holds them. Sets know ``|``, ``&``,
``-`` and ``<=``, and are false where they are empty.
"""

from __future__ import annotations

import gc
from abc import ABC, abstractmethod
from collections.abc import Callable, Collection
from dataclasses import dataclass
from typing import Any

from ..rules import Move, Position, Rules
from ..rules.expressions import Expression
from .alike import Alike
from .limits import Limits


@dataclass(frozen=True, eq=False)
class Run:
    """Moves from the start, with what is known of how few steps would do.

    Attributes:
        moves: The moves.
        at_least: What any run to the same end costs at least.
    """

    moves: tuple[Move, ...]
    at_least: int

    @property
    def cost(self) -> int:
        """What it costs."""
        return sum(move.cost for move in self.moves)

    @property
    def shortest(self) -> bool:
        """Whether it is proven that none costs less."""
        return self.cost <= self.at_least


class Space(ABC):
    """What can come to pass in a level.

    Args:
        rules: The rules.
        limits: How far the search may go.

    Attributes:
        reachable: The positions that were reached.
        unexplored: Those of them whose moves were not all followed; none where that is everything.
        start: The one the level begins in.
        alike: Tells players apart again, where one position stands for all that are alike.
        by_position: Whether it is quick to ask whether a set contains one position after another.
    """

    reachable: Any
    unexplored: Any
    start: Any
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
    def before(self, targets: Any, within: Any = None) -> Any:
        """The positions from which some targets can be reached, the targets themselves included.

        Args:
            targets: The targets.
            within: The positions that the ways to them may go through; ``None`` for any reached.
        """

    @abstractmethod
    def after(
        self,
        sources: Any,
        around: int | None = None,
        without: Collection[int] = (),
        avoiding: Any = None,
    ) -> Any:
        """The positions that some positions lead to, themselves included.

        Args:
            sources: Where to begin.
            around: A room that the ways never enter.
            without: Moves that they never make, by number.
            avoiding: Positions that they never come to.
        """

    @abstractmethod
    def leading(
        self, sources: Any, targets: Any, changing: tuple[int, int] | None = None
    ) -> dict[Move, Any]:
        """The moves that lead from some positions to others, and the positions each leads from.

        Args:
            sources: Where they lead from.
            targets: Where they lead to.
            changing: A variable that they change, and what it is before; ``None`` for all of them.
        """

    @abstractmethod
    def where(self, guard: Expression) -> Any:
        """The positions reached in which a guard holds."""

    @abstractmethod
    def ended(self, end: int) -> Any:
        """The positions reached in which the run stands so."""

    @abstractmethod
    def at(self, place: int) -> Any:
        """The positions reached in which the player is in a room."""

    @abstractmethod
    def places(self, positions: Any) -> set[int]:
        """The rooms in which the player is in some positions."""

    @abstractmethod
    def having(self, variable: int, value: int, within: Any) -> Any:
        """Those of some positions in which a variable has a value."""

    @abstractmethod
    def count(self, positions: Any) -> int:
        """How many positions there are in a set."""

    @abstractmethod
    def contains(self, positions: Any, position: Position) -> bool:
        """Whether a position is in a set."""

    @abstractmethod
    def only(self, position: Position) -> Any:
        """The set of one position; empty where that was not reached."""

    @abstractmethod
    def run_to(
        self, targets: Any, within: Any = None, at_least: Callable[[], int] | None = None
    ) -> Run | None:
        """Return a run from the start into a set, a cheapest one as far as the limits allow.

        Args:
            targets: The set.
            within: The positions that the run may go through, the first and the last of them
                included; ``None`` for any.
            at_least: Tells what any run into the set costs at least, if that is known.

        Returns:
            The run, with what any such run costs at least; ``None`` if there is none.

        Raises:
            CutShortError: The limits were met first, and no run is at hand.
        """

    def tidy(self) -> None:
        """Let go of what nobody needs any longer."""
        gc.collect()
