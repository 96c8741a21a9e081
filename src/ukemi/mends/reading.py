"""Changes with which a level file that cannot be read can be, and is sound."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from ..checks import check_level
from ..files import loads
from ..files.editing import REMOVED, Edit, edited_text, plain
from ..level import LevelError, Problem
from ..search import Limits
from .mend import changed_lines

#: Positions to look at one by one in each level that is tried.
POSITIONS = 50_000


@dataclass(frozen=True)
class TextMend:
    """A change to the text of a level file.

    Attributes:
        say: What it does.
        text: The text with the change made.
    """

    say: str
    text: str

    def diff(self, before: str) -> list[str]:
        """The lines that go, and those that come."""
        return changed_lines(before, self.text)


def mends_of_reading(text: str, error: LevelError) -> list[TextMend]:
    """Look for changes with which a level can be read, and nothing in it is an error.

    Args:
        text: The text of the file.
        error: What is wrong with it.

    Returns:
        The changes that were tried and help, the smallest first.

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
        if new not in tried and _is_sound(new, error.file):
            tried[new] = TextMend(say, new)
    return list(tried.values())


def _changes(text: str, error: LevelError) -> Iterator[tuple[str, str]]:
    near = [one for one in error.problems if one.near and one.place]
    if near and len(near) == error.count:
        says = dict.fromkeys(f"write {one.near!r} for {one.text!r}" for one in near)
        new = text
        for one in reversed(near):  # the last first, so that places stay what they are
            new = _rewritten(new, one)
        yield " and ".join(says), new
    try:
        document = plain(text, error.file)
    except LevelError:
        return
    for path, room in _sides(document):
        yield (
            f"let it be unlocked from either side, not from {room} alone",
            edited_text(text, [Edit(path, REMOVED)], error.file),
        )


def _rewritten(text: str, problem: Problem) -> str:
    assert problem.place is not None and problem.near is not None
    lines = text.splitlines(keepends=True)
    line = lines[problem.place.line - 1] if problem.place.line <= len(lines) else ""
    at = line.find(problem.text, problem.place.column - 1) if problem.text else -1
    if at < 0:
        return text
    lines[problem.place.line - 1] = line[:at] + problem.near + line[at + len(problem.text) :]
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


def _is_sound(text: str, file: str | None) -> bool:
    try:
        report = check_level(loads(text, file), Limits(POSITIONS))
    except LevelError:
        return False
    return report.exit_code() == 0
