"""Where rooms go in a picture: in the cells of a grid about as wide as a window, joined rooms near each other.

A local search after S. Kirkpatrick, C. D. Gelatt and M. P. Vecchi, "Optimization by simulated annealing", Science 220
(1983): a room changes places with another, or takes a free cell, beside a room that it is joined to. What it
avoids: long ways, ways through other rooms, and crossings. The rooms of an area stay together, and a room that says
where it is drawn stays there.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import accumulate
from math import ceil, exp, sqrt
from random import Random

import numpy as np

from ..level import Level
from ..level.joined import Joined
from ..values import dataclass

#: With more rooms than this, a picture of boxes is unreadable and takes minutes.
MOST_ROOMS = 1_000

#: How many cells there are for each room, and how much wider than high a picture is at best, at most and at least.
_CELLS, _BEST, _WIDEST, _NARROWEST = 1.15, 1.25, 1.75, 1.05

#: About how high the title and the legend of a picture are, with its margins, in points.
_FRAME = 125.0

#: How many changes to try in all, and for each room.
_TRIES, _TRIES_A_ROOM = 4_000, 120

#: What a way through a room costs, a crossing, a step away from the left for the start, a step away from the
#: column that a room's distance from the start gives, and a step away from the middle of a room's area. A step that
#: a way is longer costs 1.
_THROUGH, _CROSSING, _START, _DRIFT, _APART = 3.0, 1.6, 0.8, 0.06, 0.7

#: The least space between boxes, across and down, and besides a label between them, in points: its way is seen
#: on both sides.
_ACROSS, _DOWN, _BESIDE = 34.0, 32.0, (22.0, 36.0)


def too_many(rooms: int) -> str:
    """The message for a level with too many rooms to draw."""
    return f"has {rooms:,} rooms, more than a picture can show ({MOST_ROOMS:,})"


@dataclass(frozen=True, slots=True)
class Box:
    """A rectangle: its middle, width and height, in points."""

    x: float
    y: float
    width: float
    height: float

    def overlaps(self, other: Box, margin: float = 0.0) -> bool:
        """Whether two boxes come closer than a margin."""
        return (
            abs(self.x - other.x) < (self.width + other.width) / 2 + margin
            and abs(self.y - other.y) < (self.height + other.height) / 2 + margin
        )


def neighbours(level: Level) -> dict[str, list[str]]:
    """For each room, the rooms a passage joins it to, in the order of the level."""
    joined: dict[str, list[str]] = {room: [] for room in level.rooms}
    for passage in level.passages:
        for a, b in ((passage.a, passage.b), (passage.b, passage.a)):
            if b not in joined[a] and a != b:
                joined[a].append(b)
    return joined


def place_rooms(
    level: Level,
    sizes: Mapping[str, tuple[float, float]],
    labels: Mapping[frozenset[str], tuple[float, float]],
) -> dict[str, Box]:
    """Give every room a box. The picture is at most 1.8 times as wide as it is high, and not higher than wide.

    Args:
        sizes: The width and height each room needs, in points.
        labels: For pairs of rooms, the width and height of the largest label between them.

    Returns:
        The boxes, by room; none overlap.
    """
    if isinstance(level, Joined):
        return _stretched(_beside_each_other(level, sizes, labels))
    return _stretched(_in_a_grid(level, sizes, labels))


def _in_a_grid(
    level: Level,
    sizes: Mapping[str, tuple[float, float]],
    labels: Mapping[frozenset[str], tuple[float, float]],
) -> dict[str, Box]:
    """The boxes of rooms in the best of some grids."""
    names = list(level.rooms)
    drawn = [room.drawn_at for room in level.rooms.values() if room.drawn_at is not None]
    # A column is nearly as wide as its widest room, and a row as high as its highest.
    wide, high = (
        _large([size[side] for size in sizes.values()])
        + _large([size[side] for size in labels.values()])
        + _BESIDE[side]
        for side in (0, 1)
    )
    first = ceil(sqrt(_BEST * _CELLS * len(names) * high / wide))
    found: tuple[float, dict[str, Box]] | None = None
    shapes = {first + 1, first, max(first - 1, 1)} if len(names) < _FEW else {first}
    if drawn:
        shapes = {max(first, *(column for column, _ in drawn))}
    for across in shapes:
        boxes = _boxes(names, _cells(level, across), sizes, labels)
        worth = _worth(boxes)
        if found is None or worth < found[0]:
            found = worth, boxes
    assert found is not None
    return found[1]


def _beside_each_other(
    level: Joined,
    sizes: Mapping[str, tuple[float, float]],
    labels: Mapping[frozenset[str], tuple[float, float]],
) -> dict[str, Box]:
    """The boxes of a campaign's rooms: each level by itself, in rows of levels from left to right."""
    parts = []
    for rooms in level.rooms_of.values():
        part = level.copy_of_rooms(rooms)
        pairs = {pair: size for pair, size in labels.items() if pair <= part.rooms.keys()}
        parts.append(_in_a_grid(part, sizes, pairs))
    first_ends = accumulate(_extent(part)[0] + _LEVELS for part in parts)
    rows = (_in_rows(parts, limit) for limit in first_ends)
    return min(rows, key=_worth)


