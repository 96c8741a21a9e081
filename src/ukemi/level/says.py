"""The texts that a thing shows to the player."""

from __future__ import annotations

from ..values import dataclass, fields


@dataclass(frozen=True, slots=True)
class Says:
    """The texts of a thing, by the moment at which the player reads them.

    Attributes:
        shut: Tried without the things that it needs.
        wrong: Tried with a thing that does not fit.
        open: Done, opened, taken or walked.
        first: Entered, or seen for the first time.
    """

    shut: str | None = None
    wrong: str | None = None
    open: str | None = None
    first: str | None = None

    def __bool__(self) -> bool:
        return any(getattr(self, moment) is not None for moment in MOMENTS)


MOMENTS = tuple(one.name for one in fields(Says))

#: Shared by all things without a text.
SILENT = Says()
