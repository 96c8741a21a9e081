"""A route on the map: the passages walked, and a number where each move is made."""

from __future__ import annotations

from collections import defaultdict
from typing import Any

from matplotlib.patches import FancyArrowPatch

from ..checks.route_words import stops
from ..level import Level
from ..rules import END, PLAYING, Move
from ..search import Route
from .layout import Box
from .style import plain, theme
from .ways import Way


def draw_route(
    axes: Any,
    route: Route,
    boxes: dict[str, Box],
    lines: dict[str, Way],
    labels: dict[str, Box],
) -> None:
    """Lay a route on a map.

    Args:
        axes: The map's axes.
        route: The route.
        boxes: The rooms' boxes, in the order of the level.
        lines: The passages' lines.
        labels: The passages' labels.
    """
    rooms = list(boxes)
    at_spot: dict[tuple[str, str], list[int]] = defaultdict(list)
    for number, move in enumerate(route.moves, 1):
        here = rooms[route.positions[number - 1][0]]
        at_spot[_spot(move, here)].append(number)
    wrong = len(route.moves) if ends_wrong(route) else None
    for (kind, name), numbers in at_spot.items():
        if kind == "walk":
            passage, _, towards = name.partition("\n")
            _walk(axes, lines[passage], towards, numbers, wrong)
        elif kind == "door" and name in labels:
            box = labels[name]
            _badge(axes, box.x + box.width / 2, box.y + box.height / 2, numbers, wrong)
        else:
            box = boxes[name]
            _badge(axes, box.x + box.width / 2, box.y + box.height / 2, numbers, wrong)


def _spot(move: Move, here: str) -> tuple[str, str]:
    """Where on the map a move is made."""
    match move.what["do"]:
        case "walk":
            return "walk", f"{move.what['name']}\n{move.what['to']}"
        case "unlock":
            return "door", move.what["name"]
    return "room", here


def _walk(axes: Any, way: Way, towards: str, numbers: list[int], wrong: int | None) -> None:
    from matplotlib.path import Path as Curve

    ends = [way.begin, way.bend, way.end]
    backward = towards == way.passage.a and way.passage.a != way.passage.b
    if backward:
        ends = ends[::-1]
    axes.add_patch(
        FancyArrowPatch(
            path=Curve(ends, [Curve.MOVETO, Curve.CURVE3, Curve.CURVE3]),
            arrowstyle="-|>",
            mutation_scale=18,
            linewidth=3.4,
            color=theme().route,
            alpha=0.85,
            zorder=1.5,
        )
    )
    x, y = way.at(0.85 if backward else 0.15)
    _badge(axes, x, y, numbers, wrong)


def ends_wrong(route: Route) -> bool:
    """Whether a route ends in a mistake: every other one ends by finishing or in a goal."""
    return bool(route.moves) and route.positions[-1][END] == PLAYING


def _badge(axes: Any, x: float, y: float, numbers: list[int], wrong: int | None) -> None:
    is_wrong = wrong in numbers
    color = theme().wrong if is_wrong else theme().route
    axes.text(
        x,
        y,
        " ".join(f"{number} ×" if number == wrong else str(number) for number in numbers),
        size=10 if is_wrong else 8,
        weight="bold",
        color=theme().paper,
        ha="center",
        va="center",
        zorder=8,
        bbox={
            "boxstyle": "round,pad=0.3" if is_wrong else "round,pad=0.25",
            "facecolor": color,
            "edgecolor": theme().paper,
            "lw": 1,
        },
    )


def list_height(route: Route, level: Level) -> float:
    """The height, in points, of the list of a route's moves."""
    return 24.0 + 14.0 * (_rows(len(stops(route, level))) + ends_wrong(route))


def _rows(number: int) -> int:
    return max(-(-number // 2), min(number, 5))


def list_moves(figure: Any, route: Route, level: Level) -> None:
    """Write the moves of a route at the foot of a figure."""
    told = stops(route, level)
    height, width = figure.get_figheight() * 72, figure.get_figwidth() * 72
    rows = _rows(len(told))
    wrong = ends_wrong(route)

    def write(text: str, column: int, row: int, grave: bool) -> None:
        figure.text(
            (30 + column * width / 2) / width,
            (10 + 14 * (rows + wrong - row)) / height,
            plain(text),
            size=9,
            color=theme().wrong if grave else theme().ink,
            weight="bold" if grave else "normal",
            va="center",
        )

    for number, stop in enumerate(told):
        last = number == len(told) - 1
        write(f"{number + 1}. {stop.words}", *divmod(number, rows), wrong and last)
    if wrong:
        write(f"× After move {len(told)} no run finishes the level.", 0, rows, True)
