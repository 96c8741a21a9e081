"""A route on the map: the passages walked, and a number where each move is made."""

from __future__ import annotations

from collections import defaultdict
from math import hypot
from typing import Any

from matplotlib.patches import FancyArrowPatch

from ..checks.route_words import stops
from ..level import Level
from ..rules import END, PLAYING, Move
from ..spaces import Route
from ..values import dataclass
from .box_positions import Box
from .style import plain, theme
from .ways import MARK_MIDDLE, Way

#: A label of one line is lower than this, in points.
_LOW = 20.0


def draw_route(
    axes: Any,
    level: Level,
    route: Route,
    boxes: dict[str, Box],
    lines: dict[str, Way],
    labels: dict[str, Box],
) -> None:
    """Lay a route on a map.

    Args:
        axes: The map's axes.
        boxes: The rooms' boxes, in the order of the level.
        lines: The passages' lines.
        labels: The passages' labels.
    """
    players: list[str | None] = [*level.players] or [None]
    rooms = {player: level.begins(player)[0] for player in players}
    at_spot: dict[tuple[str, str, str | None], list[int]] = defaultdict(list)
    # A move made several times in a row is one in the list of moves.
    number_of = [
        number
        for number, stop in enumerate(stops(route, level), 1)
        for _ in range(stop.first, stop.last + 1)
    ]
    for number, move in zip(number_of, route.moves, strict=True):
        by = move.what.get("by", players[0])
        kind, name = _spot(move, rooms[by])
        if kind == "door" and name not in labels:  # one cell of a map
            kind, name = "room", rooms[by]
        at = at_spot[kind, name, by if kind == "walk" else None]
        if number not in at:
            at.append(number)
        if move.what["do"] == "walk":
            rooms[by] = move.what["to"]
    wrong = number_of[-1] if ends_wrong(route) else None
    letters = dict(
        zip(number_of, (_letter(move, list(level.players)) for move in route.moves), strict=True)
    )
    for (kind, name, by), numbers in at_spot.items():
        label = " ".join(
            f"{number}{letters[number]} ×" if number == wrong else f"{number}{letters[number]}"
            for number in numbers
        )
        if kind == "walk":
            passage, _, towards = name.partition("\n")
            line = PlayerLine(players.index(by), len(players))
            _walk(axes, lines[passage], towards, line, label, wrong in numbers)
            continue
        box = labels[name] if kind == "door" else boxes[name]
        x, y = box.x + box.width / 2, box.y + box.height / 2
        if box.height < _LOW:  # a mark on a line, whose name must stay readable
            x, y = box.x - box.width / 2 + MARK_MIDDLE, y + 10
        _badge(axes, x, y, label, wrong in numbers)


def _letter(move: Move, players: list[str]) -> str:
    """The shortest prefixes that tell the players of a route apart."""
    by = move.what.get("by")
    if by is None:
        return ""
    length = next(
        n
        for n in range(1, len(by) + 1)
        if n == len(by) or sum(p[:n] == by[:n] for p in players) == 1
    )
    return str(by[:length])


@dataclass(frozen=True)
class PlayerLine:
    """How the walks of one of several players are drawn: beside the others', in a style of its own."""

    number: int
    count: int

    @property
    def style(self) -> Any:
        """The style, as Matplotlib takes it."""
        return ("-", (0, (3, 1.2)), (0, (1, 0.8)), (0, (4, 1, 1, 1)))[self.number % 4]

    @property
    def words(self) -> str:
        """The style in words."""
        return ("solid", "dashed", "dotted", "dashed and dotted")[self.number % 4]

    @property
    def aside(self) -> float:
        """How far it runs beside the passage, in points."""
        return (self.number - (self.count - 1) / 2) * 8


def _spot(move: Move, here: str) -> tuple[str, str]:
    """Where on the map a move is made."""
    match move.what["do"]:
        case "walk":
            return "walk", f"{move.what['name']}\n{move.what['to']}"
        case "unlock":
            return "door", move.what["name"]
    return "room", here


def _walk(axes: Any, way: Way, towards: str, line: PlayerLine, label: str, wrong: bool) -> None:
    from matplotlib.path import Path as Curve

    (x0, y0), (x1, y1) = way.begin, way.end
    far = hypot(x1 - x0, y1 - y0) or 1.0
    dx, dy = -(y1 - y0) / far * line.aside, (x1 - x0) / far * line.aside
    ends = [(x + dx, y + dy) for x, y in (way.begin, way.bend, way.end)]
    backward = towards == way.passage.a and way.passage.a != way.passage.b
    if backward:
        ends = ends[::-1]
    axes.add_patch(
        FancyArrowPatch(
            path=Curve(ends, [Curve.MOVETO, Curve.CURVE3, Curve.CURVE3]),
            arrowstyle="-|>",
            mutation_scale=18,
            linewidth=3.4,
            linestyle=line.style,
            color=theme().route,
            alpha=0.85,
            zorder=1.5,
        )
    )
    along = 0.1 + 0.11 * line.number
    x, y = way.at(1 - along if backward else along)
    _badge(axes, x + 2 * dx, y + 2 * dy, label, wrong)


def ends_wrong(route: Route) -> bool:
    """Whether a route ends in a mistake: every other one ends by finishing or in a goal."""
    return bool(route.moves) and route.positions[-1][END] == PLAYING


def _badge(axes: Any, x: float, y: float, label: str, wrong: bool) -> None:
    axes.text(
        x,
        y,
        label,
        size=10 if wrong else 8,
        weight="bold",
        color=theme().paper,
        ha="center",
        va="center",
        zorder=8,
        bbox={
            "boxstyle": "round,pad=0.3" if wrong else "round,pad=0.25",
            "facecolor": theme().wrong if wrong else theme().route,
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
    shown = stops(route, level)
    height, width = figure.get_figheight() * 72, figure.get_figwidth() * 72
    rows = _rows(len(shown))
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

    for number, stop in enumerate(shown):
        last = number == len(shown) - 1
        write(f"{number + 1}. {stop.words}", *divmod(number, rows), wrong and last)
    if wrong:
        write(f"× After move {len(shown)} no run finishes the level.", 0, rows, True)
