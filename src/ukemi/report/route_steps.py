"""A route step by step, as plain values that a page can show."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Any

from ..checks import Report
from ..checks.route_words import stops
from ..level import Level
from ..level.maps.paths import Paths
from ..questions.answers import PacePoint
from ..rules import Position, Rules, compile_level
from ..rules.words import move_words
from ..spaces import Route


def named_routes(report: Report) -> list[tuple[str, str, Route, bool]]:
    """Every route of a report with its name there and one for people, and whether it ends in a mistake."""
    names = {"finish": "Shortest finishing run", "all-rewards": "Shortest run with every reward"}
    found = [(name, names[name], route, False) for name, route in report.routes.items()]
    if "all-rewards" in report.routes and not report.answers.rewards:
        found = found[:1]
    for number, mistake in enumerate(report.mistakes, 1):
        said = f"Mistake {number}: {move_words(mistake.move)}"
        found.append(("stuck", said, mistake.route, True))
    return found


def route_steps(
    level: Level,
    route: Route,
    rules: Rules | None = None,
    pace: Sequence[PacePoint] = (),
) -> list[dict[str, Any]]:
    """List the positions of a route, one for each step that a player would name.

    Args:
        rules: The level's rules, if they are at hand.
        pace: The pace of the route, if it is known.

    Returns:
        For the start and after each step, it has the words of the step, the room of whoever made it, where the
        players are, the inventory, the items on the floor, the open doors and chests, the flags that are on, and the path walked. A path
        lists rooms by name, and cells of maps as map, column and row.
    """
    rules = rules or compile_level(level)
    first = next(iter(level.players), None)
    paths = Paths(level) if level.maps else None
    steps = [_step("at the start", route.positions[0], first, level, rules)]
    for stop in stops(route, level):
        by = route.moves[stop.last].what.get("by", first)
        step = _step(stop.words, route.positions[stop.last + 1], by, level, rules)
        place = rules.place_of(by)
        rooms = [
            rules.places[route.positions[number][place]]
            for number in range(stop.first, stop.last + 2)
        ]
        step["way"] = _way(rooms, level, paths)
        if pace:
            step["pace"] = _pace(pace[stop.first : stop.last + 1])
        steps.append(step)
    return steps


def _way(rooms: list[str], level: Level, paths: Paths | None) -> list[Any]:
    """The way through some rooms; on a map, each cell that is walked over."""
    found: list[Any] = []
    for here, there in pairwise(rooms):
        if here == there:
            continue
        cells = [level.rooms[one].cell for one in (here, there)]
        if paths is not None and all(cells) and cells[0].map == cells[1].map:  # type: ignore[union-attr]
            found += [[*cell] for cell in paths.cells(here, there)]
        else:
            found += [here, there]
    return [one for number, one in enumerate(found) if number == 0 or one != found[number - 1]]


def _step(
    words: str, position: Position, player: str | None, level: Level, rules: Rules
) -> dict[str, Any]:
    step: dict[str, Any] = {
        "words": words,
        "room": rules.places[position[rules.place_of(player)]],
        "standing": _standing(position, level, rules),
        "carried": {},
        "lying": {},
        "open": [],
        "on": [],
        "way": [],
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


def _pace(points: Sequence[PacePoint]) -> dict[str, Any]:
    """The pace of one step that a player would name: how far the level is open before it, and what is new."""
    first, last = points[0], points[-1]
    new = [name for point in points for name in (*point.opens, *point.gets)]
    return {
        "from": first.steps,
        "to": last.steps + last.cost,
        "rooms": first.rooms,
        "things": first.things,
        "again": all(point.again for point in points),
        "new": list(dict.fromkeys(new)),
    }


def _standing(position: Position, level: Level, rules: Rules) -> str:
    """Where the player is, or each of several."""
    if not level.several:
        return f"In {rules.places[position[rules.place_of(None)]]}"
    rooms = {name: rules.places[position[rules.place_of(name)]] for name in level.players}
    return ", ".join(f"{name} in {room}" for name, room in rooms.items())
