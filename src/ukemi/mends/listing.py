"""The mends of a level, of a file that cannot be read, and of a finding: the likeliest first."""

from __future__ import annotations

import os
from collections.abc import Callable, Collection, Iterable, Iterator
from dataclasses import replace
from itertools import chain, takewhile
from typing import NamedTuple

from ..checks import Report, check_level
from ..findings.finding import SEVERITIES, Finding
from ..language import load
from ..language.files.loading import read_text
from ..level import Level, LevelError
from ..spaces import MAX_POSITIONS, Limits
from .correction import Correction
from .mend import Mend
from .text_corrections import text_corrections
from .trial import (
    ENOUGH,
    FEWEST_LOOKED_AT,
    LOOKED_AT_IN_ALL,
    MOST_CHECKED,
    Helping,
    Trial,
    TrialOfLevel,
)

#: How many positions each check may search one by one.
POSITIONS = 20_000
#: How many mends are listed, for a level and for one finding.
MOST_LISTED, MOST_OF_A_FINDING = 8, 5
#: For how many findings of a report, at most, there is a search of their own.
MOST_SEARCHED = 8

OnMend = Callable[[Mend], None]


class Mends(NamedTuple):
    """The mends that were found.

    Attributes:
        mends: The mends, the likeliest first.
        all_tried: Whether every correction was tried, and no check of one was cut short.
    """

    mends: list[Mend]
    all_tried: bool


def mends_of(
    level: Level | str | os.PathLike[str], *, max_seconds: float | None = None
) -> list[Mend]:
    """Find changes that mend a level, or with which a file can be read: :func:`ukemi.mends_of`."""
    limits = Limits(POSITIONS, max_seconds).begin()
    if not isinstance(level, Level):
        file = os.fspath(level)
        text = read_text(file)
        try:
            level = load(file)
        except LevelError as error:
            return mends_of_text(text, error, limits).mends
    report = check_level(level, replace(limits, positions=MAX_POSITIONS), try_spare=False)
    return mends_of_report(report, limits).mends


def mends_of_text(
    text: str,
    error: LevelError,
    limits: Limits | None = None,
    most: int = MOST_LISTED,
    on_mend: OnMend | None = None,
) -> Mends:
    """Find changes with which a text can be read.

    Args:
        error: What keeps it from being read.
        limits: How long to take.
        most: How many to look for.
        on_mend: Called with each mend as soon as none that is likelier can come.

    Example:
        >>> from ukemi.language import loads
        >>> text = "{start: quay, goal: mil, rooms: [quay, mill], passages: [quay <-> mill]}"
        >>> try:
        ...     level = loads(text)
        ... except LevelError as error:
        ...     print(mends_of_text(text, error).mends[0].say)
        write 'mill' for 'mil'
    """
    limits = limits or Limits(POSITIONS).begin()
    trial = Trial({error.file or "": text}, error.file, limits)
    return _listed(trial, text_corrections(text, error), most, on_mend)


def mends_of_report(
    report: Report, limits: Limits, most: int = MOST_LISTED, on_mend: OnMend | None = None
) -> Mends:
    """Find changes that mend a level that was checked, as :func:`mends_of`.

    Args:
        limits: How long to take.
        most: How many to look for.
        on_mend: Called with each mend as soon as none that is likelier can come.
    """
    grave = gravest(report)
    trial = TrialOfLevel(report, grave, _within(limits))
    return _listed(trial, trial.corrections(), most, on_mend)


def mends_of_finding(
    report: Report,
    finding: Finding,
    limits: Limits,
    checks: int = MOST_CHECKED,
    enough: int = ENOUGH,
) -> Mends:
    """Find changes that remove one finding and bring no new finding of its severity or a graver one.

    Args:
        finding: One of its findings.
        limits: How long to take.
        checks: How many changes may be checked.
        enough: How many mends are enough.

    Example:
        >>> from ukemi.language import loads
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [mill -> quay]}")
        >>> report = check_level(level)
        >>> mends_of_finding(report, report.findings[0], Limits()).mends[0].say
        'make mill -> quay two-way'
    """
    trial = TrialOfLevel(report, [finding], _within(limits), checks, enough)
    found = [*_each_idea_once(trial.helping(trial.corrections()))]
    return _of_finding(trial, found, finding, enough)


