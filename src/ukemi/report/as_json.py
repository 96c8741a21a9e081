"""A report as JSON."""

from __future__ import annotations

from typing import Any

from ..checks import Answers, Finding, Report
from ..checks.result import Measures, Mistake, RunMeasure
from ..level import LevelError
from ..search import Route


def report_dict(report: Report) -> dict[str, Any]:
    """A report as plain values, ready for :func:`json.dumps`.

    Args:
        report: The report.

    Returns:
        A mapping of the shape that ``ukemi schema report`` describes.
    """
    search = report.search
    said = {
        "ukemi": 1,
        "level": report.level.name,
        "file": report.level.file,
        "answers": {} if report.is_part else _answers(report.answers),
        "routes": {name: _route(route) for name, route in report.routes.items()},
        "findings": [_finding(finding) for finding in report.findings],
        "search": {
            "positions": search.positions,
            "complete": search.complete,
            "seconds": round(search.seconds, 3),
        },
    }
    if report.campaigns:
        said["campaigns"] = list(report.campaigns)
    if report.accepted:
        said["accepted"] = [_finding(finding) for finding in report.accepted]
    if report.knowing is not None:
        said["knowing"] = {
            "flags": list(report.knowing.flags),
            "passes-by": list(report.knowing.passes_by),
            "report": report_dict(report.knowing.report),
        }
    return said


def unreadable_dict(error: LevelError) -> dict[str, Any]:
    """What is wrong with a level that cannot be read, in the shape of a report.

    Args:
        error: What is wrong.

    Returns:
        A report without answers, whose findings are the problems.
    """
    findings = []
    for problem in error.problems:
        message = problem.message + (f" (did you mean {problem.near!r}?)" if problem.near else "")
        said = Finding(problem.code, "error", problem.text, message, place=problem.place)
        findings.append(_finding(said))
    return {
        "ukemi": 1,
        "level": None,
        "file": error.file,
        "answers": {},
        "routes": {},
        "findings": findings,
        "search": {"positions": 0, "complete": False, "seconds": 0.0},
    }


def _answers(answers: Answers) -> dict[str, Any]:
    kinds = {
        "doors": answers.doors,
        "chests": answers.chests,
        "acts": answers.acts,
        "rooms": answers.rooms,
        "items": answers.items,
        "events": answers.events,
    }
    return {
        "finish": str(answers.finish),
        "stuck": str(answers.stuck),
        "all-rewards": str(answers.all_rewards),
        "deadly": str(answers.deadly),
        "rewards": {
            name: {"status": str(one.status), "missable": str(one.missable)}
            for name, one in answers.rewards.items()
        },
        **{kind: {name: str(one) for name, one in all_.items()} for kind, all_ in kinds.items()},
        **_levels(answers),
        "order": "unknown" if answers.order is None else [list(pair) for pair in answers.order],
        "measures": measures_dict(answers.measures),
    }


def _levels(answers: Answers) -> dict[str, Any]:
    """What is told of the levels of a campaign."""
    if not answers.levels:
        return {}
    told = {}
    for name, one in answers.levels.items():
        enters: Any = "unknown"
        if one.enters is not None:
            enters = {item: list(range_) for item, range_ in one.enters.items()}
        told[name] = {"status": str(one.status), "enters": enters}
    return {"levels": told}


def measures_dict(measures: Measures) -> dict[str, Any]:
    """The figures of a level as plain values."""
    return {
        "finish": _run(measures.finish),
        "all-rewards": _run(measures.all_rewards),
        "walked-again": measures.walked_again,
        "choices": list(measures.choices),
        "keys": {
            item: {"placed": one.placed, "needed": one.needed, "spare": one.spare}
            for item, one in measures.keys.items()
        },
    }


def _run(run: RunMeasure | None) -> dict[str, int] | None:
    return None if run is None else {"steps": run.steps, "moves": run.moves}


def _route(route: Route) -> dict[str, Any]:
    said: dict[str, Any] = {"steps": route.steps, "moves": route.whats, "shortest": route.shortest}
    return said | {"at-least": route.at_least} if route.at_least and not route.shortest else said


def _finding(finding: Finding) -> dict[str, Any]:
    said: dict[str, Any] = {
        "code": finding.code,
        "severity": finding.severity,
        "subject": finding.subject,
        "message": message_of(finding),
    }
    if finding.mend:
        said["mend"] = finding.mend
    if finding.mends is not None:
        said["mends"] = [one.as_dict() for one in finding.mends]
        if finding.mends_cut_short:
            said["mends-cut-short"] = True
    if finding.place is not None:
        said |= {"line": finding.place.line, "column": finding.place.column}
        if finding.place.file:
            said["file"] = finding.place.file
    if finding.route is not None:
        said["route"] = _route(finding.route)
    if finding.mistake is not None:
        said["mistake"] = finding.mistake
    if finding.also or finding.follows:
        said["also"] = [_mistake(mistake) for mistake in finding.also]
        said["also"] += [
            {"code": one.code, "subject": one.subject, "message": one.message}
            for one in finding.follows
        ]
    return said


def message_of(finding: Finding) -> str:
    """What a finding says and why, in one text."""
    return " ".join(_sentence(part) for part in (finding.message, finding.why) if part)


def _mistake(mistake: Mistake) -> dict[str, Any]:
    return {"mistake": mistake.move, "route": _route(mistake.route)}


def _sentence(text: str) -> str:
    return text if text.endswith((".", "!", "?")) else text + "."
