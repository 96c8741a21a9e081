"""``ukemi check``: can each level be finished, can anyone get stuck, and why."""

from __future__ import annotations

import sys
from collections.abc import Iterable, Iterator, Sized
from enum import StrEnum
from functools import partial
from pathlib import Path
from time import perf_counter
from typing import Annotated, Any, TypeVar

import typer

from ..bulk.campaign_parts import check_with_parts
from ..bulk.checking import STANDARD_INPUT, Asking, Checked, check_file
from ..checks import Report
from ..files.json_text import json_text
from ..level import LevelError
from ..report import Line, report_dict, report_lines, summary_lines, summary_row, table_lines
from ..report.as_json import unreadable_dict
from ..report.as_text import SummaryRow
from ..report.on_console import print_lines
from ..spaces import MAX_POSITIONS, Limits
from .level_files import level_files
from .output import CANNOT_READ, complain, csv_text, fail
from .searching import LOG_EVERY, MaxMemory, limits_of, searching

Item = TypeVar("Item")


class Format(StrEnum):
    """How a report is printed."""

    TEXT = "text"
    JSON = "json"
    SARIF = "sarif"
    JUNIT = "junit"
    CSV = "csv"


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
        help="Search no more positions than this one by one; time and memory bound the rest.",
        min=1,
        metavar="N",
    ),
]
MaxSeconds = Annotated[
    float | None, typer.Option(help="The time limit of the search.", min=0, metavar="SECONDS")
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
        Format,
        typer.Option(help="Text for people; JSON, SARIF, JUnit XML or a CSV table for tools."),
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
    mends: Annotated[
        bool, typer.Option("--mends", help="Look for changes that mend each error and warning.")
    ] = False,
    knowing: Annotated[
        bool, typer.Option("--knowing", help="Ask again for a player who knows the level's codes.")
    ] = False,
    quick: Annotated[
        bool,
        typer.Option(
            "--quick", help="Ask only who can finish, get stuck or die, and about rewards."
        ),
    ] = False,
    entered_with: Annotated[
        str | None,
        typer.Option(
            help="Check a level of a campaign as if come into with this: `lantern,3 grain`.",
            metavar="ITEMS",
        ),
    ] = None,
    suppose: Annotated[
        list[str] | None,
        typer.Option(
            help="Check the level as if this were so, and report what that changes: `open loft-door`, "
            "`carry 2 iron-key`; may be repeated. The file stays as it is.",
            metavar="WHAT",
        ),
    ] = None,
    campaigns: Annotated[
        bool,
        typer.Option(
            "--campaigns",
            help="Check a level as part of the campaigns that name it, from its folder or above; "
            "in folders this is done anyway.",
        ),
    ] = False,
    max_positions: MaxPositions = MAX_POSITIONS,
    max_seconds: MaxSeconds = None,
    max_memory: MaxMemory = None,
    jobs: Annotated[
        int, typer.Option("-j", "--jobs", help="The number of levels to check at a time.", min=1)
    ] = 1,
    cluster: Annotated[
        str | None,
        typer.Option(
            help="Check them on the workers of a Dask scheduler: tcp://HOST:PORT.",
            metavar="ADDRESS",
        ),
    ] = None,
) -> None:
    """Check levels: can each be finished, can anyone get stuck, and why.

    `-` reads a level from standard input.

    Exit code: 0 nothing wrong, 1 something is, 2 a level or the call cannot be read, 3 nothing
    wrong found but something needed is unknown.
    """
    if only:
        _check_codes(only)
    limits = limits_of(max_positions, max_seconds, max_memory)
    folders = any(Path(one).is_dir() for one in levels if one != STANDARD_INPUT)
    levels = level_files(levels)
    told = _Told(format, full, quiet, table, strict, knowing)
    codes: set[int] = set()
    # Other programs show the mends of SARIF beside the findings, as fixes.
    finds_mends = mends or format == Format.SARIF
    if suppose and (finds_mends or len(levels) > 1):
        fail(
            "--suppose: mends are made to the file as it is: leave out --mends"
            if finds_mends
            else f"--suppose: name one level, not {len(levels)}"
        )
    asking = Asking(knowing, finds_mends, entered_with, quick, table, tuple(suppose or ()))
    check_some = partial(_check_all, limits=limits, asking=asking, jobs=jobs, cluster=cluster)
    if entered_with is not None or suppose:
        results: Iterable[Checked] = check_some(levels)
    else:
        results = check_with_parts(levels, check_some, campaigns or folders)
    for one in results:
        if isinstance(one, LevelError):
            complain(*one.lines())
        codes.add(_exit_code(one, strict))  # levels that are not listed count all the same

        told.take(one.only(only) if only and isinstance(one, Report) else one)
    told.print()
    raise typer.Exit(next((code for code in (CANNOT_READ, 1, 3) if code in codes), 0))


