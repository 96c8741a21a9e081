"""``ukemi draw``: pictures of a level."""

from __future__ import annotations

import re
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..checks import Answer, Report, check_level
from ..checks.check import unreached_rooms
from ..language import load
from ..language.files.replacing import PICTURES, must_be_writable
from ..level import Level
from ..level.joined import Joined
from ..questions import stages
from ..questions.evidence import gather
from ..spaces import MAX_POSITIONS, Limits, Route
from .check import MaxPositions, MaxSeconds
from .output import fail, print_line
from .searching import MaxMemory, limits_of, searching

if TYPE_CHECKING:
    from matplotlib.figure import Figure


class View(StrEnum):
    """The view of a level to draw."""

    MAP = "map"
    INVENTORY = "inventory"
    ORDER = "order"
    LOCKS = "locks"
    PACE = "pace"


def draw(
    level: Annotated[str, typer.Argument(help="A level file.", metavar="LEVEL")],
    output: Annotated[
        Path, typer.Option("-o", "--output", help="The picture: a .png, .svg or .pdf file.")
    ],
    view: Annotated[
        View,
        typer.Option(
            help="The map; the inventory along a route; the order of required things; the keys "
            "of each lock; or the pace of the shortest runs."
        ),
    ] = View.MAP,
    route: Annotated[
        str | None,
        typer.Option(
            help="A route to show: finish, all-rewards, stuck, or stuck:2 for the second mistake.",
            metavar="ROUTE",
        ),
    ] = None,
    notes: Annotated[
        bool, typer.Option("--notes", help="List the notes of the level below its map.")
    ] = False,
    dark: Annotated[bool, typer.Option("--dark", help="Draw on a dark ground.")] = False,
    size: Annotated[
        int | None,
        typer.Option(help="The width of a PNG in pixels.", min=100, max=20_000, metavar="PIXELS"),
    ] = None,
    max_positions: MaxPositions = MAX_POSITIONS,
    max_seconds: MaxSeconds = None,
    max_memory: MaxMemory = None,
) -> None:
    """Draw a level, with a route on it if you like."""
    if route is not None and view in (View.ORDER, View.LOCKS, View.PACE):
        fail(f"--view {view} shows no route; leave --route out")
    if notes and view != View.MAP:
        fail(f"--view {view} shows no notes; leave --notes out")
    limits = limits_of(max_positions, max_seconds, max_memory)
    must_be_writable(output, endings=PICTURES, inputs=[level])
    from ..draw import drawn_dark, save

    with drawn_dark(dark), searching(limits) as watched:
        figure = _figure(load(level), view, route, watched, notes)
        save(figure, output, size, inputs=[level])
    print_line(f"wrote {output}")


def _figure(level: Level, view: View, route: str | None, limits: Limits, notes: bool) -> Figure:
    from ..draw import draw_campaign, draw_inventory, draw_locks, draw_map, draw_order, draw_pace

    if view == View.MAP and route is None:
        # Search only a few positions: a picture must come at once.
        if isinstance(level, Joined):
            return draw_campaign(level, stages.ask(gather(level, limits.begin(), at_once=True)))
        return draw_map(level, unreached=unreached_rooms(level, limits), notes=notes)
    report = check_level(level, limits)
    match view:
        case View.MAP:
            shown = choose_route(report, route or "finish")
            return draw_map(level, shown, report.unreached, notes=notes)
        case View.INVENTORY:
            return draw_inventory(level, choose_route(report, route or "finish"))
        case View.ORDER:
            return draw_order(report)
        case View.LOCKS:
            return draw_locks(report)
        case View.PACE:
            if not report.answers.measures.pace:
                never = report.answers.finish == Answer.NO
                why = "nothing finishes" if never else "there is no run that is proven shortest"
                fail(f"--view pace: {why}")
            return draw_pace(report)


def choose_route(report: Report, name: str) -> Route:
    """The route of a report that a user names.

    Args:
        report: The report.
        name: ``finish``, ``all-rewards``, ``stuck`` or ``stuck:N``.

    Returns:
        The route; where there is none, the command ends with a message.
    """
    kind, _, number = name.partition(":")
    if kind in ("finish", "all-rewards") and not number:
        found = report.routes.get(kind)
        what = "finishing route" if kind == "finish" else "run that takes every reward"
    elif kind == "stuck" and (not number or re.fullmatch("[1-9][0-9]{0,5}", number)):
        # A search that was cut short may show a stuck position without knowing the mistake.
        shown = [one.route for one in report.with_code("can-get-stuck") if one.route is not None]
        routes = [one.route for one in report.mistakes] or shown
        found = next(iter(routes[int(number or 1) - 1 :]), None)
        what = f"mistake number {number} (of {len(routes)})" if routes else "mistake"
    else:
        fail(f"--route {name}: write finish, all-rewards, stuck or stuck:2")
    if found is None:
        fail(f"{report.level.name}: there is no {what} to draw; see `ukemi check`")
    return found
