"""Runs to regions: move by move, walks included."""

from __future__ import annotations

from collections.abc import Iterable
from heapq import heappop, heappush

from ...rules import PLACE, Move, Position
from ...rules.steps import run
from .lean import Leg, needed
from .macro import Explored
from .regions import Regions


def run_to(
    regions: Regions,
    found: Explored,
    number: int,
    start: Position,
    wanted: Iterable[int] | None = None,
    last: tuple[Move, int] | None = None,
) -> list[Move]:
    """The moves of a run to a region.

    Args:
        regions: What found the regions.
        found: The regions.
        number: The region to come to.
        start: Where the search began.
        wanted: The variables to have changed; then what is of no use to those, nor to the choices
            on the way, is left out where that can be told. ``None`` to do everything.
        last: A move to make in the end, and the room to make it in.

    Returns:
        The moves, as the rules allow them from the start.
    """
    legs = [Leg(found.regions[number], last)]
    came = found.came[number]
    while came is not None:
        earlier, move, room = came
        legs.append(Leg(found.regions[earlier], (move, room)))
        came = found.came[earlier]
    legs.reverse()
    moves = None
    if wanted is not None:
        moves = _played(regions, start, needed(regions.rules, start, legs, wanted))
    if moves is None:
        moves = _played(regions, start, [leg.all(regions) for leg in legs])
    assert moves is not None  # or the regions would not have been come to
    return moves


def _played(
    regions: Regions, start: Position, legs: Iterable[Iterable[tuple[Move, int]]]
) -> list[Move] | None:
    """Moves made in their rooms, with the walks to those; ``None`` where they cannot be."""
    moves: list[Move] = []
    values = list(start)
    for made in legs:
        for move, where in made:
            way = _way(regions, values, where)
            if way is None:
                return None
            for one in (*way, move):
                if not one.guard.holds(values) or not run(one.steps, values):
                    return None
                run(regions.rules.settling, values)
                moves.append(one)
    return moves


def _way(regions: Regions, values: list[int], room: int) -> list[Move] | None:
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
    if room not in best:
        return None
    way: list[Move] = []
    while room != start:
        room, move = came[room]
        way.append(move)
    return way[::-1]
