"""Errors of a level whose names are all known: contradictions, and values that grow without end."""

from __future__ import annotations

from collections.abc import Iterator

from .conditions import count_alternatives
from .effects import NO_EFFECTS, Effects
from .event import Event
from .item import Item
from .level import Level
from .lock import Lock
from .passage import Passage
from .place import Place
from .problems import Problem
from .room import Act, Chest

#: Effects, whether they can happen again and again, their owner, and its place.
Happening = tuple[Effects, bool, str, Place | None]

#: More ways to unlock one door than anyone means.
MOST_WAYS = 200
#: More pickups from one move than anyone means.
MOST_PICKUPS = 1_000


def sense_problems(level: Level) -> list[Problem]:
    """Return the errors of a level whose names are all known.

    Returns:
        The problems; none where the level can be played.
    """
    if not level.start or level.goal is None:
        missing = "start" if not level.start else "goal"
        return [Problem("bad-value", f"the level has no {missing}")]
    effects = list(all_effects(level))
    return [
        *_players(level),
        *_inventory(level),
        *_locks(level),
        *_given_on_the_way(level),
        *_opened_from_afar(level, effects),
        *_endless_pickup(level, effects),
        *_growth(level, effects),
        *_taught_and_cleared(level),
    ]


def _players(level: Level) -> Iterator[Problem]:
    """Return the features that are impossible with several players, and those that need several."""
    place = level.places.get("inventory")
    if len(level.players) == 1:
        message = "one player needs no `players`: name two at least, or leave it out"
        yield Problem("bad-value", message, next(iter(level.players.values())).place)
    if not level.several:
        for field in ("shared", "hand_over"):
            if getattr(level.inventory, field):
                name = field.replace("_", "-")
                yield Problem("bad-value", f"`{name}` needs several `players`", place)
        return
    if level.inventory.shared and level.inventory.hand_over:
        message = "all have one inventory, so nothing can be handed over"
        yield Problem("contradicting-effects", message, place)
    for event in level.events.values():
        if not level.inventory.shared and (
            event.effects.spends or event.effects.loses or event.effects.gives
        ):
            message = (
                f"{event.name!r} takes or gives items, but no player moves when an event happens; "
                "let the inventory be shared"
            )
            yield Problem("bad-value", message, event.place)


def _inventory(level: Level) -> Iterator[Problem]:
    starts = level.starts()
    yield from _start(level, starts[0])
    for start in starts[1:] if not level.inventory.shared else ():
        if start != starts[0]:
            yield from _start(level, start)


def _start(level: Level, start: dict[str, int]) -> Iterator[Problem]:
    place = level.places.get("inventory")
    for item in level.items.values():
        count = start.get(item.name, 0)
        if item.vital and item.kind != "supply":
            yield Problem(
                "bad-value", f"{item.name!r} is vital, so its kind must be supply", item.place
            )
        if item.vital and count == 0:
            message = f"{item.name!r} is vital and starts at 0: the player would be dead at once"
            yield Problem("bad-value", message, item.place, item.name)
        if item.max is not None and count > item.max:
            message = f"the player starts with {count} {item.name}, but {item.max} is its max"
            yield Problem("bad-value", message, place, item.name)
        if item.on_pickup.gives and any(
            level.items[one].kind == "reward" for one in item.on_pickup.gives
        ):
            message = f"{item.name!r} hands over a reward on pickup; let a chest or an act give it"
            yield Problem("bad-value", message, item.place, item.name)
    slots = level.inventory.slots
    taken = sum(level.items[item].slots * count for item, count in start.items())
    if slots is not None and taken > slots:
        message = f"the player starts with {taken} slots full, but has {slots}"
        yield Problem("bad-value", message, place)


def _locks(level: Level) -> Iterator[Problem]:
    for lock in level.locks.values():
        yield from _ways(lock, lock.name or "", lock.place)
        if lock.together and lock.relocks:
            message = f"lock {lock.name!r} is both together and relocks: nothing would stay open"
            yield Problem("contradicting-effects", message, lock.place)
        if lock.relocks and lock.steps != 1:
            yield _no_steps(f"lock {lock.name!r}", lock.place)
    for passage, lock in level.doors():
        if not isinstance(passage.lock, str):
            yield from _ways(lock, passage.thing, passage.place)
            if lock.relocks and lock.steps != 1:
                yield _no_steps(repr(passage.thing), passage.place)
        if lock.from_ is not None and lock.from_ not in passage.ends:
            message = (
                f"{passage.thing!r} is unlocked from {lock.from_!r}, which is not one of its ends"
            )
            yield Problem("bad-value", message, passage.place, lock.from_)
        elif lock.relocks and not (passage.two_way or passage.sides) and lock.from_ == passage.b:
            message = (
                f"{passage.thing!r} relocks and is unlocked from its far end: it never lets through"
            )
            yield Problem("bad-value", message, passage.place, lock.from_)
    for room in level.rooms.values():
        for chest in room.chests.values():
            own = level.lock_of(chest)
            if own is None:
                continue
            if not isinstance(chest.lock, str):
                yield from _ways(own, chest.name, chest.place)
            for word, given in (
                ("together", own.together), ("relocks", own.relocks), ("from", own.from_)
            ):  # fmt: skip
                if given:
                    message = (
                        f"chest {chest.name!r} has a lock with {word!r}, which is for doors only"
                    )
                    yield Problem("bad-value", message, chest.place, word)


def _no_steps(what: str, place: Place | None) -> Problem:
    message = f"{what} relocks, so unlocking it is no move: give the steps to its passage"
    return Problem("bad-value", message, place, "steps")


