"""Searching regions: everything that can come to pass, and what can still come to pass from where."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from ...rules import END, FINISHED, Move, Position
from ..limits import Limits
from .regions import Done, Region, Regions


@dataclass(eq=False)
class Explored:
    """The regions that were come to.

    Attributes:
        regions: The regions; the first is where the search began.
        came: For each but the first, the region it was come to from, with the move and its room.
        complete: Whether those are all.
    """

    regions: list[Region] = field(default_factory=list)
    came: list[tuple[int, Move, int] | None] = field(default_factory=list)
    complete: bool = False

    @property
    def finished(self) -> list[int]:
        """The numbers of the finished regions."""
        return [n for n, one in enumerate(self.regions) if one.position[END] == FINISHED]

    def done(self, number: int) -> list[Done]:
        """All that is done on the way to a region, but for walks about a region."""
        done = list(self.regions[number].done)
        while (came := self.came[number]) is not None:
            number, move, room = came
            done = [*self.regions[number].done, (move, room), *done]
        return done


def explore_regions(
    regions: Regions,
    start: Position,
    most: int,
    limits: Limits | None = None,
    enough: Callable[[Position], bool] | None = None,
) -> Explored:
    """Explore regions, depth first.

    Args:
        regions: Finds them.
        start: A position in the first.
        most: The most regions to come to.
        limits: Says when the time is over.
        enough: Tells the position of a region at which to stop.

    Returns:
        What was found.
    """
    found = Explored()
    numbers: dict[Position, int] = {}

    def reach(position: Position, came: tuple[int, Move, int] | None) -> int:
        region = regions.region(position)
        number = numbers.get(region.position)
        if number is None:
            number = numbers[region.position] = len(found.regions)
            found.regions.append(region)
            found.came.append(came)
            ahead.append(number)
        return number

    ahead: list[int] = []
    reach(start, None)
    while ahead:
        number = ahead.pop()
        if len(found.regions) > most or (limits is not None and limits.over):
            return found
        for move, room, after in regions.ways_on(found.regions[number]):
            reached = reach(after, (number, move, room))
            if enough is not None and enough(found.regions[reached].position):
                return found
    found.complete = True
    return found
