"""``ukemi check``: can each level be finished, can anyone get stuck, and why."""

from __future__ import annotations

import sys
from collections.abc import Iterable, Iterator, Sequence, Sized
from enum import StrEnum
from functools import partial
from io import BytesIO
from pathlib import Path
from time import perf_counter
from typing import TYPE_CHECKING, Annotated, Any, TypeVar

import typer

from .. import __version__
from ..bulk.campaign_parts import check_with_parts
from ..bulk.checking import STANDARD_INPUT, Asking, Checked, check_file
from ..checks import Finding, Report
from ..language.files.replacing import must_be_writable, write_file
from ..language.text.json_text import json_text
from ..level import LevelError
from ..level.joined import Joined
from ..report import Line, report_lines, summary_lines, summary_row, table_lines
from ..report.as_text import SummaryRow, plain_text
from ..report.on_console import print_lines
from ..spaces import MAX_POSITIONS, Limits
from .level_files import changed_levels, level_files, parts_of
from .output import CANNOT_READ, complain, csv_text, fail
from .searching import LOG_EVERY, MaxMemory, limits_of, searching

if TYPE_CHECKING:
    from ..bulk.resuming import Resumed

Item = TypeVar("Item")


class Format(StrEnum):
    """How a report is printed."""

    TEXT = "text"
    JSON = "json"
    SARIF = "sarif"
    JUNIT = "junit"
    CSV = "csv"
    PARQUET = "parquet"


#: The form of a file by its ending.
_BY_ENDING = {
    ".txt": Format.TEXT, ".json": Format.JSON, ".sarif": Format.SARIF, ".xml": Format.JUNIT,
    ".csv": Format.CSV, ".parquet": Format.PARQUET,
}  # fmt: skip


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
        Format | None,
        typer.Option(
            help="Text for people; JSON, SARIF, JUnit XML, a CSV or Parquet table for tools. "
            "Default: text, or what the ending of --output says."
        ),
    ] = None,
    output: Annotated[
        Path | None,
        typer.Option(
            "-o",
            "--output",
            metavar="FILE",
            help="Write it to a file: .txt, .json, .sarif, .xml (JUnit), .csv or .parquet.",
        ),
    ] = None,
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
    changed_since: Annotated[
        str | None,
        typer.Option(
            help="Check only levels that have changed since a revision of their git repository, "
            "and the campaigns that name them.",
            metavar="REVISION",
        ),
    ] = None,
    resume: Annotated[
        Path | None,
        typer.Option(
            help="Keep each proven result in this file at once. If the run is ended, a second call with the "
            "same options continues it.",
            metavar="FILE",
        ),
    ] = None,
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
    if changed_since is not None:
        levels, given = changed_levels(levels, changed_since), len(levels)
        if not levels:
            complain(f"none of {given} levels has changed since {changed_since}")
    format = _format(format, output, levels)
    printed = _Results(levels, format, full, quiet, table, strict, knowing)
    codes: set[int] = set()
    # Other programs show the mends of SARIF beside the findings, as fixes.
    finds_mends = mends or format == Format.SARIF
    if suppose and (finds_mends or len(levels) > 1):
        fail(
            "--suppose: mends are made to the file as it is: leave out --mends"
            if finds_mends
            else f"--suppose: name one level, not {len(levels)}"
        )
    asking = Asking(knowing, finds_mends, None, entered_with, quick, table, tuple(suppose or ()))
    check_some = partial(_check_all, limits=limits, asking=asking, jobs=jobs, cluster=cluster)
    kept: Resumed | None = None
    if entered_with is not None or suppose:
        if resume is not None:
            fail("--resume goes with checks of levels as they are")
        results: Iterable[Checked] = check_some(levels)
    else:
        look_around = campaigns or folders or changed_since is not None
        check_rest = partial(check_with_parts, check=check_some, look_around=look_around)
        if resume is not None:
            options = {
                "format": str(format), "full": full, "table": table, "quiet": quiet, "only": only,
                "strict": strict, "mends": finds_mends, "knowing": knowing, "quick": quick,
                "campaigns": look_around, "max": [max_positions, max_seconds, max_memory], "version": __version__,
            }  # fmt: skip
            kept = _resumed(resume, options, format, [*levels, *([str(output)] if output else [])])
            done = {one: said for one in levels if (said := kept.of(one, parts_of(one)))}
            codes |= printed.take_kept(levels, done)
            levels = [one for one in levels if one not in done]
        results = check_rest(levels)
    files = iter(levels)
    for one in results:
        if isinstance(one, LevelError):
            complain(*one.lines())
        code = _exit_code(one, strict)
        codes.add(code)  # levels that are not listed count all the same
        file = next(files, None)
        printed.take(one.only(only) if only and isinstance(one, Report) else one, file)
        if kept is not None and file is not None and isinstance(one, Report) and _settled(one):
            kept.keep(file, printed.kept(file, code))
    if output is None:
        printed.print()
    else:
        printed.write(output)
        complain(f"wrote {output}")
    raise typer.Exit(next((code for code in (CANNOT_READ, 1, 3) if code in codes), 0))


def _settled(report: Report) -> bool:
    """Whether a check answered everything; if not, a later call with the same file of results makes it again."""
    whole = report.search.complete or report.quick or report.is_part
    return whole and not any(one.code == "undecided" for one in report.findings)


def _format(format: Format | None, output: Path | None, levels: list[str]) -> Format:
    """The form of the results: as it was asked for, or as the ending of the file says."""
    if output is None:
        if format == Format.PARQUET:
            fail("--format parquet: name a file for it with -o FILE")
        return format or Format.TEXT
    by_ending = _BY_ENDING.get(output.suffix.lower())
    if format is None and by_ending is None:
        fail(f"-o {output}: say which --format, or let it end in one of {', '.join(_BY_ENDING)}")
    must_be_writable(output, inputs=[one for one in levels if one != STANDARD_INPUT])
    if Format.PARQUET in (format, by_ending):
        _parquet()
    return format or by_ending or Format.TEXT


