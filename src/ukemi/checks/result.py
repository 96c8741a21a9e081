"""The result of a check: answers, routes and findings, as plain objects."""

from __future__ import annotations

import json
from collections.abc import Callable, Collection
from os.path import abspath
from typing import Any, ClassVar, Protocol

from ..findings.finding import SEVERITIES, Finding, Mistake, flat
from ..level import Level
from ..level.displayed import Displayed
from ..questions.answers import Answers
from ..rules.words import move_words
from ..spaces import Route
from ..values import dataclass, field, replace


@dataclass(frozen=True)
class SearchInfo:
    """How far the search went, and how many seconds it took; two are compared without the seconds.

    Attributes:
        positions: The number of positions searched.
        complete: Whether every answer is proven.
        seconds: The time it took.
        all_seen: Whether the search covered every position of the level.
    """

    positions: int
    complete: bool
    seconds: float = field(compare=False)
    all_seen: bool = True


@dataclass(frozen=True)
class Knowing:
    """The level for a player who knows from the start what it teaches.

    Attributes:
        flags: The flags that are known.
        passes_by: The things that every finishing run does, unless the player knows the codes.
        report: The answers for such a player.
    """

    flags: tuple[str, ...]
    passes_by: tuple[str, ...]
    report: Report


class Forms(Protocol):
    """Turns a report into other forms; a higher layer provides it."""

    def to_dict(self, report: Report) -> dict[str, Any]:
        """Return a report as plain values."""

    def to_html(self, report: Report) -> str:
        """Return a report as a page."""


@dataclass(frozen=True)
class Report(Displayed):
    """Everything a check of one level says. Two reports are equal if they say the same.

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
        campaigns: The campaign files that name the level, if the check searched for them.
        is_part: Whether the level was checked as a part of those campaigns. Then the answers and
            routes are theirs, and the findings are those in the level's file.
        quick: Whether only finishing, getting stuck, dying and rewards were asked about.
        mender: Looks for mends of a finding, for :meth:`mends`.
        supposed: What is supposed of the level, such as ``open loft-door``.
        without: The check of the level without what is supposed.
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
    quick: bool = False
    mender: Callable[[Report, Finding], Finding] | None = field(
        default=None, repr=False, compare=False
    )
    supposed: tuple[str, ...] = ()
    without: Report | None = field(default=None, repr=False)

    #: Writes the forms of a report; the package says it when it is loaded.
    forms: ClassVar[Forms]

    __hash__ = None  # type: ignore[assignment]  # the level of a report can be added to

    def to_dict(self) -> dict[str, Any]:
        """Return the report as plain values: what ``ukemi check --format json`` prints.

        Returns:
            A mapping of the shape that ``ukemi schema report`` describes.

        Example:
            >>> import ukemi
            >>> level = ukemi.loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [quay -> mill]}")
            >>> ukemi.check(level).to_dict()["answers"]["rooms"]
            {'quay': 'required', 'mill': 'required'}
        """
        return self.forms.to_dict(self)

    def to_json(self) -> str:
        """Return the report as JSON: what ``ukemi check --format json`` prints.

        Example:
            >>> import ukemi
            >>> level = ukemi.loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [quay -> mill]}")
            >>> '"stuck": "never"' in ukemi.check(level).to_json()
            True
        """
        return json.dumps(self.to_dict(), indent=2, ensure_ascii=False)

    def to_html(self) -> str:
        """Return the report as a page that needs nothing else: what ``ukemi report`` writes.

        Example:
            >>> import ukemi
            >>> level = ukemi.loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [quay -> mill]}")
            >>> page = ukemi.check(level).to_html()
            >>> page.startswith("<!doctype html>"), "can be finished, players never get stuck" in page
            (True, True)
        """
        return self.forms.to_html(self)

    def mends(self, finding: Finding) -> tuple[Any, ...]:
        """Changes to the level that mend a finding; each was made on a copy and checked.

        Args:
            finding: A finding of this report.

        Returns:
            The :class:`~ukemi.mends.Mend` that were found, the likeliest first: with each, the
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
        """The report with the findings of some codes alone, and what is undecided.

        Args:
            codes: The codes to keep.

        Returns:
            A report with the same answers.
        """
        wanted = {*codes, "undecided"}
        kept = tuple(one for one in flat(self.findings) if one.code in wanted)
        return replace(self, findings=kept)

    def with_code(self, code: str) -> list[Finding]:
        """The findings of one code, those that only follow from others too."""
        return [one for one in flat(self.findings) if one.code == code]

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
            there
            for one in self.findings
            for there in ((one,) if here(one) else filter(here, one.follows))
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
