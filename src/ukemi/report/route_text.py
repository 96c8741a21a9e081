"""Routes in words, as a player would tell them."""

from __future__ import annotations

from collections.abc import Iterator

from ..level import Level, Passage
from ..rules import PLACE, Position
from ..rules.words import move_words
from ..search import Route

#: A route with more moves than this is folded.
LONGEST_ROUTE = 12


def route_words(route: Route, level: Level, full: bool = False) -> str:
    """The moves of a route in words.

    Walks that follow each other on a tile map are told as one. A route with many moves is folded in
    the middle.

    Args:
        route: The route.
        level: The level.
        full: Whether every move is told, and every cell that is walked over.

    Returns:
        The words.
    """
    words = list(_full(route, level) if full else _merged(route, level))
    if len(words) > LONGEST_ROUTE and not full:
        kept = LONGEST_ROUTE // 2
        fold = f"... {len(words) - 2 * kept} more moves (--full) ..."
        words = [*words[:kept], fold, *words[-kept:]]
    return ", ".join(words)


def _merged(route: Route, level: Level) -> Iterator[str]:
    on_map = {one.name: one for one in level.passages if one.on_map}
    steps = 0
    for number, move in enumerate(route.moves):
        if move.what["do"] != "walk":
            yield move_words(move.what)
            continue
        steps += move.cost
        following = route.moves[number + 1] if number + 1 < len(route.moves) else None
        goes_on = following is not None and following.what.get("name") in on_map
        if (
            move.what["name"] in on_map
            and goes_on
            and _only_moved(route.positions[number], route.positions[number + 1])
        ):
            continue
        yield _walk(move.what, on_map, steps)
        steps = 0


def _walk(what: dict[str, object], on_map: dict[str, Passage], steps: int) -> str:
    passage = on_map.get(str(what["name"]))
    words = move_words(what)
    if passage is not None and passage.part_of not in (None, passage.b):
        words += f" over {passage.part_of}"
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
