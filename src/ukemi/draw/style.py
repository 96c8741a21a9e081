"""Colours and sizes of pictures."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import lru_cache
from unicodedata import category

import numpy as np
from matplotlib.axes import Axes
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.colors import to_rgb
from matplotlib.figure import Figure
from matplotlib.textpath import TextPath

from ..level import Level, Lock
from ..level.conditions import Has, atoms
from ..level.visible import visible
from ..values import dataclass


@dataclass(frozen=True, slots=True)
class Theme:
    """The colours of everything but items and locks.

    Attributes:
        ink, faint: Text and lines, and ones that stand back.
        paper: The ground.
        room, start, goal, wall: The fills of rooms, the start, the goal and walls.
        route, wrong: A route, and the mistake it ends in.
        gained, spent, carried, serves: The fills of table cells.
        area: The ground of an area.
    """

    ink: str
    faint: str
    paper: str
    room: str
    start: str
    goal: str
    wall: str
    route: str
    wrong: str
    gained: str
    spent: str
    carried: str
    serves: str
    area: str


LIGHT = Theme(
    ink="#22252a", faint="#6b7178", paper="#ffffff", room="#f3f1ec", start="#d9ead9", goal="#fbe6c2",
    wall="#5b6068", route="#1f5fa8", wrong="#b3261e", gained="#cfe8d5", spent="#f6d3cf",
    carried="#eceae4", serves="#d7e3f4", area="#f4f7f9",
)  # fmt: skip
DARK = Theme(
    ink="#e9e9e6", faint="#9aa1a9", paper="#16181c", room="#2a2e35", start="#274430", goal="#554018",
    wall="#717882", route="#5c9fe6", wrong="#e0564c", gained="#274f33", spent="#5b2b28",
    carried="#33373f", serves="#263f5c", area="#1d2228",
)  # fmt: skip

_theme: ContextVar[Theme] = ContextVar("theme", default=LIGHT)


def theme() -> Theme:
    """The colours to draw with."""
    return _theme.get()


@contextmanager
def drawn_dark(dark: bool) -> Iterator[None]:
    """Draw in dark colours, or in light ones, as long as this lasts."""
    token = _theme.set(DARK if dark else LIGHT)
    try:
        yield
    finally:
        _theme.reset(token)


#: Colours for items without one; colour-blind people can distinguish them.
PALETTE = (
    "#0072b2", "#d55e00", "#009e73", "#8c4f86", "#a07800", "#4b4b4b",
    "#7cc4f0", "#f2b134", "#8fd14f", "#e58bb8", "#6b3a12", "#b9b9b9",
)  # fmt: skip

FONT = 10.0
SMALL = 8.5


@lru_cache(maxsize=4096)
def text_width(text: str, size: float = FONT) -> float:
    """The width of a line of text, in points."""
    text = visible(text)
    if not text.strip():
        return 0.0
    across = np.empty(0)
    if any(category(letter)[0] in "LNPS" for letter in text):  # else nothing shows by itself
        path = TextPath((0, 0), text.replace("$", "S"), size=size)
        across = path.vertices[path.codes != TextPath.CLOSEPOLY, 0]  # its curves have none beyond
    return float(np.ptp(across)) + 1.0 if len(across) else size * len(text)


def plain(text: str) -> str:
    """Escape text for Matplotlib: a dollar sign begins no formula, and hidden characters show."""
    return visible(text).replace("$", r"\$")


def item_colors(level: Level) -> dict[str, str]:
    """A colour for every item: its own, or one of the palette."""
    colors: dict[str, str] = {}
    for number, item in enumerate(level.items.values()):
        colors[item.name] = item.color or PALETTE[number % len(PALETTE)]
    return colors


def lock_color(level: Level, lock: Lock, colors: dict[str, str]) -> str:
    """The colour of a lock: its own, or that of the first item it needs."""
    if lock.color:
        return lock.color
    wanted = [atom.name for atom in atoms(lock.needs) if isinstance(atom, Has)]
    return next((colors[name] for name in wanted if name in colors), theme().ink)


def fit(axes: Axes, bounds: tuple[float, float, float, float]) -> tuple[Figure, Axes]:
    """Prepare axes that were given: no frame, equal scales, room for what is drawn.

    Args:
        bounds: The left, right, lower and upper end, in the drawing's own measure.

    Returns:
        Their figure, and the axes.
    """
    axes.set_xlim(*bounds[:2])
    axes.set_ylim(*bounds[2:])
    axes.set_aspect("equal")
    axes.set_axis_off()
    figure = axes.get_figure(root=True)
    assert figure is not None
    return figure, axes


def scale_text(axes: Axes) -> None:
    """Shrink the text of axes that are smaller than their drawing, which is measured in points."""
    figure = axes.get_figure(root=True)
    assert figure is not None
    box = axes.get_position()
    wide = box.width * figure.get_figwidth() * 72 / abs(axes.get_xlim()[1] - axes.get_xlim()[0])
    high = box.height * figure.get_figheight() * 72 / abs(axes.get_ylim()[1] - axes.get_ylim()[0])
    for text in axes.texts:
        text.set_fontsize(float(text.get_fontsize()) * min(wide, high, 1.0))


def sheet(width: float, height: float) -> tuple[Figure, Axes]:
    """Return a figure of a size in points, with axes that measure points from the upper left
    corner.

    Returns:
        The figure and its axes.
    """
    figure = Figure(figsize=(width / 72, height / 72), dpi=110, facecolor=theme().paper)
    FigureCanvasAgg(figure)
    axes = figure.add_axes((0, 0, 1, 1))
    axes.set_xlim(0, width)
    axes.set_ylim(height, 0)
    axes.set_axis_off()
    return figure, axes


def mark_text(color: str) -> str:
    """The colour for letters on a mark of some colour: light on dark, dark on light."""
    return "#ffffff" if sum(to_rgb(color)) < 1.5 else "#22252a"
