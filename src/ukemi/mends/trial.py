"""The trial of corrections: each is made on a copy and checked; those that help are mends, the likeliest first.

A correction is ranked by what a check finds with it and by how likely the mistake is that it undoes.
Tries are counted, and not seconds: the same file has the same mends on every machine, unless the time is over.
"""

from __future__ import annotations

import os
from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import replace
from functools import cached_property
from typing import NamedTuple

from ..checks import Answer, Report, check_level
from ..checks.accepting import all_told, subjects_of
from ..checks.check import report_on
from ..facts.relaxed import Relaxed
from ..files import dumps, load, loads
from ..files.campaign_files import with_texts
from ..files.editing import edited, edited_text, plain
from ..files.loading import from_plain, read_text
from ..findings.finding import SEVERITIES, Finding
from ..findings.registry import layout
from ..level import Level, LevelError
from ..level.joined import Joined
from ..questions import can_finish, get_stuck
from ..questions.context import AnyContext
from ..questions.evidence import gather
from ..questions.subjects import subjects
from ..rules import compile_level
from ..spaces import MAX_POSITIONS, CutShortError, Limits
from .campaign_corrections import campaign_corrections
from .correction import Correction
from .level_corrections import acceptance, level_corrections
from .map_corrections import map_corrections
from .mend import Mend
from .site import Site
from .text_corrections import text_corrections

#: How many corrections to look at: the rooms and passages that are read in all, the fewest and the most. How
#: many of those to check, and how many that help are enough.
LOOKED_AT_IN_ALL, FEWEST_LOOKED_AT, MOST_LOOKED_AT = 20_000, 100, 400
MOST_CHECKED, ENOUGH = 40, 10
#: How many corrections may be proposed.
MOST_PROPOSED = 50_000
#: For how many findings of a report, at most, there is a search of their own.
MOST_SEARCHED = 8
#: A map takes as long to read as this many rooms.
LINES_A_ROOM = 50
#: How many positions each check may search one by one.
POSITIONS = 20_000
#: How many mends are listed, for a level and for one finding, and how many that differ only by where they are made.
MOST_LISTED, MOST_OF_A_FINDING, MOST_OF_AN_IDEA = 8, 5, 4
#: By how much a warning, a note, and a warning that is new besides make a correction less likely to be what was meant.
A_WARNING, A_NOTE, A_NEW_WARNING = 0.6, 0.2, 3.0

#: Codes of findings, each with the name of its subject.
Told = frozenset[tuple[str, str]]


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
    """Find changes that mend a level, or with which a file can be read.

    Each was made on a copy and checked: with it, the gravest findings are gone, and nothing as grave is new.

    Args:
        level: A level, or the path of a level or campaign file.
        max_seconds: The most time to take, in seconds; by default, the number of tries alone ends
            the search.

    Returns:
        The mends, the likeliest first: those that keep the puzzle as it is before those that make it easier.
        None if nothing is wrong.

    Raises:
        LevelError: The file does not exist, or is no text.

    Example:
        >>> from ukemi.files import loads
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [mill -> quay]}")
        >>> [one.say for one in mends_of(level)][:2]
        ['make mill -> quay two-way', 'let mill -> quay lead from quay to mill']
    """
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


def mends_of_text(text: str, error: LevelError, limits: Limits | None = None) -> Mends:
    """Find changes with which a text can be read.

    Args:
        text: The text.
        error: What keeps it from being read.
        limits: How long to take.

    Example:
        >>> from ukemi.files import loads
        >>> text = "{start: quay, goal: mil, rooms: [quay, mill], passages: [quay <-> mill]}"
        >>> try:
        ...     level = loads(text)
        ... except LevelError as error:
        ...     print(mends_of_text(text, error).mends[0].say)
        write 'mill' for 'mil'
    """
    limits = limits or Limits(POSITIONS).begin()
    trial = _TrialOfText({error.file or "": text}, error.file, limits)
    return _listed(trial, trial.helping(text_corrections(text, error)))