def _ways(lock: Lock, name: str, place: Place | None) -> Iterator[Problem]:
    if count_alternatives(lock.needs) > MOST_WAYS:
        message = f"{name!r} can be unlocked in more than {MOST_WAYS} ways; split its condition up"
        yield Problem("bad-value", message, lock.place or place)


def _given_on_the_way(level: Level) -> Iterator[Problem]:
    """Rewards that a door or a walk hands over: reports could not name where they are."""
    for passage in level.passages:
        lock = level.lock_of(passage)
        if passage.effects is NO_EFFECTS and (lock is None or lock.effects is NO_EFFECTS):
            continue
        for gives in (passage.effects.gives, lock.effects.gives if lock else {}):
            for item in gives:
                if level.items[item].kind == "reward":
                    message = f"{passage.thing!r} hands over the reward {item!r}; let a chest or an act give it"
                    yield Problem("bad-value", message, passage.place, item)


def _opened_from_afar(level: Level, all_of: list[Happening]) -> Iterator[Problem]:
    for effects, _, _, place in all_of:
        for name in effects.opens:
            doors = [
                (passage, lock)
                for passage, lock in level.doors()
                if name in (passage.thing, passage.lock)
            ]
            if not doors:
                message = f"no door has the lock {name!r}, so opens does nothing"
                yield Problem("bad-value", message, place, name)
            for passage, lock in doors:
                if lock.relocks:
                    message = f"door {passage.thing!r} relocks, so it cannot be opened from afar"
                    yield Problem("contradicting-effects", message, place, name)


def _endless_pickup(level: Level, all_of: list[Happening]) -> Iterator[Problem]:
    """Return pickups that trigger each other without end, or too many of them."""
    follow: dict[str, int] = {}  # how many pickups follow from one of each item, itself included
    for item in level.items.values():
        ahead = [item.name]
        while ahead:
            name = ahead[-1]
            gives = level.items[name].on_pickup.gives
            unknown = [one for one in gives if one not in follow]
            if any(one in ahead for one in unknown):
                message = f"picking up {name!r} gives {name!r} again, without end"
                if name not in gives:
                    message = f"picking up {name!r} sets off picking it up again, without end"
                yield Problem("bad-value", message, level.items[name].place, name)
                return
            if unknown:
                ahead.append(unknown[0])
            else:
                follow[name] = 1 + sum(count * follow[one] for one, count in gives.items())
                ahead.pop()
    for gives, source, place in _all_gifts(level, all_of):
        if any(count * follow[one] > MOST_PICKUPS for one, count in _with_pickup(level, gives)):
            message = f"{source} sets off more than {MOST_PICKUPS} pickups at once"
            yield Problem("bad-value", message, place)


def _with_pickup(level: Level, gives: dict[str, int]) -> list[tuple[str, int]]:
    return [(one, count) for one, count in gives.items() if level.items[one].on_pickup]


def _all_gifts(
    level: Level, all_of: list[Happening]
) -> Iterator[tuple[dict[str, int], str, Place | None]]:
    for effects, _, source, place in all_of:
        yield effects.gives, source, place
    for room in level.rooms.values():
        for chest in room.chests.values():
            yield chest.holds, repr(chest.name), chest.place


def _growth(level: Level, all_of: list[Happening]) -> Iterator[Problem]:
    seen: set[str] = set()
    for effects, again, source, place in all_of:
        ahead = list(effects.gives) if again else []
        while ahead:
            item = level.items[ahead.pop()]
            if item.name in seen:
                continue
            seen.add(item.name)
            ahead += item.on_pickup.gives
            if item.max is None:
                message = f"{source} gives {item.name!r} again and again: give {item.name!r} a max"
                yield Problem("bad-value", message, place, item.name)
            elif level.inventory.drop and not item.vital:
                message = (
                    f"{source} gives {item.name!r} again and again, and it can be put down: "
                    "it would pile up without end"
                )
                yield Problem("bad-value", message, place, item.name)


def _taught_and_cleared(level: Level) -> Iterator[Problem]:
    for room in level.rooms.values():
        for act in room.all_acts() if room.acts or room.switches else ():
            if act.teaches and act.teaches in (*act.effects.clears, *act.effects.flips):
                message = f"{act.name!r} teaches {act.teaches!r} and turns it another way too"
                yield Problem("contradicting-effects", message, act.place, act.teaches)


def all_effects(level: Level) -> Iterator[Happening]:
    """Every set of effects in a level that changes anything.

    Returns:
        Yield for each: the effects, whether they can happen again and again, their owner (for a message)
        and its place. Effects on pickup count as happening once; what they give again and again follows
        from what gives their item.
    """
    for owner, effects, again in _owned_effects(level):
        if effects is not NO_EFFECTS:
            what = {Item: "picking up ", Lock: "lock "}.get(type(owner), "")
            yield effects, again, f"{what}{owner.name!r}", owner.place
    for _, effects, name, place in level.between():
        if effects is not NO_EFFECTS:
            yield effects, True, repr(name), place


def _owned_effects(
    level: Level,
) -> Iterator[tuple[Item | Lock | Passage | Chest | Act | Event, Effects, bool]]:
    for item in level.items.values():
        yield item, item.on_pickup, False
    for lock in level.locks.values():
        yield lock, lock.effects, lock.relocks
    for room in level.rooms.values():
        for chest in room.chests.values():
            yield chest, chest.effects, False
            if isinstance(chest.lock, Lock):
                yield chest, chest.lock.effects, False
        for act in room.all_acts() if room.acts or room.switches else ():
            yield act, act.effects, act.repeat
    for event in level.events.values():
        yield event, event.effects, False
    for passage in level.passages:
        yield passage, passage.effects, not passage.once
        if isinstance(passage.lock, Lock):
            yield passage, passage.lock.effects, passage.lock.relocks
