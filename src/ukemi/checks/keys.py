"""How many of each spent key there are, how many finishing takes, and how many are to spare.

A level with none to spare, and one with a spare key::

    {start: quay, goal: mill, items: {key: {use: spent}}, rooms: {quay: {items: key}, mill: {}},
     passages: [quay <-> mill: {lock: key}]}
    the same with `quay: {items: {key: 2}}`
"""

from __future__ import annotations

from collections.abc import Iterator

from ..level import Item, Level
from ..rules import Position
from .case import Case
from .cases import Cases
from .result import Finding, KeyMeasure


def key_measures(cases: Cases) -> dict[str, KeyMeasure]:
    """The slack of each kind of spent key.

    A kind that something gives again and again, or that a walk, an unlocking or a pickup gives,
    has no fixed number and is left out; so is everything where finishing was not found, or where
    the search was cut short and a run not seen may use fewer.

    Args:
        cases: The level under check.

    Returns:
        By item: how many the level has, the fewest a finishing run uses up, and the rest.
    """
    measures: dict[str, KeyMeasure] = {}
    for item in cases.level.items.values():
        if item.use != "spent" or not _countable(cases.level, item):
            continue
        case = cases.about_units(item.name)
        if not case.complete or not case.finished:
            continue
        total = units(case, item.name, tuple(case.rules.initial))
        left = max(units(case, item.name, case.values(n)) for n in case.finished)
        if total:
            measures[item.name] = KeyMeasure(total, total - left, left)
    return measures


def check_spare_keys(measures: dict[str, KeyMeasure], level: Level) -> Iterator[Finding]:
    """Tell how many keys of each kind are to spare.

    Args:
        measures: The slack of each kind.
        level: The level.

    Yields:
        A note for each kind with spare keys.
    """
    for item, measure in measures.items():
        if measure.spare:
            takes = f"takes {measure.needed} at least" if measure.needed else "can do without"
            message = (
                f"{item}: {measure.placed} in the level; finishing {takes}, "
                f"so {measure.spare} can be spared."
            )
            mend = "nothing need be done; a level that is to be tight has none to spare"
            place = level.items[item].place
            yield Finding("spare-keys", "note", item, message, "", mend, place)


def _countable(level: Level, item: Item) -> bool:
    """Whether the units of an item are all in one place or another from the start."""
    if item.kind == "supply":
        return False
    gifts = [kind.on_pickup for kind in level.items.values()]
    gifts += [passage.effects for passage in level.passages]
    gifts += [lock.effects for _, lock in level.doors()]
    gifts += [act.effects for room in level.rooms.values() for act in room.all_acts() if act.repeat]
    return not any(item.name in effects.gives for effects in gifts)


def units(case: Case, item: str, position: Position) -> int:
    """The units that are still somewhere: carried, lying, put down, held or still to be given.

    Args:
        case: A case of the level.
        item: The item.
        position: The values of the variables, no wings counted.

    Returns:
        Their number.
    """
    level, index = case.level, case.rules.index
    units = position[index["carried", item]]
    for room in level.rooms.values():
        if item in room.items:
            units += position[index["lying", room.name, item]]
        put_down = index.get(("put-down", room.name, item))
        units += position[put_down] if put_down is not None else 0
        for chest in room.chests.values():
            if not position[index["opened", chest.name]]:
                lock = level.lock_of(chest)
                units += chest.holds.get(item, 0) + chest.effects.gives.get(item, 0)
                units += lock.effects.gives.get(item, 0) if lock else 0
        for act in room.all_acts():
            if not position[index["done", act.name]]:
                units += act.effects.gives.get(item, 0)
    return units
