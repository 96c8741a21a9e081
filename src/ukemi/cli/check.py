"""``ukemi check``: can each level be finished, can anyone get stuck, and why."""

from __future__ import annotations

import sys
from collections.abc import Iterable, Iterator, Sized
from enum import StrEnum
from typing import Annotated, Any, TypeVar

import typer

from ..checks import Report
from ..files.json_text import json_text
from ..level import LevelError
from ..report import report_dict, report_lines, summary_lines, table_lines
from ..report.as_json import unreadable_dict
from ..report.on_console import print_lines
from ..search import MAX_POSITIONS, Limits
from .checking import ALL, TOLD, Asking, Checked, check_file
from .level_files import STANDARD_INPUT, level_files
from .output import CANNOT_READ, complain, fail, tell
from .searching import MaxMemory, limits_of, searching

Item = TypeVar("Item")


class Format(StrEnum):
    """How a report is printed."""

    TEXT = "text"
    JSON = "json"
    SARIF = "sarif"
    JUNIT = "junit"


Levels = Annotated[
    list[str],
    typer.Argument(
        help="Level files, YAML or JSON; folders and patterns stand for the levels in them.",
        metavar="LEVEL...",
    ),
]
MaxPositions = Annotated[
    int,
    typer.Option(
        help="Look at no more positions than this one by one; sets of them in diagrams are bounded "
        "by time and memory.",
        min=1,
        metavar="N",
    ),
]
MaxSeconds = Annotated[
    float | None, typer.Option(help="Search no longer than this.", min=0, metavar="SECONDS")
]
Only = Annotated[
    list[str] | None,
    typer.Option(
        "--only", help="Tell only findings of this code; may be repeated.", metavar="CODE"
    ),
]


def check(
    levels: Levels,
    format: Annotated[
        Format, typer.Option(help="Text for people; JSON, SARIF or JUnit XML for tools.")
    ] = Format.TEXT,
    full: Annotated[
        bool, typer.Option("--full", help="List long routes, and what is accepted, whole.")
    ] = False,
    table: Annotated[
        bool,
        typer.Option("--table", help="One line for each door, chest, act, room, item and reward."),
    ] = False,
    quiet: Annotated[bool, typer.Option("--quiet", help="Tell just verdicts and errors.")] = False,
    only: Only = None,
    strict: Annotated[bool, typer.Option("--strict", help="Count warnings as errors.")] = False,
    knowing: Annotated[
        bool, typer.Option("--knowing", help="Ask again for a player who knows the level's codes.")
    ] = False,
    entered_with: Annotated[
        str | None,
        typer.Option(
            help="Check a level of a campaign as if come into with this: `lantern,3 grain`.",
            metavar="ITEMS",
        ),
    ] = None,
    max_positions: MaxPositions = MAX_POSITIONS,
    max_seconds: MaxSeconds = None,
    max_memory: MaxMemory = None,
    jobs: Annotated[
        int, typer.Option("-j", "--jobs", help="Check so many levels at a time.", min=1)
    ] = 1,
) -> None:
    """Check levels: can each be finished, can anyone get stuck, and why.

    `-` reads a level from standard input.

    Exit code: 0 nothing wrong, 1 something is, 2 a level or the call cannot be read, 3 nothing
    wrong found but something needed is unknown.
    """
    if only:
        _check_codes(only)
    limits = limits_of(max_positions, max_seconds, max_memory)
    levels = level_files(levels)
    checked: list[Checked] = []
    codes: set[int] = set()
    mending = TOLD if format == Format.TEXT else ALL
    asking = Asking(knowing, mending, entered_with)
    for one in _check_all(levels, limits, asking, jobs):
        if isinstance(one, LevelError):
            complain(*one.lines())
        codes.add(_exit_code(one, strict))  # what is not told counts all the same
        checked.append(one.only(only) if only and isinstance(one, Report) else one)
    match format:
        case Format.TEXT:
            _print_text(checked, full, quiet, table)
            if knowing:
                _tell_unknowable(checked)
        case Format.JSON:
            _print_json([_document(one) for one in checked])
        case Format.SARIF:
            from .. import __version__
            from ..report.as_sarif import sarif

            print(json_text(sarif(checked, __version__)))
        case Format.JUNIT:
            from ..report.as_junit import junit

            print(junit(checked, strict))
    raise typer.Exit(next((code for code in (CANNOT_READ, 1, 3) if code in codes), 0))


def _check_all(levels: list[str], limits: Limits, asking: Asking, jobs: int) -> Iterator[Checked]:
    """Check levels one after another, or several at a time."""
    if min(jobs, len(levels)) > 1 and STANDARD_INPUT not in levels:
        from .parallel import check_parallel

        yield from check_parallel(levels, limits, asking, jobs, _with_progress)
        return
    for file in _with_progress(levels):
        with searching(limits) as watched:
            yield check_file(file, watched, asking)


def _check_codes(only: list[str]) -> None:
    from ..level.names import nearest
    from ..report.pages import codes

    for code in only:
        if code not in codes():
            near = nearest(code, codes())
            hint = f"; did you mean {near!r}?" if near else ""
            fail(f"--only {code}: there is no such finding{hint}")


def _exit_code(one: Checked, strict: bool) -> int:
    return CANNOT_READ if isinstance(one, LevelError) else one.exit_code(strict)


def _with_progress(levels: Iterable[Item], count: int | None = None) -> Iterator[Item]:
    """The levels one by one, with a bar on the terminal where there are several."""
    count = len(levels) if isinstance(levels, Sized) else count
    if count == 1 or not sys.stderr.isatty():
        yield from levels
        return
    from rich.console import Console
    from rich.progress import track

    console = Console(stderr=True)
    yield from track(levels, "Checking", console=console, transient=True, total=count)


def _print_text(checked: list[Checked], full: bool, quiet: bool, table: bool) -> None:
    # What cannot be read has been told on standard error.
    for number, report in enumerate(one for one in checked if isinstance(one, Report)):
        if number and not quiet:
            print()
        if table:
            print_lines(table_lines(report))
        else:
            print_lines(report_lines(report, full, quiet))
    if len(checked) > 1:
        print()
        print_lines(summary_lines(checked))


def _tell_unknowable(checked: list[Checked]) -> None:
    for one in checked:
        if isinstance(one, Report) and one.knowing is None:
            tell(f"{one.level.name}: no act teaches a code, so there is nothing to know before.")


def _document(one: Checked) -> dict[str, Any]:
    return unreadable_dict(one) if isinstance(one, LevelError) else report_dict(one)


def _print_json(documents: list[dict[str, Any]]) -> None:
    shown: Any = documents if len(documents) > 1 else documents[0]
    print(json_text(shown))
