"""A correction: a change to a level's files that may undo a mistake, before it is tried."""

from __future__ import annotations

import re

from ..language.text.editing import Edit
from ..values import dataclass

#: How unlikely a kind of mistake is. A correction that takes away a part of the puzzle comes after all others.
SURE, LIKELY, POSSIBLE, UNLIKELY, EASIER = 0.5, 1.0, 2.0, 3.0, 6.0
#: How unlikely it is that a gate before the point of no return was forgotten.
GATED = 2.5
#: How much sooner a correction is tried that changes the passage whose walk is the first mistake.
NEARER = 4.0


_PART = re.compile(r"\d+|[^\W\d_]+")


@dataclass(frozen=True)
class Correction:
    """A change that may undo a mistake.

    Attributes:
        say: The change, in a sentence.
        idea: The same for corrections that differ only by where they are made.
        unlikely: How unlikely it is that this was the mistake; the least is tried first.
        edits: The values of the file that it sets, unless it gives the new text.
        text: The new text of the file.
        file: The file that it changes; empty for the one that was read.
        place: Where it is made, if that is all by which it differs from others of its idea.
        near: Whether it changes the passage whose walk is the first mistake; then it is tried sooner.
    """

    say: str
    idea: str
    unlikely: float
    edits: tuple[Edit, ...] = ()
    text: str | None = None
    file: str = ""
    place: str = ""
    near: bool = False

    @property
    def tried_by(self) -> float:
        """How late it is tried."""
        return self.unlikely - NEARER * self.near


def alike(one: str, other: str) -> int:
    """Count the parts that two names share: words and numbers.

    Example:
        >>> alike("loft-door-2", "loft-key-2"), alike("door7", "key7"), alike("oak-key", "pit-door")
        (2, 1, 0)
    """
    return len({*re.findall(_PART, one)} & {*re.findall(_PART, other)})