def _worth(boxes: Mapping[str, Box]) -> float:
    """How large a picture is. The smaller it is, the larger is its print in a window."""
    width, height = _extent(boxes)
    return max(width, (height + _FRAME) * _BEST)


def _in_rows(parts: Sequence[Mapping[str, Box]], limit: float) -> dict[str, Box]:
    """Some pictures side by side, in rows of about some width."""
    found: dict[str, Box] = {}
    left = top = row = 0.0
    for part in parts:
        width, height = _extent(part)
        if left and left + width > limit:
            left, top, row = 0.0, top - row - _LEVELS, 0.0
        row = max(row, height)
        west = min(box.x - box.width / 2 for box in part.values())
        north = max(box.y + box.height / 2 for box in part.values())
        for name, box in part.items():
            found[name] = Box(box.x - west + left, box.y - north + top, box.width, box.height)
        left += width + _LEVELS
    return found


#: The space between two levels of a campaign, in points.
_LEVELS = 70.0


def _large(sizes: Sequence[float]) -> float:
    """The size that three quarters of some sizes do not exceed."""
    return sorted(sizes)[len(sizes) * 3 // 4] if sizes else 0.0


#: With fewer rooms than this, three shapes of the grid are tried.
_FEW = 60


def _extent(boxes: Mapping[str, Box]) -> tuple[float, float]:
    """The width and height of a picture of some boxes."""
    ends = [(one.x - one.width / 2, one.x + one.width / 2) for one in boxes.values()]
    tops = [(one.y - one.height / 2, one.y + one.height / 2) for one in boxes.values()]
    return (
        max(end for _, end in ends) - min(end for end, _ in ends),
        max(top for _, top in tops) - min(top for top, _ in tops),
    )


def _stretched(boxes: dict[str, Box]) -> dict[str, Box]:
    """The boxes further apart in one direction, if the picture is too wide or too high."""
    width, height = _extent(boxes)
    if len(boxes) == 1:
        return boxes
    down = max(1.0, width / _WIDEST / height) if len({one.y for one in boxes.values()}) > 1 else 1.0
    along = max(1.0, (height + _FRAME) * _NARROWEST / width)
    return {
        name: Box(one.x * along, one.y * down, one.width, one.height) for name, one in boxes.items()
    }


def _boxes(
    names: Sequence[str],
    cells: Mapping[str, tuple[int, int]],
    sizes: Mapping[str, tuple[float, float]],
    labels: Mapping[frozenset[str], tuple[float, float]],
) -> dict[str, Box]:
    """The boxes of rooms in the cells of a grid; columns and rows are as large as what is in them and between."""
    across = _lines({name: cells[name][0] for name in names}, sizes, labels, 0, _ACROSS)
    down = _lines({name: cells[name][1] for name in names}, sizes, labels, 1, _DOWN)
    return {
        name: Box(across[cells[name][0]], -down[cells[name][1]], *sizes[name]) for name in names
    }


def _lines(
    number: Mapping[str, int],
    sizes: Mapping[str, tuple[float, float]],
    labels: Mapping[frozenset[str], tuple[float, float]],
    side: int,
    least: float,
) -> dict[int, float]:
    """The middle of each column, or row, that is used.

    Args:
        number: The column or row of each room.
        sizes: The sizes of the rooms.
        labels: The sizes of the labels between rooms.
        side: 0 for columns, 1 for rows.
        least: The least space between two.
    """
    used = sorted({*number.values()})
    middles: dict[int, float] = {}
    end = 0.0
    for at, line in enumerate(used):
        half = max(sizes[name][side] for name in number if number[name] == line) / 2
        gap = least
        for pair, size in labels.items() if at else ():
            if {number[name] for name in pair} == {used[at - 1], line}:
                gap = max(gap, size[side] + _BESIDE[side])
        end += half if at == 0 else gap + half
        middles[line] = end
        end += half
    return middles


def _cells(level: Level, across: int) -> dict[str, tuple[int, int]]:
    """The column and row of each room, in a grid with a given number of columns."""
    joined = neighbours(level)
    fixed = {name: room.drawn_at for name, room in level.rooms.items() if room.drawn_at is not None}
    down = max([ceil(_CELLS * len(joined) / across), *(row for _, row in fixed.values())])
    order = _by_distance(level, joined)
    names = list(order)
    far = max(order.values()) or 1
    grid = _Grid(names, joined, [order[name] / far for name in names], across, down)
    grid.fix({names.index(name): (x - 1, y - 1) for name, (x, y) in fixed.items()})
    grid.gather([[names.index(room) for room in rooms] for rooms in level.areas.values()])
    grid.settle()
    return {name: grid.cell(number) for number, name in enumerate(names)}


def _by_distance(level: Level, joined: Mapping[str, list[str]]) -> dict[str, int]:
    """The rooms with their distance from the start, the nearest first; then those that no passage leads to."""
    found: dict[str, int] = {}
    start = level.start or next(iter(joined))
    for first in [start, *joined]:
        if first in found:
            continue
        found[first] = 0 if first == start else max(found.values()) + 1
        ahead = [first]
        for room in ahead:
            for other in joined[room]:
                if other not in found:
                    found[other] = found[room] + 1
                    ahead.append(other)
    return found


class _Grid:
    """Rooms in the cells of a grid.

    Args:
        names: The rooms, those nearest to the start first.
        joined: The rooms that each is joined to.
        far: How far each is from the start, from 0 to 1.
        across, down: The number of columns and rows.
    """

    def __init__(
        self,
        names: Sequence[str],
        joined: Mapping[str, list[str]],
        far: Sequence[float],
        across: int,
        down: int,
    ) -> None:
        self.across, self.down = across, down
        number = {name: n for n, name in enumerate(names)}
        self._beside = [[number[other] for other in joined[name]] for name in names]
        pairs = [(a, b) for a, some in enumerate(self._beside) for b in some if a < b]
        self._a = np.array([a for a, _ in pairs], dtype=np.int64)
        self._b = np.array([b for _, b in pairs], dtype=np.int64)
        self._far = np.array(far) * (across - 1)
        # Row after row, there and back: a chain of rooms stays joined.
        snake = [
            (column if row % 2 == 0 else across - 1 - column, row)
            for row in range(down)
            for column in range(across)
        ]
        self._snake, self._fixed = snake, set[int]()
        self._at = np.array(snake[: len(names)], dtype=np.int64)
        self._in = {cell: n for n, cell in enumerate(snake[: len(names)])}
        self._areas = np.zeros((0, len(names)))

    def fix(self, cells: Mapping[int, tuple[int, int]]) -> None:
        """Put rooms into cells, where they stay; the others take the cells that are left."""
        self._fixed = set(cells)
        free = iter([cell for cell in self._snake if cell not in {*cells.values()}])
        self._in = {cells[n] if n in cells else next(free): n for n in range(len(self._at))}
        for cell, room in self._in.items():
            self._at[room] = cell

    def gather(self, areas: Sequence[Sequence[int]]) -> None:
        """Keep the rooms of each area together."""
        self._areas = np.zeros((len(areas), len(self._at)))
        for number, rooms in enumerate(areas):
            self._areas[number, list(rooms)] = 1.0
        self._areas = self._areas[self._areas.sum(axis=1) > 1]

    def cell(self, room: int) -> tuple[int, int]:
        """The column and row of a room."""
        column, row = self._at[room]
        return int(column), int(row)

    def settle(self) -> None:
        """Swap rooms until no swap makes the picture better."""
        if not len(self._a):
            return
        random = Random(1)
        rooms = [n for n, some in enumerate(self._beside) if some and n not in self._fixed]
        if not rooms:
            return
        tries = min(_TRIES, _TRIES_A_ROOM * len(rooms))
        cost = self._cost()
        best, kept = cost, self._at.copy()
        for number in range(tries):
            heat = 1.5 * (1 - number / tries) ** 2 + 1e-9
            room = random.choice(rooms)
            column, row = self.cell(random.choice(self._beside[room]))
            to = (
                min(max(column + random.randint(-1, 1), 0), self.across - 1),
                min(max(row + random.randint(-1, 1), 0), self.down - 1),
            )
            before = self.cell(room)
            if to == before or self._in.get(to) in self._fixed:
                continue
            self._move(room, to)
            new = self._cost()
            if new <= cost or random.random() < exp((cost - new) / heat):
                cost = new
                if cost < best - 1e-9:
                    best, kept = cost, self._at.copy()
            else:
                self._move(room, before)
        self._at = kept

    def _move(self, room: int, to: tuple[int, int]) -> None:
        """Put a room into a cell; the room that is there takes its place."""
        before, other = self.cell(room), self._in.get(to)
        self._in[to], self._at[room] = room, to
        if other is None:
            del self._in[before]
        else:
            self._in[before], self._at[other] = other, before

    def _cost(self) -> float:
        """Rate the places: long ways, ways through rooms, crossings and rooms far from their column are bad."""
        at, a, b = self._at, self._at[self._a], self._at[self._b]
        along = b - a
        apart = np.abs(along)
        cost = float((apart.sum(axis=1) - 1 + 0.3 * (apart.min(axis=1) > 0)).sum())
        # A room is in the way if it is on the line between two others, and between them.
        to = at[None] - a[:, None]
        off = along[:, None, 0] * to[..., 1] - along[:, None, 1] * to[..., 0]
        part = along[:, None, 0] * to[..., 0] + along[:, None, 1] * to[..., 1]
        whole = (along * along).sum(axis=1)[:, None]
        cost += _THROUGH * float(((off == 0) & (part > 0) & (part < whole)).sum())
        # Two ways cross if the ends of each are on both sides of the other.
        ends = off[:, self._a], off[:, self._b]
        sides = ends[0] * ends[1] < 0
        cost += _CROSSING * float((sides & sides.T).sum()) / 2
        if len(self._areas):
            size = self._areas.sum(axis=1)
            middle = self._areas @ at / size[:, None]
            off_middle = np.abs(at[None] - middle[:, None]).sum(axis=2)
            cost += _APART * float((off_middle * self._areas).sum())
        cost += _DRIFT * float(np.abs(at[:, 0] - self._far).sum()) + _START * float(at[0, 0])
        return cost
