"""Reports as SARIF 2.1.0, which code hosts show as remarks on the lines of a file."""

from __future__ import annotations

from collections.abc import Sequence
from difflib import SequenceMatcher
from pathlib import Path
from typing import Any
from urllib.parse import quote

from ..checks import Finding, Report
from ..checks.route_words import route_words
from ..level import Level, LevelError, Place
from ..mends import Mend
from .as_json import message_of
from .pages import page_summary

_SCHEMA = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/os/schemas/sarif-schema-2.1.0.json"


def sarif(checked: Sequence[Report | LevelError], version: str) -> dict[str, Any]:
    """A SARIF log of some checks.

    Args:
        checked: The reports, and the errors of the levels that cannot be read.
        version: The version of Ukemi.

    Returns:
        The log, ready for :func:`json.dumps`.
    """
    results: list[dict[str, Any]] = []
    for one in checked:
        if isinstance(one, LevelError):
            for problem in one.problems:
                hint = f" (did you mean {problem.near!r}?)" if problem.near else ""
                results.append(
                    _result(problem.code, "error", problem.message + hint, one.file, problem.place)
                )
        else:
            results += [_of_finding(finding, one.level) for finding in one.findings]
            results += [
                _of_finding(finding, one.level) | {"suppressions": [{"kind": "inSource"}]}
                for finding in one.accepted
            ]
    codes = sorted({result["ruleId"] for result in results})
    rules = [{"id": code, "shortDescription": {"text": page_summary(code)}} for code in codes]
    for result in results:
        result["ruleIndex"] = codes.index(result["ruleId"])
    driver = {"name": "ukemi", "version": version, "rules": rules}
    return {
        "$schema": _SCHEMA,
        "version": "2.1.0",
        "runs": [
            {"tool": {"driver": driver}, "columnKind": "unicodeCodePoints", "results": results}
        ],
    }


def _of_finding(finding: Finding, level: Level) -> dict[str, Any]:
    message = message_of(finding)
    if finding.mends:
        message += f" To mend it: {finding.mends[0].say}."
    elif finding.mend:
        message += f" Perhaps: {finding.mend}."
    if finding.route is not None and finding.route.moves:
        message += f" Route: {route_words(finding.route, level)}."
    result = _result(finding.code, finding.severity, message, level.file, finding.place)
    if finding.mends and level.file is not None and level.text is not None:
        result["fixes"] = [_fix(mend) for mend in finding.mends]
    return result


def _fix(mend: Mend) -> dict[str, Any]:
    """A mend, as lines of the file and the lines that replace them."""
    old = mend.before[mend.file].splitlines(keepends=True)
    new = mend.text.splitlines(keepends=True)
    replaced = [
        {
            "deletedRegion": {
                "startLine": begin + 1, "startColumn": 1, "endLine": end + 1, "endColumn": 1,
            },
            "insertedContent": {"text": "".join(new[new_begin:new_end])},
        }
        for what, begin, end, new_begin, new_end in SequenceMatcher(None, old, new).get_opcodes()
        if what != "equal"
    ]  # fmt: skip
    change = {"artifactLocation": {"uri": _uri(mend.file)}, "replacements": replaced}
    return {"description": {"text": mend.say}, "artifactChanges": [change]}


def _uri(file: str) -> str:
    path = Path(file)
    return path.as_uri() if path.is_absolute() else quote(path.as_posix())


def _result(
    code: str, severity: str, message: str, file: str | None, place: Place | None
) -> dict[str, Any]:
    result: dict[str, Any] = {"ruleId": code, "level": severity, "message": {"text": message}}
    if file is not None:
        file = (place.file if place is not None else "") or file
        location: dict[str, Any] = {"artifactLocation": {"uri": _uri(file)}}
        if place is not None:
            location["region"] = {"startLine": place.line, "startColumn": place.column}
        result["locations"] = [{"physicalLocation": location}]
    return result
