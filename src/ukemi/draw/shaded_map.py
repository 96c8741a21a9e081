"""Draw a level with its rooms, or the cells of its maps, shaded by a figure, with a scale."""

from __future__ import annotations

from typing import Any

import numpy as np
from matplotlib.colors import LinearSegmentedColormap, to_hex
from matplotlib.figure import Figure

from ..level import Level
from ..level.maps.tilemap import cell_of
from ..level.room import Cell
from ..values import dataclass, field
from .labels import Written, goal_text
from .map import draw_boxes
from .marks import GOAL, START
from .style import FONT, mark_text, plain, sheet, text_width, theme
from .tile_map import draw_contents, draw_floor

#: The space that is left at the foot for a plot, with the scale above it.
FOOT = 216.0
_MARGIN, _GAP, _SCALE = 30.0, 34.0, 46.0
#: The lightest shade of a cell that has any, and the deepest of a room, on which text stands.
_LIGHTEST, _DEEPEST = 0.25, 0.6


@dataclass
class Shaded:
    """What to shade a level by.

    Attributes:
        title: The title of the picture.
        unit: What the figures count, beside the scale.
        values: The figure of each room, or of each cell of a map.
        lines: What to write in each room, if the level has no maps.
        below: What to write below the maps, if it has some.
    """

    title: str
    unit: str
    values: dict[str, float] = field(default_factory=dict)
    lines: dict[str, list[str]] = field(default_factory=dict)
    below: list[str] = field(default_factory=list)


def draw_shaded(level: Level, shaded: Shaded, foot: float = _SCALE) -> Figure:
    """Draw a level with its rooms or cells shaded.

    Args:
        shaded: What to shade it by.
        foot: The space to leave at the foot, with the scale, in points.

    Returns:
        The figure: shading from light to dark, and each figure written as well.
    """
    return (_on_maps if level.maps else _on_rooms)(level, shaded, foot)


def _shades() -> Any:
    """One hue from light to dark, which is read alike without colour."""
    return LinearSegmentedColormap.from_list("share", [theme().room, theme().serves, theme().route])


def _on_rooms(level: Level, shaded: Shaded, foot: float) -> Figure:
    written: dict[str, list[Written]] = {}
    for name, room in level.rooms.items():
        lines = [Written(room.label or name, size=FONT, bold=True)]
        if name in level.start_rooms():
            lines.append(Written("START", START, "start"))
        if goal_text(level, name):
            lines.append(Written(goal_text(level, name), GOAL, "goal"))
        written[name] = lines + [Written(line) for line in shaded.lines.get(name, ())]
    most = max(shaded.values.values(), default=0.0) or 1.0
    shades = _shades()
    fills = {
        name: to_hex(shades(_DEEPEST * shaded.values.get(name, 0.0) / most)) for name in level.rooms
    }
    labels: dict[str, list[Written]] = {
        one.name: [Written(one.name)] if one.named else [] for one in level.passages
    }
    sketch = level.copy()
    sketch.name = shaded.title
    figure = draw_boxes(sketch, written, labels, fills=fills, below=foot)
    _scale(figure, (0.0, _DEEPEST), most, shaded.unit, foot)
    return figure


def _on_maps(level: Level, shaded: Shaded, foot: float) -> Figure:
    floors = list(level.maps.values())
    side = min(26.0, max(7.0, 980 / max(1, sum(floor.width for floor in floors))))
    wide = sum(floor.width for floor in floors) * side + _GAP * (len(floors) - 1)
    tall = max(len(floor.rows) for floor in floors) * side
    widths = [1.12 * text_width(shaded.title, 15), *(text_width(one, 9) for one in shaded.below)]
    width = max([wide, 360.0, *widths]) + 2 * _MARGIN
    height = 92 + tall + 14 * len(shaded.below) + foot
    figure, page = sheet(width, height)
    page.text(
        _MARGIN, 24, plain(shaded.title), size=15, weight="bold", color=theme().ink, va="center"
    )
    most = max(shaded.values.values(), default=0.0) or 1.0
    x, on_floor = _MARGIN, dict[str, Any]()
    for floor in floors:
        high = len(floor.rows) * side
        place = (x / width, 1 - (60 + high) / height, floor.width * side / width, high / height)
        on_floor[floor.name] = axes = figure.add_axes(place)
        draw_floor(axes, level, floor, frozenset())
        for spot, value in shaded.values.items():
            cell = cell_of(spot)
            if cell is not None and cell.map == floor.name and value:
                _shade(axes, cell, value, most, side)
        x += floor.width * side + _GAP
    draw_contents(on_floor, level, side)
    for number, line in enumerate(shaded.below):
        y = 92 + tall + 14 * number
        page.text(_MARGIN, y, plain(line), size=9, color=theme().ink, va="center")
    _scale(figure, (_LIGHTEST, 1.0), most, shaded.unit, foot)
    return figure


def _scale(
    figure: Figure, shades: tuple[float, float], most: float, unit: str, foot: float
) -> None:
    """The shades from the least to the most, with their figures."""
    width, height = figure.get_figwidth() * 72, figure.get_figheight() * 72
    axes = figure.add_axes((_MARGIN / width, (foot - 30) / height, 150 / width, 9 / height))
    axes.imshow([_shades()(np.linspace(*shades, 100))], aspect="auto", extent=(0, 1, 0, 1))
    axes.set_yticks([])
    axes.set_xticks([0, 1], ["0", _number(most)])
    axes.tick_params(labelsize=8, colors=theme().ink, length=0)
    axes.text(1.08, 0.5, unit, size=8, color=theme().ink, va="center")


def _number(value: float) -> str:
    """A figure in the space of a cell."""
    return (
        f"{value:.0f}"
        if value >= 9.5
        else f"{value:.1f}".removesuffix(".0")
        if value >= 0.05
        else "~0"
    )


def _shade(axes: Any, cell: Cell, value: float, most: float, side: float) -> None:
    color = _shades()(_LIGHTEST + (1 - _LIGHTEST) * value / most)
    extent = (cell.column - 0.5, cell.column + 0.5, cell.row + 0.5, cell.row - 0.5)
    axes.imshow(np.array([[color]]), extent=extent, aspect="auto", zorder=1.2)
    size = min(9.0, 0.42 * side)
    if size >= 5:
        axes.text(
            cell.column, cell.row, _number(value), size=size, ha="center", va="center",
            color=mark_text(to_hex(color)), zorder=3,
        )  # fmt: skip
