"""Find items that more players must carry than there are units, if no unit can pass from one player to another."""

from __future__ import annotations

from typing import NamedTuple

from ..level import Level
from ..level.joined import Joined
from .relaxed import Relaxed
from .supply_and_demand import most_asked, units


class TooFew(NamedTuple):
    """An item of which there are too few.

    Attributes:
        item: The item.
        players: The players of whom each must carry it at some time.
        units: How many units there are.
    """

    item: str
    players: list[str]
    units: int


def too_few(level: Level, relaxed: Relaxed) -> list[TooFew]:
    """Return the items of which there are fewer units than players who must carry one; each proves that nothing finishes.

    A player must carry an item if even the relaxed level does not finish where that player never gets one. Each
    unit has one carrier at most, unless things are put down or handed over, or one inventory is everyone's.

    If there is no such item, that proves nothing.
    """
    one_carrier = not (level.inventory.drop or level.inventory.hand_over or level.inventory.shared)
    if not level.several or isinstance(level, Joined) or not one_carrier:
        return []
    rules, begun = relaxed.rules, {item for start in level.starts() for item in start}
    found: list[TooFew] = []
    if not relaxed.reach(rules.initial).finishes:
        return found  # for another reason
    asked = most_asked(level).keys() - begun
    for item, count in units(level).items():
        if item not in asked or count is None:
            continue
        carried = dict(zip(level.players, rules.carried(item), strict=True))
        players: list[str] = []
        for left, (player, variable) in zip(
            range(len(carried), 0, -1), carried.items(), strict=True
        ):
            if len(players) + left <= count:
                break  # the rest cannot be too many
            if not relaxed.reach(rules.initial, keeping={variable: 0}).finishes:
                players.append(player)
        if len(players) > count:
            found.append(TooFew(item, players, count))
    return found
