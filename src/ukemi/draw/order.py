"""The picture of what must come before what in every finishing run."""

from __future__ import annotations

from typing import Any

from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.patches import FancyArrowPatch, FancyBboxPatch

from ..checks import Answer, Report
from ..checks.backbone import backbone
from .layout import Box
from .style import FONT, fit, plain, scale_text, sheet, text_width, theme

_GAP, _ROW, _MARGIN, _TITLE = 46.0, 46.0, 28.0, 62.0


def draw_order(report: Report, axes: Axes | None = None) -> Figure:
    """Draw what must come before what, from left to right.

    Args:
        report: A checked level.
        axes: Where to draw; ``None`` for a figure of its own.

    Returns:
        The figure. Things in one column that no arrow joins are free: they can be done in any order.
    """
    level, answers = report.level, report.answers
    kinds = {
        "door": answers.doors,
        "chest": answers.chests,
        "act": answers.acts,
        "take": answers.items,
    }
    names = {
        name: kind
        for kind, statuses in kinds.items()
        for name, status in statuses.items()
        if status == Answer.REQUIRED
    }
    pairs = backbone(answers)
    columns = _columns(list(names), pairs)
    last = {name for name in names if not any(earlier == name for earlier, _ in pairs)}
    said = {name: _words(kind, name) for name, kind in names.items()}
    boxes = _place(columns, said)
    right = max([box.x + box.width / 2 for box in boxes.values()], default=0.0)
    goal = Box(right + _GAP + 40, 0, 80, 28)
    width = max(goal.x + 40 + _MARGIN, text_width(level.name, 15) + 240)
    tall = max([len(column) for column in columns], default=1) * _ROW
    height = tall + _TITLE + _MARGIN + 20
    bounds = (0, width, -tall / 2 - _MARGIN - 20, tall / 2 + _TITLE)
    own = axes is None
    if axes is None:
        figure, axes = sheet(width, height)
        axes.set_ylim(*bounds[2:])
    else:
        figure, axes = fit(axes, bounds)
    title = f"{level.name}: what must come before what"
    axes.text(
        _MARGIN, tall / 2 + 40, plain(title), size=15, weight="bold", color=theme().ink, va="center"
    )
    for earlier, later in pairs:
        _arrow(axes, boxes[earlier], boxes[later])
    for name in last:
        _arrow(axes, boxes[name], goal)
    for name, box in boxes.items():
        _draw_box(axes, box, said[name], theme().room)
    _draw_box(axes, goal, "finish", theme().goal)
    note = "What no arrow joins can be done in any order."
    if answers.order is None:
        note = "The order is not settled: the search was cut short."
    elif not names:
        note = "Nothing but walking must be done to finish."
    axes.text(_MARGIN, -tall / 2 - _MARGIN, note, size=9, color=theme().faint, va="center")
    if not own:
        scale_text(axes)
    return figure


def _words(kind: str, name: str) -> str:
    if kind == "take":
        room, _, item = name.rpartition("/")
        return f"take {item} ({room})"
    return f"{'open' if kind in ('door', 'chest') else 'do'} {name}"


def _columns(names: list[str], pairs: tuple[tuple[str, str], ...]) -> list[list[str]]:
    """Names by how many must come before them in a row at least."""
    depth = dict.fromkeys(names, 0)
    changed = True
    while changed:
        changed = False
        for earlier, later in pairs:
            if depth[later] <= depth[earlier]:
                depth[later] = depth[earlier] + 1
                changed = True
    columns: list[list[str]] = [[] for _ in range(max(depth.values(), default=-1) + 1)]
    for name, number in depth.items():
        columns[number].append(name)
    return columns


def _place(columns: list[list[str]], said: dict[str, str]) -> dict[str, Box]:
    boxes: dict[str, Box] = {}
    x = _MARGIN
    for column in columns:
        width = max(text_width(said[name], FONT) for name in column) + 22
        for number, name in enumerate(column):
            y = ((len(column) - 1) / 2 - number) * _ROW
            boxes[name] = Box(x + width / 2, y, width, 28)
        x += width + _GAP
    return boxes


def _arrow(axes: Any, a: Box, b: Box) -> None:
    axes.add_patch(
        FancyArrowPatch(
            (a.x + a.width / 2, a.y), (b.x - b.width / 2, b.y), arrowstyle="-|>",
            connectionstyle="arc3,rad=0", mutation_scale=13, color=theme().ink, linewidth=1.3, zorder=1,
            shrinkA=1, shrinkB=1,
        )
    )  # fmt: skip


def _draw_box(axes: Any, box: Box, text: str, fill: str) -> None:
    axes.add_patch(
        FancyBboxPatch(
            (box.x - box.width / 2, box.y - box.height / 2), box.width, box.height,
            boxstyle="round,pad=0,rounding_size=5", facecolor=fill, edgecolor=theme().ink, linewidth=1.1, zorder=2,
        )
    )  # fmt: skip
    axes.text(
        box.x,
        box.y,
        plain(text),
        size=FONT,
        ha="center",
        va="center_baseline",
        color=theme().ink,
        zorder=3,
    )
