"""What is wrong with a text that is no YAML, in sentences about the level file."""

from __future__ import annotations

import re
from typing import NamedTuple

import yaml

from ...level import Place, Problem

_CLOSING = {"{": "}", "[": "]"}


class _Fault(NamedTuple):
    """A fault of a text: what is wrong, and its line and column, both counted from 0."""

    said: str
    line: int
    column: int


def syntax_problem(error: yaml.MarkedYAMLError, text: str) -> Problem:
    """Return the problem that keeps a text from being read.

    Example:
        >>> try:
        ...     yaml.compose("rooms:\\n  quay: {items: [rope]\\n  mill: {}\\n")
        ... except yaml.MarkedYAMLError as error:
        ...     problem = syntax_problem(error, "rooms:\\n  quay: {items: [rope]\\n  mill: {}\\n")
        >>> problem.place, problem.message
        (Place(line=2, column=9, file=''), "the `{` is not closed: a `}` is missing, at 'quay: {items: [rope]'")
    """
    lines = text.splitlines()
    fault = _fault(error, lines)
    if fault is None:
        return Problem("syntax", f"broken YAML: {error.problem or 'it cannot be parsed'}")
    line = lines[fault.line].strip() if fault.line < len(lines) else ""
    shown = f", at {line[:60]!r}" if line else ", at the end of the file"
    return Problem("syntax", fault.said + shown, Place(fault.line + 1, fault.column + 1), line)


def _fault(error: yaml.MarkedYAMLError, lines: list[str]) -> _Fault | None:
    mark = error.problem_mark or error.context_mark
    if mark is None:
        return None
    here = _Fault("", mark.line, mark.column)
    begun = error.context_mark or mark
    context, problem = error.context or "", error.problem or ""
    line = _line(lines, mark.line)
    if "\t" in line[: mark.column + 1]:
        return here._replace(said="a tab cannot indent; use spaces")
    if "flow" in context and "',' or" in problem:
        return _in_brackets(lines, here, _Fault("", begun.line, begun.column))
    if "quoted scalar" in context:
        return _Fault("the quote is not closed", begun.line, begun.column)
    if "simple key" in context:
        above = _above(lines, begun.line)
        said = "a colon is missing in this line"
        if above is not None and lines[above].lstrip().startswith("- "):
            said = "a `-` is missing before this line, or a colon in it"
        if _in_map(lines, begun.line):
            said = "this row is indented less than the rows of the map above it"
        return _Fault(said, begun.line, begun.column)
    if "mapping values" in problem:
        return _two_values(lines, here)
    if "expected key" in problem or "'-' indicator" in problem:
        return _indented(lines, here)
    if "cannot start any token" in problem or "undefined alias" in problem:
        sign = line[mark.column : mark.column + 1]
        return here._replace(said=f"a text cannot begin with `{sign}`: put quotes round it")
    if "node content" in problem:
        return _unclosed(lines) or here._replace(said="a value is missing")
    if "sequence entries" in problem:
        return here._replace(said="a `-` begins a line of its own")
    if "block scalar" in context:
        return here._replace(said="nothing follows `|` in its line: the map begins in the next one")
    return here._replace(said=f"broken YAML: {problem or 'it cannot be parsed'}")


def _in_brackets(lines: list[str], here: _Fault, begun: _Fault) -> _Fault:
    """A bracket that is not closed, or a comma that is missing."""
    opening = _line(lines, begun.line)[begun.column : begun.column + 1]
    closing = _CLOSING.get(opening, "]")
    sign = _line(lines, here.line)[here.column : here.column + 1]
    if here.line > begun.line or sign in _CLOSING.values():
        return begun._replace(said=f"the `{opening}` is not closed: a `{closing}` is missing")
    if sign == ":":
        return here._replace(said="a second colon: put quotes round the text, or a comma before it")
    return here._replace(said=f"a comma or `{closing}` is missing")


def _unclosed(lines: list[str]) -> _Fault | None:
    """The last bracket of a text that nothing closes."""
    open_: list[tuple[str, int, int]] = []
    for number, line in enumerate(lines):
        code = re.sub(
            r"\"[^\"]*\"|'[^']*'", lambda quoted: " " * len(quoted[0]), line.split(" #")[0]
        )
        for column, sign in enumerate(code):
            if sign in _CLOSING:
                open_.append((sign, number, column))
            elif sign in _CLOSING.values() and open_:
                open_.pop()
    if not open_:
        return None
    sign, number, column = open_[-1]
    return _Fault(f"the `{sign}` is not closed: a `{_CLOSING[sign]}` is missing", number, column)


def _two_values(lines: list[str], here: _Fault) -> _Fault:
    """A second colon in a line, a colon left out in the line before, or a line that is indented too much."""
    if ": " in _line(lines, here.line)[: here.column]:
        return here._replace(said="a second colon in one line: put quotes round the text")
    above = _above(lines, here.line)
    if above is None:
        return here._replace(said="a colon is missing before this line")
    before = lines[above]
    if ":" not in before:
        return _Fault("a colon is missing in this line", above, _indent(before))
    return _indented(lines, here)


def _indented(lines: list[str], here: _Fault) -> _Fault:
    """A line that begins where no line above begins, or a bracket that closes nothing."""
    line = _line(lines, here.line)
    own = _indent(line)
    if own < here.column and line[here.column : here.column + 1] in _CLOSING.values():
        return here._replace(said=f"the `{line[here.column]}` closes nothing")
    known: dict[int, int] = {}  # where the lines begin that this one may stand beside
    for number in range(here.line - 1, -1, -1):
        if lines[number].strip() and not lines[number].lstrip().startswith("#"):
            indent = _indent(lines[number])
            if not known or indent < min(known):
                known[indent] = number
    near = sorted(known, key=lambda indent: abs(indent - own))[:2]
    if own in known or not near:
        return here._replace(said="this line fits nothing above it: see how it is indented")
    like = " or ".join(
        f"by {indent}, like {lines[known[indent]].strip()[:30]!r} in line {known[indent] + 1}"
        for indent in near
    )
    blanks = f"{own} blank{'' if own == 1 else 's'}"
    return _Fault(f"this line is indented by {blanks}; indent it {like}", here.line, own)


def _in_map(lines: list[str], number: int) -> bool:
    """Whether the lines before one are rows of a map that are indented more."""
    own = _indent(lines[number])
    for line in reversed(lines[:number]):
        if re.search(r":\s*\|[-+]?\s*$", line):
            return True
        if line.strip() and _indent(line) <= own:
            return False
    return False


def _above(lines: list[str], number: int) -> int | None:
    """The line above one that says something."""
    for before in range(number - 1, -1, -1):
        if lines[before].strip() and not lines[before].lstrip().startswith("#"):
            return before
    return None


def _line(lines: list[str], number: int) -> str:
    return lines[number] if number < len(lines) else ""


def _indent(line: str) -> int:
    return len(line) - len(line.lstrip(" "))
