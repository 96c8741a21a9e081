"""Where something stands in a level file."""

from __future__ import annotations

from typing import NamedTuple


class Place(NamedTuple):
    """A line and a column of a level file, both counted from 1.

    Attributes:
        line, column: The line and the column.
        file: The file, where it is another than that of the level: a campaign has several.
    """

    line: int
    column: int
    file: str = ""
