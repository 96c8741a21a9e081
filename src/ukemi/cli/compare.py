"""``ukemi compare``: what a change did to a level."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import ExitStack
from enum import StrEnum
from pathlib import Path
from typing import Annotated, NamedTuple

import typer

from ..checks import Report, check_level
from ..language import load
from ..language.text.json_text import json_text
from ..level import LevelError
from ..spaces import MAX_POSITIONS, Limits
from .check import MaxPositions, MaxSeconds
from .level_files import in_folder, parts_of
from .output import fail, fail_reading, print_line
from .searching import MaxMemory, limits_of, searching


class ReportForm(StrEnum):
    """How a comparison is printed."""

    TEXT = "text"
    JSON = "json"
    MARKDOWN = "markdown"


class _Pair(NamedTuple):
    """Two versions of a level file; ``None`` for one that is not there."""

    name: str
    old: Path | None
    new: Path | None


def compare(
    old: Annotated[Path, typer.Argument(help="A level, campaign or folder.", metavar="OLD")],
    new: Annotated[Path | None, typer.Argument(help="The same, changed.", metavar="[NEW]")] = None,
    since: Annotated[
        str | None,
        typer.Option(
            help="Compare with what it was at this revision of its git repository.",
            metavar="REVISION",
        ),
    ] = None,
    format: Annotated[
        ReportForm, typer.Option(help="Text for people, JSON for tools, Markdown for a review.")
    ] = ReportForm.TEXT,
    all_levels: Annotated[
        bool, typer.Option("--all", help="Of folders: list levels that are as they were, too.")
    ] = False,
    max_positions: MaxPositions = MAX_POSITIONS,
    max_seconds: MaxSeconds = None,
    max_memory: MaxMemory = None,
) -> None:
    """Show what a change did: to the verdict, to the level, to findings and figures.

    Exit code: 0 nothing got worse, 1 something did, 2 a level or the call cannot be read. Exit code
        1 means worse: a promise that was proven (finishing, never stuck, never dying, all rewards
        together, a reward in reach or never missed) is no longer proven, or there is a new error.
    """
    if (new is None) == (since is None):
        fail("give two levels, or one and --since REVISION")
    limits = limits_of(max_positions, max_seconds, max_memory)
    with ExitStack() as open_files:
        if since is not None:
            from ..language.files.revisions import RevisionError, at_revision

            try:
                pair = open_files.enter_context(at_revision(old, since)), old
            except RevisionError as error:
                fail(f"--since {since}: {error}")
        else:
            assert new is not None
            pair = old, new
        with searching(limits) as watched:
            list_all = all_levels or not pair[1].is_dir()
            worse = _compare_all([*_pairs(*pair)], watched, format, since, list_all)
    raise typer.Exit(1 if worse else 0)


def _pairs(old: Path, new: Path) -> Iterator[_Pair]:
    """The level files that are versions of each other: of two folders, by their paths."""
    if old.is_dir() != new.is_dir():
        fail(f"{old if new.is_dir() else new} is a level, and the other is a folder")
    if not new.is_dir():
        yield _Pair(str(new), old, new)
        return
    before, after = (
        {one.relative_to(folder) for one in in_folder(folder)} for folder in (old, new)
    )
    if not before | after:
        fail(f"{new}: there is no level in this folder")
    for path in sorted(before | after):
        yield _Pair(
            str(new / path),
            old / path if path in before else None,
            new / path if path in after else None,
        )


def _compare_all(
    pairs: list[_Pair], limits: Limits, form: ReportForm, since: str | None, list_all: bool
) -> bool:
    from ..comparing import Comparison, compare_reports
    from ..comparing.forms import comparison_dict, comparison_lines, comparison_markdown

    found: list[tuple[_Pair, Comparison]] = []
    unread: list[LevelError] = []
    same = 0
    for pair in pairs:
        if pair.old and pair.new:
            if not list_all and _parts(pair.old) == _parts(pair.new):
                same += 1
                continue
            old, new = (_checked(one, limits) for one in (pair.old, pair.new))
            if isinstance(old, LevelError) or isinstance(new, LevelError):
                unread += [one for one in (old, new) if isinstance(one, LevelError)]
                continue
            compared = compare_reports(old, new)
            if not list_all and not compared.says_anything:
                same += 1
                continue
            found.append((pair, compared))
            if since is not None:  # the older one lay somewhere for a moment only
                found[-1][1].old.level.file = f"{pair.name} at {since}"
        elif form != ReportForm.JSON:
            print_line(f"{pair.name} is {'new' if pair.new else 'gone'}")
    match form:
        case ReportForm.TEXT:
            for pair, comparison in found:
                print_line(f"{comparison.new.level.name} ({pair.name})")
                for line in comparison_lines(comparison):
                    print_line(line)
        case ReportForm.MARKDOWN:
            for pair, comparison in found:
                for line in comparison_markdown(
                    comparison, f"{comparison.new.level.name} ({pair.name})"
                ):
                    print(line)
        case ReportForm.JSON:
            plain = [comparison_dict(comparison) for _, comparison in found]
            if plain or len(pairs) > 1:
                print(json_text(plain if len(pairs) > 1 else plain[0]))
    if same and form == ReportForm.TEXT:
        print_line(f"{same} of {len(pairs)} levels are as they were; --all lists them, too.")
    if unread:
        fail_reading(*unread)
    return any(comparison.worse for _, comparison in found)


def _parts(path: Path) -> list[bytes]:
    """Return the texts of a level's files, those of its maps and of a campaign's levels among them."""
    return [one.read_bytes() if one.is_file() else b"" for one in parts_of(str(path))]


def _checked(path: Path, limits: Limits) -> Report | LevelError:
    try:
        return check_level(load(path), limits)
    except LevelError as error:
        return error
