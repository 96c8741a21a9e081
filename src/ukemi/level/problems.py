"""Problems in the text of a level, and the error that carries them."""

from __future__ import annotations

from typing import Any

from ..values import dataclass
from .place import Place
from .visible import visible


@dataclass(frozen=True, slots=True)
class Problem:
    """One thing that keeps a level from being read.

    Attributes:
        code: The kind of problem, such as ``unknown-name``.
        message: The problem in a sentence, with the offending text in it.
        place: Line and column in the file; ``None`` for a level built in Python.
        text: The offending text.
        near: The nearest name that would have been right, where one is near.
    """

    code: str
    message: str
    place: Place | None = None
    text: str = ""
    near: str | None = None

    def __str__(self) -> str:
        hint = f" (did you mean {self.near!r}?)" if self.near else ""
        return f"{self.message}{hint} [{self.code}]"


#: The number of problems that a message lists in full, and the number kept for other programs.
MOST_LISTED, MOST_KEPT = 20, 1_000


class LevelError(ValueError):
    """A level that cannot be read or built.

    Args:
        problems: Everything that is wrong, in the order of the file.
        file: The file it was read from, if any.

    Attributes:
        problems: What is wrong; of more than :data:`MOST_KEPT`, the first.
        count: How many problems there are.

    Example:
        >>> from ukemi.level import Problem
        >>> print(LevelError([Problem("bad-value", "no such thing", Place(3, 5))], "mill.yaml"))
        mill.yaml:3:5: no such thing [bad-value]
    """

    def __init__(self, problems: list[Problem], file: str | None = None) -> None:
        self.problems = problems[:MOST_KEPT]
        self.count = len(problems)
        self.file = file
        super().__init__("\n".join(self.lines()))

    def __reduce__(self) -> tuple[Any, tuple[list[Problem], str | None, int]]:
        return _again, (self.problems, self.file, self.count)

    def lines(self) -> list[str]:
        """Each problem on one line, with its file, line and column.

        Returns:
            The lines, in the order of :attr:`problems`; of many, the first and how many more.
        """
        lines = [visible(self.where(one) + str(one)) for one in self.problems[:MOST_LISTED]]
        more = self.count - len(lines)
        return [*lines, f"{self.file or 'level'}: and {more:,} more like these"] if more else lines

    def where(self, problem: Problem) -> str:
        """The file, line and column of a problem, as a message begins."""
        parts = [self.file] if self.file else []
        if problem.place:
            parts += [str(problem.place.line), str(problem.place.column)]
        return ":".join(parts) + ": " if parts else ""


def _again(problems: list[Problem], file: str | None, count: int) -> LevelError:
    """Make an error again that was sent from another process."""
    error = LevelError(problems, file)
    error.count = count
    return error