def _check_all(
    levels: list[str], limits: Limits, asking: Asking, jobs: int, cluster: str | None
) -> Iterator[Checked]:
    """Check levels one after another, several at a time, or on other machines."""
    if cluster is not None:
        from ..bulk.cluster import check_on_cluster, connected

        try:
            with connected(cluster) as client:
                found = check_on_cluster(levels, limits, asking, client)
                yield from with_progress(found, len(levels))
        except ConnectionError as error:
            fail(f"--cluster {cluster}: {error}")
        return
    if min(jobs, len(levels)) > 1 and STANDARD_INPUT not in levels:
        from ..bulk.processes import check_parallel

        yield from with_progress(check_parallel(levels, limits, asking, jobs), len(levels))
        return
    for file in with_progress(levels):
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


def with_progress(
    levels: Iterable[Item], count: int | None = None, doing: str = "Checking"
) -> Iterator[Item]:
    """The levels one by one, with a bar on the terminal where there are several.

    Args:
        levels: The levels, or their results.
        count: The number of levels, if ``levels`` has no length.
        doing: The verb for the progress line.
    """
    count = len(levels) if isinstance(levels, Sized) else count
    if count == 1:
        yield from levels
        return
    if not sys.stderr.isatty():
        yield from _in_log(levels, count, doing)
        return
    from rich.console import Console
    from rich.progress import track

    console = Console(stderr=True)
    yield from track(levels, doing, console=console, transient=True, total=count)


def _in_log(levels: Iterable[Item], count: int | None, doing: str) -> Iterator[Item]:
    """The levels one by one, with a line about the progress now and then."""
    began = shown = perf_counter()
    for number, one in enumerate(levels, 1):
        now = perf_counter()
        if now - shown >= LOG_EVERY:
            shown = now
            of = f" of {count:,}" if count else ""
            complain(f"{doing}: {number:,}{of}, {now - began:.0f} s")
        yield one


class _Told:
    """The summary of many levels: it keeps no more than this of thousands of them.

    Args:
        format: How it is printed.
        full, quiet, table, strict, knowing: As the options of the command say.
    """

    def __init__(
        self, format: Format, full: bool, quiet: bool, table: bool, strict: bool, knowing: bool
    ) -> None:
        self._format = format
        self._full, self._quiet, self._table = full, quiet, table
        self._strict = strict
        self._knowing = knowing
        self._texts: list[list[Line]] = []
        self._summary: list[SummaryRow] = []
        self._kept: list[Any] = []

    def take(self, one: Checked) -> None:
        """Add the result of a level; a file that cannot be read was already reported on standard
        error.
        """
        match self._format:
            case Format.TEXT:
                self._summary.append(summary_row(one))
                if isinstance(one, Report):
                    self._texts.append([*self._lines(one)])
            case Format.JSON:
                self._kept.append(
                    unreadable_dict(one) if isinstance(one, LevelError) else report_dict(one)
                )
            case Format.CSV:
                from ..bulk.many import row_of

                self._kept.append(row_of(one))
            case Format.SARIF | Format.JUNIT:
                self._kept.append(one)

    def _lines(self, report: Report) -> Iterator[Line]:
        yield from (
            table_lines(report) if self._table else report_lines(report, self._full, self._quiet)
        )
        if self._knowing and report.knowing is None:
            words = "no act teaches a code, so there is nothing to know before."
            yield Line("", f"{report.level.name}: {words}")

    def print(self) -> None:
        """Print the summary."""
        match self._format:
            case Format.TEXT:
                self._print_text()
            case Format.JSON:
                print(json_text(self._kept if len(self._kept) > 1 else self._kept[0]))
            case Format.CSV:
                print(csv_text(self._kept), end="")
            case Format.SARIF:
                from .. import __version__
                from ..report.as_sarif import sarif

                print(json_text(sarif(self._kept, __version__)))
            case Format.JUNIT:
                from ..report.as_junit import junit

                print(junit(self._kept, self._strict))

    def _print_text(self) -> None:
        for number, lines in enumerate(self._texts):
            if number and not self._quiet:
                print()
            print_lines(lines)
        if len(self._summary) > 1:
            print()
            print_lines(summary_lines(self._summary))
