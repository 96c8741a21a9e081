"""What can a player have in hand in each room, and in how few steps is the room entered?

Of the positions R in which a player is in the room: the least of an item is the greatest number that all of R have, the
most is the greatest number that some of R have. A flag can be on if it is on in some of R, and off if it is off in some.
"""

from __future__ import annotations

from collections.abc import Iterator

from ..level.conditions import At, Carries, Condition, Has, PlayerAt
from ..spaces.space import S
from .answers import InHand
from .context import Context
from .named_sets import Sets
from .status import counts_as_room


def ask(context: Context[S]) -> dict[str, InHand] | None:
    """Return what can be in hand in each room that is entered.

    Returns:
        By room, those of a map only if they count as rooms; ``None`` if it is undecided, or if the level is known by
        landmarks alone.
    """
    return context.decide(None, free=lambda _: None, sets=lambda sets: _by_sets(context, sets))


def _by_sets(context: Context[S], sets: Sets[S]) -> dict[str, InHand] | None:
    if not sets.complete:
        return None
    level = context.level
    who: list[str | None] = list(level.players) if level.several else [None]
    enough = {
        (player, item): list(_enough(sets, item, player)) for player in who for item in level.items
    }
    on = {flag: sets.where(Has(flag)) for flag in sorted(level.all_flags())}
    found: dict[str, InHand] = {}
    for room in level.rooms:
        here = {player: sets.where(_in(room, player)) for player in who}
        entered = sets.joined(here.values())
        if not entered or not counts_as_room(level, room):
            continue
        context.limits.check()
        items = {}
        for item in level.items:
            ranges = [_range(some, enough[player, item]) for player, some in here.items() if some]
            least, most = min(one for one, _ in ranges), max(one for _, one in ranges)
            if most:
                items[item] = least, most
        flags = {flag: (bool(entered & some), bool(entered - some)) for flag, some in on.items()}
        run = sets.run_to(entered)
        steps = run.cost if run is not None and run.shortest else None
        found[room] = InHand(steps, items, {flag: off for flag, (can, off) in flags.items() if can})
    return found


def _in(room: str, player: str | None) -> Condition:
    return At(room) if player is None else PlayerAt(player, room)


def _enough(sets: Sets[S], item: str, player: str | None) -> Iterator[S]:
    """The positions in which a player carries at least one of an item, two, three and so on."""
    count = 1
    while True:
        some = sets.where(Has(item, count) if player is None else Carries(player, item, count))
        if not some:
            return
        yield some
        count += 1


def _range(positions: S, enough: list[S]) -> tuple[int, int]:
    """The least and the most of an item in some positions."""
    most = sum(bool(positions & some) for some in enough)
    least = 0
    while least < most and positions <= enough[least]:
        least += 1
    return least, most
