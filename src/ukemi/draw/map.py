"""Draw the picture of a level: rooms, passages, the things in them, and a route if there is one."""

from __future__ import annotations

import os
from collections.abc import Collection, Iterable, Mapping
from io import BytesIO
from pathlib import Path
from typing import Any

from matplotlib import rc_context
from matplotlib.axes import Axes
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.colors import to_rgba
from matplotlib.figure import Figure
from matplotlib.patches import FancyArrowPatch, FancyBboxPatch, Rectangle

from ..language.files.replacing import PICTURES, write_file
from ..level import Level, LevelError, Problem
from ..spaces import Route
from .areas import draw_areas
from .box_positions import MOST_ROOMS, Box, too_many
from .labels import (
    MARK_WIDTH,
    Written,
    event_text,
    goal_text,
    note_lines,
    on_its_line,
    passage_lines,
    room_lines,
    size_of,
)
from .layout import laid_out
from .marks import draw_mark
from .route import draw_route, list_height, list_moves
from .style import SMALL, fit, plain, scale_text, text_width, theme
from .ways import Way

_MARGIN, _LEGEND, _EVENT = 30.0, 30.0, 14.0
_KINDS = {"start": "start", "goal": "goal", "item": "key or tool", "reward": "reward", "supply": "supply", "door": "door, with the letters of its key",
          "gate": "gate", "chest": "chest", "act": "switch (!), act (?)"}  # fmt: skip


def draw_map(
    level: Level,
    route: Route | None = None,
    unreached: Collection[str] = frozenset(),
    axes: Axes | None = None,
    notes: bool = False,
) -> Figure:
    """Draw a level: its floors, where it has maps, else its rooms and passages.

    Args:
        route: A route to lay on it.
        unreached: Rooms that no run enters, as in :attr:`Report.unreached`; they are hatched.
        axes: Where to draw, without a title and a list of moves; ``None`` for a figure of its own.
        notes: Whether to list the notes of the level below the picture.

    Raises:
        LevelError: The level has no rooms, or more than a picture shows.
        ValueError: Axes are given for a level with several floors.
    """
    if not level.rooms:
        raise LevelError([Problem("bad-value", "the level has no rooms: there is nothing to draw")])
    if level.maps:
        from .tile_map import draw_tiles

        return draw_tiles(level, route, unreached, axes, notes)
    written = {name: room_lines(level, room) for name, room in level.rooms.items()}
    labels = {passage.name: passage_lines(level, passage) for passage in level.passages}
    return draw_boxes(level, written, labels, route, unreached, axes, notes=notes)


def draw_boxes(
    level: Level,
    written: Mapping[str, list[Written]],
    labels: Mapping[str, list[Written]],
    route: Route | None = None,
    unreached: Collection[str] = frozenset(),
    axes: Axes | None = None,
    fills: Mapping[str, str] | None = None,
    below: float = 0.0,
    notes: bool = False,
) -> Figure:
    """Draw the rooms of a level as boxes, and its passages as lines between them.

    Args:
        written: The label of each room.
        labels: The label of each passage.
        route: A route to lay on it.
        unreached: Rooms that no run enters.
        axes: Where to draw; ``None`` for a figure of its own.
        fills: The fill of some rooms, in place of the usual colours.
        below: How much to leave free at the foot of a figure of its own, in points.
        notes: Whether to list the notes of the level at its foot.

    Raises:
        LevelError: There are more rooms than a picture shows.
    """
    if len(level.rooms) > MOST_ROOMS:
        raise LevelError([Problem("bad-value", f"the level {too_many(len(level.rooms))}")])
    drawn = laid_out(level, written, labels, _room_size)
    boxes, lines, placed = drawn.boxes, drawn.ways, drawn.labels
    bounds = drawn.bounds(_MARGIN)
    own = axes is None
    foot = [event_text(event) for event in level.events.values()]
    foot += note_lines(level) if notes else []
    figure, axes = _canvas(bounds, level, route, below, foot) if axes is None else fit(axes, bounds)
    draw_areas(axes, drawn.frames)
    for way in lines:
        _draw_way(axes, way)
    for name, box in boxes.items():
        _draw_room(axes, level, name, box, written[name], (fills or {}).get(name))
        if name in unreached:
            _hatch(axes, box)
    for name, box in placed.items():
        _draw_label(axes, box, labels[name])
    if route is not None:
        rooms = {name: boxes[name] for name in level.rooms}
        draw_route(axes, level, route, rooms, {way.passage.name: way for way in lines}, placed)
        if own:
            list_moves(figure, route, level)
    if own:
        _draw_legend(
            figure,
            [line for lines in (*written.values(), *labels.values()) for line in lines],
            foot,
            below + (0.0 if route is None else list_height(route, level)),
        )
    else:
        scale_text(axes)
    return figure


