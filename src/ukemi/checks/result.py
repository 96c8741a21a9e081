"""What a finished check says: answers, routes and findings, as plain objects."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass, field, replace
from os.path import abspath
from typing import Any

from ..level import Level, Place
from ..rules.words import move_words
from ..spaces import Route
from .answers import Answer

SEVERITIES = ("error", "warning", "note")

#: The answers that are given of each thing of a kind, by its name.
KINDS = ("doors", "chests", "acts", "rooms", "items", "events")


@dataclass(frozen=True, eq=False)
class Mistake:
    """One move after which the level can no longer be finished, and a way into it.

    Attributes:
        move: The move.
        route: The moves that lead into it, itself the last.
    """

    move: dict[str, Any]
    route: Route


@dataclass(frozen=True, eq=False)
class Finding:
    """One thing a check has to say.

    Attributes:
        code: A short phrase that says what is wrong.
        severity: ``error``, ``warning`` or ``note``.
        subject: The name of what it is about.
        message: What happens.
        why: Why it happens.
        mend: What would mend it.
        place: Line and column in the file.
        route: The moves that show it.
        mistake: The one wrong move, where there is one.
        also: Other mistakes with the same cause.
        follows: Findings that only follow from this one.
        mends: Changes to the level that are proven to mend it, the smallest first; ``None`` where
            nobody looked for any.
        mends_cut_short: Whether more changes could have been tried.
    """

    code: str
    severity: str
    subject: str
    message: str
    why: str = ""
    mend: str = ""
    place: Place | None = None
    route: Route | None = None
    mistake: dict[str, Any] | None = None
    also: tuple[Mistake, ...] = ()
    follows: tuple[Finding, ...] = ()
    mends: tuple[Any, ...] | None = None
    mends_cut_short: bool = False

    def __repr__(self) -> str:
        where = f" at {self.place.line}:{self.place.column}" if self.place else ""
        return f"<Finding {self.severity} {self.code}{where}: {self.message}>"


@dataclass(frozen=True)
class RewardAnswer:
    """What a finishing run does about a reward, and whether it can be missed."""

    status: Answer
    missable: Answer


@dataclass(frozen=True)
class LevelAnswer:
    """What runs do about a level of a campaign.

    Attributes:
        status: Whether it is entered.
        enters: For each item the least and the most that is carried as it is entered; ``None`` where
            that is not settled, and nothing where it is never entered.
    """

    status: Answer
    enters: dict[str, tuple[int, int]] | None


@dataclass(frozen=True)
class KeyMeasure:
    """How tight a level is with a kind of spent key.

    Attributes:
        placed: The units in the level.
        needed: The fewest that a finishing run uses up.
        spare: The units that can be removed from the level together without making an answer worse.
        spare_in: Where those are, each as reports name it: ``ROOM/ITEM``, a chest, an act or an
            event; ``start`` for what the player starts with.
        all_tried: Whether removing every other unit was tried, and each made an answer worse.
    """

    placed: int
    needed: int
    spare: int
    spare_in: tuple[str, ...] = ()
    all_tried: bool = True


@dataclass(frozen=True)
class RunMeasure:
    """A run's steps and moves."""

    steps: int
    moves: int


@dataclass(frozen=True, eq=False)
class Measures:
    """What a designer compares between versions of a level.

    Attributes:
        finish: The shortest finishing run; ``None`` where none was found.
        all_rewards: The shortest finishing run that takes every reward; ``None`` likewise.
        walked_again: The share of the shortest run's steps that go along passages it has walked
            before, from 0 to 1.
        choices: At each point of the shortest run, how many different things could be done next,
            walking aside.
        keys: For each kind of spent key, its slack.
    """

    finish: RunMeasure | None = None
    all_rewards: RunMeasure | None = None
    walked_again: float | None = None
    choices: tuple[int, ...] = ()
    keys: dict[str, KeyMeasure] = field(default_factory=dict)


@dataclass(frozen=True, eq=False)
class Answers:
    """The answer to every question.

    Attributes:
        finish: Is a finished position reachable?
        stuck: Can anyone get stuck: ``possible``, ``never`` or ``unknown``.
        all_rewards: Does some finishing run take every reward?
        deadly: Can the player die?
        rewards, doors, chests, acts, rooms, items, events: The status of each, by name.
        levels: In a campaign: whether each level is entered, and with what.
        order: Pairs of what must come before what; ``None`` where that is unknown.
        measures: Figures to compare.
    """

    finish: Answer
    stuck: Answer
    all_rewards: Answer = Answer.UNKNOWN
    deadly: Answer = Answer.UNKNOWN
    rewards: dict[str, RewardAnswer] = field(default_factory=dict)
    doors: dict[str, Answer] = field(default_factory=dict)
    chests: dict[str, Answer] = field(default_factory=dict)
    acts: dict[str, Answer] = field(default_factory=dict)
    rooms: dict[str, Answer] = field(default_factory=dict)
    items: dict[str, Answer] = field(default_factory=dict)
    events: dict[str, Answer] = field(default_factory=dict)
    levels: dict[str, LevelAnswer] = field(default_factory=dict)
    order: tuple[tuple[str, str], ...] | None = None
    measures: Measures = field(default_factory=Measures)


@dataclass(frozen=True, eq=False)
class SearchInfo:
    """How far the search went, and how long it took in seconds.

    Attributes:
        positions: How many positions were looked at.
        complete: Whether every answer is proven.
        seconds: The time it took.
        all_seen: Whether every position there is was looked at.
    """

    positions: int
    complete: bool
    seconds: float
    all_seen: bool = True


