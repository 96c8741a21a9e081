"""Levels that campaigns name: they are checked as parts of their campaigns.

A level of a campaign is entered with what the player brings along. Alone, it may look as if it could
not be finished, so its findings are those that the campaign has in its file.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from pathlib import Path

from ..checks import Answer, Answers, Finding, Report
from ..checks.result import SearchInfo
from ..language import load
from ..language.files.campaign_files import campaigns_naming, levels_named_in
from ..level import LevelError
from .checking import STANDARD_INPUT, Checked

#: Checks some files, and gives what came of each, in their order.
Checking = Callable[[list[str]], Iterable[Checked]]


def check_with_parts(files: Sequence[str], check: Checking, look_around: bool) -> Iterator[Checked]:
    """Check files; check levels that a campaign names as parts of the campaign.

    Args:
        files: The files.
        check: Checks files that are not parts.
        look_around: Whether campaigns that are not among the files count too, if they lie in the
            folder of a level or above it. They are checked as well, after the files.

    Yields:
        The results of all files, in the order of the files.
    """
    named_by = dict(_named_by(files, look_around))
    campaigns = list(dict.fromkeys(one for some in named_by.values() for one in some))
    more = [one for one in campaigns if one not in {*files}]
    known = dict(zip(campaigns, check(campaigns), strict=True)) if campaigns else {}
    rest = [one for one in files if one not in named_by and one not in known]
    checked = iter(check(rest))
    folders: dict[Path, dict[Path, list[Path]]] = {}
    for file in (*files, *more):
        if file in known:
            yield known[file]
        elif file in named_by:
            yield part_of(file, {one: known[one] for one in named_by[file]})
        else:
            yield _with_campaigns(next(checked), file, folders)
    for _ in checked:
        pass  # to its end, where it lets go of its processes


def _named_by(files: Sequence[str], look_around: bool) -> Iterator[tuple[str, list[str]]]:
    """The levels that are checked as parts, with the campaigns that name each."""
    given: dict[Path, list[str]] = {}
    folders: dict[Path, dict[Path, list[Path]]] = {}
    paths = {one: Path(one).resolve() for one in files if one != STANDARD_INPUT}
    own = {path: file for file, path in paths.items()}
    for file, path in paths.items():
        for level in levels_named_in(path):
            given.setdefault(level, []).append(file)
    for file, path in paths.items():
        found = list(given.get(path, ()))
        if look_around:
            for one in campaigns_naming(file, folders):
                name = own.get(Path(one).resolve(), one)
                found += [name] if name not in found else []
        if found:
            yield file, found


def part_of(file: str, campaigns: Mapping[str, Checked]) -> Checked:
    """Return what the checks of some campaigns say of one of their levels.

    Args:
        campaigns: The campaigns that name it, with what came of each.

    Returns:
        A report with the findings that the campaigns have in the level's file, and no answers of
        its own; an error if the level cannot be read.
    """
    try:
        level = load(file)
    except LevelError as error:
        return error
    reports = [one for one in campaigns.values() if isinstance(one, Report)]
    found: list[Finding] = []
    for report in reports:
        found += [one for one in report.in_file(file) if one not in found]
    first = reports[0].answers if reports else Answers(Answer.UNKNOWN, Answer.UNKNOWN)
    return Report(
        level=level,
        answers=Answers(first.finish, first.stuck),
        routes={},
        findings=tuple(found),
        search=SearchInfo(0, len(reports) == len(campaigns), 0.0, False),
        campaigns=tuple(campaigns),
        is_part=True,
    )


def _with_campaigns(
    checked: Checked, file: str, folders: dict[Path, dict[Path, list[Path]]]
) -> Checked:
    """The result of a level that is checked alone, with the campaigns that name it."""
    if isinstance(checked, LevelError) or file == STANDARD_INPUT:
        return checked
    return replace(checked, campaigns=tuple(campaigns_naming(file, folders)))
