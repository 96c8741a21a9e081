"""A route step by step, as plain values that a page can show."""

from __future__ import annotations

from typing import Any

from ..checks import Report
from ..checks.route_words import stops
from ..level import Level
from ..rules import Position, Rules, compile_level
from ..rules.words import move_words
from ..search import Route


def named_routes(report: Report) -> list[tuple[str, Route, bool]]:
    """Every route of a report with a name for people, and whether it ends in a mistake."""
    names = {"finish": "Shortest finishing run", "all-rewards": "Shortest run with every reward"}
    found = [(names[name], route, False) for name, route in report.routes.items()]
    if "all-rewards" in report.routes and not report.answers.rewards:
        found = found[:1]
    number = 0
    for finding in report.findings:
        if finding.mistake is None or finding.route is None or finding.code != "can-get-stuck":
            continue
        number += 1
        found.append((f"Mistake {number}: {move_words(finding.mistake)}", finding.route, True))
    return found


def route_steps(level: Level, route: Route, rules: Rules | None = None) -> list[dict[str, Any]]:
    """The positions of a route, one for each step a player would tell.

    Args:
        level: The level.
        route: The route.
        rules: The level's rules, if they are at hand.

    Returns:
        For the start and after each step: the words of the step, the room, what is carried, what
        lies where, which doors and chests are open, which flags are on.
    """
    rules = rules or compile_level(level)
    first = next(iter(level.players), None)
    told = [_step("at the start", route.positions[0], first, level, rules)]
    for stop in stops(route, level):
        by = route.moves[stop.last].what.get("by", first)
        told.append(_step(stop.words, route.positions[stop.last + 1], by, level, rules))
    return told


def _step(
    words: str, position: Position, player: str | None, level: Level, rules: Rules
) -> dict[str, Any]:
    step: dict[str, Any] = {
        "words": words,
        "room": rules.places[position[rules.place_of(player)]],
        "carried": {},
        "lying": {},
        "open": [],
        "on": [],
    }
    carriers = rules.carriers(level.players, level.inventory.shared)
    step["carried"] = {name: position[n] for name, n in carriers.items() if position[n]}
    for variable, number in rules.index.items():
        value = position[number]
        match variable:
            case ("lying", room, item) if value:
                step["lying"][f"{room}/{item}"] = value
            case ("put-down", room, item) if value:
                step["lying"][f"{room}/{item} (put down)"] = value
            case ("opened", name) if value:
                step["open"].append(name)
            case ("flag", name) if value:
                step["on"].append(name)
    return step
