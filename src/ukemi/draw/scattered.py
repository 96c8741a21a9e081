"""Draw where scattered things landed, and how long the levels became."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import numpy as np
from matplotlib.figure import Figure
from matplotlib.ticker import MaxNLocator

from ..level import Level
from ..level.names import in_list
from .shaded_map import FOOT, Shaded, draw_shaded
from .style import theme

#: The placement of one level: each thing with its room.
Where = Sequence[tuple[str, str]]

#: The number of places that are named for each thing.
_MOST_NAMED = 5


def draw_scattered(level: Level, found: Sequence[Where], steps: Sequence[int]) -> Figure:
    """Draw how often each thing landed where, over the level, and the spread of the steps.

    Args:
        level: The level that was scattered, without the things.
        found: The placement of each level.
        steps: The steps of each one's shortest finishing run.

    Returns:
        The figure: shading from light to dark, and each share written as well.
    """
    counts: dict[str, Counter[str]] = {}
    for where in found:
        for thing, spot in where:
            counts.setdefault(thing, Counter())[spot] += 1
    of = len(found)
    shaded = Shaded(
        f"{level.name}: where {in_list(counts) or 'nothing'} landed, in % of {of:,} levels",
        "things there, for each 100 levels",
    )
    cells = {name: str(room.cell) for name, room in level.rooms.items() if room.cell is not None}
    for name, room in level.rooms.items():
        inside = {name: "", **{chest: f" ({chest})" for chest in room.chests}}
        inside |= {act.name: f" ({act.name})" for act in room.all_acts()}
        for thing, by_spot in counts.items():
            for spot, said in inside.items():
                if by_spot[spot]:
                    words = f"{thing} {_percent(by_spot[spot], of)}{said}"
                    shaded.lines.setdefault(name, []).append(words)
    for thing, by_spot in counts.items():
        shaded.below.append(_places(thing, by_spot, of))
        for spot, count in by_spot.items():
            where_it_is = cells.get(spot, spot) if level.maps else _room_of(level, spot)
            shaded.values[where_it_is] = shaded.values.get(where_it_is, 0.0) + 100 * count / of
    figure = draw_shaded(level, shaded, FOOT)
    _spread_of_steps(figure, steps)
    return figure


def _room_of(level: Level, spot: str) -> str:
    return spot if spot in level.rooms else level.things[spot].room


def _percent(count: int, of: int) -> str:
    return f"{100 * count / of:.0f} %" if count * 200 >= of else "<1 %"


def _places(thing: str, by_spot: Counter[str], of: int) -> str:
    """Where a thing landed, the likeliest places first."""
    first = [f"{spot} {_percent(count, of)}" for spot, count in by_spot.most_common(_MOST_NAMED)]
    more = len(by_spot) - len(first)
    return f"{thing}: {', '.join(first)}" + (f", and {more} more places" if more > 0 else "")


def _spread_of_steps(figure: Figure, steps: Sequence[int]) -> None:
    """The steps of the shortest finishing runs, as bars at the foot."""
    width, height = figure.get_figwidth() * 72, figure.get_figheight() * 72
    axes = figure.add_axes(
        (56 / width, 46 / height, min(width - 90, 620) / width, (FOOT - 110) / height)
    )
    axes.set_facecolor(theme().paper)
    axes.set_title(
        "Steps of the shortest finishing run", size=11, weight="bold", color=theme().ink, loc="left"
    )
    if steps:
        least, most = min(steps), max(steps)
        each = max(1, -(-(most - least + 1) // 24))
        edges = np.arange(least, most + each + 1, each)
        numbers, _ = np.histogram(steps, edges)
        middles = edges[:-1] + (each - 1) / 2
        axes.bar(middles, numbers, width=each * 0.86, color=theme().route)
        axes.set_xlim(least - max(each, 2), most + max(each, 2))
    axes.set_xlabel("steps", size=9, color=theme().ink)
    axes.set_ylabel("levels", size=9, color=theme().ink)
    for axis in (axes.xaxis, axes.yaxis):
        axis.set_major_locator(MaxNLocator(integer=True))
    axes.tick_params(labelsize=8, colors=theme().ink)
    for side in ("top", "right"):
        axes.spines[side].set_visible(False)
    for side in ("left", "bottom"):
        axes.spines[side].set_color(theme().faint)
