"""Every finding has a page; its first level shows the finding, and its second does not."""

from __future__ import annotations

import re

import pytest

import ukemi
from ukemi.report.pages import codes, page

from .helpers import run


def told(text: str, code: str) -> set[str]:
    """The codes of everything said about a level."""
    try:
        level = ukemi.loads(text)
    except ukemi.LevelError as error:
        return {problem.code for problem in error.problems}
    limit = 2 if code == "undecided" else 100_000
    findings = ukemi.check(level, max_positions=limit).findings
    return {told.code for finding in findings for told in (finding, *finding.follows)}


@pytest.mark.parametrize("code", codes())
def test_page_shows_the_finding_and_the_mend(code: str) -> None:
    shows, mended = re.findall(r"```yaml\n(.*?)```", page(code), re.DOTALL)
    assert code in told(shows, code)
    if code != "undecided":
        assert code not in told(mended, code)
        ukemi.loads(mended)
    severities = {
        one.severity
        for one in _findings(shows, code)
        if one.code == code
    }  # fmt: skip
    assert all(f"Severity: {severity}" in page(code) for severity in severities)


def _findings(text: str, code: str) -> tuple[ukemi.Finding, ...]:
    try:
        return ukemi.check(
            ukemi.loads(text), max_positions=2 if code == "undecided" else 100_000
        ).findings
    except ukemi.LevelError:
        return ()


def test_explain_prints_the_page() -> None:
    assert run("explain", "bypassed").stdout == page("bypassed")
    assert [line.split()[0] for line in run("explain").stdout.splitlines()] == codes()
    assert "did you mean can-get-stuck or reward-only-when-stuck" in run("explain", "stuck").stderr
    wrong = run("explain", "bypased")
    assert wrong.returncode == 2
    assert "did you mean bypassed?" in wrong.stderr
