"""A comparison as text, as Markdown, and as plain values."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ..checks import Finding
from ..language.fields.schema import closed
from .compare import Comparison

_MARKS = {"worse": "worse", "better": "better", "different": "now"}


def comparison_lines(comparison: Comparison) -> Iterator[str]:
    """The lines of a comparison, for people: the verdict first."""
    for title, lines in comparison_parts(comparison):
        if title:
            yield title
        yield from (f"  {line}" for line in lines)


def comparison_parts(comparison: Comparison) -> Iterator[tuple[str, list[str]]]:
    """Yield the parts of a comparison, each a title and its lines. The first is the verdict, without a title."""
    verdict = [f"{_MARKS[one.judged]:<6}  {one.says}" for one in comparison.verdict]
    yield "", verdict or [f"{_same(comparison)}."]
    if comparison.changes:
        yield "Changed in the level:", list(comparison.changes)
    else:
        yield "Nothing changed in the level but what is read over, such as comments.", []
    for title, findings in (("Gone:", comparison.gone), ("New:", comparison.come)):
        if findings:
            yield title, [_finding(one) for one in findings]
    if comparison.measures:
        figures = comparison.measures
        yield "Figures:", [f"{name}: {_figure(was)} → {_figure(now)}" for name, was, now in figures]


def _same(comparison: Comparison) -> str:
    if comparison.old.search.complete and comparison.new.search.complete:
        return "The answers are the same"
    return "The proven answers are the same; some are undecided: the search was cut short"


def _finding(finding: Finding) -> str:
    return f"{finding.severity} {finding.code}: {finding.message}"


def _figure(value: Any) -> str:
    return "none" if value is None else str(value)


def comparison_markdown(comparison: Comparison, title: str) -> Iterator[str]:
    """The lines of a comparison as Markdown, for a review."""
    yield f"### {_plain(title)}: {'worse' if comparison.worse else 'not worse'}"
    yield ""
    for remark in comparison.verdict:
        bold = "**" if remark.judged == "worse" else ""
        yield f"- {_MARKS[remark.judged]}: {bold}{_plain(remark.says)}{bold}"
    if not comparison.verdict:
        yield f"- {_same(comparison)}"
    for heading, lines in (
        ("Changed in the level", comparison.changes),
        ("Findings gone", [_finding(one) for one in comparison.gone]),
        ("Findings new", [_finding(one) for one in comparison.come]),
    ):
        if lines:
            yield from ("", f"{heading}:", "")
            yield from (f"- {_plain(line)}" for line in lines)
    if comparison.measures:
        yield from ("", "| figure | before | after |", "|---|---|---|")
        for name, was, now in comparison.measures:
            yield f"| {_plain(name)} | {_plain(_figure(was))} | {_plain(_figure(now))} |"
    yield ""


def _plain(text: str) -> str:
    """Text that Markdown shows as it is."""
    for mark in "\\`*_[]<>|#&":
        text = text.replace(mark, f"\\{mark}")
    return text.replace("\n", " ")


def comparison_dict(comparison: Comparison) -> dict[str, Any]:
    """A comparison as plain values, for other programs."""
    return {
        "ukemi": 1,
        "old": comparison.old.level.file,
        "new": comparison.new.level.file,
        "level": comparison.new.level.name,
        "worse": comparison.worse,
        "verdict": [{"says": one.says, "judged": one.judged} for one in comparison.verdict],
        "changes": list(comparison.changes),
        "renames": [one._asdict() for one in comparison.renames],
        "findings": {
            "gone": [_plain_finding(one) for one in comparison.gone],
            "new": [_plain_finding(one) for one in comparison.come],
        },
        "measures": [
            {"name": name, "before": was, "after": now} for name, was, now in comparison.measures
        ],
    }


def _plain_finding(finding: Finding) -> dict[str, Any]:
    said: dict[str, Any] = {
        "code": finding.code, "severity": finding.severity, "subject": finding.subject,
        "message": finding.message,
    }  # fmt: skip
    if finding.place is not None:
        said |= {"line": finding.place.line, "column": finding.place.column}
    return said


def comparison_schema() -> dict[str, Any]:
    """The JSON Schema of :func:`comparison_dict`, for a part of another schema."""
    text, number = {"type": "string"}, {"type": "integer", "minimum": 1}

    finding = closed(
        {
            "code": text,
            "severity": {"enum": ["error", "warning", "note"]},
            "subject": text,
            "message": text,
            "line": number,
            "column": number,
        },
        "line",
        "column",
    )
    figure = {"type": ["number", "string", "null"]}
    kinds = {"enum": ["item", "room", "flag", "lock", "thing"]}
    file = {"type": ["string", "null"]}
    judged = {"enum": ["worse", "better", "different"]}

    def several(one: dict[str, Any]) -> dict[str, Any]:
        return {"type": "array", "items": one}

    return closed(
        {
            "ukemi": {"const": 1},
            "old": file,
            "new": file,
            "level": text,
            "worse": {"type": "boolean"},
            "verdict": several(closed({"says": text, "judged": judged})),
            "changes": several(text),
            "renames": several(closed({"kind": kinds, "old": text, "new": text})),
            "findings": closed({"gone": several(finding), "new": several(finding)}),
            "measures": several(closed({"name": text, "before": figure, "after": figure})),
        }
    )
