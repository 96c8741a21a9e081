"""A map in a CSV file, whose rows can be changed one by one."""

from __future__ import annotations

import csv
from io import StringIO

from .loading import separator_of


class Table:
    """The text of a CSV file that holds a map, one symbol a cell.

    Attributes:
        rows: The rows of the map as text; none if a cell holds several symbols, or a row several lines.

    Example:
        >>> table = Table("ground.csv", "#,@,.\\r\\n#,k,#\\r\\n")
        >>> table.rows, table.with_rows(["#@.", "#.#"])
        (['#@.', '#k#'], '#,@,.\\r\\n#,.,#\\r\\n')
    """

    def __init__(self, file: str, text: str) -> None:
        self.file = file
        self._lines = text.splitlines(keepends=True)
        self._separator = separator_of(text)
        self._cells = [
            next(csv.reader([line], delimiter=self._separator), []) for line in self._lines
        ]
        single = all(len(cell) <= 1 for row in self._cells for cell in row)
        self.rows = ["".join(cell or " " for cell in row) for row in self._cells] if single else []

    def with_rows(self, rows: list[str]) -> str:
        """Return the text with other rows. What stays the same keeps every character.

        Args:
            rows: The rows, as many as there are.
        """
        new = []
        for line, cells, old, row in zip(self._lines, self._cells, self.rows, rows, strict=True):
            if row == old:
                new.append(line)
                continue
            written = StringIO()
            kept = [
                cell if (cell or " ") == one else one for cell, one in zip(cells, row, strict=False)
            ]
            writer = csv.writer(written, delimiter=self._separator, lineterminator="")
            writer.writerow([*kept, *row[len(kept) :]])
            ending = line[len(line.rstrip("\r\n")) :]
            new.append(written.getvalue() + ending)
        return "".join(new)
