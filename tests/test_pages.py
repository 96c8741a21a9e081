"""Every finding has a page; its first level shows the finding, and its second does not."""

from __future__ import annotations

import re
from pathlib import Path
from tempfile import TemporaryDirectory

import pytest

import ukemi
from ukemi.report.pages import codes, page

from .helpers import run


def loaded(text: str) -> ukemi.Level:
    """A level; a campaign, where the text is several files, each under its name."""
    if not text.startswith("# "):
        return ukemi.loads(text)
    with TemporaryDirectory() as folder:
        _, *files = re.split(r"^# (\S+)$", text, flags=re.MULTILINE)
        for name, said in zip(files[::2], files[1::2], strict=True):
            (Path(folder) / name).write_text(said)
        return ukemi.load(Path(folder) / files[0])


def told(text: str, code: str) -> set[str]:
    """The codes of everything said about a level."""
    try:
        level = loaded(text)
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
        assert not told(mended, code)
    severities = {
        one.severity
        for one in _findings(shows, code)
        if one.code == code
    }  # fmt: skip
    assert all(f"Severity: {severity}" in page(code) for severity in severities)


def _findings(text: str, code: str) -> tuple[ukemi.Finding, ...]:
    try:
        return ukemi.check(
            loaded(text), max_positions=2 if code == "undecided" else 100_000
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
