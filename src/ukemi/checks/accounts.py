"""Where every unit of an item went."""

from __future__ import annotations

from collections.abc import Set

from ..level import Level
from ..level.names import in_list
from ..level.sources import sources
from ..rules import Position, Rules
from ..rules.words import move_words, subject_of
from ..spaces import Route


def account(level: Level, rules: Rules, item: str, route: Route, within: Set[str]) -> str:
    """Say where each unit of an item is at the end of a route, or what became of it.

    Args:
        route: How the position was reached.
        within: The rooms that can still be reached from there.

    Returns:
        A phrase such as ``iron-key: 2 in the level, 1 spent on meal-chest, 1 left behind in
        race``.
    """
    visited = {room for position in route.positions for room in rules.rooms_of(position)}
    total, parts = _where(level, rules, item, route.positions[-1], within, visited)
    used = used_up(rules, item, route)
    if not total and not used and not parts:
        return f"{item}: none in the level"
    total += sum(used.values())
    parts = [f"{count} {how}" for how, count in used.items()] + parts
    return f"{item}: {total} in the level, {in_list(parts)}" if parts else f"{item}: {total} in all"


def used_up(rules: Rules, item: str, route: Route) -> dict[str, int]:
    """How many units of an item a route's moves did away with, by what took them."""
    carried = rules.carried(item)
    used: dict[str, int] = {}
    for number, move in enumerate(route.moves):
        gone = sum(
            route.positions[number][one] - route.positions[number + 1][one] for one in carried
        )
        if gone <= 0 or move.what["do"] == "drop":
            continue
        if item in move.what.get("with", {}) or move.what["do"] in ("act", "unlock", "open"):
            how = f"spent on {subject_of(move.what)}"
        else:
            how = f"lost on `{move_words(move.what)}`"
        used[how] = used.get(how, 0) + gone
    return used


def _where(
    level: Level, rules: Rules, item: str, last: Position, within: Set[str], visited: Set[str]
) -> tuple[int, list[str]]:
    parts: list[str] = []
    total = 0

    def add(count: int, words: str) -> None:
        nonlocal total
        if count:
            total += count
            parts.append(f"{count} {words}")

    add(sum(last[one] for one in rules.carried(item)), "carried")
    for room in level.rooms.values():
        here = f"lying in {room.name}"
        if room.name not in within:
            here = f"left behind in {room.name}"
            here = here if room.name in visited else f"out of reach in {room.name}"
        if item in room.items:
            add(last[rules.index["lying", room.name, item]], here)
        if ("put-down", room.name, item) in rules.index:
            add(last[rules.index["put-down", room.name, item]], here.replace("lying", "put down"))
    for one in sources(level):
        count = one.gives.get(item, 0)
        match one.kind:
            case "chest" if not last[rules.index["opened", one.name]]:
                add(count, f"in {one.name}, which is shut")
            case "act" if not one.again and not last[rules.index["done", one.name]]:
                add(count, f"to be had from {one.name}")
            case "event" if not last[rules.index["done", one.name]]:
                add(count, f"to come from {one.name}")
    return total, parts
