"""Changes with which a level file that cannot be read can be."""

from __future__ import annotations

from dataclasses import dataclass

from ..level import LevelError
from ..spaces import Limits
from .mend import changed_lines
from .offers import POSITIONS, mends_of_text


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
        >>> from ukemi.files import loads
        >>> text = "{start: quay, goal: mil, rooms: [quay, mill], passages: [quay <-> mill]}"
        >>> try:
        ...     level = loads(text)
        ... except LevelError as error:
        ...     print([mend.say for mend in mends_of_reading(text, error)][:1])
        ["write 'mill' for 'mil'"]
    """
    offers = mends_of_text(text, error, error.file, Limits(POSITIONS).begin())
    return [TextMend(one.say, one.text, one.left) for one in offers]
