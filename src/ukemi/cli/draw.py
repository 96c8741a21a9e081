"""``ukemi draw``: a picture of a level."""

from __future__ import annotations

from enum import StrEnum
from pathlib import Path
from typing import Annotated

import typer

from ..checks import Report, check_level
from ..files import load
from ..level import LevelError
from ..search import MAX_POSITIONS, Limits, Route
from .check import MaxPositions, MaxSeconds
from .output import fail, fail_reading


class RouteChoice(StrEnum):
    """Which route to lay on the picture."""

    FINISH = "finish"
    STUCK = "stuck"


def draw(
    level: Annotated[str, typer.Argument(help="A level file.", metavar="LEVEL")],
    output: Annotated[
        Path, typer.Option("-o", "--output", help="The picture: a .png, .svg or .pdf file.")
    ],
    route: Annotated[RouteChoice | None, typer.Option(help="A route to lay on it.")] = None,
    max_positions: MaxPositions = MAX_POSITIONS,
    max_seconds: MaxSeconds = None,
) -> None:
    """Draw a level, with a route on it if you like."""
    try:
        read = load(level)
        chosen = None
        if route is not None:
            chosen = _choose(check_level(read, Limits(max_positions, max_seconds)), route)
        from ..draw import draw_map, save

        save(draw_map(read, chosen), output)
    except LevelError as error:
        fail_reading(error)
    except ValueError as error:
        fail(str(error))
    except OSError as error:
        fail(f"{output}: cannot write this file: {(error.strerror or str(error)).lower()}")
    print(f"wrote {output}")


def _choose(report: Report, route: RouteChoice) -> Route:
    if route == RouteChoice.FINISH:
        what, found = "finishing route", report.routes.get("finish")
    else:
        routes = [finding.route for finding in report.with_code("can-get-stuck")]
        what, found = "mistake", next(iter(routes), None)
    if found is None:
        fail(f"{report.level.name}: there is no {what} to draw; see `ukemi check`")
    return found
