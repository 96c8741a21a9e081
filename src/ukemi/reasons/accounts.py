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
    """Return, in words, where each unit of an item is at the end of a route, or how it was used up.

    Args:
        route: How the position was reached.
        within: The rooms that can still be reached from there.

    Returns:
        A clause such as ``the only iron-key was spent on store-door`` or ``of 2 iron-key in the level,
        1 was spent on meal-chest and 1 is left behind in race``.
    """
    visited = {room for position in route.positions for room in rules.rooms_of(position)}
    parts = _where(level, rules, item, route.positions[-1], within, visited)
    used = [(count, "was", how) for how, count in used_up(rules, item, route).items()]
    found = used + [(count, "is", how) for how, count in parts]
    total = sum(count for count, _, _ in found)
    if total == 1:
        ((_, verb, how),) = found
        return f"the only {item} {verb} {how}"
    if not found:
        return f"there is no {item} in the level"
    plural = {"was": "were", "is": "are"}
    clauses = [f"{n} {verb if n == 1 else plural[verb]} {how}" for n, verb, how in found]
    return f"of {total} {item} in the level, {in_list(clauses)}"


def used_up(rules: Rules, item: str, route: Route) -> dict[str, int]:
    """Count the units of an item that a route used up, by what took them."""
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
) -> list[tuple[str, int]]:
    """The units that are left, by where they are."""
    parts: list[tuple[str, int]] = []

    def add(count: int, words: str) -> None:
        if count:
            parts.append((words, count))

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
                add(count, f"still to come from {one.name}")
            case "event" if not last[rules.index["done", one.name]]:
                add(count, f"to come from {one.name}")
    return parts
