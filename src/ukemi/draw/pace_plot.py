"""The picture of a level's pace: what is new along the shortest runs, and how far the level is open."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.figure import Figure

from ..checks import Report
from ..questions.answers import PacePoint
from .style import SMALL, plain, text_width, theme

_NAMES = {"finish": "Shortest finishing run", "all-rewards": "Shortest run with every reward"}

#: The sizes of the parts of the picture, in points: the plot of a run, the margins, the title.
_PLOT, _LEFT, _RIGHT, _BELOW, _TITLE = 150.0, 60.0, 90.0, 46.0, 44.0
#: The longest name of what is new, in points.
_LONGEST = 150.0
#: Names closer than this would be drawn over each other, in points.
_APART = 11.0


def draw_pace(report: Report) -> Figure:
    """Draw what happens along the shortest finishing run, and the one with every reward, step by step.

    Two lines show, before each step, how many rooms can be walked to and how many different things be done there.
    What is taken, opened, done or turned on stands above; ground that is walked again is shaded.

    Returns:
        The figure. All runs have the same axis of steps.

    Raises:
        ValueError: There is no run that is proven shortest.
    """
    runs = dict(report.answers.measures.pace)
    if not runs:
        raise ValueError("there is no run that is proven shortest")
    if "all-rewards" in runs and not report.answers.rewards:
        del runs["all-rewards"]
    steps = max(_end(points) for points in runs.values())
    new = max(sum(point.is_new for point in points) for points in runs.values())
    width = max(620.0, min(1_400.0, max(steps * 14.0, new * _APART))) + _LEFT + _RIGHT
    longest = max(text_width(_new(one), SMALL) for points in runs.values() for one in points)
    above = min(longest, _LONGEST) + 34
    each = _PLOT + above + _BELOW
    height = _TITLE + each * len(runs)
    figure = Figure(figsize=(width / 72, height / 72), dpi=110, facecolor=theme().paper)
    FigureCanvasAgg(figure)
    title = plain(f"{report.level.name}: pace")
    figure.text(
        _LEFT / width,
        1 - 22 / height,
        title,
        size=15,
        weight="bold",
        color=theme().ink,
        va="center",
    )
    for number, (name, points) in enumerate(runs.items()):
        low = height - _TITLE - each * (number + 1) + _BELOW
        box = (_LEFT / width, low / height, (width - _LEFT - _RIGHT) / width, _PLOT / height)
        axes = figure.add_axes(box)
        axes.set_title(_NAMES[name], loc="left", size=10, color=theme().ink, pad=above - 14)
        _draw_run(axes, points, steps, width - _LEFT - _RIGHT)
    return figure


def _new(point: PacePoint) -> str:
    """Return what is new at a point, in words."""
    words = [f"{count} {item}" if count > 1 else item for item, count in point.gets.items()]
    return plain(", ".join([*point.opens, *words]))


def _end(points: Sequence[PacePoint]) -> int:
    return points[-1].steps + points[-1].cost


def _draw_run(axes: Any, points: Sequence[PacePoint], steps: int, width: float) -> None:
    ink, faint = theme().ink, theme().faint
    axes.set_facecolor(theme().paper)
    ends = [point.steps for point in points] + [_end(points)]
    most = max(max(point.rooms, point.things) for point in points)
    for point in points:
        if point.again and point.cost:
            axes.axvspan(point.steps, point.steps + point.cost, color=faint, alpha=0.22, lw=0)
    for values, style, color in (
        ([point.rooms for point in points], "-", theme().route),
        ([point.things for point in points], (0, (4, 2)), ink),
    ):
        axes.step(ends, [*values, values[-1]], where="post", color=color, lw=2.0, linestyle=style)
    at = [(ends[-1], points[-1].rooms, "rooms in reach", theme().route)]
    at.append((ends[-1], points[-1].things, "things to do", ink))
    apart = abs(points[-1].rooms - points[-1].things) / max(most, 1) * _PLOT
    shift = 0.0 if apart > 12 else (12 - apart) / 2
    up = 1 if points[-1].rooms >= points[-1].things else -1
    for (x, y, words, color), above in zip(at, (up, -up), strict=True):
        axes.annotate(words, (x, y), (6, above * shift), textcoords="offset points", size=SMALL,
                      color=color, va="center", annotation_clip=False)  # fmt: skip
    axes.set_xlim(0, max(steps, 1))
    axes.set_ylim(0, most * 1.08 + 0.2)
    axes.set_xlabel("steps walked before it (shaded: ground walked again)", size=SMALL, color=faint)
    axes.tick_params(labelsize=SMALL, colors=faint, length=3)
    axes.yaxis.get_major_locator().set_params(integer=True)
    axes.xaxis.get_major_locator().set_params(integer=True)
    for name, line in axes.spines.items():
        line.set_visible(name in ("left", "bottom"))
        line.set_color(faint)
    _draw_new(axes, points, max(steps, 1), width)


def _draw_new(axes: Any, points: Sequence[PacePoint], steps: int, width: float) -> None:
    """The names of what is new, above the plot, each with a line down to its step."""
    free = float("-inf")
    for point in (one for one in points if one.is_new):
        step = point.steps + point.cost
        text = _new(point)
        while text_width(text, SMALL) > _LONGEST:
            text = text[:-2] + "…"
        x = max(step * width / steps, free)
        free = x + _APART
        axes.plot(
            [step, step], [0, 1], transform=axes.get_xaxis_transform(), color=theme().faint, lw=0.6
        )
        axes.annotate(
            text, (step, 1), (x - step * width / steps, 5), xycoords=axes.get_xaxis_transform(),
            textcoords="offset points", rotation=90, size=SMALL, ha="center", va="bottom",
            color=theme().ink, annotation_clip=False,
        )  # fmt: skip
