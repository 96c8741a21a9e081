"""How far a search may go."""

from __future__ import annotations

from dataclasses import dataclass
from time import perf_counter

#: The most positions to explore where nothing else is asked for.
MAX_POSITIONS = 1_000_000


@dataclass(frozen=True, slots=True)
class Limits:
    """Bounds on a search; a search that meets one says so, and claims nothing it has not seen.

    Attributes:
        positions: The most positions to explore.
        seconds: The most time to take, in seconds; ``None`` for no bound.
    """

    positions: int = MAX_POSITIONS
    seconds: float | None = None

    @property
    def deadline(self) -> float | None:
        """The end of the time, if it begins now, on the clock of :func:`time.perf_counter`."""
        return None if self.seconds is None else perf_counter() + self.seconds

    def within(self, positions: int, deadline: float | None) -> Limits:
        """These limits, or closer ones: fewer positions, and what time is left.

        Args:
            positions: The most positions.
            deadline: When the time ends.

        Returns:
            The limits.
        """
        left = None if deadline is None else max(0.0, deadline - perf_counter())
        return Limits(min(positions, self.positions), left)