def _parquet() -> Any:
    """The package that writes tables as Parquet files."""
    try:
        import pandas
        import pyarrow  # noqa: F401
    except ImportError:
        fail("a Parquet file needs more packages: pip install 'ukemi[tables]'")
    return pandas


def _resumed(path: Path, options: dict[str, Any], format: Format, others: list[str]) -> Resumed:
    """The results that a file keeps from an earlier call."""
    if format in (Format.SARIF, Format.JUNIT):
        fail(f"--resume goes with text, JSON and tables, not with {format}")
    if path.resolve() in {Path(one).resolve() for one in others if one != STANDARD_INPUT}:
        fail(f"--resume {path}: this is one of the levels, or the output; name another file")
    from ..bulk.resuming import Resumed

    try:
        return Resumed(path, options)
    except OSError as error:
        fail(f"--resume {error}")


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


class _Results:
    """The results of many levels, each in the form in which it is printed.

    Args:
        files: The levels.
        format: How it is printed.
        full, quiet, table, strict, knowing: As the options of the command say.
    """

    def __init__(
        self,
        files: Sequence[str],
        format: Format,
        full: bool,
        quiet: bool,
        table: bool,
        strict: bool,
        knowing: bool,
    ) -> None:
        self._files = files
        self._format = format
        self._full, self._quiet, self._table = full, quiet, table
        self._strict = strict
        self._knowing = knowing
        self._texts: dict[str, list[Line]] = {}
        self._summary: dict[str, SummaryRow] = {}
        self._kept: dict[str, Any] = {}

    def take(self, one: Checked, file: str | None) -> None:
        """Add the result of a level; a file that cannot be read was already reported on standard
        error.

        Args:
            one: The result.
            file: The level's file; ``None`` for a campaign that is checked besides.
        """
        name = file if file is not None else f"beside {len(self._kept) + len(self._summary)}"
        match self._format:
            case Format.TEXT:
                self._summary[name] = summary_row(one)
                if isinstance(one, Report):
                    self._texts[name] = [*self._lines(one)]
            case Format.JSON:
                from ..report.as_json import report_dict, unreadable_dict

                self._kept[name] = (
                    unreadable_dict(one) if isinstance(one, LevelError) else report_dict(one)
                )
            case Format.CSV | Format.PARQUET:
                from ..bulk.many import row_of

                self._kept[name] = row_of(one)
            case Format.SARIF | Format.JUNIT:
                self._kept[name] = one

    def kept(self, file: str, code: int) -> dict[str, Any]:
        """The result of a level, as plain values."""
        return {
            "code": code,
            "row": self._summary.get(file),
            "lines": self._texts.get(file),
            "said": self._kept.get(file),
        }

    def take_kept(self, files: Iterable[str], done: dict[str, Any]) -> set[int]:
        """Take the results of an earlier call, in the order of the files; return their exit codes."""
        for file in files:
            said = done.get(file, {})
            # Those still to come keep their place.
            if self._format == Format.TEXT:
                row, lines = said.get("row"), said.get("lines")
                self._summary[file] = SummaryRow(*row) if row else SummaryRow("", "", "")
                if lines is not None or not said:
                    self._texts[file] = [Line(*one) for one in lines or ()]
            else:
                self._kept[file] = said.get("said")
        return {said["code"] for said in done.values()}

    def _lines(self, report: Report) -> Iterator[Line]:
        if self._table:
            yield from table_lines(report)
        else:
            yield from report_lines(report, self._full, self._quiet, self._with_levels(report))
        if self._knowing and report.knowing is None:
            words = "no act teaches a code, so there is nothing to know before."
            yield Line("", f"{report.level.name}: {words}")

    def _with_levels(self, report: Report) -> list[Finding]:
        """The findings of a campaign that are listed with those of its levels that are checked, too."""
        if not isinstance(report.level, Joined):
            return []
        named = {Path(one).resolve() for one in report.level.texts if one != report.level.file}
        files = [one for one in self._files if Path(one).resolve() in named]
        return [finding for file in files for finding in report.in_file(file)]

    def print(self) -> None:
        """Print the summary."""
        if self._format == Format.TEXT:
            for number, lines in enumerate(self._texts.values()):
                if number and not self._quiet:
                    print()
                print_lines(lines)
            if len(self._summary) > 1:
                print()
                print_lines(summary_lines([*self._summary.values()]))
        else:
            print(self._text(), end="")

    def write(self, output: Path) -> None:
        """Write the summary to a file."""
        if self._format == Format.PARQUET:
            drawn = BytesIO()
            _parquet().DataFrame([*self._kept.values()]).to_parquet(drawn)
            write_file(output, drawn.getvalue())
        else:
            write_file(output, self._text())

    def _text(self) -> str:
        kept = [*self._kept.values()]
        match self._format:
            case Format.JSON:
                return json_text(kept if len(kept) != 1 else kept[0]) + "\n"
            case Format.CSV:
                return csv_text(kept)
            case Format.SARIF:
                from ..report.as_sarif import sarif

                return json_text(sarif(kept, __version__)) + "\n"
            case Format.JUNIT:
                from ..report.as_junit import junit

                return junit(kept, self._strict) + "\n"
        texts = [plain_text(lines) for lines in self._texts.values()]
        if len(self._summary) > 1:
            texts.append(plain_text(summary_lines([*self._summary.values()])))
        return ("\n" if self._quiet else "\n\n").join(texts) + "\n"
