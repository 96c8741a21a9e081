"""Checking every name a level uses against what it declares."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING

from ...level.conditions import (
    At,
    Atom,
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
from ...level.effects import NO_EFFECTS
from ...level.maps.tilemap import Tile, TileMap, cell_of
from ...level.names import RESERVED, in_list, nearest
from ...level.problems import Problem
from ...level.room import Cell
from .nodes import Node, place_of, shown
from .notes import BadValue, Notes, bad

if TYPE_CHECKING:
    from ...level.level import Level


def named_cells(notes: Notes, goal: Condition | None) -> set[Cell]:
    """The cells of tile maps that passages, conditions, the start and claims name."""
    rooms = ("room", "start", "subject", "into", "mention")
    names = [name for namespace, name, _ in notes.references if namespace in rooms]
    conditions = [condition for condition, _ in notes.conditions]
    names += [goal.name] if isinstance(goal, Has) else []
    for condition in [*conditions, goal] if goal is not None else conditions:
        at = (At, SomeoneAt, EveryoneAt, PlayerAt)
        names += [atom.room for atom in atoms(condition) if isinstance(atom, at)]
    return {cell for name in names if "@" in name and (cell := cell_of(name))}


def resolve(level: Level, notes: Notes) -> None:
    """Check names that were used, and add what is wrong to the notes.

    Args:
        level: The level, with everything read so far in it.
        notes: The names and conditions to check.
    """
    flags = level.all_flags()
    known: dict[str, Iterable[str]] = {
        "item": level.items,
        "room": level.rooms,
        "start": level.rooms,
        "lock": level.locks,
        "map": level.maps,
    }
    for namespace, name, node in notes.references:
        names = known.get(namespace)
        if names is None:
            _check_special(level, namespace, name, node, notes)
        elif name not in names and names is level.rooms and cell_of(name):
            notes.problems.append(_no_such_cell(level, namespace, name, node).problem)
        elif name not in names:
            near = notes.nearest(name, names)
            what = {"item": "an item", "start": "a room"}.get(namespace, f"a {namespace}")
            message = f"{name!r} is not the name of {what}{undrawn(level.legend, level.maps, name)}"
            notes.problems.append(_bad_name(node, name, message, near).problem)
        elif namespace == "lock" and (name in level.items or name in flags):
            other = "an item" if name in level.items else "a flag"
            message = f"{name!r} is both a lock and {other}; rename one of them"
            notes.add("duplicate-name", message, node)
    for flag, node in notes.flags.items():
        if flag in level.items:
            notes.add("duplicate-name", f"{flag!r} is both an item and a flag", node)
        elif flag in RESERVED:
            notes.add("bad-value", f"{flag!r} is a word of the condition language", node)
    for name, player in level.players.items():
        other = "an item" if name in level.items else "a flag" if name in flags else ""
        if other or name in RESERVED:
            what = f"both a player and {other}; rename one of them"
            message = f"{name!r} is {what if other else 'a word of the condition language'}"
            notes.problems.append(Problem("duplicate-name", message, player.place, name))
    for name in sorted(RESERVED & level.items.keys()):
        message = f"{name!r} is a word of the condition language, and cannot name an item"
        notes.problems.append(Problem("bad-value", message, level.items[name].place, name))
    for condition, node in notes.conditions:
        check_condition(level, flags, condition, node, notes)


def goal_of(level: Level, condition: Condition, node: Node, notes: Notes) -> Condition:
    """A goal as read, with a bare room name made the condition of being there."""
    if isinstance(condition, Has) and condition.count == 1 and condition.name in level.rooms:
        name = condition.name
        if name in level.items or name in level.all_flags() or name in notes.flags:
            other = "an item" if name in level.items else "a flag"
            message = f"{name!r} is both a room and {other}; for the room, write `at {name}`"
            raise bad("duplicate-name", message, node)
        return At(name)
    if isinstance(condition, Has) and condition.count == 1 and cell_of(condition.name):
        condition = At(condition.name)  # a cell is a room, too
    elif isinstance(condition, Has) and condition.count == 1:
        name = condition.name
        known = [*level.rooms, *level.items, *level.all_flags(), *notes.flags]
        if name not in known:
            message = f"{name!r} is not a room, an item or a flag{undrawn(level.legend, level.maps, name)}"
            raise bad("unknown-name", message, node, nearest(name, known))
    notes.conditions.append((condition, node))
    return condition


def check_condition(
    level: Level, flags: set[str], condition: Condition, node: Node, notes: Notes
) -> None:
    """Check the names of one condition."""
    locks = level.locks if id(node) in notes.lock_words else ()
    for atom in atoms(condition):
        try:
            _check_atom(level, flags, atom, node, locks if atom == condition else ())
        except BadValue as error:
            notes.problems.append(error.problem)


def _check_atom(
    level: Level, flags: set[str], atom: Atom, node: Node, locks: Iterable[str]
) -> None:
    match atom:
        case Has(name, count) if name in flags and name not in level.items:
            if count > 1:
                raise _bad_name(node, name, f"{name!r} is a flag: it is on or off, not counted")
        case Has(name, _) if name not in level.items:
            near = nearest(name, [*level.items, *flags, *locks])
            hint = "" if near else _other_role(level, name)
            hint = undrawn(level.legend, level.maps, name) or hint
            what = "a lock, an item or a flag" if locks else "an item or a flag"
            message = f"{name!r} is not the name of {what}{hint}"
            raise _bad_name(node, name, message, near)
        case HasAll(item) | Carries(_, item, _) if item not in level.items:
            message = f"{item!r} is not the name of an item"
            raise _bad_name(node, item, message, nearest(item, level.items))
        case At(room) | SomeoneAt(room) | EveryoneAt(room) | PlayerAt(_, room) if (
            room not in level.rooms
        ):
            if cell_of(room):
                raise _no_such_cell(level, "room", room, node)
            raise _no_such_room(level, room, node)
        case PlayerAt(player, _) | Carries(player, _, _) | By(player) if (
            player not in level.players
        ):
            message = f"{player!r} is not the name of a player"
            raise _bad_name(node, player, message, nearest(player, level.players))
        case Opened(name):
            _check_thing(level, name, ("door", "chest"), node)
        case Done(name):
            _check_thing(level, name, ("act", "switch", "event"), node)
        case _:
            pass


def _no_such_room(level: Level, room: str, node: Node) -> BadValue:
    """Why a room cannot be named: there is none, or, in a campaign, several."""
    alike = _with_level(level.rooms, room)
    if len(alike) > 1:
        return _bad_name(node, room, f"{room!r} could be {in_list(alike, 'or')}: write which")
    return _bad_name(
        node,
        room,
        f"{room!r} is not the name of a room{undrawn(level.legend, level.maps, room)}",
        next(iter(alike), nearest(room, level.rooms)),
    )


def undrawn(legend: Mapping[str, Tile], maps: Mapping[str, TileMap], name: str) -> str:
    """Report a name of the legend that no map shows.

    Returns:
        The end of a sentence; empty if it is not so.
    """
    for symbol, tile in legend.items():
        parts = [one.name for one in (tile.chest, tile.switch, tile.act) if one is not None]
        drawn = any(symbol in row for floor in maps.values() for row in floor.rows)
        if name in (tile.room, tile.name, *parts) and not drawn:
            return f": the legend has {symbol!r} for it, which is on no map"
    return ""


def _with_level(names: Iterable[str], name: str) -> list[str]:
    """The names in a campaign that are this one with a level before it."""
    return [one for one in names if one.endswith(f"/{name}") and one.count("/") == 1]


def _no_such_cell(level: Level, namespace: str, name: str, node: Node) -> BadValue:
    """Why a cell cannot be named."""
    cell = cell_of(name)
    assert cell is not None
    floor = level.maps.get(cell.map)
    if floor is None:
        message = f"{name!r} is on no map: there is no map {cell.map!r}"
        return _bad_name(node, name, message, nearest(cell.map, level.maps))
    by_cell = next((room.name for room in level.rooms.values() if room.cell == cell), None)
    if by_cell is not None:
        return _bad_name(node, name, f"the cell {name!r} has a name: write {by_cell}")
    symbol = floor.symbol(cell.column, cell.row)
    message = f"the player cannot stand on {name}: there is {symbol!r} on the map"
    code = "start-blocked" if namespace == "start" else "thing-in-wall"
    return BadValue(Problem(code, message, place_of(node), name))


def _other_role(level: Level, name: str) -> str:
    if name in level.rooms:
        return f"; for the room, write `at {name}`"
    thing = level.things.get(name)
    if thing is None:
        acts = (act for room in level.rooms.values() for act in room.all_acts())
        idle = next(
            (act.name for act in acts if act.effects == NO_EFFECTS and not act.teaches), None
        )
        return "" if idle is None else f"; perhaps {idle}, which does nothing, is to set it"
    return f"; write `{'done' if thing.kind in ('act', 'switch', 'event') else 'opened'} {name}`"


def _check_thing(level: Level, name: str, kinds: tuple[str, ...], node: Node) -> None:
    thing = level.things.get(name)
    if thing is None or thing.kind not in kinds:
        names = [one for one, thing in level.things.items() if thing.kind in kinds]
        message = f"{name!r} is not the name of {in_list(map(_a, kinds), 'or')}"
        if thing is not None:
            message += f": it is {_a(thing.kind)}"
            message += " without a lock" if thing.kind == "passage" else ""
        raise _bad_name(node, name, message, nearest(name, names) if thing is None else None)


def _a(kind: str) -> str:
    return f"an {kind}" if kind in ("act", "event") else f"a {kind}"


def _bad_name(node: Node, name: str, message: str, near: str | None = None) -> BadValue:
    word = re.search(rf"(?<![\w-]){re.escape(name)}(?![\w-])", node.value)
    offset = word.start() if word else 0
    return bad("unknown-name", message, node, near, offset)


def _check_special(level: Level, namespace: str, name: str, node: Node, notes: Notes) -> None:
    if namespace == "opens":
        doors = [one for one, thing in level.things.items() if thing.kind == "door"]
        is_door = name in level.things and level.things[name].kind == "door"
        if is_door and name in level.locks:
            message = f"{name!r} is both a door and a lock; rename one of them"
            notes.add("duplicate-name", message, node)
        elif not is_door and name not in level.locks:
            near = nearest(name, [*doors, *level.locks])
            message = f"{name!r} is not the name of a door or a lock"
            notes.add("unknown-name", message, node, near)
    elif namespace == "mention":
        known = {*level.items, *level.all_flags(), *level.rooms, *level.things}
        if name not in known:
            message = f"{name!r} is not the name of an item, a flag, a room or a thing"
            notes.add("unknown-name", message, node, notes.nearest(name, known))
    elif namespace == "chest":
        chests = [one for one, thing in level.things.items() if thing.kind == "chest"]
        if name not in chests:
            message = f"{name!r} is not the name of a chest"
            notes.add("unknown-name", message, node, nearest(name, chests))
    elif namespace == "into":
        _check_into(level, name, node, notes)
    elif namespace == "subject":
        roles = subjects(level, name)
        if not roles:
            alike = _with_level(all_subjects(level), name)
            if len(alike) > 1:
                message = f"{name!r} could be {in_list(alike, 'or')}: write which"
                notes.add("unknown-name", message, node)
                return
            near = next(iter(alike), nearest(name, all_subjects(level)))
            message = f"{shown(node)} is not a door, chest, act, event, room or item of the level"
            if any(one.named and one.name == name for one in level.passages):
                near, message = None, f"{message}, but a passage without a lock"
            notes.add("unknown-name", message, node, near)
        elif len(roles) > 1:
            notes.add("duplicate-name", f"{name!r} is both {' and '.join(roles)}", node)


def _check_into(level: Level, name: str, node: Node, notes: Notes) -> None:
    """Check the name of something that things are scattered into."""
    things = [
        one for one, thing in level.things.items() if thing.kind in ("chest", "act", "switch")
    ]
    if name in level.rooms and name in things:
        message = f"{name!r} is both a room and {_a(level.things[name].kind)}; rename one of them"
        notes.add("duplicate-name", message, node)
    elif name in level.rooms:
        return
    elif cell_of(name):
        notes.problems.append(_no_such_cell(level, "room", name, node).problem)
    elif name not in things:
        message = f"{name!r} is not the name of a room, a chest or an act"
        if name in level.maps:
            message += f"; for the cells of the map, write `floor of {name}`"
        notes.add("unknown-name", message, node, nearest(name, [*level.rooms, *things]))
    elif level.things[name].kind != "chest" and getattr(level.things[name].what, "repeat", False):
        message = f"{name!r} can be done again and again: what it gives would have no end"
        notes.add("bad-value", message, node)


def subjects(level: Level, name: str) -> list[str]:
    """The meanings of a name in a claim: a room, an item, a placed item, a door, chest or act."""
    roles = []
    if name in level.rooms:
        roles.append("a room")
    if name in level.things and level.things[name].kind != "passage":
        roles.append(_a(level.things[name].kind))
    if name in level.items:
        roles.append("an item")
    room, slash, item = name.rpartition("/")
    if slash and room in level.rooms and item in level.rooms[room].items:
        roles.append("a placed item")
    return roles


def all_subjects(level: Level) -> list[str]:
    """Every name a claim can be about."""
    placed = [f"{room.name}/{item}" for room in level.rooms.values() for item in room.items]
    things = [name for name, thing in level.things.items() if thing.kind != "passage"]
    return [*level.rooms, *things, *level.items, *placed]
