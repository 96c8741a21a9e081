"""How far a search may go."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Limits:
    """Bounds on a search; a search that meets one says so, and claims nothing it has not seen.

    Attributes:
        positions: The most positions to explore.
        seconds: The most time to take, in seconds; ``None`` for no bound.
    """

    positions: int = 1_000_000
    seconds: float | None = None
