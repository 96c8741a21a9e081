"""The trial of corrections: each is made on a copy and checked; those that help are ranked.

A correction is ranked by what a check finds with it and by how likely the mistake is that it undoes.
Tries are counted, and not seconds: the same file has the same mends on every machine, unless the time is over.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from math import inf
from pathlib import Path
from typing import NamedTuple

from ..checks import Answer, Report
from ..checks.accepting import codes_of, subjects_of
from ..checks.check import report_on
from ..facts.relaxed import Relaxed
from ..findings.finding import SEVERITIES, Finding
from ..findings.registry import layout
from ..language import dumps, loads
from ..language.files.campaign_files import with_texts
from ..language.files.loading import from_plain, read_text
from ..language.text.editing import edited, edited_text, plain
from ..level import Level, LevelError
from ..level.joined import Joined
from ..questions import can_finish, get_stuck
from ..questions.context import AnyContext
from ..questions.evidence import few_positions, gather
from ..questions.subjects import subjects
from ..rules import compile_level
from ..rules.move_places import subject_of_move
from ..spaces import CutShortError, Limits
from ..values import replace
from .campaign_corrections import campaign_corrections
from .correction import Correction
from .level_corrections import acceptance, level_corrections
from .map_corrections import map_corrections
from .mend import Mend
from .site import Site
from .way_corrections import walk_corrections

#: How many corrections to look at: the rooms and passages that are read in all, the fewest and the most. How
#: many of those to check, and how many that help are enough.
LOOKED_AT_IN_ALL, FEWEST_LOOKED_AT, MOST_LOOKED_AT = 20_000, 100, 400
MOST_CHECKED, ENOUGH = 40, 10
#: How many ways in which moves turn out may be gone through in all, to see what a correction promises.
BRANCHES_IN_ALL = 100_000
#: How many positions a check searches one by one before it tries another way.
FEW = 2_000
#: How many corrections may be proposed.
MOST_PROPOSED = 50_000
#: A map takes as long to read as this many rooms.
LINES_A_ROOM = 50
#: How many mends may differ only by where they are made.
MOST_OF_AN_IDEA = 4
#: By how much a warning, a note, and a warning that is new besides make a correction less likely to be what was meant.
A_WARNING, A_NOTE, A_NEW_WARNING = 0.6, 0.2, 3.0

#: Codes of findings, each with the name of its subject.
Codes = frozenset[tuple[str, str]]


class Helping(NamedTuple):
    """A correction that helps.

    Attributes:
        rank: How many errors are left, how unlikely it is that the level with it was meant, and the number
            of the correction.
        correction: The correction.
        left: The errors that are left, as ``CODE SUBJECT``.
        warns: What is newly reported: the warnings, and those ways to get stuck.
        gone: The findings that are gone.
        stuck: Those of the errors that are ways to get stuck, in a level that could not be finished.
        yielded: Whether it was yielded.
        elsewhere: Other places in which it helps as well.
    """

    rank: tuple[int, float, int]
    correction: Correction
    left: tuple[str, ...]
    warns: tuple[str, ...] = ()
    gone: tuple[Finding, ...] = ()
    stuck: tuple[str, ...] = ()
    yielded: bool = False
    elsewhere: tuple[str, ...] = ()

    @property
    def others_left(self) -> int:
        """How many errors are left, without those ways to get stuck."""
        return len(self.left) - len(self.stuck)

    @property
    def say(self) -> str:
        """The correction in a sentence, with the other places."""
        others = f" (or {', '.join(self.elsewhere)})" if self.elsewhere else ""
        return self.correction.say + others


class Trial:
    """Tries corrections, all of them a little and the best ones wholly.

    By itself, it tries corrections of a file that cannot be read: one helps if the file can be read with it.

    Args:
        before: The texts of the files, by name.
        file: The file that was read.
        limits: How long to take, and how many positions each check may search.
        checks: How many corrections may be checked.
        enough: How many that help are enough.

    Attributes:
        all_tried: Whether every correction was tried, and no check of one was cut short.
        may_stick: Whether to look for more corrections with which a player can get stuck, where none could finish.
    """

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
        self.all_tried, self.few, self.may_stick = True, FEW, True
        self._branches = BRANCHES_IN_ALL
        self._seen: set[str] = set()

    def helping(self, corrections: Iterable[Correction]) -> Iterator[Helping]:
        """Yield the corrections that help, the likeliest first: each as soon as no likelier one can follow.

        Those that differ only by a place are one. Those with which a player can still get stuck come last.
        """
        waiting = self._looked_at(corrections)
        least = [inf]  # how unlikely the likeliest of those that wait is, from the last one on
        for _, _, one, _ in reversed(waiting):
            least.append(min(least[-1], one.unlikely))
        found: list[Helping] = []
        stuck: list[Helping] = []
        for tried, (_, number, one, changed) in enumerate(waiting):
            known = sum(other.correction.idea == one.idea for other in (*found, *stuck))
            if tried >= self.checks or self.limits.over or len(found) >= self.enough:
                self.all_tried = False
                break
            if known >= MOST_OF_AN_IDEA:
                self.all_tried = False
                continue
            whole = self._checked(changed)
            helping = self.helps(whole, one, number) if whole is not None else None
            if helping is not None:
                (stuck if helping.stuck else found).append(helping)
            if len(stuck) >= max(
                self.enough // 2, 1
            ):  # from now on, others of these are passed over
                self.may_stick = self.all_tried = False
            later = {other.idea for _, _, other, _ in waiting[tried + 1 :] if other.place}
            yield from _certain(found, (0, least[-tried - 2]), later)
        yield from _certain(found, (inf,), set())
        yield from _certain(stuck, (inf,), set())

    def _looked_at(
        self, corrections: Iterable[Correction]
    ) -> list[tuple[tuple[float, ...], int, Correction, Level]]:
        """The corrections with which the level can be read, each with the level: the most promising first."""
        looked_at: list[tuple[tuple[float, ...], int, Correction, Level]] = []
        likeliest = sorted(self._proposed(corrections), key=lambda one: one.tried_by)
        for number, one in enumerate(likeliest):
            if number >= self.most_looked_at or self.limits.over:
                self.all_tried = False
                break
            changed = self._readable(one)
            if changed is not None:
                looked_at.append((self._outlook(changed, one), number, one, changed))
        return sorted(looked_at, key=lambda one: one[:2])

    def _proposed(self, corrections: Iterable[Correction]) -> Iterator[Correction]:
        for number, one in enumerate(corrections):
            if number >= MOST_PROPOSED or self.limits.over:
                self.all_tried = False
                return
            yield one

    @property
    def most_looked_at(self) -> int:
        """The most corrections to look at."""
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

    def helps(self, report: Report, one: Correction, number: int) -> Helping | None:
        """Try a correction and return what it does; ``None`` if it does not help."""
        if report.with_code("undecided"):
            self.all_tried = False
            return None
        left = _names([one for one in report.findings if one.severity == "error"])
        return Helping((len(left), one.unlikely + _amiss(report), number), one, left)

    def mend(self, one: Helping) -> Mend | None:
        """A correction as a mend; ``None`` if the edits do not fit the text of the file."""
        correction = one.correction
        file = correction.file or self.file or ""
        before = self.before[file]
        try:
            text = correction.text or edited_text(before, list(correction.edits), file or None)
        except LevelError:
            return None
        return Mend(
            one.say,
            {file: text},
            {file: before},
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
        """Rate a changed level by a quick look: less is better."""
        found = [one for one in layout.all(level) if one.severity in ("error", "warning")]
        amiss = one.tried_by + A_WARNING * len(found)
        if self._branches <= 0:
            return (0.0, amiss)
        rules = compile_level(level)
        relaxed = Relaxed(rules, self.limits)
        # If moves turn out in too many ways, it takes long to see that.
        self._branches -= len(relaxed.branches) if relaxed.able else BRANCHES_IN_ALL
        reach = relaxed.reach(rules.initial)
        undone = sum(
            reach.low[subject.variable] == reach.high[subject.variable] == subject.before
            for subject in subjects(level, rules)
        )
        shut = len(rules.places) - len(reach.rooms) + undone
        return (float(not reach.finishes), amiss + 0.3 * shut)

    def _checked(self, level: Level) -> Report | None:
        """The check of a changed level; ``None`` if a look at the first answers shows that it is no better."""
        try:
            context = gather(level, replace(self.limits, few=self.few))
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


class TrialOfLevel(Trial):
    """Tries corrections of a level that was checked, for some of its findings.

    Args:
        findings: The findings to mend.
        limits: How long to take, and how many positions each check may search.
        checks: How many corrections may be checked.
        enough: How many that help are enough.
    """

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
        self._documents = {file: plain(text, file or None) for file, text in before.items()}
        if report.search.positions > few_positions(compile_level(level)):
            self.few = 0
        elif report.search.all_seen:
            self.few = max(FEW, 2 * report.search.positions)
        known = (*report.findings, *report.accepted)
        self._known: Codes = frozenset().union(*(codes_of(one) for one in known))
        self._wanted: Codes = frozenset().union(*(codes_of(one) for one in findings))
        self._never_finished = "cannot-finish" in {code for code, _ in self._wanted}
        follow = [other for one in known for other in one.follows]
        self._lost_before = _lost_by([*known, *follow], level)

    def corrections(self) -> Iterator[Correction]:
        """Every correction of the level, for its findings."""
        if not self.findings or not self.before:
            return  # a campaign that was built in Python has no file to change
        if isinstance(self.level, Joined):
            yield from campaign_corrections(self.level, self._report, self.findings)
            return
        document = self._documents[self.file or ""]
        yield from level_corrections(Site(self.level, document, self._report, self.findings[0]))
        for other in self.findings[1:]:
            yield from walk_corrections(Site(self.level, document, self._report, other))
        yield from map_corrections(document, self._tables())

    def _tables(self) -> dict[str, tuple[str, str]]:
        """The CSV file of each map that is read from one, and its text."""
        named = {name: floor.csv for name, floor in self.level.maps.items() if floor.csv}
        paths = {name: str(Path(self.file or "").parent / csv) for name, csv in named.items()}
        texts = {path: read_text(path) for path in paths.values()}
        self.before = {**self.before, **texts}
        return {name: (path, texts[path]) for name, path in paths.items()}

    def acceptance(self, finding: Finding) -> Iterator[Correction]:
        """The correction that accepts a finding, if the file can say that."""
        if not isinstance(self.level, Joined) and finding in self.findings:
            document = self._documents[self.file or ""]
            yield from acceptance(Site(self.level, document, self._report, finding))

    def changed(self, one: Correction) -> Level | None:
        """The level with a correction; ``None`` if nothing is changed."""
        if one.text is not None:  # of a map in a CSV file
            whole = self._documents[self.file or ""]
            return (
                from_plain(whole, self.level, {one.file: one.text})
                if self.is_new(one.text)
                else None
            )
        file = one.file or self.file or ""
        document = self._documents[file]
        new = edited(document, list(one.edits))
        if new == document or not self.is_new(repr(new)):
            return None
        if isinstance(self.level, Joined):
            text = edited_text(self.before[file], list(one.edits), file)
            return with_texts(self.level, {file: text})
        return from_plain(new, self.level)

    @property
    def most_looked_at(self) -> int:
        """The most corrections to look at: fewer in a larger level."""
        return max(FEWEST_LOOKED_AT, min(MOST_LOOKED_AT, LOOKED_AT_IN_ALL // self.size))

    @property
    def size(self) -> int:
        """The size of the level: its rooms and passages; a map takes as long to read as many rooms."""
        level = self.level
        return 1 + len(level.rooms) + len(level.passages) + LINES_A_ROOM * len(level.maps)

    @property
    def tries_spare(self) -> bool:
        """Whether to try which units are spare."""
        return any(one.code == "spare-keys" for one in self.findings)

    def may_help(self, level: Level, context: AnyContext) -> bool:
        """Whether a level can be finished as it should, and no more moves than before get a player stuck.

        If it could not be finished before, every move got the player stuck.
        """
        codes = {code for code, _ in self._known}
        left = {code for code, _ in self._known - self._wanted}
        finishes = level.expected.finish != "possible" or "cannot-finish" in left
        if not finishes and can_finish.possible(context) != Answer.YES:
            return False
        if level.expected.stuck != "never" or "left-behind" in codes or self._forgives:
            return True
        if get_stuck.ask(context).answer == Answer.NEVER:
            return True
        losing = {subject_of_move(level, one.what) for one in get_stuck.losing_moves(context)}
        stuck_only = all(one.code == "can-get-stuck" for one in self.findings)
        same = stuck_only and _lost_by(self.findings, level) <= losing
        return losing <= self._lost_before and not same

    @property
    def _forgives(self) -> bool:
        return self._never_finished and self.may_stick

    def helps(self, report: Report, one: Correction, number: int) -> Helping | None:
        """Try a correction and return what it does; ``None`` if it mends no finding, or something as grave is new."""
        found = super().helps(report, one, number)
        if found is None:
            return None
        now: Codes = frozenset().union(*(codes_of(after) for after in report.findings))
        gone = tuple(before for before in self.findings if not subjects_of(before) & now)
        if not gone:
            return None
        new = [one for one in report.findings if not subjects_of(one) <= self._known]
        if self._forgives:
            stuck = _names([one for one in new if one.code == "can-get-stuck"])
            new = [one for one in new if one.code != "can-get-stuck"]
        else:
            stuck = ()
        gravest_of = min(SEVERITIES.index(before.severity) for before in self.findings)
        if any(SEVERITIES.index(one.severity) <= gravest_of for one in new):
            return None
        warns = _names([one for one in new if one.severity == "warning"])
        rank = (found.rank[0], found.rank[1] + A_NEW_WARNING * len(warns), number)
        warns = stuck + warns
        return found._replace(rank=rank, gone=gone, warns=warns, stuck=stuck)


def _lost_by(findings: Iterable[Finding], level: Level) -> set[str]:
    """Return the subjects of the mistakes among some findings."""
    moves = [one.mistake for one in findings if one.code == "can-get-stuck" and one.mistake]
    moves += [other.move for one in findings if one.code == "can-get-stuck" for other in one.also]
    return {subject_of_move(level, move) for move in moves}


def _certain(found: list[Helping], least: tuple[float, ...], later: set[str]) -> Iterator[Helping]:
    """Yield the corrections that no other can still precede, and mark them as yielded.

    Args:
        found: The corrections that help.
        least: The least rank that a correction can have which is still to be tried.
        later: The ideas that are still to be tried in other places.
    """
    for one in sorted((one for one in found if not one.yielded), key=lambda one: one.rank):
        if one not in found:  # yielded with another
            continue
        same = [other for other in found if not other.yielded and _differ_by_place(one, other)]
        more = one.correction.idea in later and len(same) + 1 < MOST_OF_AN_IDEA
        if one.rank >= least or (one.correction.place and more):
            return
        for other in (one, *same):
            found[found.index(other)] = other._replace(yielded=True)
        places = tuple(other.correction.place for other in same)
        yield one._replace(yielded=True, elsewhere=places)


def _differ_by_place(one: Helping, other: Helping) -> bool:
    """Whether two corrections say the same of different places, and do the same."""
    places = one.correction.place, other.correction.place
    does = [(each.correction.idea, each.left, each.warns, each.gone) for each in (one, other)]
    return "" not in places and places[0] != places[1] and does[0] == does[1]


def _amiss(report: Report) -> float:
    """Count what a check finds wrong, beside its errors."""
    weights = {"error": 0.0, "warning": A_WARNING, "note": A_NOTE}
    return sum(weights[one.severity] for one in report.findings)


def _names(findings: Iterable[Finding]) -> tuple[str, ...]:
    """The findings as ``CODE SUBJECT``, each once."""
    return tuple(dict.fromkeys(f"{one.code} {one.subject}" for one in findings))
