"""Reports as JUnit XML, which build servers show as test results."""

from __future__ import annotations

from collections.abc import Sequence
from xml.etree import ElementTree as Xml

from ..checks import Report
from ..level import LevelError
from ..level.visible import as_line
from .as_text import finding_lines, plain_text


def junit(checked: Sequence[Report | LevelError], strict: bool = False) -> str:
    """A JUnit document of some checks: a suite a level, a test a question.

    Args:
        checked: The reports, and the errors of the levels that cannot be read.
        strict: Whether warnings count as failures.
    """
    root = Xml.Element("testsuites", name="ukemi")
    for one in checked:
        if isinstance(one, LevelError):
            _unreadable(root, one)
        else:
            _suite(root, one, strict)
    for counted in ("tests", "failures", "errors", "skipped"):
        total = sum(int(suite.get(counted, "0")) for suite in root)
        root.set(counted, str(total))
    Xml.indent(root)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + Xml.tostring(root, encoding="unicode")


def _unreadable(root: Xml.Element, error: LevelError) -> None:
    name = _clean(error.file or "level")
    suite = Xml.SubElement(root, "testsuite", name=name, tests="1", failures="0", errors="1")
    case = Xml.SubElement(suite, "testcase", classname=name, name="can be read")
    wrong = Xml.SubElement(case, "error", message=_clean(str(error.problems[0])))
    wrong.text = _clean("\n".join(error.lines()))


def _suite(root: Xml.Element, report: Report, strict: bool) -> None:
    name = _clean(report.level.file or report.level.name)
    suite = Xml.SubElement(root, "testsuite", name=name, time=f"{report.search.seconds:.3f}")
    grave = {"error", "warning"} if strict else {"error"}
    bad = [one for one in report.findings if one.severity in grave or one.code == "undecided"]
    failures = errors = 0
    for question in ("can be finished", "players never get stuck", "everything else"):
        case = Xml.SubElement(suite, "testcase", classname=name, name=question)
        for finding in (one for one in bad if _question(one.code, one.subject) == question):
            undecided = finding.code == "undecided"
            errors += undecided
            failures += not undecided
            tag = "error" if undecided else "failure"
            entry = Xml.SubElement(case, tag, type=finding.code, message=_clean(finding.message))
            entry.text = _clean(plain_text(finding_lines(finding, report.level, full=True)))
    suite.set("tests", "3")
    suite.set("failures", str(failures))
    suite.set("errors", str(errors))


def _question(code: str, subject: str) -> str:
    if code == "cannot-finish" or (code == "undecided" and subject == "finish"):
        return "can be finished"
    if code == "can-get-stuck" or (code == "undecided" and subject == "stuck"):
        return "players never get stuck"
    return "everything else"


def _clean(text: str) -> str:
    """Text with what XML cannot hold, and what hides, written out."""
    return "\n".join(as_line(line) for line in text.split("\n"))
