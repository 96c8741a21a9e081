"""A report for people to read."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import NamedTuple

from ..checks import Answer, Finding, Report
from ..rules.words import move_words
from ..search import Route

#: A route with more moves than this is folded.
LONGEST_ROUTE = 12


class Line(NamedTuple):
    """One line of a report: a label, what it says, and how it is to stand out."""

    label: str
    text: str
    style: str = ""
    indent: int = 0


def report_lines(report: Report, full: bool = False) -> Iterator[Line]:
    """The lines of a report, the verdict first.

    Args:
        report: The report.
        full: Whether long routes are listed whole.

    Yields:
        The lines.
    """
    file = f" ({report.level.file})" if report.level.file else ""
    yield Line("", f"{report.level.name}{file}", "bold")
    yield from _verdict(report)
    for finding in report.findings:
        yield Line("", "")
        yield from finding_lines(finding, report.level.file, full)
    if "finish" in report.routes:
        yield Line("", "")
        route = report.routes["finish"]
        label = "Shortest run" if report.finish_is_shortest else "A finishing run"
        yield Line(label, f"{counted(route.steps, 'step')}: {route_words(route, full)}")


def _verdict(report: Report) -> Iterator[Line]:
    answers = report.answers
    finish = {
        Answer.YES: ("yes", "bold green"),
        Answer.NO: ("no", "bold red"),
        Answer.UNKNOWN: ("not settled", "bold yellow"),
    }[answers.finish]
    steps = ""
    if "finish" in report.routes:
        most = "" if report.finish_is_shortest else "at most "
        steps = f", in {most}{counted(report.routes['finish'].steps, 'step')}"
    yield Line("Can be finished", finish[0] + steps, finish[1], 2)
    mistakes = sum(1 + len(one.also) for one in report.with_code("can-get-stuck"))
    by = f", by {counted(mistakes, 'mistake')}" if mistakes else ""
    stuck = {
        Answer.NEVER: ("never", "bold green"),
        Answer.POSSIBLE: (f"yes{by}", "bold red"),
        Answer.UNKNOWN: ("not settled", "bold yellow"),
    }[answers.stuck]
    yield Line("Can get stuck", *stuck, 2)
    search = report.search
    extent = "all there are" if search.complete else "and not all: the search was cut short"
    yield Line("Looked at", f"{counted(search.positions, 'position')}, {extent}", "", 2)


def finding_lines(finding: Finding, file: str | None, full: bool) -> Iterator[Line]:
    """The lines of one finding, readable alone.

    Args:
        finding: The finding.
        file: The level's file.
        full: Whether long routes are listed whole.

    Yields:
        The lines.
    """
    where = file or ""
    if finding.place is not None:
        where += f":{finding.place.line}:{finding.place.column}"
    style = {"error": "bold red", "warning": "bold yellow", "note": "bold blue"}[finding.severity]
    title = f"{finding.severity} {finding.code}"
    yield Line(title, f"{finding.subject}  {where.lstrip(':')}".rstrip(), style)
    yield Line("", finding.message, "", 2)
    if finding.why:
        yield Line("Why", finding.why, "", 2)
    if finding.mend:
        yield Line("Mend", finding.mend, "", 2)
    if finding.route is not None and finding.route.moves:
        words = f"{counted(finding.route.steps, 'step')}: {route_words(finding.route, full)}"
        yield Line("Route", words, "", 2)
    for mistake in finding.also:
        also = f"`{move_words(mistake.move)}`, {counted(mistake.route.steps, 'step')}: "
        yield Line("Also", also + route_words(mistake.route, full), "", 2)


def route_words(route: Route, full: bool) -> str:
    """The moves of a route in words, folded in the middle where there are many."""
    words = [move_words(what) for what in route.whats]
    if len(words) > LONGEST_ROUTE and not full:
        kept = LONGEST_ROUTE // 2
        fold = f"... {len(words) - 2 * kept} more moves (--full) ..."
        words = [*words[:kept], fold, *words[-kept:]]
    return ", ".join(words)


def counted(number: int, what: str) -> str:
    """A number of things: ``1 step``, ``2 steps``."""
    return f"{number:,} {what}" + ("" if number == 1 else "s")


def plain_text(lines: Iterable[Line]) -> str:
    """Lines as text without colours, one line each.

    Example:
        >>> print(plain_text([Line("", "Mill", "bold"), Line("Can be finished", "yes", "", 2)]))
        Mill
          Can be finished: yes
    """
    return "\n".join(
        " " * line.indent + (f"{line.label}: " if line.label else "") + line.text for line in lines
    )
