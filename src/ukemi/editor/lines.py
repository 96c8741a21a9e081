"""Places in a text as an editor counts them: by lines, and in units of its own."""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Callable
from itertools import pairwise

from lsprotocol import types as lsp

#: Line ends in the Language Server Protocol: not U+0085 or U+2028, unlike in Python.
_line_end = re.compile(r"\r\n|\n|\r")


def split_lines(text: str) -> list[str]:
    """Return the lines of a text, each with its end.

    Example:
        >>> split_lines("quay\\u2028mill\\r\\nloft")
        ['quay\\u2028mill\\r\\n', 'loft']
    """
    starts = [0, *(one.end() for one in _line_end.finditer(text)), len(text)]
    found = [text[a:b] for a, b in pairwise(starts)]
    return [one for one in found if one]


class Lines:
    """The lines of a text.

    Args:
        units: Tells how many units of the editor some characters take.
    """

    def __init__(self, text: str, units: Callable[[str], int]) -> None:
        self.text = text
        self._units = units
        ends = list(_line_end.finditer(text))
        self._starts = [0, *(one.end() for one in ends)]
        self._ends = [*(one.start() for one in ends), len(text)]

    def of(self, number: int) -> tuple[int, int]:
        """Return the beginning and the end of a line, counted from 0; of the last line if there are
        fewer.
        """
        number = max(0, min(number, len(self._starts) - 1))
        return self._starts[number], self._ends[number]

    def offset(self, position: lsp.Position) -> int:
        """The place of a position; the nearest one if there is no such position."""
        if position.line >= len(self._starts):
            return len(self.text)
        first, last = self.of(position.line)
        line = self.text[first:last]
        if line.isascii():
            return first + max(0, min(position.character, len(line)))
        at = units = 0
        while at < len(line) and units < position.character:
            units += self._units(line[at])
            at += 1
        return first + at

    def position(self, offset: int) -> lsp.Position:
        """The position of a place."""
        number = bisect_right(self._starts, offset) - 1
        first, last = self._starts[number], self._ends[number]
        return lsp.Position(number, self._units(self.text[first : min(offset, last)]))

    def range(self, begin: int, end: int) -> lsp.Range:
        """The range between two places."""
        return lsp.Range(self.position(begin), self.position(end))
