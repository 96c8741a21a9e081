"""Where everything in a picture of rooms stands: boxes, ways, labels and the frames of areas."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import NamedTuple

from ..level import Level
from .areas import Frames, frames_of
from .box_positions import Box, place_rooms
from .labels import Written, is_mark, label_sizes, size_of
from .ways import Way, place_label, ways


class Layout(NamedTuple):
    """The parts of a picture, in points.

    Attributes:
        boxes: The box of each room.
        ways: The lines of the passages.
        labels: The box of each label, by the passage.
        frames: The frames of areas.
    """

    boxes: dict[str, Box]
    ways: list[Way]
    labels: dict[str, Box]
    frames: Frames

    def bounds(self, margin: float) -> tuple[float, float, float, float]:
        """The left, right, lower and upper end of all parts, with a margin around them."""
        bends = [Box(*way.at(0.5), 30, 30) for way in self.ways]
        every = [*self.boxes.values(), *self.labels.values(), *bends, *self.frames.boxes()]
        return (
            min(box.x - box.width / 2 for box in every) - margin,
            max(box.x + box.width / 2 for box in every) + margin,
            min(box.y - box.height / 2 for box in every) - margin,
            max(box.y + box.height / 2 for box in every) + margin,
        )


def laid_out(
    level: Level,
    written: Mapping[str, list[Written]],
    labels: Mapping[str, list[Written]],
    room_size: Callable[[list[Written]], tuple[float, float]],
    scale: float = 1.0,
) -> Layout:
    """Lay out the rooms and passages of a level.

    Args:
        written: The lines of each room's box.
        labels: The lines of each passage's label.
        room_size: The width and height of a box with some lines.
        scale: How much larger than usual the print of labels is.
    """
    sizes = {name: room_size(lines) for name, lines in written.items()}
    boxes = place_rooms(level, sizes, label_sizes(level, labels, scale))
    lines, placed = ways(level, boxes), dict[str, Box]()
    for way in lines:
        label = labels[way.passage.name]
        if label:
            taken = [*boxes.values(), *placed.values()]
            placed[way.passage.name] = place_label(
                way, size_of(label, scale), taken, is_mark(label)
            )
    return Layout(boxes, lines, placed, frames_of(level.areas, boxes))
