"""The mends of a level or a file: corrections that were tried, the likeliest first.

A correction is ranked by what a check finds with it and by how likely the mistake is that it undoes.
Tries are counted, and not seconds: the same file has the same mends on every machine, unless the time is over.
"""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import chain
from typing import NamedTuple

from ..checks import Answer, Report, check_level
from ..checks.check import report_on
from ..facts.relaxed import Relaxed
from ..files import dumps, load, loads
from ..files.campaign_files import with_texts
from ..files.editing import edited, edited_text, plain
from ..files.loading import from_plain, read_text
from ..findings.finding import Finding
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
from .campaign_mends import changes_of_campaign
from .correction import EASIER, Correction
from .kinds import changes
from .level_corrections import level_corrections
from .map_corrections import map_corrections
from .mend import changed_lines
from .site import Site
from .text_corrections import text_corrections

#: How many corrections to look at: the rooms and passages that are read in all, the fewest and the most. How
#: many of those to check, and how many that help are enough.
LOOKED_AT_IN_ALL, FEWEST_LOOKED_AT, MOST_LOOKED_AT = 20_000, 100, 400
MOST_CHECKED, MOST_WHOLE = 40, 10
#: A map takes as long to read as this many rooms.
LINES_A_ROOM = 50
#: How many positions each check may search one by one.
POSITIONS = 20_000
#: How many mends are offered, and how many that differ only by where they are made.
MOST_OFFERED, MOST_OF_AN_IDEA = 8, 4
#: How unlikely it is that a gate before the point of no return was forgotten.
GATED = 2.5
#: By how much a warning, and a note, makes a correction less likely to be what was meant.
A_WARNING, A_NOTE = 0.6, 0.2


@dataclass(frozen=True)
class Offer:
    """A mend of a level or of a file that cannot be read: it was made on a copy and checked.

    Attributes:
        say: The change, in a sentence.
        texts: The new text of each file that it changes.
        before: The texts of those files as they are.
        left: The errors that the level still has with it, as ``CODE SUBJECT``.

    Example:
        >>> offer = Offer("write mill", {"mill.yaml": "goal: mill\\n"}, {"mill.yaml": "goal: mil\\n"})
        >>> offer.text, offer.diff
        ('goal: mill\\n', ['-goal: mil', '+goal: mill'])
    """

    say: str
    texts: Mapping[str, str]
    before: Mapping[str, str]
    left: tuple[str, ...] = ()

    @property
    def text(self) -> str:
        """The new text of the file that it changes."""
        return next(iter(self.texts.values()))

    @cached_property
    def diff(self) -> list[str]:
        """The lines that go and those that come, each with ``-`` or ``+`` before it."""
        return list(
            chain.from_iterable(changed_lines(self.before[f], new) for f, new in self.texts.items())
        )


class Offers(NamedTuple):
    """The mends that were found.

    Attributes:
        mends: The mends, the likeliest first.
        all_tried: Whether every correction was tried, and no check of one was cut short.
    """

    mends: list[Offer]
    all_tried: bool


def mends_of(
    level: Level | str | os.PathLike[str], *, max_seconds: float | None = None
) -> list[Offer]:
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


def mends_of_report(report: Report, limits: Limits) -> Offers:
    """Find changes that mend a level that was checked, as :func:`mends_of`.

    Args:
        report: The check of the level.
        limits: How long to take.
    """
    limits = replace(limits.begin(), positions=min(POSITIONS, limits.positions), on_answer=None)
    return _Search.of_report(report, limits).offers()


def mends_of_text(text: str, error: LevelError, limits: Limits | None = None) -> Offers:
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
    corrections = text_corrections(text, error)
    return _Search(corrections, limits, {str(error.file): text}, error.file).offers()


