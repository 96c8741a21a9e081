"""Where something stands in a level file."""

from __future__ import annotations

from typing import NamedTuple


class Place(NamedTuple):
    """A line and a column of a level file, both counted from 1."""

    line: int
    column: int
