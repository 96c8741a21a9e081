"""Where rooms go in a picture: in columns by their distance from the start.

A layered drawing after K. Sugiyama, S. Tagawa and M. Toda, "Methods for visual understanding of
hierarchical system structures", IEEE Transactions on Systems, Man, and Cybernetics 11 (1981): the
columns are breadth-first layers, so every passage joins neighbouring columns or stays in one, and
rooms in a column are ordered by the mean of their neighbours to keep crossings few.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..level import Level

#: With more rooms than this, a picture of boxes is unreadable and takes minutes.
MOST_ROOMS = 1_000

#: How often to sort the columns again by their neighbours.
_SWEEPS = 12


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


def columns(level: Level) -> list[list[str]]:
    """The rooms by their distance from the start; rooms no passage leads to come last.

    Args:
        level: The level.

    Returns:
        The columns, from the start on, each ordered from top to bottom.
    """
    joined = neighbours(level)
    column: dict[str, int] = {}
    start = level.start or next(iter(level.rooms))
    for first in [start, *level.rooms]:
        if first in column:
            continue
        column[first] = 0 if first == start else max(column.values()) + 1
        ahead = [first]
        for room in ahead:
            for other in joined[room]:
                if other not in column:
                    column[other] = column[room] + 1
                    ahead.append(other)
    rows: list[list[str]] = [[] for _ in range(max(column.values()) + 1)]
    for room, number in column.items():
        rows[number].append(room)
    return _ordered(rows, joined, column)


def _ordered(
    rows: list[list[str]], joined: dict[str, list[str]], column: dict[str, int]
) -> list[list[str]]:
    best, fewest = [row.copy() for row in rows], _crossings(rows, joined, column)
    for sweep in range(_SWEEPS):
        forward = sweep % 2 == 0
        numbers = range(1, len(rows)) if forward else range(len(rows) - 2, -1, -1)
        for number in numbers:
            place = _relative(rows[number - 1 if forward else number + 1])
            own = _relative(rows[number])

            def mean(
                room: str, place: dict[str, float] = place, own: dict[str, float] = own
            ) -> float:
                known = [place[other] for other in joined[room] if other in place]
                return sum(known) / len(known) if known else own[room]

            rows[number].sort(key=mean)
        crossings = _crossings(rows, joined, column)
        if crossings < fewest:
            best, fewest = [row.copy() for row in rows], crossings
    return best


def _relative(row: list[str]) -> dict[str, float]:
    return {room: (number + 0.5) / len(row) for number, room in enumerate(row)}


def _crossings(rows: list[list[str]], joined: dict[str, list[str]], column: dict[str, int]) -> int:
    count = 0
    for number, row in enumerate(rows[:-1]):
        below = {room: place for place, room in enumerate(rows[number + 1])}
        ends = [
            [below[other] for other in joined[room] if column[other] == number + 1] for room in row
        ]
        for first, upper in enumerate(ends):
            for lower in ends[first + 1 :]:
                count += sum(a > b for a in upper for b in lower)
    return count


def place_rooms(
    level: Level,
    sizes: Mapping[str, tuple[float, float]],
    label_widths: Mapping[frozenset[str], float],
) -> dict[str, Box]:
    """Give every room a box.

    Args:
        level: The level.
        sizes: The width and height each room needs, in points.
        label_widths: For pairs of rooms, the width of the labels between them.

    Returns:
        The boxes, by room; none overlap.
    """
    rows = columns(level)
    joined = neighbours(level)
    widths = [max(sizes[room][0] for room in row) for row in rows]
    x, lefts = 0.0, []
    for number, width in enumerate(widths):
        lefts.append(x + width / 2)
        x += width
        if number + 1 < len(rows):
            x += _gap(rows[number], rows[number + 1], label_widths)
    heights: dict[str, float] = {}
    for row in rows:
        total = sum(sizes[room][1] + _spacing(row, room, label_widths) for room in row)
        y = total / 2
        for room in row:
            step = sizes[room][1] + _spacing(row, room, label_widths)
            heights[room] = y - step / 2
            y -= step
    _align(rows, joined, heights, sizes, label_widths)
    return {
        room: Box(lefts[number], heights[room], *sizes[room])
        for number, row in enumerate(rows)
        for room in row
    }


def _gap(left: list[str], right: list[str], label_widths: Mapping[frozenset[str], float]) -> float:
    labels = [
        width for pair, width in label_widths.items() if pair & set(left) and pair & set(right)
    ]
    return max([60.0, *(width + 90 for width in labels)])


def _spacing(row: list[str], room: str, label_widths: Mapping[frozenset[str], float]) -> float:
    """Room to leave between boxes of one column: more where passages run inside the column."""
    inside = any(room in pair and pair <= set(row) for pair in label_widths)
    return 84.0 if inside else 44.0


def _align(
    rows: list[list[str]],
    joined: dict[str, list[str]],
    heights: dict[str, float],
    sizes: Mapping[str, tuple[float, float]],
    label_widths: Mapping[frozenset[str], float],
) -> None:
    """Move rooms towards the mean height of their neighbours, keeping order and spacing."""
    for _ in range(6):
        for row in rows:
            wanted = {
                room: sum(heights[other] for other in joined[room]) / len(joined[room])
                if joined[room]
                else heights[room]
                for room in row
            }
            ceiling = float("inf")
            for room in row:
                half = sizes[room][1] / 2
                heights[room] = min(wanted[room], ceiling - half)
                ceiling = heights[room] - half - _spacing(row, room, label_widths)
            shift = sum(wanted[room] - heights[room] for room in row) / len(row)
            for room in row:
                heights[room] += shift
