"""Verdicts: what a question is answered, and with which evidence."""

from __future__ import annotations

from enum import StrEnum
from typing import NoReturn

from ..spaces import Route
from ..values import dataclass

#: The advice after a search that was cut short.
LOOK_FURTHER = "raise --max-positions, --max-seconds or --max-memory"


class Answer(StrEnum):
    """An answer: proven, refuted, or undecided; never a truth value.

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


@dataclass(frozen=True, eq=False)
class Verdict:
    """An answer with its evidence.

    Attributes:
        answer: The answer.
        route: The run that shows it, replayed by the rules, with a lower bound on the cost of any
            such run. A proven answer without a run comes from every position, or from the relaxed level.
    """

    answer: Answer
    route: Route | None = None


#: The verdict if time or memory ended first.
UNDECIDED = Verdict(Answer.UNKNOWN)


def settled(found: bool, complete: bool = True) -> Answer:
    """Whether something exists: ``YES`` once found, ``NO`` only if all has been seen."""
    if found:
        return Answer.YES
    return Answer.NO if complete else Answer.UNKNOWN


def status(some: bool, some_without: bool, reached: bool, complete: bool = True) -> Answer:
    """Return the status of a thing.

    Args:
        some: Whether a finishing run that does it was found.
        some_without: Whether a finishing run that does not do it was found.
        reached: Whether any run that does it was found.
        complete: Whether all runs were seen.
    """
    if some and some_without:
        return Answer.OPTIONAL
    if not complete:
        return Answer.UNKNOWN
    if some:
        return Answer.REQUIRED
    return Answer.ONLY_WHEN_STUCK if reached else Answer.NEVER
