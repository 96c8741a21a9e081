"""Draw an order from left to right: things in columns, and lines that avoid them.

K. Sugiyama, S. Tagawa and M. Toda, "Methods for visual understanding of hierarchical system
structures", IEEE Transactions on Systems, Man and Cybernetics 11 (1981).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import pairwise

from ..values import dataclass
from .box_positions import Box

#: Between columns; the height of a row with a thing in it, and of one that a line passes through.
_GAP, _ROW, _PASSING = 46.0, 46.0, 22.0

#: How often to sort the columns by what they are joined to.
_SWEEPS = 8

#: A place in a column: a thing, or where a line passes on its way (its ends, and the column).
Slot = str | tuple[str, str, int]


@dataclass(frozen=True)
class ColumnLayout:
    """Where things are drawn.

    Attributes:
        boxes: The things.
        lines: For each pair, the points its line goes through.
        low, high: The lower and upper end of the column.
    """

    boxes: dict[str, Box]
    lines: list[list[tuple[float, float]]]
    low: float
    high: float


def place_in_layers(
    sizes: Mapping[str, tuple[float, float]], pairs: Sequence[tuple[str, str]]
) -> ColumnLayout:
    """Place things in columns so that each is right of all that come before it.

    Args:
        sizes: The width and height of each thing.
        pairs: The pairs (before, after); without cycles.

    Returns:
        Where they are, from 0 at the left, and around 0 in height.

    Example:
        >>> drawn = place_in_layers({"a": (20, 10), "b": (20, 10), "c": (20, 10)}, [("a", "b")])
        >>> drawn.boxes["a"].x < drawn.boxes["b"].x
        True
    """
    column = _columns(list(sizes), pairs)
    count = max(column.values(), default=0) + 1
    slots: list[list[Slot]] = [[] for _ in range(count)]
    for name in sizes:
        slots[column[name]].append(name)
    beside: dict[Slot, list[Slot]] = {}
    chains: list[list[Slot]] = []
    for a, b in pairs:
        chain: list[Slot] = [a, *((a, b, n) for n in range(column[a] + 1, column[b])), b]
        for number, slot in enumerate(chain[1:-1], column[a] + 1):
            slots[number].append(slot)
        for one, other in pairwise(chain):
            beside.setdefault(one, []).append(other)
            beside.setdefault(other, []).append(one)
        chains.append(chain)
    heights = _sorted(slots, beside)
    tall = max((_height(some) for some in slots), default=_ROW)
    boxes: dict[str, Box] = {}
    left: list[tuple[float, float]] = []
    x = 0.0
    for some in slots:
        wide = max((sizes[one][0] for one in some if isinstance(one, str)), default=20.0)
        left.append((x, x + wide))
        for slot in some:
            if isinstance(slot, str):
                boxes[slot] = Box(x + wide / 2, heights[slot], *(wide, sizes[slot][1]))
        x += wide + _GAP
    lines = []
    for chain in chains:
        first, last = boxes[str(chain[0])], boxes[str(chain[-1])]
        points = [(first.x + first.width / 2, first.y)]
        for slot in chain[1:-1]:
            assert isinstance(slot, tuple)
            points += [(end, heights[slot]) for end in left[slot[2]]]
        lines.append([*points, (last.x - last.width / 2, last.y)])
    return ColumnLayout(boxes, lines, -tall / 2, tall / 2)


def _columns(names: Sequence[str], pairs: Sequence[tuple[str, str]]) -> dict[str, int]:
    """The column of each thing: as far right as what comes after it allows."""
    after: dict[str, list[str]] = {name: [] for name in names}
    waiting = dict.fromkeys(names, 0)
    for a, b in pairs:
        after[a].append(b)
        waiting[b] += 1
    ready = [name for name in names if not waiting[name]]
    for name in ready:
        for later in after[name]:
            waiting[later] -= 1
            if not waiting[later]:
                ready.append(later)
    back: dict[str, int] = {}
    for name in reversed(ready):
        back[name] = 1 + max((back[later] for later in after[name]), default=-1)
    furthest = max(back.values(), default=0)
    return {name: furthest - number for name, number in back.items()}


def _height(slots: Sequence[Slot]) -> float:
    return sum(_ROW if isinstance(slot, str) else _PASSING for slot in slots)


def _heights(slots: Sequence[Slot]) -> dict[Slot, float]:
    """The height of the middle of each slot of a column."""
    y, found = _height(slots) / 2, {}
    for slot in slots:
        own = _ROW if isinstance(slot, str) else _PASSING
        found[slot] = y - own / 2
        y -= own
    return found


def _sorted(slots: list[list[Slot]], beside: Mapping[Slot, list[Slot]]) -> dict[Slot, float]:
    """Sort the slots of each column repeatedly by the middle of their neighbours."""
    heights: dict[Slot, float] = {}
    for some in slots:
        heights |= _heights(some)
    for sweep in range(_SWEEPS):
        for some in slots if sweep % 2 else reversed(slots):
            middles = {
                slot: sum(heights[one] for one in beside[slot]) / len(beside[slot])
                for slot in some
                if beside.get(slot)
            }
            some.sort(key=lambda slot: -middles.get(slot, heights[slot]))
            heights |= _heights(some)
    return heights
