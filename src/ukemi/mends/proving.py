"""Which changes to a level are proven to mend what was found."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass, replace

from ..checks import Finding, Report, check_level
from ..checks.accepting import all_told, subjects_of
from ..files import dumps
from ..files.editing import edited, plain
from ..files.loading import from_plain
from ..findings.finding import SEVERITIES
from ..level import Level, LevelError
from ..level.joined import Joined
from ..spaces import Limits
from .campaign_mends import changes_of_campaign
from .kinds import changes
from .mend import Mend
from .site import Site

#: The number of positions to search one by one in all changes that are tried for one report, and the
#: fewest and the most changes. They count tries and not seconds: a level has the same mends on every
#: machine.
POSITIONS_IN_ALL, FEWEST_TRIES, MOST_TRIES = 2_000_000, 24, 600
#: Reading a room or a passage of a changed level takes as long as searching this many positions.
TO_READ = 50


def tries_for(report: Report) -> int:
    """Return how many changes may be tried to mend a level: fewer for a larger level."""
    level = report.level
    size = report.search.positions + TO_READ * (1 + len(level.rooms) + len(level.passages))
    tries = POSITIONS_IN_ALL // size
    return max(FEWEST_TRIES, min(tries, MOST_TRIES))


@dataclass
class Budget:
    """How much may be tried.

    Attributes:
        tries: How many changes may be checked still; each try of a finding takes one.
        positions: The number of positions that one check may search one by one.
        limits: Says when the time is over.
        used_up: Whether the budget ended before every candidate was tried.
    """

    tries: int = 200
    positions: int = 20_000
    limits: Limits | None = None
    used_up: bool = False

    def spend(self) -> bool:
        """Whether one more change may be tried."""
        over = self.limits is not None and self.limits.over
        if self.tries <= 0 or over:
            self.used_up = True
            return False
        self.tries -= 1
        return True


def with_mends(
    report: Report, finding: Finding, budget: Budget | None = None, most: int = 3
) -> Finding:
    """A finding with the mends that were found for it, those that change the least first.

    Args:
        report: The check of the level.
        finding: One of its findings.
        budget: How much may be tried.
        most: How many mends are enough.
    """
    budget = budget or Budget()
    found = sorted(find_mends(report, finding, budget, most), key=lambda one: len(one.edits))
    return replace(finding, mends=tuple(found), mends_cut_short=budget.used_up)


def add_mends(
    report: Report,
    which: Collection[Finding],
    limits: Limits,
    tries: int | None = None,
    most: int = 3,
) -> Report:
    """Return a report whose findings list what mends them.

    Args:
        report: The report.
        which: The findings to mend.
        limits: The limits of the search; they may end it before all tries are made.
        tries: The number of changes to try for each finding; ``None`` for a number that suits the size of
            the level.
        most: How many mends are enough for each.
    """
    chosen = [one for one in report.findings if one in which and one.code != "undecided"]
    left = tries_for(report)
    mended: dict[int, Finding] = {}
    for number, one in enumerate(chosen):
        share = -(-left // (len(chosen) - number)) if tries is None else tries
        budget = Budget(share, limits=limits)
        mended[id(one)] = with_mends(report, one, budget, most)
        left -= share - budget.tries
    return replace(report, findings=tuple(mended.get(id(one), one) for one in report.findings))


def find_mends(report: Report, finding: Finding, budget: Budget, most: int = 3) -> Iterator[Mend]:
    """Look for changes to a level that mend a finding: each is made on a copy and checked again.

    Args:
        report: The check of the level.
        finding: One of its findings.
        budget: How much may be tried; what is tried is taken off it.
        most: How many mends are enough.

    Yields:
        Mends: with each the finding is gone, and nothing of its severity or a graver one is new;
        those with which no warning is new come first.

    Example:
        >>> from ukemi.files import loads
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [mill -> quay]}")
        >>> report = check_level(level)
        >>> next(find_mends(report, report.findings[0], Budget())).say
        'make mill -> quay two-way'
    """
    level = report.level
    if budget.tries <= 0:
        budget.used_up = True
        return
    if isinstance(level, Joined):
        yield from _of_campaign(level, report, finding, budget, most)
        return
    document = plain(dumps(level), level.file)
    seen: list[object] = []
    warning: list[Mend] = []  # these help, but have the level warned of something else
    for say, edits in changes(Site(level, document, report, finding)):
        if most <= 0:
            return
        if budget.limits is not None and budget.limits.over:
            budget.used_up = True
            break
        try:
            new = edited(document, edits)
        except LevelError:
            continue  # the file says it in another way than was thought
        if new == document or new in seen:
            continue
        seen.append(new)
        if not budget.spend():
            break
        try:
            after = from_plain(new, level)
        except LevelError:
            continue
        warns = _new_warnings(report, finding, after, budget)
        if warns is None:
            continue
        mend = Mend(say, tuple(edits), warns)
        if warns:
            warning.append(mend)
        else:
            most -= 1
            yield mend
    yield from warning[:most]


def _of_campaign(
    level: Joined, report: Report, finding: Finding, budget: Budget, most: int
) -> Iterator[Mend]:
    for mend in changes_of_campaign(level, report, finding):
        if most <= 0 or not budget.spend():
            return
        try:
            after = mend.apply(level)
        except LevelError:
            continue
        warns = _new_warnings(report, finding, after, budget)
        if warns is not None:
            most -= 1
            yield replace(mend, warns=warns)


def _new_warnings(
    report: Report, finding: Finding, changed: Level, budget: Budget
) -> tuple[str, ...] | None:
    """Return the new warnings of a changed level; ``None`` if the change is not proven to mend it.

    It is mended where the finding is gone and nothing of its severity or a graver one is new.
    """
    limits = (budget.limits or Limits()).at_most(budget.positions)
    try:
        after = check_level(changed, limits, try_spare=finding.code == "spare-keys")
    except LevelError:
        return None
    if not after.search.complete:
        return None  # what is not found may only not be settled
    gone = subjects_of(finding)
    before = {one for old in report.findings for one in all_told(old)}
    warns: list[str] = []
    for other in after.findings:
        if all_told(other) & gone:
            return None
        if subjects_of(other) <= before:
            continue
        if SEVERITIES.index(other.severity) <= SEVERITIES.index(finding.severity):
            return None
        if other.severity == "warning":
            warns.append(f"{other.code} {other.subject}")
    return tuple(warns)
