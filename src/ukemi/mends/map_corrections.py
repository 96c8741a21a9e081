"""Corrections of maps: each draws what was drawn wrong, walled in or left out."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from ..language.files.map_table import Table
from ..language.text.editing import Edit, Path
from .correction import LIKELY, POSSIBLE, SURE, UNLIKELY, Correction

#: The neighbours of a cell.
_BESIDE = ((1, 0), (-1, 0), (0, 1), (0, -1))
_TURNED = {"<": ">", ">": "<", "^": "v", "v": "^"}


def map_corrections(
    document: Any, tables: Mapping[str, tuple[str, str]] | None = None
) -> Iterator[Correction]:
    """Yield every correction of the maps of a level.

    Args:
        document: The data of the level's file.
        tables: For each map that is read from a CSV file, that file and its text.
    """
    tables = tables or {}
    legend, maps = document.get("legend") or {}, document.get("maps") or {}
    every = "".join(map(str, [*maps.values(), *(text for _, text in tables.values())]))
    for name, drawing in maps.items():
        path: Path = ("maps", name)
        if isinstance(drawing, dict) and "rows" in drawing:
            drawing, path = drawing["rows"], (*path, "rows")
        if isinstance(drawing, str):
            yield from _Text(name, path, drawing, legend, every).corrections()
        elif isinstance(drawing, list) and all(isinstance(row, str) for row in drawing):
            yield from _Rows(name, path, drawing, legend, every).corrections()
        elif name in tables and (table := Table(*tables[name])).rows:
            yield from _InTable(name, table, legend, every).corrections()


class _Drawing:
    """One map.

    Attributes:
        last: How many of them are rows of the map.
    """

    def __init__(self, name: str, rows: list[str], legend: Any, every: str) -> None:
        self.name, self.legend, self.rows, self.last = name, legend, rows, len(rows)
        self.things = [one for one in legend if isinstance(legend[one], dict)]
        self.missing = [one for one in self.things if str(one) not in every]
        self.doors = [one for one in self.things if "lock" in legend[one]]
        self.keys = [one for one in self.things if {"item", "items"} & legend[one].keys()]

    def at(self, x: int, y: int) -> str:
        """The symbol of a cell; a blank outside."""
        return self.rows[y][x] if 0 <= y < self.last and 0 <= x < len(self.rows[y]) else " "

    def cells(self, symbols: Iterable[str]) -> Iterator[tuple[int, int]]:
        """The cells with one of some symbols."""
        wanted = {*map(str, symbols)}
        for y in range(self.last):
            for x, symbol in enumerate(self.rows[y]):
                if symbol in wanted:
                    yield x, y

    def drawn(
        self, say: str, idea: str, unlikely: float, *cells: tuple[int, int, str]
    ) -> Correction:
        """The map with other symbols in some cells."""
        rows = [*self.rows]
        for x, y, symbol in cells:
            rows[y] = rows[y][:x] + str(symbol) + rows[y][x + 1 :]
        return self.written(say, idea, unlikely, rows)

    def written(self, say: str, idea: str, unlikely: float, rows: list[str]) -> Correction:
        """The correction that writes other rows."""
        raise NotImplementedError

    def spot(self, x: int, y: int) -> str:
        """The name of a cell."""
        return f"{self.name}@{x + 1},{y + 1}"

    def between(self, x: int, y: int, ends: str = "#") -> bool:
        """Whether a cell has walls on two opposite sides, and ways on the others."""
        across = self.at(x - 1, y) in ends and self.at(x + 1, y) in ends
        along = self.at(x, y - 1) in ends and self.at(x, y + 1) in ends
        return across != along

    def corrections(self) -> Iterator[Correction]:
        """Yield every correction of this map."""
        yield from self._rows()
        yield from self._things()
        yield from self._walls()
        one_way = [one for one in self.things if "one-way" in self.legend[one]]
        for x, y in self.cells(one_way):
            fields = {
                key: one for key, one in self.legend[self.at(x, y)].items() if key != "one-way"
            }
            if len([*self.cells(self.at(x, y))]) == 1:
                edit = Edit(("legend", self.at(x, y)), fields or "floor")
                say = f"let {self.spot(x, y)} be walked both ways"
                yield Correction(say, "arrow", POSSIBLE, (edit,))
        for x, y in self.cells(_TURNED):
            symbol = self.at(x, y)
            if symbol not in self.legend:
                say = f"turn the arrow at {self.spot(x, y)} round"
                yield self.drawn(say, "arrow", LIKELY, (x, y, _TURNED[symbol]))
                yield self.drawn(f"draw floor at {self.spot(x, y)}", "arrow", POSSIBLE, (x, y, "."))

    def _rows(self) -> Iterator[Correction]:
        """Fill in the cells that are left out of a row, by the rows beside it."""
        widths = [len(row) for row in self.rows[: self.last]]
        most = max(set(widths), key=widths.count, default=0)
        for y, row in enumerate(self.rows[: self.last]):
            short = most - len(row)
            if short <= 0:
                continue
            beside = self.rows[y - 1] if y else ""
            under = self.rows[y + 1] if y + 1 < self.last else ""
            for like in dict.fromkeys((beside[len(row) :], under[len(row) :], "#" * short)):
                if len(like) == short:
                    say = f"draw {like!r} at the end of row {y + 1} of {self.name}"
                    yield self._row(say, y, row + like, SURE + 0.2)
            if short > 2:
                continue
            for x in range(len(row) + 1):
                for symbol in "#.":
                    new = row[:x] + symbol * short + row[x:]
                    apart = sum(
                        (one == "#") != (other == "#")
                        for like in (beside, under)
                        for one, other in zip(new, like, strict=False)
                    )
                    say = f"draw {symbol!r} in row {y + 1} of {self.name}, at column {x + 1}"
                    yield self._row(say, y, new, SURE + 0.05 * apart)

    def _row(self, say: str, y: int, row: str, unlikely: float) -> Correction:
        rows = [*self.rows[:y], row, *self.rows[y + 1 :]]
        return self.written(say, f"row {y}", unlikely, rows)

    def _things(self) -> Iterator[Correction]:
        """Redraw a thing that was drawn as another, drawn over or moved."""
        for symbol in self.things:
            is_door = symbol in self.doors or "gate" in self.legend[symbol]
            missing = symbol in self.missing
            for x, y in self.cells("#." if missing else "#"):
                here = self.at(x, y)
                ways = sum(self.at(x + a, y + b) not in "# " for a, b in _BESIDE)
                if (here == "#" and ways < (1 if missing else 4)) or (
                    is_door and not self.between(x, y)
                ):
                    continue
                # A wall with floor all round is no wall: something was there.
                far = (0.6, 0.5, 0.3, 0.1, 0.0)[ways] if here == "#" else 0.4
                say = f"draw {symbol!r} at {self.spot(x, y)}"
                unlikely = LIKELY + far + (not missing) * 0.4
                yield self.drawn(say, f"draw {symbol}", unlikely, (x, y, symbol))
        for some in (self.doors, self.keys):
            for x, y in self.cells(some):
                for other in some:
                    if str(other) != self.at(x, y):
                        say = f"draw {other!r} at {self.spot(x, y)} instead of {self.at(x, y)!r}"
                        unlikely = SURE if other in self.missing else POSSIBLE
                        yield self.drawn(say, f"symbol at {x},{y}", unlikely, (x, y, other))
        for x, y in self.cells(self.doors):
            for a, b in ((x + dx, y + dy) for dx, dy in _BESIDE) if not self.between(x, y) else ():
                if self.at(a, b) in ".#" and self.between(a, b):  # it was drawn beside its gap
                    say = f"move {self.at(x, y)!r} from {self.spot(x, y)} to {self.spot(a, b)}"
                    cells = ((x, y, "#" if self.at(a, b) == "." else "."), (a, b, self.at(x, y)))
                    yield self.drawn(say, f"move {x},{y}", SURE, *cells)
                    floor = ((x, y, "."), (a, b, self.at(x, y)))
                    yield self.drawn(say, f"move {x},{y}", LIKELY, *floor)
        for x, y in self.cells(self.keys):
            for a, b in self.cells("."):
                said = self.legend[self.at(x, y)]
                what = said["item"] if [*said] == ["item"] else repr(self.at(x, y))
                say = f"move {what} from {self.spot(x, y)} to {self.spot(a, b)}"
                near = 0.01 * (abs(a - x) + abs(b - y))
                cells = ((x, y, "."), (a, b, self.at(x, y)))
                yield self.drawn(say, f"move {x},{y}", UNLIKELY + near, *cells)

    def _walls(self) -> Iterator[Correction]:
        """Remove a wall that may be too much, or draw one that may be missing."""
        for x, y in self.cells(self.things):
            shut = [(x + a, y + b) for a, b in _BESIDE if self.at(x + a, y + b) == "#"]
            if len(shut) == len([1 for a, b in _BESIDE if self.at(x + a, y + b) != " "]):
                for some in (shut, *([one] for one in shut), *(
                    [one for one in shut if one is not left_out] for left_out in shut
                )):  # fmt: skip
                    inner = [
                        (a, b, ".")
                        for a, b in some
                        if any(
                            self.at(a + c, b + d) not in "# "
                            for c, d in _BESIDE
                            if (a + c, b + d) != (x, y)
                        )
                    ]
                    if inner:
                        say = f"draw floor beside {self.spot(x, y)}"
                        yield self.drawn(
                            say,
                            f"walled {x},{y}",
                            LIKELY + 0.1 * (len(some) - len(inner)) - 0.05 * len(inner),
                            *inner,
                        )
        for x, y in self.cells("."):
            if self.between(x, y):
                say = f"draw a wall at {self.spot(x, y)}"
                yield self.drawn(say, "wall", POSSIBLE, (x, y, "#"))
        for x, y in self.cells("#"):
            if (
                self.between(x, y)
                and sum(self.at(x + a, y + b) not in "# " for a, b in _BESIDE) == 2
            ):
                say = f"draw floor at {self.spot(x, y)}"
                yield self.drawn(say, "opening", UNLIKELY, (x, y, "."))


class _Text(_Drawing):
    """A map that is drawn as one text."""

    def __init__(self, name: str, path: Path, drawing: str, legend: Any, every: str) -> None:
        super().__init__(name, drawing.split("\n"), legend, every)
        self._path, self.last = path, len(self.rows) - drawing.endswith("\n")

    def written(self, say: str, idea: str, unlikely: float, rows: list[str]) -> Correction:
        """The correction that writes other rows."""
        return Correction(say, idea, unlikely, (Edit(self._path, "\n".join(rows)),))


class _Rows(_Drawing):
    """A map that is a list of rows."""

    def __init__(self, name: str, path: Path, rows: list[str], legend: Any, every: str) -> None:
        super().__init__(name, rows, legend, every)
        self._path = path

    def written(self, say: str, idea: str, unlikely: float, rows: list[str]) -> Correction:
        """The correction that writes other rows."""
        pairs = enumerate(zip(self.rows, rows, strict=True))
        edits = (Edit((*self._path, y), new) for y, (old, new) in pairs if old != new)
        return Correction(say, idea, unlikely, tuple(edits))


class _InTable(_Drawing):
    """A map in a CSV file."""

    def __init__(self, name: str, table: Table, legend: Any, every: str) -> None:
        super().__init__(name, table.rows, legend, every)
        self._table = table

    def written(self, say: str, idea: str, unlikely: float, rows: list[str]) -> Correction:
        """The correction that writes other rows."""
        text = self._table.with_rows(rows)
        return Correction(say, idea, unlikely, text=text, file=self._table.file)
