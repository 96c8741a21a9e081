"""How far a search may go."""

from __future__ import annotations

from dataclasses import dataclass

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
