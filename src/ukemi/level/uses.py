"""Find where a level uses a name: a thing must not be removed as long as something uses its name."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, NamedTuple

from .asked import all_conditions
from .conditions import (
    At,
    By,
    Carries,
    Condition,
    Done,
    EveryoneAt,
    Has,
    HasAll,
    Opened,
    PlayerAt,
    SomeoneAt,
    atoms,
)
from .effects import Effects
from .sense import all_effects

if TYPE_CHECKING:
    from .level import Level


class Use(NamedTuple):
    """A name that is used: what kind of name, the name, and what uses it."""

    kind: str
    name: str
    by: str


def uses(level: Level) -> Iterator[Use]:
    """Every name that something in a level uses.

    Yields:
        The kinds are ``item``, ``flag``, ``room``, ``lock``, ``thing`` and ``player``.
    """
    for asked in all_conditions(level):
        yield from _in_condition(level, asked.condition, asked.subject)
    for effects, _, by, _ in all_effects(level):
        yield from _in_effects(level, effects, by)
    for passage in level.passages:
        if isinstance(passage.lock, str):
            yield Use("lock", passage.lock, passage.name)
        if not passage.on_map:
            yield Use("room", passage.a, passage.name)
            yield Use("room", passage.b, passage.name)
    for lock in level.locks.values():
        if lock.from_:
            yield Use("room", lock.from_, f"lock {lock.name}")
    for room in level.rooms.values():
        for item in room.items:
            yield Use("item", item, room.name)
        for chest in room.chests.values():
            if isinstance(chest.lock, str):
                yield Use("lock", chest.lock, chest.name)
            yield from (Use("item", item, chest.name) for item in chest.holds)
        for act in room.all_acts():
            if act.teaches:
                yield Use("flag", act.teaches, act.name)
    yield from _in_settings(level)


def _in_settings(level: Level) -> Iterator[Use]:
    yield Use("room", level.start, "the start")
    yield from (Use("item", item, "the inventory") for item in level.inventory.start)
    for player in level.players.values():
        if player.start:
            yield Use("room", player.start, f"player {player.name}")
        yield from (Use("item", item, f"player {player.name}") for item in player.inventory or ())
    for area, rooms in level.areas.items():
        yield from (Use("room", room, f"area {area}") for room in rooms)
    for group in level.scattered.values():
        by = f"scatter {group.name}"
        yield from (Use("item", item, by) for item in group.items)
        yield from (Use("thing", chest, by) for chest in group.chests)
        for spot in group.into:
            yield Use("room" if spot in level.rooms else "thing", spot, by)
    expected = level.expected
    claims = (*expected.never, *expected.possible, *expected.always_possible)
    for claim in (*claims, *expected.required, *expected.optional):
        if isinstance(claim.says, Condition):
            yield from _in_condition(level, claim.says, "expect")
        else:
            yield from _subject(level, claim.says)
    for order in expected.order:
        for name in order.names:
            yield from _subject(level, name)


def _subject(level: Level, name: str) -> Iterator[Use]:
    """Return the subjects of a claim."""
    room, slash, item = name.rpartition("/")
    if name in level.things:
        yield Use("thing", name, "expect")
    elif name in level.rooms:
        yield Use("room", name, "expect")
    elif slash and room in level.rooms:
        yield Use("placed", name, "expect")
        yield Use("item", item, "expect")
    else:
        yield Use("item", name, "expect")


def _in_condition(level: Level, condition: Condition, by: str) -> Iterator[Use]:
    for atom in atoms(condition):
        match atom:
            case At(room) | SomeoneAt(room) | EveryoneAt(room):
                yield Use("room", room, by)
            case PlayerAt(player, room):
                yield from (Use("player", player, by), Use("room", room, by))
            case Carries(player, item, _):
                yield from (Use("player", player, by), Use("item", item, by))
            case By(player):
                yield Use("player", player, by)
            case Has(name, _) | HasAll(name):
                yield Use("item" if name in level.items else "flag", name, by)
            case Opened(name) | Done(name):
                yield Use("thing", name, by)
            case _:
                pass


def _in_effects(level: Level, effects: Effects, by: str) -> Iterator[Use]:
    for counts in (effects.spends, effects.loses, effects.gives):
        yield from (Use("item", item, by) for item in counts)
    for flags in (effects.sets, effects.clears, effects.flips):
        yield from (Use("flag", flag, by) for flag in flags)
    for name in effects.opens:
        yield Use("lock" if name in level.locks else "thing", name, by)
