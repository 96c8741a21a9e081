"""The words a question is answered with, and when an answer is one."""

from __future__ import annotations

from enum import StrEnum
from typing import NoReturn

#: What to do where a search was cut short.
LOOK_FURTHER = "raise --max-positions, --max-seconds or --max-memory"


class Answer(StrEnum):
    """An answer: proven, refuted, or not settled; never a truth value.

    An answer other than :attr:`UNKNOWN` is proven.

    Example:
        >>> Answer.YES
        <Answer.YES: 'yes'>
        >>> Answer.YES == "yes", Answer.UNKNOWN.proven
        (True, False)
        >>> bool(Answer.NO)
        Traceback (most recent call last):
            ...
        TypeError: an answer is no truth value: compare it, as in `answer == Answer.YES`
    """

    YES = "yes"
    NO = "no"
    POSSIBLE = "possible"
    NEVER = "never"
    REQUIRED = "required"
    OPTIONAL = "optional"
    ONLY_WHEN_STUCK = "only-when-stuck"
    UNKNOWN = "unknown"

    @property
    def proven(self) -> bool:
        """Whether the search settled the question."""
        return self is not Answer.UNKNOWN

    def __bool__(self) -> NoReturn:
        raise TypeError("an answer is no truth value: compare it, as in `answer == Answer.YES`")

    def __repr__(self) -> str:
        return f"<Answer.{self.name}: {self.value!r}>"


def settled(found: bool, complete: bool) -> Answer:
    """Whether something exists: ``YES`` once found, ``NO`` only where all has been seen."""
    if found:
        return Answer.YES
    return Answer.NO if complete else Answer.UNKNOWN
