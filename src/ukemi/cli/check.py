"""``ukemi check``: can each level be finished, can anyone get stuck, and why."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Any

import typer

from ..checks import Report, check_level
from ..files import load
from ..level import LevelError
from ..report import report_dict, report_lines
from ..report.as_json import unreadable_dict
from ..report.on_console import print_lines
from ..search import MAX_POSITIONS, Limits
from .output import CANNOT_READ, complain


class Format(StrEnum):
    """How a report is printed."""

    TEXT = "text"
    JSON = "json"


Levels = Annotated[list[str], typer.Argument(help="Level files, YAML or JSON.", metavar="LEVEL...")]
MaxPositions = Annotated[
    int, typer.Option(help="Look at no more positions than this.", min=1, metavar="N")
]
MaxSeconds = Annotated[
    float | None, typer.Option(help="Search no longer than this.", min=0, metavar="SECONDS")
]


def check(
    levels: Levels,
    format: Annotated[Format, typer.Option(help="Text for people, JSON for tools.")] = Format.TEXT,
    full: Annotated[bool, typer.Option("--full", help="List long routes whole.")] = False,
    max_positions: MaxPositions = MAX_POSITIONS,
    max_seconds: MaxSeconds = None,
) -> None:
    """Check levels: can each be finished, can anyone get stuck, and why.

    Exit code: 0 nothing wrong, 1 something is, 2 a level or the call cannot be read, 3 nothing
    wrong found but something needed is unknown.
    """
    limits = Limits(max_positions, max_seconds)
    codes: set[int] = set()
    documents: list[dict[str, Any]] = []
    for number, file in enumerate(levels):
        try:
            report = check_level(load(file), limits)
        except LevelError as error:
            complain("\n".join(error.lines()))
            documents.append(unreadable_dict(error))
            codes.add(CANNOT_READ)
            continue
        codes.add(report.exit_code())
        documents.append(report_dict(report))
        if format == Format.TEXT:
            _print(report, full, first=number == 0)
    if format == Format.JSON:
        import json

        shown: Any = documents if len(levels) > 1 else documents[0]
        print(json.dumps(shown, indent=2, ensure_ascii=False))
    raise typer.Exit(next((code for code in (CANNOT_READ, 1, 3) if code in codes), 0))


def _print(report: Report, full: bool, first: bool) -> None:
    if not first:
        print()
    print_lines(report_lines(report, full))