def mends_of_report(report: Report, limits: Limits) -> Mends:
    """Find changes that mend a level that was checked, as :func:`mends_of`.

    Args:
        report: The check of the level.
        limits: How long to take.
    """
    grave = gravest(report)
    trial = _TrialOfLevel(report, grave, _within(limits))
    return _listed(trial, trial.helping(_corrections(report, grave)))


def mends_of_finding(
    report: Report,
    finding: Finding,
    limits: Limits,
    checks: int = MOST_CHECKED,
    enough: int = ENOUGH,
) -> Mends:
    """Find changes with which one finding is gone, and nothing of its severity or a graver one is new.

    Args:
        report: The check of the level.
        finding: One of its findings.
        limits: How long to take.
        checks: How many changes may be checked.
        enough: How many mends are enough.

    Example:
        >>> from ukemi.files import loads
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [mill -> quay]}")
        >>> report = check_level(level)
        >>> mends_of_finding(report, report.findings[0], Limits()).mends[0].say
        'make mill -> quay two-way'
    """
    trial = _TrialOfLevel(report, [finding], _within(limits), checks, enough)
    found = [*_each_idea_once(trial.helping(_corrections(report, [finding])))]
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
        report: The report.
        which: The findings to mend.
        limits: The limits of the search; they may end it before all tries are made.
        checks: How many changes may be checked for each finding.
    """
    limits = _within(limits)
    grave = gravest(report)
    chosen = [one for one in report.findings if one in which and one.code != "undecided"]
    trial = _TrialOfLevel(report, grave, limits, checks)
    shared = [one for one in grave if one in chosen]
    found = [*_each_idea_once(trial.helping(_corrections(report, grave)))] if shared else []
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


def _of_finding(trial: _TrialOfLevel, found: list[_Helping], finding: Finding, most: int) -> Mends:
    """Of the corrections that help, those that mend one finding; last, that it is meant."""
    all_tried = trial.all_tried
    accepting = trial.helping(trial.acceptance(finding))
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


def _listed(trial: _Trial, found: list[_Helping]) -> Mends:
    """The mends that leave the fewest errors, each idea once and then the others."""
    fewest = min((len(one.left) for one in found), default=0)
    best = [one for one in found if len(one.left) == fewest]
    mends = [trial.mend(one) for one in _each_idea_once(best)]
    return Mends([one for one in mends if one is not None][:MOST_LISTED], trial.all_tried)


class _Helping(NamedTuple):
    """A correction that helps.

    Attributes:
        rank: How unlikely it is that the level with it was meant; then the number of the correction.
        correction: The correction.
        left: The errors that are left, as ``CODE SUBJECT``.
        warns: The warnings that are new.
        gone: The findings that are gone.
    """

    rank: tuple[float, int]
    correction: Correction
    left: tuple[str, ...]
    warns: tuple[str, ...] = ()
    gone: tuple[Finding, ...] = ()


class _Trial:
    """Tries corrections, all of them a little and the best ones wholly."""

    def __init__(
        self,
        before: Mapping[str, str],
        file: str | None,
        limits: Limits,
        checks: int = MOST_CHECKED,
        enough: int = ENOUGH,
    ) -> None:
        self.before, self.file, self.limits = before, file, limits
        self.checks, self.enough = checks, enough
        self.all_tried = True
        self._seen: set[str] = set()

    def helping(self, corrections: Iterable[Correction]) -> list[_Helping]:
        """The corrections that help, the likeliest first."""
        looked_at: list[tuple[tuple[float, ...], int, Correction, Level]] = []
        likeliest = sorted(self._proposed(corrections), key=lambda one: one.unlikely)
        for number, one in enumerate(likeliest):
            if number >= self.most_looked_at or self.limits.over:
                self.all_tried = False
                break
            changed = self._readable(one)
            if changed is not None:
                looked_at.append((self._outlook(changed, one), number, one, changed))
        looked_at.sort(key=lambda one: one[:2])
        found: list[_Helping] = []
        for tried, (_, number, one, changed) in enumerate(looked_at):
            if tried >= self.checks or self.limits.over or len(found) >= self.enough:
                self.all_tried = False
                break
            if sum(known.correction.idea == one.idea for known in found) >= MOST_OF_AN_IDEA:
                self.all_tried = False
                continue
            whole = self._checked(changed)
            helping = self.helps(whole, one, number) if whole is not None else None
            if helping is not None:
                found.append(helping)
        return sorted(found, key=lambda one: one.rank)

    def _proposed(self, corrections: Iterable[Correction]) -> Iterator[Correction]:
        for number, one in enumerate(corrections):
            if number >= MOST_PROPOSED or self.limits.over:
                self.all_tried = False
                return
            yield one

    @property
    def most_looked_at(self) -> int:
        """How many corrections to look at."""
        return MOST_LOOKED_AT

    def changed(self, one: Correction) -> Level | None:
        """The level with a correction; ``None`` if nothing is changed.

        Raises:
            LevelError: With it, the level cannot be read.
        """
        assert one.text is not None
        return loads(one.text, self.file) if self.is_new(one.text) else None

    def is_new(self, said: str) -> bool:
        """Whether no correction before said the same."""
        known = said in self._seen
        self._seen.add(said)
        return not known

    def may_help(self, level: Level, context: AnyContext) -> bool:
        """Whether the first answers leave it possible that a change helps."""
        return True

    def helps(self, report: Report, one: Correction, number: int) -> _Helping | None:
        """What a correction does; ``None`` if it does not help."""
        if report.with_code("undecided"):
            self.all_tried = False
            return None
        return _Helping((one.unlikely + _amiss(report), number), one, _errors(report))

    def mend(self, one: _Helping) -> Mend | None:
        """A correction as a mend; ``None`` if its file says it in another way than was thought."""
        correction = one.correction
        file = correction.file or self.file or ""
        try:
            text = correction.text or edited_text(
                self.before[file], list(correction.edits), file or None
            )
        except LevelError:
            return None
        return Mend(
            correction.say,
            {file: text},
            {file: self.before[file]},
            correction.edits,
            one.left,
            one.warns,
            bool(correction.file),
        )

    def _readable(self, one: Correction) -> Level | None:
        try:
            return self.changed(one)
        except (LevelError, RecursionError):
            return None

    def _outlook(self, level: Level, one: Correction) -> tuple[float, ...]:
        """What a quick look at a changed level promises: less is better."""
        rules = compile_level(level)
        reach = Relaxed(rules, self.limits).reach(rules.initial)
        undone = sum(
            reach.low[subject.variable] == reach.high[subject.variable] == subject.before
            for subject in subjects(level, rules)
        )
        shut = len(rules.places) - len(reach.rooms) + undone
        found = [one for one in layout.all(level) if one.severity in ("error", "warning")]
        return (float(not reach.finishes), one.unlikely + A_WARNING * len(found) + 0.3 * shut)

    def _checked(self, level: Level) -> Report | None:
        """The check of a changed level; ``None`` if a look at the first answers shows that it is no better."""
        try:
            context = gather(level, self.limits)
            if not self.may_help(level, context):
                return None
            return report_on(context, try_spare=self.tries_spare, says_why=False)
        except LevelError:
            return None
        except CutShortError:
            self.all_tried = False
            return None

    @property
    def tries_spare(self) -> bool:
        """Whether to try which units are spare."""
        return False


class _TrialOfText(_Trial):
    """Tries corrections of a file that cannot be read: each with which it can be helps."""


class _TrialOfLevel(_Trial):
    """Tries corrections of a level that was checked, for some of its findings."""

    def __init__(
        self,
        report: Report,
        findings: list[Finding],
        limits: Limits,
        checks: int = MOST_CHECKED,
        enough: int = ENOUGH,
    ) -> None:
        level = report.level
        before = level.texts if isinstance(level, Joined) else {level.file or "": dumps(level)}
        super().__init__(before, level.file, limits, checks, enough)
        self.level, self.findings, self._report = level, findings, report
        self._told: Told = frozenset().union(*(all_told(one) for one in report.findings))
        self._wanted: Told = frozenset().union(*(all_told(one) for one in findings))

    def acceptance(self, finding: Finding) -> Iterator[Correction]:
        """That a finding is meant, if that can be said."""
        if not isinstance(self.level, Joined) and finding in self.findings:
            document = self._documents[self.file or ""]
            yield from acceptance(Site(self.level, document, self._report, finding))

    def changed(self, one: Correction) -> Level | None:
        """The level with a correction; ``None`` if nothing is changed."""
        file = one.file or self.file or ""
        document = self._documents[file]
        new = edited(document, list(one.edits))
        if new == document or not self.is_new(repr(new)):
            return None
        if isinstance(self.level, Joined):
            text = edited_text(self.before[file], list(one.edits), file)
            return with_texts(self.level, {file: text})
        return from_plain(new, self.level)

    @cached_property
    def _documents(self) -> dict[str, object]:
        return {file: plain(text, file or None) for file, text in self.before.items()}

    @property
    def most_looked_at(self) -> int:
        """How many corrections to look at: fewer in a larger level."""
        return max(FEWEST_LOOKED_AT, min(MOST_LOOKED_AT, LOOKED_AT_IN_ALL // self.size))

    @property
    def size(self) -> int:
        """How large the level is: its rooms and passages; a map takes as long to read as many rooms."""
        level = self.level
        return 1 + len(level.rooms) + len(level.passages) + LINES_A_ROOM * len(level.maps)

    @property
    def tries_spare(self) -> bool:
        """Whether to try which units are spare."""
        return any(one.code == "spare-keys" for one in self.findings)

    def may_help(self, level: Level, context: AnyContext) -> bool:
        """Whether a level can be finished if it is to be, and nobody gets stuck unless that was so."""
        codes = {code for code, _ in self._told}
        left = {code for code, _ in self._told - self._wanted}
        finishes = level.expected.finish != "possible" or "cannot-finish" in left
        if not finishes and can_finish.possible(context) != Answer.YES:
            return False
        stuck = level.expected.stuck != "never" or codes & {"can-get-stuck", "left-behind"}
        return bool(stuck) or get_stuck.ask(context).answer == Answer.NEVER

    def helps(self, report: Report, one: Correction, number: int) -> _Helping | None:
        """What a correction does; ``None`` if it mends no finding, or something as grave is new."""
        found = super().helps(report, one, number)
        if found is None:
            return None
        now: Told = frozenset().union(*(all_told(after) for after in report.findings))
        gone = tuple(before for before in self.findings if not subjects_of(before) & now)
        if not gone:
            return None
        new = [one for one in report.findings if not subjects_of(one) <= self._told]
        gravest_of = min(SEVERITIES.index(before.severity) for before in self.findings)
        if any(SEVERITIES.index(one.severity) <= gravest_of for one in new):
            return None
        warns = tuple(f"{one.code} {one.subject}" for one in new if one.severity == "warning")
        rank = (found.rank[0] + A_NEW_WARNING * len(warns), number)
        return found._replace(rank=rank, gone=gone, warns=warns)


def _corrections(report: Report, findings: list[Finding]) -> Iterator[Correction]:
    """Every correction of a level that was checked, for some of its findings."""
    if not findings:
        return
    level = report.level
    if isinstance(level, Joined):
        yield from campaign_corrections(level, report, findings)
        return
    document = plain(dumps(level), level.file)
    site = Site(level, document, report, findings[0])
    yield from level_corrections(site)
    yield from map_corrections(document)


def _amiss(report: Report) -> float:
    """How much a check finds amiss."""
    weights = {"error": 100.0, "warning": A_WARNING, "note": A_NOTE}
    return sum(weights[one.severity] for one in report.findings)


def _errors(report: Report) -> tuple[str, ...]:
    return tuple(f"{one.code} {one.subject}" for one in report.findings if one.severity == "error")


def _each_idea_once(found: list[_Helping]) -> Iterator[_Helping]:
    """The best correction of each idea, and then the others."""
    ideas: set[str] = set()
    later = []
    for one in found:
        if one.correction.idea in ideas:
            later.append(one)
        else:
            ideas.add(one.correction.idea)
            yield one
    yield from later
