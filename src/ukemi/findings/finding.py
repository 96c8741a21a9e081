"""A finding: one thing that a check reports."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from ..level import Place
from ..rules.words import move_words
from ..spaces import Route
from ..values import dataclass

SEVERITIES = ("error", "warning", "note")


@dataclass(frozen=True)
class Mistake:
    """One move after which the level can no longer be finished, and a way into it.

    Attributes:
        move: The move.
        route: The moves that lead into it, itself the last.
    """

    move: dict[str, Any]
    route: Route

    def __hash__(self) -> int:
        return hash(self.route)

    def __repr__(self) -> str:
        return f"<Mistake {move_words(self.move)}: {self.route!r}>"


@dataclass(frozen=True)
class Finding:
    """One thing a check has to say.

    Attributes:
        code: A short phrase that says what is wrong.
        severity: ``error``, ``warning`` or ``note``.
        subject: The name of what it is about.
        message: What happens.
        why: Why it happens.
        mend: A change that would mend it.
        place: Line and column in the file.
        route: The moves that show it.
        mistake: The one wrong move, where there is one.
        also: Other mistakes with the same cause.
        follows: Findings that only follow from this one.
        mends: Changes to the level that are proven to mend it, the likeliest first; ``None`` if there was
            no search for mends.
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

    def __hash__(self) -> int:
        return hash((self.code, self.subject, self.message))

    def __repr__(self) -> str:
        where = f" at {self.place.line}:{self.place.column}" if self.place else ""
        return f"<Finding {self.severity} {self.code}{where}: {self.message}>"


def flat(findings: Iterable[Finding]) -> list[Finding]:
    """Findings, each before those that follow from it."""
    return [each for one in findings for each in (one, *one.follows)]


def by_weight(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Findings with the gravest first, and in the order of the file within one severity."""
    # Much else may follow from these.
    ranks = {"unconnected": 0, "cannot-finish": 1, "can-get-stuck": 1}

    def weight(finding: Finding) -> tuple[int, int, tuple[int, int]]:
        severity = SEVERITIES.index(finding.severity)
        return severity, ranks.get(finding.code, 2), (finding.place or (0, 0))[:2]

    return tuple(sorted(findings, key=weight))
