"""A report as one page that a browser shows without anything else."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from importlib.resources import files
from typing import Any

from ..checks import Report
from ..level.remarks import Remark, remarks
from ..level.visible import visible
from ..rules import compile_level
from .as_text import finding_lines, run_lines, verdict_lines, verdict_words
from .route_steps import named_routes, route_steps


def html_page(
    reports: Sequence[Report],
    maps: Mapping[int, str],
    live: bool = False,
    notices: Sequence[str] = (),
) -> str:
    """The page of some reports: an index where there are several, then each level.

    Args:
        reports: The reports.
        maps: The map of each level, by its number, as an ``svg`` element with its names escaped.
        live: Whether its server notifies it of changes.
        notices: The messages at the top.

    Returns:
        The page.

    Raises:
        ImportError: Jinja2 is not installed.
    """
    from jinja2 import Environment

    environment = Environment(autoescape=True, trim_blocks=True, lstrip_blocks=True)
    template = environment.from_string(_read("page.html"))
    return template.render(
        levels=[_level(number, report, maps[number]) for number, report in enumerate(reports)],
        style=_read("page.css"),
        script=_read("page.js"),
        live=live,
        notices=notices,
    )


def _read(name: str) -> str:
    return (files("ukemi.report") / "web" / name).read_text(encoding="utf-8")


def _level(number: int, report: Report, svg: str) -> dict[str, Any]:
    level = report.level
    rules = compile_level(level)
    return {
        "id": f"level-{number}",
        "name": level.name,
        "file": level.file or "",
        "words": verdict_words(report),
        "code": report.exit_code(),
        "counts": {
            severity: sum(one.severity == severity for one in report.findings)
            for severity in ("error", "warning", "note")
        },
        "verdict": list(verdict_lines(report)),
        "measures": list(run_lines(report, full=False)),
        "findings": [
            {
                "severity": finding.severity,
                "code": finding.code,
                "head": lines[0].text,
                "lines": lines[1:],
                "mends": [
                    {"say": mend.say, "diff": [visible(line) for line in mend.diff]}
                    for mend in finding.mends or ()
                ],
            }
            for finding in report.findings
            for lines in [list(finding_lines(finding, level, full=False, mends=False))]
        ],
        "svg": svg,
        "things": _things(report),
        "routes": [
            {"name": name, "wrong": wrong, "steps": route_steps(level, route, rules)}
            for name, route, wrong in named_routes(report)
        ],
    }


def _things(report: Report) -> list[dict[str, str]]:
    """A row for each thing of a level: its kind, its name, and what runs do about it."""
    answers = report.answers
    kinds = {
        "reward": {name: one.status for name, one in answers.rewards.items()},
        "door": answers.doors,
        "chest": answers.chests,
        "switch or act": answers.acts,
        "item": {name: one for name, one in answers.items.items() if name not in answers.rewards},
        "room": {name: one for name, one in answers.rooms.items() if "@" not in name},
        "event": answers.events,
    }
    missed = {name for name, one in answers.rewards.items() if str(one.missable) == "yes"}
    said = {one.name: one for one in remarks(report.level)}
    return [
        {
            "kind": kind,
            "name": name,
            "label": _remark(said, name, "label"),
            "note": _remark(said, name, "note"),
            "status": str(status) + (", can be missed" if name in missed else ""),
        }
        for kind, statuses in kinds.items()
        for name, status in statuses.items()
    ]


def _remark(said: Mapping[str, Remark], name: str, field: str) -> str:
    """The label or note of a thing; of a placed item, its own or that of the item."""
    found = (getattr(said[one], field) for one in (name, name.rpartition("/")[2]) if one in said)
    return next((text for text in found if text), "")
