"""``ukemi draw``: pictures of a level."""

from __future__ import annotations

import re
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..checks import Report, check_level
from ..checks.answering import answering
from ..checks.check import unreached_rooms
from ..files import load
from ..files.replacing import PICTURES, must_be_writable
from ..level import Level, LevelError
from ..level.joined import Joined
from ..spaces import MAX_POSITIONS, Limits, Route
from .check import MaxPositions, MaxSeconds
from .output import fail, fail_reading, tell
from .searching import MaxMemory, limits_of, searching

if TYPE_CHECKING:
    from matplotlib.figure import Figure


class View(StrEnum):
    """What a picture shows."""

    MAP = "map"
    INVENTORY = "inventory"
    ORDER = "order"
    LOCKS = "locks"


def draw(
    level: Annotated[str, typer.Argument(help="A level file.", metavar="LEVEL")],
    output: Annotated[
        Path, typer.Option("-o", "--output", help="The picture: a .png, .svg or .pdf file.")
    ],
    view: Annotated[
        View,
        typer.Option(
            help="The map; what is carried along a route; what must come before what; or which "
            "key serves which lock."
        ),
    ] = View.MAP,
    route: Annotated[
        str | None,
        typer.Option(
            help="A route to show: finish, all-rewards, stuck, or stuck:2 for the second mistake.",
            metavar="ROUTE",
        ),
    ] = None,
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
    if route is not None and view in (View.ORDER, View.LOCKS):
        fail(f"--view {view} shows no route; leave --route out")
    limits = limits_of(max_positions, max_seconds, max_memory)
    try:
        must_be_writable(output, endings=PICTURES, inputs=[level])
        from ..draw import drawn_dark, save

        with drawn_dark(dark), searching(limits) as watched:
            figure = _figure(load(level), view, route, watched)
            save(figure, output, size, inputs=[level])
    except LevelError as error:
        fail_reading(error)
    except OSError as error:
        fail(str(error))
    tell(f"wrote {output}")


def _figure(level: Level, view: View, route: str | None, limits: Limits) -> Figure:
    from ..draw import draw_campaign, draw_inventory, draw_locks, draw_map, draw_order

    if view == View.MAP and route is None:
        # Only a few positions are looked at: a picture is wanted at once.
        if isinstance(level, Joined):
            return draw_campaign(level, answering(level, limits.begin(), at_once=True).levels())
        return draw_map(level, unreached=unreached_rooms(level, limits))
    report = check_level(level, limits)
    match view:
        case View.MAP:
            return draw_map(level, choose_route(report, route or "finish"), report.unreached)
        case View.INVENTORY:
            return draw_inventory(level, choose_route(report, route or "finish"))
        case View.ORDER:
            return draw_order(report)
        case View.LOCKS:
            return draw_locks(report)


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
