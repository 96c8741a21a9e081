"""Changes with which a level file that cannot be read can be."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from ..checks import check_level
from ..files import loads
from ..files.editing import REMOVED, Edit, edited_text, plain
from ..level import LevelError, Problem
from ..level.names import in_list
from ..spaces import Limits
from .mend import changed_lines

#: The number of positions to search one by one in each level that is tried.
POSITIONS = 50_000


@dataclass(frozen=True)
class TextMend:
    """A change to the text of a level file.

    Attributes:
        say: What it does.
        text: The text with the change made.
        left: The errors that a check of it finds: they were hidden before.
    """

    say: str
    text: str
    left: tuple[str, ...] = ()

    def diff(self, before: str) -> list[str]:
        """The lines that go, and those that come."""
        return changed_lines(before, self.text)


def mends_of_reading(text: str, error: LevelError) -> list[TextMend]:
    """Look for changes with which a level can be read.

    Args:
        text: The text of the file.
        error: The error in the text.

    Returns:
        The changes that were tried and help; those with which nothing is an error come first.

    Example:
        >>> text = "{start: quay, goal: mil, rooms: [quay, mill], passages: [quay <-> mill]}"
        >>> try:
        ...     level = loads(text)
        ... except LevelError as error:
        ...     print([mend.say for mend in mends_of_reading(text, error)])
        ["write 'mill' for 'mil'"]
    """
    tried: dict[str, TextMend] = {}
    for say, new in _changes(text, error):
        left = None if new in tried else _errors_of(new, error.file)
        if left is not None:
            tried[new] = TextMend(say, new, left)
    return sorted(tried.values(), key=lambda one: len(one.left))


def _changes(text: str, error: LevelError) -> Iterator[tuple[str, str]]:
    near = [one for one in error.problems if one.near and one.place]
    if near and len(near) == error.count:
        says = dict.fromkeys(f"write {one.near!r} for {_wrong_word(one)!r}" for one in near)
        new = text
        for one in reversed(near):  # the last first, so that places stay what they are
            new = _rewritten(new, one)
        yield " and ".join(says), new
    try:
        document = plain(text, error.file)
    except LevelError:
        return
    strange = [_strange_symbol(one) for one in error.problems]
    if all(strange):
        yield _with_floor(text, document, [one for one in strange if one], error.file)
    for path, room in _sides(document):
        yield (
            f"let it be unlocked from either side, not from {room} alone",
            edited_text(text, [Edit(path, REMOVED)], error.file),
        )


def _strange_symbol(problem: Problem) -> tuple[str, str] | None:
    """The symbol that is in no legend, and the map it is on, if that is the problem."""
    found = re.match(r"the symbol '(.)' at (\S+)@\S+ is not in the legend", problem.message)
    return (found[1], found[2]) if found else None


def _with_floor(
    text: str, document: Any, strange: list[tuple[str, str]], file: str | None
) -> tuple[str, str]:
    """Floor drawn wherever a symbol is in no legend."""
    edits = []
    for name, drawing in (document.get("maps") or {}).items():
        if isinstance(drawing, str):
            new = drawing
            for symbol in (symbol for symbol, floor in strange if floor == name):
                new = new.replace(symbol, ".")
            edits.append(Edit(("maps", name), new))
    symbols = dict.fromkeys(repr(symbol) for symbol, _ in strange)
    return f"draw floor ('.') for {in_list(symbols)}", edited_text(text, edits, file)


def _wrong_word(problem: Problem) -> str:
    """The word that is not known: a message begins with it, where it stands in a longer text."""
    named = re.match(r"'([\w-]+)' ", problem.message)
    return named[1] if named and named[1] in problem.text else problem.text


def _rewritten(text: str, problem: Problem) -> str:
    assert problem.place is not None and problem.near is not None
    lines = text.splitlines(keepends=True)
    line = lines[problem.place.line - 1] if problem.place.line <= len(lines) else ""
    word = _wrong_word(problem)
    at = line.find(word, problem.place.column - 1) if word else -1
    if at < 0:
        return text
    lines[problem.place.line - 1] = line[:at] + problem.near + line[at + len(word) :]
    return "".join(lines)


def _sides(
    said: Any, path: tuple[str | int, ...] = ()
) -> Iterator[tuple[tuple[str | int, ...], str]]:
    """Where a lock says from which room it is unlocked."""
    parts = (
        said.items()
        if isinstance(said, dict)
        else enumerate(said)
        if isinstance(said, list)
        else ()
    )
    for step, one in parts:
        if step == "from" and isinstance(one, str):
            yield (*path, step), one
        yield from _sides(one, (*path, step))


def _errors_of(text: str, file: str | None) -> tuple[str, ...] | None:
    """The errors that a check finds, and what it cannot settle; ``None`` where it cannot be read."""
    try:
        report = check_level(loads(text, file), Limits(POSITIONS), try_spare=False)
    except LevelError:
        return None
    grave = [one for one in report.findings if one.severity == "error" or one.code == "undecided"]
    return tuple(f"{one.code} {one.subject}" for one in grave)
