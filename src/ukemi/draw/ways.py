"""Passages as lines between the boxes of their rooms, with their labels where there is space."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import count
from math import hypot

from ..level import Level, Passage
from ..values import dataclass
from .box_positions import Box

Point = tuple[float, float]

#: How far from the left end of a label the middle of its mark is, in points.
MARK_MIDDLE = 14.0

#: How far apart passages between the same two rooms run, in points.
_APART = 34.0


@dataclass(frozen=True, slots=True)
class Way:
    """The line of a passage, as the three points of a quadratic curve from ``a`` to ``b``."""

    passage: Passage
    begin: Point
    bend: Point
    end: Point

    def at(self, t: float) -> Point:
        """The point a share ``t`` of the way along."""
        u = 1 - t
        return (
            u * u * self.begin[0] + 2 * u * t * self.bend[0] + t * t * self.end[0],
            u * u * self.begin[1] + 2 * u * t * self.bend[1] + t * t * self.end[1],
        )


def ways(level: Level, boxes: dict[str, Box]) -> list[Way]:
    """The line of every passage."""
    between: dict[frozenset[str], list[Passage]] = {}
    for passage in level.passages:
        between.setdefault(frozenset((passage.a, passage.b)), []).append(passage)
    found = []
    for passages in between.values():
        for number, passage in enumerate(passages):
            shift = (number - (len(passages) - 1) / 2) * _APART
            found.append(_way(passage, boxes, shift))
    return found


def _way(passage: Passage, boxes: dict[str, Box], shift: float) -> Way:
    a, b = boxes[passage.a], boxes[passage.b]
    if passage.a == passage.b:
        top = a.y + a.height / 2
        begin, end = (a.x - 20 + shift, top), (a.x + 20 + shift, top)
        return Way(passage, begin, (a.x + shift, top + 70), end)
    dx, dy = b.x - a.x, b.y - a.y
    length = hypot(dx, dy)
    # A way there and a way back are two lines: "to one side" is the same side for both.
    side = 1 if passage.a < passage.b else -1
    across = -dy / length * side, dx / length * side
    others = [box for box in boxes.values() if box not in (a, b)]
    best: tuple[int, Way] | None = None
    for aside in _ASIDE:
        # A quadratic curve goes half as far out as its bend.
        out = shift + 2 * aside
        bend = ((a.x + b.x) / 2 + across[0] * out, (a.y + b.y) / 2 + across[1] * out)
        begin, end = _edge(a, bend), _edge(b, bend)
        if out == 0:  # a straight line, whose middle is that of what is seen of it
            bend = (begin[0] + end[0]) / 2, (begin[1] + end[1]) / 2
        way = Way(passage, begin, bend, end)
        hit = sum(_hits(way, box) for box in others)
        if best is None or hit < best[0]:
            best = hit, way
        if not hit:
            break
    assert best is not None
    return best[1]


#: How far a line swings out to pass the boxes that lie between, in points, the least first.
_ASIDE = (0.0, 40.0, -40.0, 75.0, -75.0, 110.0, -110.0, 160.0, -160.0)


def _hits(way: Way, box: Box) -> bool:
    """Whether a line goes through a box, or close by."""
    points = (way.at(part / 24) for part in range(25))
    wide, high = box.width / 2 + 5, box.height / 2 + 5
    return any(abs(x - box.x) < wide and abs(y - box.y) < high for x, y in points)


def _edge(box: Box, towards: Point) -> Point:
    """Where the line from a box's middle towards a point leaves the box."""
    dx, dy = towards[0] - box.x, towards[1] - box.y
    if dx == dy == 0:
        return box.x, box.y
    scale = min(
        (box.width / 2 + 3) / abs(dx) if dx else float("inf"),
        (box.height / 2 + 3) / abs(dy) if dy else float("inf"),
    )
    return box.x + dx * scale, box.y + dy * scale


def place_label(
    way: Way, size: tuple[float, float], taken: Iterable[Box], mark: bool = False
) -> Box:
    """A box for a passage's label: as near to its line as it is clear of rooms and other labels.

    Args:
        way: The passage's line.
        size: The label's width and height.
        taken: The lines and boxes to avoid.
        mark: Whether it begins with a mark that stands on the line, where the line is steep.
    """
    others = list(taken)
    aside = 0.0
    if mark and abs(way.end[1] - way.begin[1]) > abs(way.end[0] - way.begin[0]) / 2:
        aside = size[0] / 2 - MARK_MIDDLE
    near = [(t, lift) for t in _ALONG for lift in (0, 1, -1, 2, -2, 3, -3, 4, -4, 6, -6, 8, -8)]
    # Where much is crowded together, further off is still better than upon something.
    far = ((t, lift * side) for lift in count(9) for t in _ALONG for side in (1, -1))
    best: tuple[float, Box] | None = None
    for t, lift in near:
        box = _at(way, t, lift, size, aside)
        worth = abs(lift) * 10 + abs(t - 0.5)
        if (best is None or worth < best[0]) and not any(_shared(box, one) for one in others):
            best = (worth, box)
    if best is not None:
        return best[1]
    boxes = (_at(way, t, lift, size, aside) for t, lift in far)
    return next(box for box in boxes if not any(_shared(box, other) for other in others))


#: Shares of the way along a passage at which its label may stand, the best first.
_ALONG = (0.5, 0.42, 0.58, 0.34, 0.66, 0.27, 0.73, 0.2, 0.8)


def _at(way: Way, t: float, lift: float, size: tuple[float, float], aside: float) -> Box:
    x, y = way.at(t)
    return Box(x + aside, y + lift * size[1] * 0.55, *size)


def _shared(a: Box, b: Box) -> float:
    """The area two boxes share."""
    width = (a.width + b.width) / 2 - abs(a.x - b.x)
    height = (a.height + b.height) / 2 - abs(a.y - b.y)
    return max(width, 0.0) * max(height, 0.0)
