"""Take parts of a level out, move them and lock them, by name."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from .names import in_list, nearest
from .passage import Passage
from .problems import LevelError, Problem
from .room import Placement

if TYPE_CHECKING:
    from .level import Level


def remove(level: Level, name: str) -> None:
    """Take out what a name stands for; see :meth:`Level.remove`."""
    kinds = [kind for kind, names in _named(level) if name in names]
    if not kinds:
        known = [one for _, names in _named(level) for one in names]
        raise _refused(f"{name!r} names nothing in the level", name, nearest(name, known))
    if len(kinds) > 1:
        raise _refused(f"{name!r} is {in_list(kinds)}: it is not clear which to take out", name)
    (kind,) = kinds
    used = _used(level, kind, name)
    if used:
        raise _refused(
            f"{name!r} cannot be taken out: {in_list(used[:5])} would still use it", name
        )
    _TAKE_OUT[kind](level, name)
    level._index()


def _named(level: Level) -> list[tuple[str, list[str]]]:
    """The names of a level by what they stand for."""
    own = [room for room in level.rooms.values() if room.cell is None]
    things = {name: one for name, one in level.things.items() if not _on_map(level, name)}
    return [
        ("an item", [*level.items]),
        ("a lock", [*level.locks]),
        ("a flag", [*level.flags]),
        ("a room", [room.name for room in own]),
        ("a thing", [*things]),
        ("a placed item", [f"{room.name}/{item}" for room in own for item in room.items]),
        ("an area", [*level.areas]),
        ("a group of `scatter`", [*level.scattered]),
        ("a player", [*level.players]),
    ]


def _on_map(level: Level, name: str) -> bool:
    thing = level.things[name]
    if isinstance(thing.what, Passage):
        return thing.what.on_map
    return thing.room in level.rooms and level.rooms[thing.room].cell is not None


def _used(level: Level, kind: str, name: str) -> list[str]:
    """Return what would still use a name if the thing that it names were gone."""
    from .uses import uses  # which reads levels

    word = kind.split(" ", 1)[1].removeprefix("placed ")
    inside = {name}
    gone = {name}
    if kind == "a room":
        room = level.rooms[name]
        inside |= {*room.chests, *(act.name for act in room.all_acts())}
        ways = {one.name for one in level.passages if name in (one.a, one.b)}
        inside |= ways
        gone |= inside
    found = []
    for use in uses(level):
        if use.by.strip("'") in gone or use.by.removeprefix("lock ").strip("'") in gone:
            continue
        same = use.name == name and use.kind == (word if kind != "a placed item" else "placed")
        if same or (use.kind == "thing" and use.name in inside and kind in ("a room", "a thing")):
            found.append(use.by)
    return list(dict.fromkeys(found))


def _take_out_room(level: Level, name: str) -> None:
    level.passages[:] = [one for one in level.passages if name not in (one.a, one.b)]
    del level.rooms[name]


def _take_out_thing(level: Level, name: str) -> None:
    thing = level.things[name]
    if isinstance(thing.what, Passage):
        level.passages[:] = [one for one in level.passages if one is not thing.what]
    elif not thing.room:
        del level.events[name]
    else:
        room = level.rooms[thing.room]
        for some in (room.chests, room.switches, room.acts):
            some.pop(name, None)


def _take_out_placed(level: Level, name: str) -> None:
    room, _, item = name.rpartition("/")
    del level.rooms[room].items[item]


_TAKE_OUT: dict[str, Any] = {
    "an item": lambda level, name: level.items.pop(name),
    "a lock": lambda level, name: level.locks.pop(name),
    "a flag": lambda level, name: level.flags.pop(name),
    "a room": _take_out_room,
    "a thing": _take_out_thing,
    "a placed item": _take_out_placed,
    "an area": lambda level, name: level.areas.pop(name),
    "a group of `scatter`": lambda level, name: level.scattered.pop(name),
    "a player": lambda level, name: level.players.pop(name),
}


def move(level: Level, name: str, to: str, count: int | None) -> None:
    """Move what a name stands for into another room; see :meth:`Level.move`."""
    target = level._own_room(to)
    room, slash, item = name.rpartition("/")
    if slash and room in level.rooms and item in level.rooms[room].items:
        _move_placed(level._own_room(room).items, target.items, item, count, name)
        return
    lying = [one for one in level.rooms.values() if name in one.items and one.cell is None]
    if name in level.items and len(lying) == 1:
        _move_placed(lying[0].items, target.items, name, count, name)
        return
    if name in level.items:
        where = in_list([f"{one.name}/{name}" for one in lying], "or") if lying else ""
        message = (
            f"{name!r} lies in several rooms: write {where}"
            if lying
            else f"no {name!r} lies in a room"
        )
        raise _refused(message, name)
    thing = level.things.get(name)
    if thing is None or isinstance(thing.what, Passage) or not thing.room or _on_map(level, name):
        known = [*level.items, *level.things]
        raise _refused(
            f"{name!r} is nothing that can be moved into a room", name, nearest(name, known)
        )
    source = level.rooms[thing.room]
    for kind in ("chests", "switches", "acts"):
        if name in getattr(source, kind):
            getattr(target, kind)[name] = getattr(source, kind).pop(name)
    level._index()


def _move_placed(
    source: dict[str, Placement],
    target: dict[str, Placement],
    item: str,
    count: int | None,
    name: str,
) -> None:
    placed = source[item]
    count = placed.count if count is None else count
    if not 1 <= count <= placed.count:
        raise _refused(f"{count} of {name} cannot be moved: there are {placed.count}", name)
    if item in target:
        target[item].count += count
    else:
        target[item] = replace(placed, count=count)
    if count == placed.count:
        del source[item]
    else:
        placed.count -= count


def locked(level: Level, name: str) -> Iterator[Any]:
    """The doors, passages and chests that a name stands for.

    Raises:
        LevelError: There are none; or they are drawn on a map.
    """
    thing = level.things.get(name)
    if thing is not None and _on_map(level, name):
        raise _refused(f"{name!r} is on a map: say what locks it with tile()", name)
    if thing is None or not hasattr(thing.what, "lock"):
        known = [one for one, some in level.things.items() if hasattr(some.what, "lock")]
        raise _refused(f"{name!r} is no passage, door or chest", name, nearest(name, known))
    yield thing.what


def _refused(message: str, name: str, near: str | None = None) -> LevelError:
    return LevelError([Problem("bad-value", message, None, name, near)])
