"""Draw where scattered things landed, and how long the levels became."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from matplotlib.colors import LinearSegmentedColormap, to_hex
from matplotlib.figure import Figure
from matplotlib.ticker import MaxNLocator

from ..level import Level
from ..level.maps.tilemap import cell_of
from ..level.names import in_list
from ..level.room import Cell
from .labels import Written, goal_text
from .map import draw_boxes
from .marks import GOAL, START
from .style import FONT, mark_text, plain, sheet, text_width, theme
from .tile_map import draw_contents, draw_floor

#: The placement of one level: each thing with its room.
Where = Sequence[tuple[str, str]]

_MARGIN, _FOOT, _GAP = 30.0, 216.0, 34.0
#: The lightest shade of a cell in which anything lies, and the deepest of a room, on which text stands.
_LIGHTEST, _DEEPEST = 0.25, 0.6
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
    figure = (_on_maps if level.maps else _on_rooms)(level, counts, len(found))
    _spread_of_steps(figure, steps)
    return figure


def _shades() -> Any:
    """One hue from light to dark, which is read alike without colour."""
    return LinearSegmentedColormap.from_list("share", [theme().room, theme().serves, theme().route])


def _percent(count: int, of: int) -> str:
    return f"{100 * count / of:.0f} %" if count * 200 >= of else "<1 %"


def _on_rooms(level: Level, counts: Mapping[str, Counter[str]], of: int) -> Figure:
    written: dict[str, list[Written]] = {}
    share: dict[str, int] = {}
    for name, room in level.rooms.items():
        inside = {name: "", **{chest: f" ({chest})" for chest in room.chests}}
        inside |= {act.name: f" ({act.name})" for act in room.all_acts()}
        lines = [Written(room.label or name, size=FONT, bold=True)]
        if name == level.start:
            lines.append(Written("START", START, "start"))
        if goal_text(level, name):
            lines.append(Written(goal_text(level, name), GOAL, "goal"))
        for thing, by_spot in counts.items():
            lines += [
                Written(f"{thing} {_percent(by_spot[spot], of)}{said}")
                for spot, said in inside.items()
                if by_spot[spot]
            ]
        share[name] = sum(by_spot[spot] for by_spot in counts.values() for spot in inside)
        written[name] = lines
    most = max(share.values(), default=0) or 1
    shades = _shades()
    fills = {name: to_hex(shades(_DEEPEST * count / most)) for name, count in share.items()}
    labels: dict[str, list[Written]] = {
        one.name: [Written(one.name)] if one.named else [] for one in level.passages
    }
    sketch = level.copy()
    sketch.name = _title(level, counts, of)
    figure = draw_boxes(sketch, written, labels, fills=fills, below=_FOOT)
    _scale(figure, (0.0, _DEEPEST), most, of)
    return figure


def _title(level: Level, counts: Mapping[str, Counter[str]], of: int) -> str:
    return f"{level.name}: where {in_list(counts) or 'nothing'} landed, in % of {of:,} levels"


def _on_maps(level: Level, counts: Mapping[str, Counter[str]], of: int) -> Figure:
    """One map for all things: each cell with how often anything lies there, and a list of each thing's places."""
    cells = {name: str(room.cell) for name, room in level.rooms.items() if room.cell is not None}
    together: Counter[str] = Counter()
    for by_spot in counts.values():
        for spot, count in by_spot.items():
            together[cells.get(spot, spot)] += count
    floors = list(level.maps.values())
    side = min(26.0, max(7.0, 980 / max(1, sum(floor.width for floor in floors))))
    wide = sum(floor.width for floor in floors) * side + _GAP * (len(floors) - 1)
    tall = max(len(floor.rows) for floor in floors) * side
    listed = [_places(thing, by_spot, of) for thing, by_spot in counts.items()]
    title = _title(level, counts, of)
    widths = [1.12 * text_width(title, 15), *(text_width(line, 9) for line in listed)]
    width = max([wide, 360.0, *widths]) + 2 * _MARGIN
    height = 92 + tall + 14 * len(listed) + _FOOT
    figure, page = sheet(width, height)
    page.text(_MARGIN, 24, plain(title), size=15, weight="bold", color=theme().ink, va="center")
    most = max(together.values(), default=1)
    x, on_floor = _MARGIN, dict[str, Any]()
    for floor in floors:
        high = len(floor.rows) * side
        place = (x / width, 1 - (60 + high) / height, floor.width * side / width, high / height)
        on_floor[floor.name] = axes = figure.add_axes(place)
        draw_floor(axes, level, floor, frozenset())
        for spot, count in together.items():
            cell = cell_of(spot)
            if cell is not None and cell.map == floor.name:
                _shade(axes, cell, count, most, of, side)
        x += floor.width * side + _GAP
    draw_contents(on_floor, level, side)
    for number, line in enumerate(listed):
        y = 92 + tall + 14 * number
        page.text(_MARGIN, y, plain(line), size=9, color=theme().ink, va="center")
    _scale(figure, (_LIGHTEST, 1.0), most, of)
    return figure


def _places(thing: str, by_spot: Counter[str], of: int) -> str:
    """Where a thing landed, the likeliest places first."""
    first = [f"{spot} {_percent(count, of)}" for spot, count in by_spot.most_common(_MOST_NAMED)]
    more = len(by_spot) - len(first)
    return f"{thing}: {', '.join(first)}" + (f", and {more} more places" if more > 0 else "")


def _scale(figure: Figure, shades: tuple[float, float], most: int, of: int) -> None:
    """The shades from the least to the most, with their shares."""
    width, height = figure.get_figwidth() * 72, figure.get_figheight() * 72
    axes = figure.add_axes((_MARGIN / width, (_FOOT - 30) / height, 150 / width, 9 / height))
    axes.imshow([_shades()(np.linspace(*shades, 100))], aspect="auto", extent=(0, 1, 0, 1))
    axes.set_yticks([])
    axes.set_xticks([0, 1], ["0" if shades[0] == 0 else "<1", f"{100 * most / of:.0f}"])
    axes.tick_params(labelsize=8, colors=theme().ink, length=0)
    words = "things there, for each 100 levels"
    axes.text(1.08, 0.5, words, size=8, color=theme().ink, va="center")


def _shade(axes: Any, cell: Cell, count: int, most: int, of: int, side: float) -> None:
    color = _shades()(_LIGHTEST + (1 - _LIGHTEST) * count / most)
    extent = (cell.column - 0.5, cell.column + 0.5, cell.row + 0.5, cell.row - 0.5)
    axes.imshow(np.array([[color]]), extent=extent, aspect="auto", zorder=1.2)
    share = 100 * count / of
    text = f"{share:.0f}" if share >= 0.5 else "<1"
    size = min(9.0, 0.42 * side)
    if size >= 5:
        axes.text(
            cell.column, cell.row, text, size=size, ha="center", va="center", color=mark_text(to_hex(color)),
            zorder=3,
        )  # fmt: skip


def _spread_of_steps(figure: Figure, steps: Sequence[int]) -> None:
    """The steps of the shortest finishing runs, as bars at the foot."""
    width, height = figure.get_figwidth() * 72, figure.get_figheight() * 72
    axes = figure.add_axes(
        (56 / width, 46 / height, min(width - 90, 620) / width, (_FOOT - 110) / height)
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