class _Search:
    """Tries corrections, all of them a little and the best ones wholly."""

    def __init__(
        self,
        corrections: Iterable[Correction],
        limits: Limits,
        before: Mapping[str, str],
        file: str | None,
        level: Level | None = None,
        wrong: frozenset[tuple[str, str]] = frozenset(),
        severity: str = "error",
    ) -> None:
        self.corrections, self.limits = corrections, limits
        self.before, self.file, self.level = before, file, level
        self.wrong, self.severity = wrong, severity
        self.all_tried = True

    @classmethod
    def of_report(cls, report: Report, limits: Limits) -> _Search:
        """The search for mends of a level that can be read."""
        level = report.level
        errors = [one for one in report.findings if one.severity == "error"]
        grave = errors or [one for one in report.findings if one.severity == "warning"]
        severity = "error" if errors else "warning"
        wrong = frozenset((one.code, one.subject) for one in grave)
        before = level.texts if isinstance(level, Joined) else {str(level.file): dumps(level)}
        found = _corrections(level, report, grave) if grave else iter(())
        return cls(found, limits, before, level.file, level, wrong, severity)

    # -- trying -------------------------------------------------------------------------------

    def offers(self) -> Offers:
        """Find the mends, the likeliest first."""
        looked_at: list[tuple[tuple[float, ...], int, Correction, Level]] = []
        seen: set[str] = set()
        likeliest = sorted(self.corrections, key=lambda one: one.unlikely)
        for number, one in enumerate(likeliest):
            if number >= self._most_looked_at or self.limits.over:
                self.all_tried = False
                break
            changed = self._changed(one, seen)
            if changed is not None:
                looked_at.append((self._outlook(changed, one), number, one, changed))
        looked_at.sort(key=lambda one: one[:2])
        ranked: list[tuple[float, int, Correction, tuple[str, ...]]] = []
        for tried, (_, number, one, changed) in enumerate(looked_at):
            if tried >= MOST_CHECKED or self.limits.over or len(ranked) >= MOST_WHOLE:
                self.all_tried = False
                break
            if sum(known[2].idea == one.idea for known in ranked) >= MOST_OF_AN_IDEA:
                self.all_tried = False
                continue
            whole = self._checked(changed)
            if whole is not None and self._helps(whole):
                ranked.append((one.unlikely + _amiss(whole), number, one, _errors(whole)))
        ranked.sort(key=lambda one: one[:2])
        fewest = min((len(left) for _, _, _, left in ranked), default=0)
        ranked = [one for one in ranked if len(one[3]) == fewest]
        found = [self._offer(one, left) for _, _, one, left in _each_idea_once(ranked)]
        return Offers([one for one in found if one is not None][:MOST_OFFERED], self.all_tried)

    def _changed(self, one: Correction, seen: set[str]) -> Level | None:
        """The level with a correction; ``None`` if it cannot be read, or was seen already."""
        try:
            if one.text is not None:
                if one.text in seen:
                    return None
                seen.add(one.text)
                return loads(one.text, self.file)
            file = one.file or str(self.file)
            document = self._documents[file]
            new = edited(document, list(one.edits))
            if new == document or repr(new) in seen:
                return None
            seen.add(repr(new))
            assert self.level is not None
            if isinstance(self.level, Joined):
                return with_texts(self.level, {file: self._text(one, file)})
            return from_plain(new, self.level)
        except (LevelError, RecursionError):
            return None

    @cached_property
    def _documents(self) -> dict[str, object]:
        return {file: plain(text, file) for file, text in self.before.items()}

    def _text(self, one: Correction, file: str) -> str:
        return edited_text(self.before[file], list(one.edits), None if file == "None" else file)

    @property
    def _most_looked_at(self) -> int:
        """How many corrections to look at: fewer in a larger level."""
        if self.level is None:
            return MOST_LOOKED_AT
        size = (
            len(self.level.rooms) + len(self.level.passages) + LINES_A_ROOM * len(self.level.maps)
        )
        return max(FEWEST_LOOKED_AT, min(MOST_LOOKED_AT, LOOKED_AT_IN_ALL // size))

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
            if self.level is not None and not self._may_help(level, context):
                return None
            return report_on(context, try_spare=False)
        except LevelError:
            return None
        except CutShortError:
            self.all_tried = False
            return None

    def _may_help(self, level: Level, context: AnyContext) -> bool:
        """Whether a level can be finished if it is to be, and nobody gets stuck unless that was so."""
        if level.expected.finish == "possible" and can_finish.possible(context) != Answer.YES:
            return False
        may = level.expected.stuck != "never" or any(
            code in ("can-get-stuck", "left-behind") for code, _ in self.wrong
        )
        return may or get_stuck.ask(context).answer == Answer.NEVER

    def _helps(self, report: Report) -> bool:
        """Whether the gravest findings are fewer, and none of them is new."""
        if report.with_code("undecided"):
            self.all_tried = False
            return False
        if self.level is None:
            return True
        now = {
            (one.code, one.subject)
            for one in report.findings
            if one.severity == self.severity or one.severity == "error"
        }
        return now < self.wrong

    def _offer(self, one: Correction, left: tuple[str, ...]) -> Offer | None:
        file = one.file or str(self.file)
        try:
            text = self._text(one, file) if one.text is None else one.text
        except LevelError:
            return None  # the file says it in another way than was thought
        return Offer(one.say, {file: text}, {file: self.before[file]}, left)


def _corrections(level: Level, report: Report, grave: list[Finding]) -> Iterator[Correction]:
    """Every correction of a level that was checked."""
    if isinstance(level, Joined):
        yield from campaign_corrections(level)
        for finding in grave:
            for mend in changes_of_campaign(level, report, finding):
                unlikely = EASIER if mend.say.startswith("put") else GATED
                yield Correction(mend.say, mend.say, unlikely, mend.edits, file=mend.file)
        for stage in level.campaign.stages.values():
            if stage.level.file is not None and stage.level.file in level.texts:
                document = plain(level.texts[stage.level.file], stage.level.file)
                site = Site(stage.level, document, report, grave[0])
                for one in level_corrections(site):
                    yield Correction(
                        one.say, one.idea, one.unlikely + 1, one.edits, file=stage.level.file
                    )
        return
    document = plain(dumps(level), level.file)
    site = Site(level, document, report, grave[0])
    yield from level_corrections(site)
    yield from map_corrections(site)
    for say, edits in changes(site):
        if not say.startswith("if it is meant"):
            idea, unlikely = ("a gate", GATED) if say.endswith("(a gate)") else (say, EASIER + 1)
            yield Correction(say, idea, unlikely, tuple(edits))


def _amiss(report: Report) -> float:
    """How much a check finds amiss."""
    weights = {"error": 100.0, "warning": A_WARNING, "note": A_NOTE}
    return sum(weights[one.severity] for one in report.findings)


def _errors(report: Report) -> tuple[str, ...]:
    return tuple(f"{one.code} {one.subject}" for one in report.findings if one.severity == "error")


def _each_idea_once(
    ranked: list[tuple[float, int, Correction, tuple[str, ...]]],
) -> Iterator[tuple[float, int, Correction, tuple[str, ...]]]:
    """The best correction of each idea, and then the others."""
    ideas: set[str] = set()
    later = []
    for one in ranked:
        if one[2].idea in ideas:
            later.append(one)
        else:
            ideas.add(one[2].idea)
            yield one
    yield from later
