"""How long a run must be at least, where what it must do is known."""

from __future__ import annotations

from collections.abc import Collection

from ...rules import PLACE, Rules
from .ground import Ground


def takes_at_least(
    rules: Rules,
    ground: Ground,
    variables: Collection[int],
    rooms: Collection[int],
    ends: Collection[int],
) -> int:
    """The fewest steps of a run that changes some variables and enters some rooms.

    Each variable takes a move of its own, counted where no other variable can share it. Rooms in
    parts that hang on one passage take a walk there, and one back but where the run ends.

    Args:
        rules: The rules.
        ground: Its rooms.
        variables: The variables that the run changes, by moves that are no walks.
        rooms: The rooms that it enters.
        ends: The rooms it can end in; none for any.
    """
    least = 0
    counted: set[int] = set()
    makers: dict[int, list[int]] = {variable: [] for variable in variables}
    for number, move in enumerate(rules.moves):
        for variable in move.changes:
            if variable in makers:
                makers[variable].append(number)
    for numbers in makers.values():
        if counted.isdisjoint(numbers) and not any(
            PLACE in rules.moves[number].changes for number in numbers
        ):
            counted.update(numbers)
            least += min((rules.moves[number].cost for number in numbers), default=0)
    return least + _walking(rules, ground, rooms, ends)


def _walking(rules: Rules, ground: Ground, rooms: Collection[int], ends: Collection[int]) -> int:
    """The steps of walking between parts: each passage to one and back, but for the last way."""
    costs: dict[tuple[int, int], int] = {}
    by_number = {move.number: move for move in rules.moves}
    for number, to in ground.walks.items():
        if number not in by_number:
            continue
        move = by_number[number]
        for here in move.places:
            key = (ground.parts[here], ground.parts[to])
            costs[key] = min(costs.get(key, move.cost), move.cost)
    start = ground.parts[rules.initial[PLACE]]
    came = {start: start}
    back = {start: 0}
    order = [start]
    for here in order:
        for there in ground.links[here]:
            if there not in came:
                came[there] = here
                back[there] = back[here] + costs.get((there, here), 0)
                order.append(there)
    needed = {ground.parts[room] for room in rooms} & back.keys()
    for part in reversed(order):
        if part in needed and part != start:
            needed.add(came[part])
    both_ways = sum(
        costs.get((came[part], part), 0) + costs.get((part, came[part]), 0)
        for part in needed
        if part != start
    )
    last = {ground.parts[room] for room in ends} & needed if ends else needed
    return both_ways - max((back[part] for part in last), default=0)
