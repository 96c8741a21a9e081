"""A floor drawn as text, and what its symbols mean."""

from __future__ import annotations

import re
from collections.abc import Sequence

from ...values import dataclass, field
from ..conditions import ALWAYS, Condition
from ..effects import NO_EFFECTS, Effects
from ..level_part import LevelPart
from ..lock import Lock
from ..names import NAME_PATTERN
from ..place import Place
from ..room import Act, Cell, Chest, Placement

#: The directions of one-way tiles, as steps in column and row.
DIRECTIONS = {"up": (0, -1), "down": (0, 1), "left": (-1, 0), "right": (1, 0)}

_cell_name = re.compile(rf"({NAME_PATTERN})@([0-9]{{1,6}}),([0-9]{{1,6}})").fullmatch


def cell_of(name: str) -> Cell | None:
    """The cell a name such as ``ground@5,2`` stands for; ``None`` for any other name.

    Example:
        >>> cell_of("ground@5,2")
        Cell(map='ground', column=5, row=2)
        >>> cell_of("quay") is None
        True
    """
    found = _cell_name(name)
    return Cell(found[1], int(found[2]), int(found[3])) if found else None


@dataclass(frozen=True, slots=True)
class SideView:
    """How a player moves on a map that is seen from the side.

    Attributes:
        up: The most rows that a jump rises.
        across: The most columns that a jump crosses.
    """

    up: int = 1
    across: int = 2


@dataclass(slots=True)
class TileMap:
    """A floor, drawn with one symbol a cell.

    Attributes:
        name: The floor's name.
        rows: Its rows from the top, each a text of one-letter symbols or a list of symbols. Rows may
            differ in length; what is missing is nothing to stand on.
        csv: The CSV file it was read from, as the level file names it.
        place: Where its first row begins in the level file.
        starts: Where each row begins, or each of its symbols; empty where they stand line under line.
        side: How a player moves, if the map is seen from the side; ``None`` if from above.
    """

    name: str
    rows: tuple[Sequence[str], ...]
    csv: str | None = None
    place: Place | None = field(default=None, compare=False, repr=False)
    starts: tuple[tuple[Place, ...], ...] = field(default=(), compare=False, repr=False)
    side: SideView | None = None

    def symbol(self, column: int, row: int) -> str:
        """The symbol of a cell, its column and row counted from 1; a space outside the map."""
        if not (1 <= row <= len(self.rows) and 1 <= column <= len(self.rows[row - 1])):
            return " "
        return self.rows[row - 1][column - 1]

    def place_of(self, column: int, row: int) -> Place | None:
        """Where a cell stands in the level file; of a map from a CSV file, where that is named."""
        if self.place is None or self.csv is not None:
            return self.place
        if not self.starts:
            return Place(self.place.line + row - 1, self.place.column + column - 1)
        known = self.starts[row - 1]
        if len(known) == 1:
            return Place(known[0].line, known[0].column + column - 1)
        return known[min(column, len(known)) - 1] if known else self.place

    @property
    def width(self) -> int:
        """The number of columns."""
        return max((len(row) for row in self.rows), default=0)


@dataclass(slots=True)
class Tile(LevelPart):
    """The meaning of a symbol of a map.

    Attributes:
        ground: ``floor``, ``wall``, ``void`` or ``start``.
        one_way: The direction in which alone the cell is entered and left.
        solid: Whether the cell's chest, switch or act is used from beside it; ``None``: if it has one.
        bears: Seen from the side: whether a player can stand on the cell above.
        climb: Seen from the side: whether a player can climb along it.
    """

    ground: str = "floor"
    items: dict[str, Placement] = field(default_factory=dict)
    lock: str | Lock | None = None
    gate: Condition = ALWAYS
    chest: Chest | None = None
    switch: Act | None = None
    act: Act | None = None
    room: str | None = None
    one_way: str | None = None
    solid: bool | None = None
    once: bool = False
    steps: int = 1
    name: str | None = None
    effects: Effects = NO_EFFECTS
    bears: bool = False
    climb: bool = False
    seen: Condition = ALWAYS

    @property
    def is_solid(self) -> bool:
        """Whether a player cannot stand on it, though it is not a wall."""
        has_thing = self.chest is not None or self.switch is not None or self.act is not None
        return has_thing if self.solid is None else (self.solid and has_thing)

    @property
    def asks(self) -> bool:
        """Whether stepping onto it asks for something or changes something."""
        return bool(
            self.lock is not None
            or self.gate != ALWAYS
            or self.seen != ALWAYS
            or self.once
            or self.steps != 1
            or self.effects
        )

    @property
    def matters(self) -> bool:
        """Whether the cell is more than floor, wall or nothing."""
        return bool(
            self.ground == "start"
            or self.asks
            or self.items
            or self.chest
            or self.switch
            or self.act
            or self.room
            or self.one_way
        )


#: The meaning of symbols that the legend does not define.
BUILT_IN = {
    "#": Tile(ground="wall"),
    ".": Tile(),
    " ": Tile(ground="void"),
    "@": Tile(ground="start"),
    "^": Tile(one_way="up"),
    "v": Tile(one_way="down"),
    "<": Tile(one_way="left"),
    ">": Tile(one_way="right"),
}
