"""Put routes into words, as a player would."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, NamedTuple

from ..level import Level, Passage
from ..rules import PLACE, Position
from ..rules.words import move_words
from ..spaces import Route

#: A route with more moves than this is folded.
LONGEST_ROUTE = 12


class Stop(NamedTuple):
    """One move in a player's words, or several walks as one.

    Attributes:
        first, last: The numbers of its first and last move, counted from 0.
    """

    words: str
    first: int
    last: int


def route_words(route: Route, level: Level, full: bool = False) -> str:
    """The moves of a route in words.

    Walks that follow each other on a tile map are joined, and a route with many moves is shortened
    in the middle. In full, the text lists every move and every cell on the way.
    """
    words = list(_full(route, level)) if full else [stop.words for stop in stops(route, level)]
    if len(words) > LONGEST_ROUTE + 1 and not full:  # "1 more" would be no shorter
        kept = LONGEST_ROUTE // 2
        fold = f"... {len(words) - 2 * kept} more moves (--full) ..."
        words = [*words[:kept], fold, *words[-kept:]]
    return ", ".join(words)


def stops(route: Route, level: Level) -> list[Stop]:
    """The moves of a route; a move made again and again is one, as is a walk across a map."""
    on_map = {one.name: one for one in level.passages if one.on_map}
    doubled = _doubled(level)
    found: list[Stop] = []
    steps, first = 0, 0
    for number, move in enumerate(route.moves):
        following = route.moves[number + 1].what if number + 1 < len(route.moves) else {}
        if move.what["do"] != "walk":
            if following != move.what:
                found.append(Stop(_times(move.what, number - first + 1), first, number))
                first = number + 1
            continue
        steps += move.cost
        if (
            move.what["name"] in on_map
            and following.get("name") in on_map
            and following.get("by") == move.what.get("by")
            and _only_moved(route.positions[number], route.positions[number + 1])
        ):
            continue
        found.append(Stop(_walk(move.what, on_map, doubled, steps), first, number))
        steps, first = 0, number + 1
    return found


def _doubled(level: Level) -> set[str]:
    """The passages beside which another one leads from the same room to the same room."""
    ways: dict[tuple[str, str], set[str]] = {}
    for one in level.passages:
        if not one.on_map:
            for walk in one.walks():
                ways.setdefault(walk, set()).add(one.name)
    return {name for names in ways.values() if len(names) > 1 for name in names}


def _times(what: Mapping[str, Any], times: int) -> str:
    """Return the words for a move made several times in a row."""
    if times > 1 and what["do"] in ("take", "drop"):
        return move_words({**what, "item": f"{times} {what['item']}"})
    return f"{move_words(what)}, {times} times" if times > 1 else move_words(what)


def _walk(
    what: Mapping[str, Any], on_map: Mapping[str, Passage], doubled: set[str], steps: int
) -> str:
    name = str(what["name"])
    passage = on_map.get(name)
    words = move_words(what)
    if name in doubled and "->" in name:
        words += f" by {name}"
    if passage is not None and passage.part_of not in (None, passage.b):
        words += f" {'over' if passage.lock is None else 'by'} {passage.part_of}"
    return f"{words} ({steps} steps)" if steps > 1 else words


def _only_moved(before: Position, after: Position) -> bool:
    return all(
        a == b for place, (a, b) in enumerate(zip(before, after, strict=True)) if place != PLACE
    )


def _full(route: Route, level: Level) -> Iterator[str]:
    if not level.maps:
        yield from (move_words(what) for what in route.whats)
        return
    from ..level.maps.paths import Paths

    paths = Paths(level)
    rooms = list(level.rooms)
    for number, move in enumerate(route.moves):
        words = move_words(move.what)
        if move.what["do"] == "walk":
            here, there = (rooms[route.positions[number + n][PLACE]] for n in (0, 1))
            between = paths.cells(here, there)[1:-1]
            if between:
                words += " over " + " ".join(f"{cell.column},{cell.row}" for cell in between)
        yield words