def save(
    figure: Figure,
    path: str | os.PathLike[str],
    width: int | None = None,
    inputs: Iterable[str | os.PathLike[str]] = (),
) -> None:
    """Save a picture; the file appears whole or not at all.

    Args:
        figure: The picture.
        path: A file that ends in ``.png``, ``.svg`` or ``.pdf``.
        width: The width of a PNG in pixels; ``None`` for the width at which text is easily read.
        inputs: Files that were read to make it, which it must not be.

    Raises:
        OSError: The file cannot be written, or ends in something else.
    """
    kind = Path(path).suffix.lower()
    kind = kind if kind in PICTURES else ".png"  # a pipe may be called anything
    # Without its date, the same level gives the same file, byte for byte.
    metadata: dict[str, Any] = {".svg": {"Date": None}, ".pdf": {"CreationDate": None}}.get(
        kind, {}
    )
    drawn = BytesIO()
    with rc_context({"svg.hashsalt": "ukemi"}):
        dpi = width / figure.get_figwidth() if width else figure.dpi
        figure.savefig(drawn, format=kind[1:], metadata=metadata, dpi=dpi)
    write_file(path, drawn.getvalue(), endings=PICTURES, inputs=inputs)


def _room_size(lines: list[Written]) -> tuple[float, float]:
    width, height = size_of(lines)
    return max(width, 84.0), max(height, 40.0)


def _canvas(
    bounds: tuple[float, float, float, float],
    level: Level,
    route: Route | None,
    below: float,
    listed: list[str],
) -> tuple[Figure, Any]:
    left, right, low, high = bounds
    said = [text_width(line, SMALL) for line in listed]
    widest = max([1.12 * text_width(level.name, 15), *said])  # it is bold
    right = max(right, left + 520, left + 2 * _MARGIN + widest)
    foot = _legend_height(listed) + below
    foot += 0.0 if route is None else list_height(route, level)
    width, height = right - left, high - low
    figure = Figure(
        figsize=(width / 72, (height + foot + 34) / 72), dpi=110, facecolor=theme().paper
    )
    FigureCanvasAgg(figure)
    total = height + foot + 34
    axes = figure.add_axes((0, foot / total, 1, height / total))
    axes.set_xlim(left, right)
    axes.set_ylim(low, high)
    axes.set_axis_off()
    figure.text(
        _MARGIN / width,
        1 - 24 / total,
        plain(level.name),
        size=15,
        weight="bold",
        color=theme().ink,
        va="center",
    )
    return figure, axes


def _draw_way(axes: Any, way: Way) -> None:
    passage = way.passage
    style = "-" if passage.two_way else "-|>"
    axes.add_patch(
        FancyArrowPatch(
            path=_path(way),
            arrowstyle=style,
            mutation_scale=16,
            linewidth=1.6,
            linestyle=(0, (4, 2)) if passage.once else "-",
            color=theme().ink if passage.lock is None else theme().faint,
            zorder=1,
        )
    )


