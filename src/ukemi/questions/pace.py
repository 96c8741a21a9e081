"""What happens along a run, move after move: what is new, how far the level is open, what there is to do."""

from __future__ import annotations

from collections.abc import Iterator

from ..level import Level
from ..rules import Position, Rules
from ..spaces import CutShortError, Limits, Route
from ..spaces.explore import bytes_of
from .answers import PacePoint
from .in_reach import MOST_WALKED, Around, by_walking, things_of, watching_of


def pace(level: Level, rules: Rules, route: Route, limits: Limits) -> tuple[PacePoint, ...]:
    """Return a point for each move of a run; nothing where the rooms in reach are too many to count."""
    try:
        return tuple(_points(level, rules, route, limits))
    except CutShortError:
        return ()


def _points(level: Level, rules: Rules, route: Route, limits: Limits) -> Iterator[PacePoint]:
    carried = rules.carriers(level.players, level.inventory.shared)
    opened = {n: one[1] for n, one in enumerate(rules.variables) if one[0] in ("opened", "done")}
    flags = {n: one[1] for n, one in enumerate(rules.variables) if one[0] == "flag"}
    again = walks_again(route)
    steps = 0
    for number, (move, (rooms, things)) in enumerate(
        zip(route.moves, _around(rules, route, limits), strict=True)
    ):
        before, after = route.positions[number], route.positions[number + 1]
        gets = {item: after[n] - before[n] for item, n in carried.items() if after[n] > before[n]}
        opens = [name for n, name in opened.items() if after[n] > before[n]]
        opens += [name for n, name in flags.items() if after[n] > before[n] and name not in opens]
        units = sum(before[n] for n in carried.values())
        yield PacePoint(steps, move.cost, tuple(opens), gets, rooms, things, again[number], units)
        steps += move.cost


def _around(rules: Rules, route: Route, limits: Limits) -> Iterator[tuple[int, int]]:
    """Before each move: how many rooms can be walked to, and how many different things be done there."""
    watching, same = watching_of(rules), things_of(rules)
    left = min(MOST_WALKED, limits.room_for(bytes_of(rules)))
    around: Around | None = None
    walked: tuple[int, int] | None = None
    for number, move in enumerate(route.moves):
        here, walks = route.positions[number], move.what["do"] == "walk"
        if around is None:
            around = Around(rules, watching, here, limits)
            left -= len(around.rooms)
        if around.plain:
            yield len(around.rooms), len({same[one] for one in around.things})
        else:
            if walked is None:
                seen, things = by_walking(rules, here, left, limits)
                left -= len(seen)
                rooms = {room for position in seen for room in rules.rooms_of(position)}
                walked = len(rooms), len({same[one] for one in things})
            yield walked
        around = around if (around.walk(move) if walks else around.make(move)) else None
        if not walks or not _walks_to(rules, route.positions[number + 1], here):
            walked = None  # else what is in reach stays the same


def _walks_to(rules: Rules, position: Position, other: Position) -> bool:
    """Whether one walk leads from a position to another."""
    ways = rules.successors(position)
    return any(after == other and move.what["do"] == "walk" for move, after in ways)


def longest_without(points: tuple[PacePoint, ...]) -> tuple[int, int] | None:
    """The longest stretch of a run in which nothing is taken, opened, done or turned on.

    Returns:
        Its steps, and the step at which it begins; ``None`` for a run without any step.
    """
    longest: tuple[int, int] | None = None
    begin = 0
    for point in points:
        # A walk that ends in something new belongs to the stretch before it.
        end = point.steps if point.is_new else point.steps + point.cost
        if end > begin and (longest is None or end - begin > longest[0]):
            longest = end - begin, begin
        if point.is_new:
            begin = point.steps + point.cost
    return longest


def walks_again(route: Route) -> list[bool]:
    """For each move of a run, whether it walks a passage that the player walked before, either way."""
    walked: set[tuple[str, str]] = set()
    found = []
    for move in route.moves:
        one = (move.what.get("by", ""), move.what.get("name", ""))
        walks = move.what["do"] == "walk"
        found.append(walks and one in walked)
        walked |= {one} if walks else set()
    return found
