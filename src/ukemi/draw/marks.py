"""Draw the marks of things: each kind has a shape of its own, so colour is never needed."""

from __future__ import annotations

from html import escape
from typing import Any

from matplotlib.patches import Circle, Polygon, Rectangle

from ..level.maps.tilemap import DIRECTIONS
from .style import mark_text, theme

_OUTLINES = {
    "door": [(-0.46, -0.46), (0.46, -0.46), (0.46, 0.46), (-0.46, 0.46)],
    "chest": [
        (-0.42, -0.1),
        (-0.28, -0.34),
        (0.28, -0.34),
        (0.42, -0.1),
        (0.42, 0.36),
        (-0.42, 0.36),
    ],
    "act": [(-0.36, 0.36), (-0.2, -0.36), (0.2, -0.36), (0.36, 0.36)],
    "reward": [(0, -0.44), (0.44, 0), (0, 0.44), (-0.44, 0)],
    "supply": [(-0.4, 0.34), (0, -0.4), (0.4, 0.34)],
    "start": [(-0.4, -0.4), (0.4, 0), (-0.4, 0.4)],
    "goal": [(-0.34, -0.42), (0.4, -0.2), (-0.14, 0.02), (-0.14, 0.44), (-0.34, 0.44)],
    "gate": [(-0.4, -0.4), (-0.2, -0.4), (-0.2, 0.4), (-0.4, 0.4)],
    "hazard": [(-0.4, 0.3), (-0.2, -0.3), (0, 0.3), (0.2, -0.3), (0.4, 0.3)],
}

#: Colours of marks that have none of their own.
START, GOAL, CHEST, ACT, GATE = "#2e7d32", "#b26a00", "#7a5c2e", "#4b4b4b", "#8c4f86"


def svg_mark(
    x: float, y: float, shape: str, color: str, letters: str, unit: float, kind: str = "swatch"
) -> str:
    """Return a mark as SVG: the same shape as :func:`draw_mark` draws.

    Args:
        x, y: Its middle.
        shape, color, letters: As for :func:`draw_mark`.
        unit: The side of the square it fills.
        kind: The class of the shape.
    """
    style = f'fill="{escape(color, quote=True)}" class="{kind}"'
    if shape == "item":
        drawn = f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{0.4 * unit:.1f}" {style}/>'
    elif shape == "door":
        corner = f'x="{x - 0.42 * unit:.1f}" y="{y - 0.42 * unit:.1f}"'
        drawn = f'<rect {corner} width="{0.84 * unit:.1f}" height="{0.84 * unit:.1f}" {style}/>'
    else:
        outlines = [_OUTLINES[shape]]
        if shape == "gate":  # two posts
            outlines.append([(dx + 0.6, dy) for dx, dy in _OUTLINES[shape]])
        drawn = ""
        for outline in outlines:
            points = " ".join(f"{x + dx * unit:.1f},{y + dy * unit:.1f}" for dx, dy in outline)
            drawn += f'<polygon points="{points}" {style}/>'
    if letters:
        size, ink = 0.42 * unit, mark_text(color)
        text = f'x="{x:.1f}" y="{y + 0.36 * size:.1f}" style="font-size:{size:.1f}px;fill:{ink}"'
        drawn += f'<text {text} class="letter">{escape(letters)}</text>'
    return drawn


def draw_mark(
    axes: Any,
    at: tuple[float, float],
    shape: str,
    color: str,
    letter: str,
    unit: float,
    size: float,
    zorder: float = 3,
    down: bool = True,
) -> None:
    """Draw a mark.

    Args:
        axes: Where to.
        at: Its middle.
        shape: The kind of thing: ``item``, ``reward``, ``supply``, ``door``, ``gate``, ``chest``, ``act``,
            ``start``, ``goal``, ``hazard``, ``named``, or ``one-way`` and a direction.
        color: Its colour.
        letter: The letter on it.
        unit: The side of the square it fills, in the measure of the axes.
        size: The size of the letter, in points.
        zorder: The layer of the drawing.
        down: Whether the axes count downwards.
    """
    x, y = at
    turn = unit if down else -unit
    edge: dict[str, Any] = {"edgecolor": theme().ink, "linewidth": 0.8, "zorder": zorder}
    if shape.startswith("one-way"):
        dx, dy = DIRECTIONS[shape.split()[1]]
        axes.annotate(
            "", (x + 0.38 * dx, y + 0.38 * dy), (x - 0.38 * dx, y - 0.38 * dy),
            arrowprops={"arrowstyle": "-|>", "color": theme().ink, "lw": 1.2, "shrinkA": 0, "shrinkB": 0},
        )  # fmt: skip
        return
    if shape == "item":
        axes.add_patch(Circle(at, 0.38 * unit, facecolor=color, **edge))
    elif shape == "named":
        edge |= {"edgecolor": theme().faint, "linewidth": 1, "linestyle": ":"}
        axes.add_patch(Rectangle((x - 0.4, y - 0.4), 0.8, 0.8, fill=False, **edge))
    else:
        outline = [(x + dx * unit, y + dy * turn) for dx, dy in _OUTLINES[shape]]
        axes.add_patch(Polygon(outline, facecolor=color, **edge))
    if shape == "gate":  # two posts
        post = (x + 0.2 * unit, y - 0.4 * unit)
        axes.add_patch(Rectangle(post, 0.2 * unit, 0.8 * unit, facecolor=color, **edge))
    if letter:
        axes.text(
            x, y, letter, size=size, ha="center", va="center_baseline", color=mark_text(color),
            weight="bold", zorder=zorder + 1,
        )  # fmt: skip
