"""Draw a frame around the rooms of each area; if other rooms lie among them, around the grid cells of its
rooms.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from itertools import pairwise

from matplotlib.axes import Axes
from matplotlib.patches import Rectangle

from ..values import dataclass
from .box_positions import Box
from .style import SMALL, plain, text_width, theme

#: How far a frame is from the rooms in it, and the least distance between two frames, in points.
_MARGIN, _BETWEEN = 12.0, 8.0


@dataclass(frozen=True)
class Frames:
    """The frames of areas.

    Attributes:
        parts: For each area, its rectangles: one for each room, and one between rooms in neighbouring cells.
        names: Where the name of each part stands that is apart from the others: the area, left and top.
    """

    parts: dict[str, list[Box]]
    names: list[tuple[str, float, float]]

    def boxes(self) -> Iterator[Box]:
        """All rectangles, with the space for their names."""
        for some in self.parts.values():
            yield from some
        for name, left, top in self.names:
            width = text_width(name, SMALL) + 20
            yield Box(left + width / 2, top, width, SMALL * 1.6)


def frames_of(areas: Mapping[str, tuple[str, ...]], boxes: Mapping[str, Box]) -> Frames:
    """Return the frames of areas.

    Args:
        areas: The rooms of each area.
        boxes: The box of each room; those of a column, and those of a row, have one middle.
    """
    parts: dict[str, list[Box]] = {}
    names: list[tuple[str, float, float]] = []
    around = {area: _around([boxes[room] for room in rooms]) for area, rooms in areas.items()}
    for area, one in around.items():
        rest = [box for room, box in boxes.items() if room not in areas[area]]
        others = [box for other, box in around.items() if other != area]
        if not any(one.overlaps(box) for box in [*rest, *others]):
            parts[area] = [one]
            names.append((area, one.x - one.width / 2, one.y + one.height / 2))
    if len(parts) == len(areas):
        return Frames(parts, names)
    across = _spans({name: (box.x, box.width) for name, box in boxes.items()})
    down = _spans({name: (box.y, box.height) for name, box in boxes.items()})
    columns, rows = list(across), list(down)
    for area, rooms in areas.items():
        if area in parts:
            continue
        cells = {(columns.index(boxes[room].x), rows.index(boxes[room].y)) for room in rooms}
        found = [_rectangle(across[columns[x]], down[rows[y]]) for x, y in sorted(cells)]
        for x, y in sorted(cells):
            right, above, corner = (x + 1, y) in cells, (x, y + 1) in cells, (x + 1, y + 1) in cells
            wide = across[columns[x]][0], across[columns[x + 1]][1] if right else 0.0
            high = down[rows[y]][0], down[rows[y + 1]][1] if above else 0.0
            if right:
                found.append(_rectangle(wide, down[rows[y]]))
            if above:
                found.append(_rectangle(across[columns[x]], high))
            if right and above and corner:
                found.append(_rectangle(wide, high))
        parts[area] = found
        for column, row in _first_cells(cells):
            names.append((area, across[columns[column]][0], down[rows[row]][1]))
    return Frames(parts, names)


def _around(boxes: list[Box]) -> Box:
    """The rectangle around some boxes."""
    wide = [end for box in boxes for end in (box.x - box.width / 2, box.x + box.width / 2)]
    high = [end for box in boxes for end in (box.y - box.height / 2, box.y + box.height / 2)]
    return _rectangle(
        (min(wide) - _MARGIN, max(wide) + _MARGIN), (min(high) - _MARGIN, max(high) + _MARGIN)
    )


def _spans(sizes: Mapping[str, tuple[float, float]]) -> dict[float, tuple[float, float]]:
    """For the middle of each column, or row, where a frame around it begins and ends; in order."""
    half: dict[float, float] = {}
    for middle, size in sizes.values():
        half[middle] = max(half.get(middle, 0.0), size / 2)
    spans = {one: (one - half[one] - _MARGIN, one + half[one] + _MARGIN) for one in sorted(half)}
    for one, other in pairwise(list(spans)):
        (begin, end), (start, stop) = spans[one], spans[other]
        over = max(0.0, end + _BETWEEN - start) / 2
        spans[one], spans[other] = (begin, end - over), (start + over, stop)
    return spans


def _rectangle(wide: tuple[float, float], high: tuple[float, float]) -> Box:
    (left, right), (low, top) = wide, high
    return Box((left + right) / 2, (low + top) / 2, right - left, top - low)


def _first_cells(cells: set[tuple[int, int]]) -> list[tuple[int, int]]:
    """The top left cell of each connected part of some cells."""
    left, found = set(cells), []
    while left:
        part = [left.pop()]
        for x, y in part:
            beside = {(x + 1, y), (x - 1, y), (x, y + 1), (x, y - 1)} & left
            left -= beside
            part += beside
        found.append(min(part, key=lambda cell: (-cell[1], cell[0])))
    return sorted(found)


def draw_areas(axes: Axes, frames: Frames) -> None:
    """Draw the frames of areas, with their names on them."""
    for some in frames.parts.values():
        # The line around each rectangle first, then their fills: what is left of the lines is the outline.
        for line, order in ((1.6, 0.4), (0.0, 0.5)):
            for box in some:
                corner = (box.x - box.width / 2, box.y - box.height / 2)
                axes.add_patch(
                    Rectangle(
                        corner, box.width, box.height, facecolor=theme().area, zorder=order,
                        edgecolor=theme().faint if line else "none", linewidth=line,
                    )
                )  # fmt: skip
    for name, left, top in frames.names:
        axes.text(
            left + 10, top, plain(name), size=SMALL, style="italic", color=theme().ink, va="center",
            bbox={"facecolor": theme().paper, "edgecolor": "none", "pad": 1.5}, zorder=4.5,
        )  # fmt: skip
