"""Whether nothing is ever lost: all that can be done is free, and each walk can be walked back.

A region holds the rooms that lie open once all that is free was done. Whoever walks before that may
come into one of them from which there is no way back yet: then something can be lost after all. And
where the way back leads by other rooms, a run has to enter those, too.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterator

from ...rules import END, FINISHED, PLACE, Move, Position
from ...rules.expressions import AtLeast, Expression, Is, conjuncts
from .regions import Region, Regions

#: What a walk asks for, all of it.
Asked = frozenset[Hashable]


def nothing_is_lost(regions: Regions, position: Position) -> bool:
    """Whether it is plain that whatever is done from a position, nothing is lost by it.

    That is so where one region is all there is ahead, apart from finished positions, no move that is
    not free was passed over on the way, and nobody walks into a room too early.

    Args:
        regions: What finds regions.
        position: The position.
    """
    region = regions.region(position)
    if region.over or not regions.safety.able:
        return False
    ends = all(after[END] == FINISHED for _, _, after in regions.ways_on(region))
    return ends and not regions.passed_over(region) and _always_returns(regions, region, position)


def _always_returns(regions: Regions, region: Region, start: Position) -> bool:
    """Whether each walk only gives, and can be walked back at once whenever it can be made.

    It can where the way back asks for nothing but what the walk asks for, or whoever is there had to
    do before, or what holds from the start: nothing is lost within a region, so that it holds
    throughout.
    """
    walks = list(_walks(regions, region))
    known = _known_inside(walks, start[PLACE])
    first, last = list(start), list(region.position)
    for move, here, there in walks:
        last[PLACE], first[PLACE] = here, there
        if move.guard.holds(last):
            asked = _asked(move) | known.get(here, frozenset())
            backs = regions.ways_back(there, here)
            if not any(_can_be_made(regions, back, first, asked) for back in backs):
                return False
            if move.number not in regions.safety.giving:
                return False
    return True


def _walks(regions: Regions, region: Region) -> Iterator[tuple[Move, int, int]]:
    """The walks into rooms of a region from other rooms of it, with both."""
    inside = set(region.rooms)
    for here in region.rooms:
        for move in regions.rules.moves_at(here):
            there = regions.leads(move)
            if there is not None and there != here and there in inside:
                yield move, here, there


def _known_inside(walks: list[tuple[Move, int, int]], start: int) -> dict[int, Asked]:
    """For each room but the first, what every walk into it asks for."""
    known: dict[int, Asked] = {start: frozenset()}
    for move, _, there in walks:
        asked = _asked(move)
        known[there] = known.get(there, asked) & asked
    return known


def _can_be_made(regions: Regions, walk: Move, values: list[int], known: Asked) -> bool:
    """Whether a walk that only gives asks for nothing but what holds or is known."""
    return walk.number in regions.safety.giving and all(
        part.holds(values) or _named(part) in known for part in conjuncts(walk.guard)
    )


def _asked(move: Move) -> Asked:
    return frozenset(map(_named, conjuncts(move.guard)))


def _named(part: Expression) -> Hashable:
    """The same for expressions that are plainly the same."""
    match part:
        case Is(variable, value):
            return "is", variable, value
        case AtLeast(variable, least):
            return "at least", variable, least
    return id(part)
