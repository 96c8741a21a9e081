"""Searching regions: everything that can come to pass, and what can still come to pass from where."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from heapq import heappop, heappush

from ...rules import END, FINISHED, PLACE, Move, Position
from ...rules.steps import run
from ..explore import marked_back
from ..limits import Limits
from .regions import Region, Regions


@dataclass(eq=False)
class Explored:
    """The regions that were come to.

    Attributes:
        regions: The regions; the first is where the search began.
        came: For each but the first, the region it was come to from, with the move and its room.
        before: For each, the regions that a move leads from to it.
        complete: Whether those are all.
    """

    regions: list[Region] = field(default_factory=list)
    came: list[tuple[int, Move, int] | None] = field(default_factory=list)
    before: list[list[int]] = field(default_factory=list)
    complete: bool = False

    @property
    def finished(self) -> list[int]:
        """The numbers of the finished regions."""
        return [n for n, one in enumerate(self.regions) if one.position[END] == FINISHED]

    def reaching(self, targets: list[int]) -> bytearray:
        """Mark the regions from which a target can be come to."""
        return marked_back(self.before, targets)


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
            found.before.append([])
            ahead.append(number)
        if came is not None:
            found.before[number].append(came[0])
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


def run_to(regions: Regions, found: Explored, number: int, start: Position) -> list[Move]:
    """The moves of a run to a region, walks included.

    Args:
        regions: What found the regions.
        found: The regions.
        number: The region to come to.
        start: Where the search began.

    Returns:
        The moves, as the rules allow them from the start.
    """
    legs: list[tuple[Region, Move | None, int]] = [(found.regions[number], None, 0)]
    came = found.came[number]
    while came is not None:
        earlier, move, room = came
        legs.append((found.regions[earlier], move, room))
        came = found.came[earlier]
    moves: list[Move] = []
    values = list(start)
    for region, out, room in reversed(legs):
        made = [one for one in region.done if not regions.is_plain_walk(one[0])]
        if out is not None:
            made.append((out, room))
        for move, where in made:
            for one in (*_way(regions, values, where), move):
                able = one.guard.holds(values) and run(one.steps, values)
                assert able  # or the region would not have had it
                run(regions.rules.settling, values)
                moves.append(one)
    return moves


def _way(regions: Regions, values: list[int], room: int) -> list[Move]:
    """The shortest way to a room of the same region, by Dijkstra's search."""
    start = values[PLACE]
    best = {start: 0}
    came: dict[int, tuple[int, Move]] = {}
    ahead = [(0, start)]
    while ahead:
        cost, here = heappop(ahead)
        if here == room:
            break
        if cost > best[here]:
            continue
        for move, there in regions.free_walks(values, here):
            if cost + move.cost < best.get(there, cost + move.cost + 1):
                best[there] = cost + move.cost
                came[there] = (here, move)
                heappush(ahead, (best[there], there))
    values[PLACE] = start
    way: list[Move] = []
    while room != start:
        room, move = came[room]
        way.append(move)
    return way[::-1]