def _path(way: Way) -> Any:
    from matplotlib.path import Path as Curve

    return Curve([way.begin, way.bend, way.end], [Curve.MOVETO, Curve.CURVE3, Curve.CURVE3])


def _draw_room(
    axes: Any, level: Level, name: str, box: Box, lines: list[Written], fill: str | None
) -> None:
    is_start, is_goal = name in level.start_rooms(), bool(goal_text(level, name))
    fill = fill or (theme().start if is_start else theme().goal if is_goal else theme().room)
    corner = (box.x - box.width / 2, box.y - box.height / 2)
    shape = FancyBboxPatch(
        corner,
        box.width,
        box.height,
        boxstyle="round,pad=0,rounding_size=5",
        facecolor=fill,
        edgecolor=theme().ink,
        linewidth=2.4 if is_start or is_goal else 1.1,
        zorder=2,
    )
    axes.add_patch(shape)
    _write(axes, box, lines, zorder=3)


def _draw_legend(figure: Figure, lines: list[Written], listed: list[str], below: float) -> None:
    """Explain the marks of the picture in a line below it, and list the events and notes."""
    width, height = figure.get_figwidth() * 72, figure.get_figheight() * 72
    own = _legend_height(listed)
    axes = figure.add_axes((0, below / height, 1, own / height))
    axes.set_xlim(0, width)
    axes.set_ylim(0, own)
    axes.set_axis_off()
    used = {line.shape: line.mark for line in reversed(lines) if line.mark}
    x, y = _MARGIN + 6, own - _LEGEND / 2
    for shape, words in _KINDS.items():
        if shape in used:
            color = used[shape] or theme().faint
            draw_mark(axes, (x, y), shape, color, "", 14, 5, down=False)
            axes.text(x + 11, y, words, size=8, color=theme().faint, va="center_baseline")
            x += 26 + text_width(words, 8)
    for number, line in enumerate(listed, 1):
        text, y = plain(line), own - _LEGEND - (number - 0.5) * _EVENT
        axes.text(_MARGIN, y, text, size=SMALL, color=theme().ink, va="center")


def _legend_height(listed: list[str]) -> float:
    return _LEGEND + _EVENT * len(listed)


def _hatch(axes: Any, box: Box) -> None:
    corner = (box.x - box.width / 2, box.y - box.height / 2)
    axes.add_patch(
        Rectangle(
            corner, box.width, box.height, fill=False, hatch="///", edgecolor=to_rgba(theme().faint, 0.4), lw=0, zorder=2.5
        )
    )  # fmt: skip
    low = box.y - box.height / 2 - 9
    axes.text(
        box.x, low, "no run gets here", size=7.5, color=theme().faint, ha="center", va="center"
    )


def _draw_label(axes: Any, box: Box, lines: list[Written]) -> None:
    corner = (box.x - box.width / 2, box.y - box.height / 2)
    axes.add_patch(
        Rectangle(
            corner,
            box.width,
            box.height,
            facecolor=theme().paper,
            edgecolor=theme().faint,
            linewidth=0.0 if on_its_line(lines) else 0.7,
            zorder=4,
        )
    )
    _write(axes, box, lines, zorder=5)


def _write(axes: Any, box: Box, lines: list[Written], zorder: int) -> None:
    y = box.y + sum(line.size * 1.45 for line in lines) / 2
    x = box.x - box.width / 2 + 8
    for line in lines:
        middle = y - line.size * 1.45 / 2
        start = x
        if line.mark:
            at = (x + 6, middle)
            draw_mark(axes, at, line.shape, line.mark, line.letters, 14, 4.8, zorder, down=False)
            start = x + MARK_WIDTH
        axes.text(
            start,
            middle,
            plain(line.text),
            size=line.size,
            color=line.color or theme().ink,
            weight="bold" if line.bold else "normal",
            va="center_baseline",
            zorder=zorder,
        )
        y -= line.size * 1.45
