"""``nothing-gives``: an item is asked for, and no one gives it."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from ...facts.supply_and_demand import all_costs, most_had
from ...level import Has, HasAll, Level, Place
from ...level.asked import all_conditions
from ...level.conditions import Condition, signed_atoms
from ...level.maps.tilemap import Tile
from ...level.maps.undrawn import undrawn
from ..finding import Finding
from ..registry import layout


@layout
def nothing_gives(level: Level) -> Iterator[Finding]:
    """Report each item that is asked for though nothing in the level gives one, where it is first asked for."""
    most = most_had(level)
    reported: set[str] = set()
    for item, subject, place in _wanted(level):
        if most[item] == 0 and item not in reported:
            reported.add(item)
            message = f"{subject} asks for {item}, and nothing in the level gives one."
            mend = f"place {item} in a room or a chest, or let an act give it"
            why = undrawn(level, partial(_gives, item=item), "would give one")
            yield Finding("nothing-gives", "warning", item, message, why, mend, place)


def _gives(tile: Tile, item: str) -> bool:
    """Whether a symbol of a legend gives an item."""
    acts = [act for act in (tile.switch, tile.act) if act is not None]
    held = tile.chest.holds if tile.chest is not None else ()
    return item in tile.items or item in held or any(item in one.effects.gives for one in acts)


def _wanted(level: Level) -> Iterator[tuple[str, str, Place | None]]:
    for condition, subject, place in all_conditions(level):
        for item in _positive(condition):
            if item in level.items:
                yield item, subject, place
    for counts, subject, place in all_costs(level):
        for item in counts:
            yield item, subject, place


def _positive(condition: Condition) -> Iterator[str]:
    """The items a condition wants to be carried; not those it wants to be absent."""
    for atom, wanted in signed_atoms(condition):
        if wanted and isinstance(atom, Has | HasAll):
            yield atom.name if isinstance(atom, Has) else atom.item
