"""Draw where a crowd spends its steps: each room, or cell of a map, with the steps of a run there."""

from __future__ import annotations

from collections.abc import Mapping

from matplotlib.figure import Figure

from ..level import Level
from ..level.maps.paths import Paths
from .shaded_map import Shaded, draw_shaded


def draw_steps(
    level: Level,
    title: str,
    spent: Mapping[str, float],
    entered: Mapping[str, float],
    walked: Mapping[tuple[str, str], float],
) -> Figure:
    """Draw where simulated players spend their steps.

    In a room stand the steps of a run that begin there. On a map, a walk counts for every cell that it enters.

    Args:
        title: The title of the picture.
        spent: The steps of a run in each room, on average.
        entered: The share of runs that enter each room, from 0 to 1.
        walked: How often a run walks from one room to another, on average.
    """
    shaded = Shaded(title, "steps of a run there, on average")
    total = sum(spent.values()) or 1.0
    for room in level.rooms:
        steps = spent.get(room, 0.0)
        lines = [f"{steps:.1f} steps, {steps / total:.0%} of all"] if steps else []
        shaded.lines[room] = [*lines, f"entered by {entered.get(room, 0.0):.0%} of runs"]
    shaded.values = _by_cells(level, walked) if level.maps else dict(spent)
    return draw_shaded(level, shaded)


def _by_cells(level: Level, walked: Mapping[tuple[str, str], float]) -> dict[str, float]:
    """Count how often a run enters each cell, plain floor on the way included."""
    paths = Paths(level)
    found: dict[str, float] = {}
    for (a, b), times in walked.items():
        for cell in paths.cells(a, b)[1:]:
            found[str(cell)] = found.get(str(cell), 0.0) + times
    return found