def add_mends(
    report: Report,
    which: Collection[Finding],
    limits: Limits,
    checks: int = MOST_CHECKED,
) -> Report:
    """Return a report whose findings list what mends them.

    What mends the gravest findings is searched once, as :func:`mends_of_report` does, and listed in its order.
    A finding for which that finds nothing has a search of its own; in a large level, not every one.

    Args:
        which: The findings to mend.
        limits: The limits of the search; they may end it before all tries are made.
        checks: How many changes may be checked for each finding.
    """
    limits = _within(limits)
    grave = gravest(report)
    chosen = [one for one in report.findings if one in which and one.code != "undecided"]
    trial = TrialOfLevel(report, grave, limits, checks)
    shared = [one for one in grave if one in chosen]
    found = [*_each_idea_once(trial.helping(trial.corrections()))] if shared else []
    mended: dict[int, Finding] = {}
    searches = min(MOST_SEARCHED, LOOKED_AT_IN_ALL // (FEWEST_LOOKED_AT * trial.size))
    for one in chosen:
        if any(one in tried.gone for tried in found) or (len(grave) == 1 and shared == [one]):
            mends = _of_finding(trial, found, one, MOST_OF_A_FINDING)
        elif searches > 0 and not limits.over:
            mends = mends_of_finding(report, one, limits, checks, MOST_OF_A_FINDING)
            searches -= 1
        else:
            mends = Mends([], all_tried=False)
        mended[id(one)] = replace(
            one, mends=tuple(mends.mends), mends_cut_short=not mends.all_tried
        )
    return replace(report, findings=tuple(mended.get(id(one), one) for one in report.findings))


def _of_finding(trial: TrialOfLevel, found: list[Helping], finding: Finding, most: int) -> Mends:
    """Of the corrections that help, those that mend one finding; last, that it is meant."""
    all_tried = trial.all_tried
    accepting = [*trial.helping(trial.acceptance(finding))]
    helping = [one for one in found if finding in one.gone][: most - len(accepting)]
    mends = [trial.mend(one) for one in (*helping, *accepting)]
    return Mends([one for one in mends if one is not None], all_tried)


def gravest(report: Report) -> list[Finding]:
    """The errors of a report; if there is none, its warnings. Undecided questions are neither."""
    found = [one for one in report.findings if one.code != "undecided"]
    for severity in SEVERITIES[:2]:
        graver = [one for one in found if one.severity == severity]
        if graver:
            return graver
    return []


def _within(limits: Limits) -> Limits:
    return replace(limits.begin(), positions=min(POSITIONS, limits.positions), on_answer=None)


def _listed(
    trial: Trial, corrections: Iterable[Correction], most: int, on_mend: OnMend | None
) -> Mends:
    """The mends that leave the fewest errors, each idea once and then the others."""
    mends: list[Mend] = []
    helping = trial.helping(corrections)
    first = next(helping, None)
    best = takewhile(lambda one: first and one.others_left == first.others_left, helping)
    for one in _each_idea_once(chain([first] if first else [], best)):
        mend = trial.mend(one)
        if mend is not None:
            mends.append(mend)
            if on_mend is not None:
                on_mend(mend)
        if len(mends) >= most:
            break
    return Mends(mends, trial.all_tried)


def _each_idea_once(found: Iterable[Helping]) -> Iterator[Helping]:
    """The best correction of each idea, and then the others; last those with which a player can get stuck."""
    ideas: set[str] = set()
    later: list[Helping] = []
    for one in found:
        if one.stuck and later and not later[-1].stuck:
            yield from later
            later = []
        if one.correction.idea in ideas:
            later.append(one)
        else:
            ideas.add(one.correction.idea)
            yield one
    yield from later