@dataclass(frozen=True, eq=False)
class Knowing:
    """The level for a player who knows from the start what it teaches.

    Attributes:
        flags: The flags that are known.
        passes_by: What every finishing run does, but not one of such a player.
        report: The answers for such a player.
    """

    flags: tuple[str, ...]
    passes_by: tuple[str, ...]
    report: Report


@dataclass(frozen=True, eq=False)
class Report:
    """Everything a check of one level says.

    Attributes:
        level: The level.
        answers: The answers.
        routes: Routes by name: ``finish``, ``all-rewards``.
        findings: The findings, gravest first.
        search: How far the search went.
        knowing: The same for a player who knows the level's codes, where that was asked for.
        unreached: The rooms that no run enters, cells that are mere floor included; none where the
            search was cut short.
        accepted: Findings that the level says are meant as they are.
        campaigns: The campaign files that name the level, if they were looked for.
        is_part: Whether the level was checked as a part of those: then the answers and routes are
            theirs, and the findings are those that they have in the level's file.
        mender: Looks for mends of a finding, for :meth:`mends`.
    """

    level: Level
    answers: Answers
    routes: dict[str, Route]
    findings: tuple[Finding, ...]
    search: SearchInfo
    knowing: Knowing | None = None
    unreached: frozenset[str] = frozenset()
    accepted: tuple[Finding, ...] = ()
    campaigns: tuple[str, ...] = ()
    is_part: bool = False
    mender: Callable[[Report, Finding], Finding] | None = field(default=None, repr=False)

    def mends(self, finding: Finding) -> tuple[Any, ...]:
        """Changes to the level that mend a finding; each was made on a copy and checked.

        Args:
            finding: A finding of this report.

        Returns:
            The :class:`~ukemi.mends.Mend` that were found, the smallest first: with each, the
            finding is gone and nothing as grave is new.

        Example:
            >>> import ukemi
            >>> level = ukemi.loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [mill -> quay]}")
            >>> report = ukemi.check(level)
            >>> [mend.say for mend in report.mends(report.findings[0])][:1]
            ['make mill -> quay two-way']
        """
        if finding.mends is None and self.mender is not None:
            finding = self.mender(self, finding)
        return finding.mends or ()

    @property
    def sound(self) -> bool:
        """Whether nothing is wrong and nothing needed is unknown."""
        return self.exit_code() == 0

    def exit_code(self, strict: bool = False) -> int:
        """The exit code of a check: 0, 1 or 3.

        Args:
            strict: Whether warnings count as errors.

        Returns:
            1 with an error-level finding, 3 where something needed is unknown, else 0.
        """
        grave = {"error", "warning"} if strict else {"error"}
        findings = [*self.findings, *(self.knowing.report.findings if self.knowing else ())]
        if any(one.severity in grave and one.code != "undecided" for one in findings):
            return 1
        return 3 if any(one.code == "undecided" for one in findings) else 0

    def only(self, codes: Collection[str]) -> Report:
        """The report with the findings of some codes alone, and what is not settled.

        Args:
            codes: The codes to keep.

        Returns:
            A report with the same answers.
        """
        wanted = {*codes, "undecided"}
        each = [told for one in self.findings for told in (one, *one.follows)]
        kept = tuple(one for one in each if one.code in wanted)
        return replace(self, findings=kept)

    def with_code(self, code: str) -> list[Finding]:
        """The findings of one code, those that only follow from others too."""
        each = [told for one in self.findings for told in (one, *one.follows)]
        return [finding for finding in each if finding.code == code]

    def in_file(self, file: str) -> tuple[Finding, ...]:
        """The findings of a campaign in one of its files.

        Args:
            file: The file.

        Returns:
            Those that stand there, and those that stand there and follow from one that does not.
        """

        def here(finding: Finding) -> bool:
            own = (finding.place.file if finding.place else "") or self.level.file or ""
            return bool(own) and abspath(own) == abspath(file)  # noqa: PTH100 it reads no disk

        return tuple(
            told
            for one in self.findings
            for told in ((one,) if here(one) else filter(here, one.follows))
        )

    @property
    def mistakes(self) -> tuple[Mistake, ...]:
        """Each mistake once, in the order of the findings: every list and count of mistakes is this."""
        found: dict[str, Mistake] = {}
        for finding in self.with_code("can-get-stuck"):
            if finding.mistake is not None and finding.route is not None:
                for one in (Mistake(finding.mistake, finding.route), *finding.also):
                    found.setdefault(move_words(one.move), one)  # the same from another side
        return tuple(found.values())

    def __repr__(self) -> str:
        answers = self.answers
        counts = ", ".join(
            f"{number} {severity}{'s' if number > 1 else ''}"
            for severity in SEVERITIES
            if (number := sum(one.severity == severity for one in self.findings))
        )
        said = f"finish {answers.finish}, stuck {answers.stuck}"
        return f"<Report {self.level.name!r}: {said}, {counts or 'nothing found'}>"


def by_weight(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Findings with the gravest first, and in the order of the file within one severity."""
    first = ("cannot-finish", "can-get-stuck")  # much else may follow from these

    def weight(finding: Finding) -> tuple[int, bool, tuple[int, int]]:
        severity = SEVERITIES.index(finding.severity)
        return severity, finding.code not in first, (finding.place or (0, 0))[:2]

    return tuple(sorted(findings, key=weight))
