"""A report as one page that a browser shows without anything else."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from importlib.resources import files
from typing import Any, NamedTuple
from urllib.parse import urlencode

from ..checks import Report
from ..level.remarks import LabelAndNote, remarks
from ..level.visible import visible
from ..rules import compile_level
from ..supposing import what_of
from .as_text import area_words, finding_lines, run_lines, verdict_lines, verdict_words
from .describing import described
from .route_steps import named_routes, route_steps


class AnswerToCome(NamedTuple):
    """Something is supposed of a level, and the search goes on.

    Attributes:
        number: The number of the level.
        said: What is supposed.
        known: What is proven so far, in words.
    """

    number: int
    said: tuple[str, ...]
    known: str


def html_page(
    reports: Sequence[Report],
    maps: Mapping[int, str],
    live: bool = False,
    notices: Sequence[str] = (),
    waiting: AnswerToCome | None = None,
) -> str:
    """The page of some reports: an index where there are several, then each level.

    Args:
        reports: The reports.
        maps: The map of each level, by its number, as an ``svg`` element with its names escaped.
        live: Whether it is served: its server notifies it of changes, and answers what is supposed.
        notices: The messages at the top.
        waiting: What is supposed and not answered yet.

    Raises:
        ImportError: Jinja2 is not installed.
    """
    from jinja2 import Environment

    environment = Environment(autoescape=True, trim_blocks=True, lstrip_blocks=True)
    template = environment.from_string(_read("page.html"))
    return template.render(
        levels=[
            {
                **_level(number, report, maps[number]),
                "supposing": _supposing(number, report, waiting) if live else None,
            }
            for number, report in enumerate(reports)
        ],
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
        "about": _about(report),
        "routes": [
            {
                "name": name,
                "wrong": wrong,
                "steps": _changes(
                    route_steps(level, route, rules, report.answers.measures.pace.get(key, ()))
                ),
            }
            for key, name, route, wrong in named_routes(report)
        ],
    }


def _changes(steps: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Steps with only what each changes of what the page shows: the number of each thing, 0 if it is gone."""
    before: dict[str, Mapping[str, int]] = {key: {} for key in ("carried", "lying", "open", "on")}
    changed = []
    for step in steps:
        now = {part: _counts(step[part]) for part in before}
        changes = {
            part: {
                name: now[part].get(name, 0)
                for name in {**now[part], **before[part]}
                if now[part].get(name, 0) != before[part].get(name, 0)
            }
            for part in before
        }
        changed.append({**step, **changes})
        before = now
    return changed


def _counts(some: Mapping[str, int] | Sequence[str]) -> Mapping[str, int]:
    return some if isinstance(some, Mapping) else dict.fromkeys(some, 1)


def _supposing(number: int, report: Report, waiting: AnswerToCome | None) -> dict[str, Any] | None:
    """What is supposed of a level and what that changes, and what can be supposed besides."""
    if not report.level.file:
        return None
    from ..comparing import compare_reports
    from ..comparing.forms import comparison_parts

    waits = waiting is not None and waiting.number == number
    said = waiting.said if waiting is not None and waits else report.supposed
    changes = compare_reports(report.without, report) if report.without is not None else None
    offers = what_of(report.level)
    return {
        "number": number,
        "said": [
            {"words": one, "without": _asking(number, [*said[:place], *said[place + 1 :]])}
            for place, one in enumerate(said)
        ],
        "waiting": waiting.known if waiting is not None and waits else None,
        "changes": [
            (title, [re.sub(" {2,}", ": ", line) for line in lines])
            for title, lines in (comparison_parts(changes) if changes is not None else ())
        ],
        "write": _asking(number, said, "write") if report.supposed and not waits else None,
        "offers": offers,
        "offered": [one for named in offers.values() for some in named.values() for one in some],
    }


def _asking(number: int, said: Sequence[str], at: str = "") -> str:
    """The address, on the page's server, of a level of which something is supposed."""
    query = urlencode([("level", number), *(("suppose", one) for one in said)])
    return f"{at}?{query}"


def _things(report: Report) -> list[dict[str, str]]:
    """A row for each thing of a level: its kind, its name, and what runs do about it."""
    answers = report.answers
    kinds: dict[str, Mapping[str, object]] = {
        "reward": {name: one.status for name, one in answers.rewards.items()},
        "door": answers.doors,
        "chest": answers.chests,
        "switch or act": answers.acts,
        "item": {name: one for name, one in answers.items.items() if name not in answers.rewards},
        "room": {name: one for name, one in answers.rooms.items() if "@" not in name},
        "event": answers.events,
        "flag": dict.fromkeys(sorted(report.level.all_flags()), ""),
        "area": {area: area_words(report, area) for area in report.level.areas},
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


def _about(report: Report) -> dict[str, dict[str, list[str]]]:
    """What there is to know of each room, item, flag and thing: its needs, where those are, its status."""
    level = report.level
    named: dict[str, Iterable[str]] = {
        "room": level.rooms, "item": level.items, "flag": sorted(level.all_flags())
    }  # fmt: skip
    named["thing"] = [*level.things, *(one.part_of for one in level.passages if one.part_of)]
    return {
        kind: {
            name: [visible(line) for line in lines]
            for name in names
            if (lines := described(level, kind, name, report))
        }
        for kind, names in named.items()
    }


def _remark(said: Mapping[str, LabelAndNote], name: str, field: str) -> str:
    """The label or the note of a thing. For a placed item that has none, it is that of the item."""
    found = (getattr(said[one], field) for one in (name, name.rpartition("/")[2]) if one in said)
    return next((text for text in found if text), "")
