"""Things to place again at random, and the spots where they may land."""

from __future__ import annotations

import re
from typing import NamedTuple

from ..values import dataclass, field
from .names import NAME_PATTERN
from .place import Place

_number = r"\s*([0-9]{1,6})\s*"
_stretch = re.compile(
    rf"floor\s+of\s+({NAME_PATTERN})(?:\s+from{_number},{_number}to{_number},{_number})?"
).fullmatch


class Stretch(NamedTuple):
    """The floor of a map, or the part between two corners, columns and rows from 1."""

    map: str
    left: int | None = None
    top: int | None = None
    right: int | None = None
    bottom: int | None = None

    def holds(self, column: int, row: int) -> bool:
        """Whether a cell of the map is in it."""
        if self.left is None or self.top is None or self.right is None or self.bottom is None:
            return True
        return self.left <= column <= self.right and self.top <= row <= self.bottom


def stretch_of(text: str) -> Stretch | None:
    """The stretch of a map that a text stands for; ``None`` for any other text.

    Example:
        >>> stretch_of("floor of ground from 9,2 to 3,2")
        Stretch(map='ground', left=3, top=2, right=9, bottom=2)
        >>> stretch_of("quay") is None
        True
    """
    found = _stretch(text.strip())
    if found is None:
        return None
    if found[2] is None:
        return Stretch(found[1])
    a, b, c, d = (int(found[n]) for n in range(2, 6))
    return Stretch(found[1], min(a, c), min(b, d), max(a, c), max(b, d))


@dataclass(slots=True)
class Scatter:
    """A group of things to place again.

    Attributes:
        name: The name of the group.
        items: The items: every unit that lies in a room or a chest, or that an act gives.
        chests: Chests that are moved whole.
        into: Rooms, chests, acts and stretches of maps, as they are written; nothing for all there are.
        apart: The fewest steps between any two things.
        at_most: The most units in one place.
        colors: ``kept``, or ``shuffled``: the items exchange their colours at random, and locks follow.
    """

    name: str
    items: tuple[str, ...] = ()
    chests: tuple[str, ...] = ()
    into: tuple[str, ...] = ()
    apart: int | None = None
    at_most: int | None = None
    colors: str = "kept"
    place: Place | None = field(default=None, compare=False, repr=False)
