"""Explain the needs of a thing, and where the needed things are."""

from __future__ import annotations

from collections.abc import Iterator

from ..level import ALWAYS, Condition, Has, HasAll, Level, Not, Passage
from ..level.conditions import Done, Opened, atoms
from ..level.event import Event
from ..level.names import in_list, nearest
from ..level.sources import sources
from ..rules import PLACE
from ..rules.words import counted
from .play import Play
from .said import Said
from .trying import NotUnderstoodError
from .waiting import places_of


def why(play: Play, name: str) -> list[Said]:
    """Return the needs of a thing, whether they hold, and where the missing things are.

    Args:
        name: A door, passage, chest, switch, act, item, flag or room, or ``goal``.

    Raises:
        NotUnderstoodError: Nothing has that name.
    """
    level = play.level
    if name == "goal" and play.goal is not None:
        return [Said("goal", str(play.goal)), *_needed(play, play.goal)]
    if name in level.things:
        return list(_thing(play, name))
    if name in level.items or name in level.all_flags():
        return [Said(name, _where(play, name)), *_taking(play, name)]
    if name in level.rooms:
        return list(_room(play, name))
    known = {*level.things, *level.items, *level.all_flags(), *level.rooms, "goal"}
    near = nearest(name, known)
    hint = f"; did you mean {near!r}?" if near else ""
    raise NotUnderstoodError(f"nothing is called {name!r}{hint}")


def _thing(play: Play, name: str) -> Iterator[Said]:
    level, index = play.level, play.rules.index
    thing = level.things[name]
    state = []
    for kind, words in (("opened", "open"), ("done", "done"), ("collapsed", "collapsed")):
        number = index.get((kind, name))
        if number is not None and play.position[number]:
            state.append(words)
    if isinstance(thing.what, Event):
        happened = "it has happened" if state else "it has not happened yet"
        yield Said(name, f"happens by itself; {happened}")
        yield Said("when", str(thing.what.when))
        yield from _needed(play, thing.what.when)
        return
    is_open = state and thing.kind in ("door", "chest")
    yield Said(name, f"a {thing.kind} {places_of(level, name)}" + "".join(f", {s}" for s in state))
    lock = level.lock_of(thing.what) if thing.kind in ("door", "chest") else None  # type: ignore[arg-type]
    needs = [lock.needs] if lock is not None and not is_open else []
    needs += [getattr(thing.what, "needs", ALWAYS), getattr(thing.what, "gate", ALWAYS)]
    asked = [one for one in needs if one != ALWAYS]
    if lock is not None and lock.from_ is not None and not is_open:
        yield Said("from", f"it is unlocked from {lock.from_} only")
    for condition in asked:
        yield Said("needs", str(condition))
        yield from _needed(play, condition)
    ends = [to for _, to in thing.what.walks()] if isinstance(thing.what, Passage) else []
    for room in (one for one in ends if level.rooms[one].gate != ALWAYS):
        asked.append(level.rooms[room].gate)
        yield Said("needs", f"{asked[-1]}, to walk to {room}")
        yield from _needed(play, asked[-1])
    if not is_open:
        yield from _until_seen(play, getattr(thing.what, "seen", ALWAYS))
    spends = getattr(thing.what, "effects", None)
    if spends is not None and spends.spends:
        yield Said("spends", counted(spends.spends))
        for item in spends.spends:
            yield Said(f"  {item}", _where(play, item))
    if not asked and lock is None:
        yield Said("", "It asks for nothing.")


def _until_seen(play: Play, seen: Condition) -> Iterator[Said]:
    """The condition for seeing a thing, if it has one."""
    if seen != ALWAYS:
        yield Said("hidden until", str(seen))
        yield from _needed(play, seen)


def _taking(play: Play, name: str) -> Iterator[Said]:
    """The conditions for taking an item where it still lies."""
    for room in play.level.rooms.values():
        placement = room.items.get(name)
        if placement is None or not play.position[play.rules.index["lying", room.name, name]]:
            continue
        if placement.needs != ALWAYS:
            yield Said(f"in {room.name}", f"taking it needs {placement.needs}")
            yield from _needed(play, placement.needs)
        yield from _until_seen(play, placement.seen)


def _needed(play: Play, condition: Condition) -> Iterator[Said]:
    listed = set()
    for atom in atoms(condition):
        if atom in listed:
            continue
        listed.add(atom)
        match atom:
            case Has(name) | HasAll(name):
                yield Said(f"  {name}", _where(play, name))
            case Opened(name) | Done(name):
                yield Said(f"  {name}", places_of(play.level, name))
    if isinstance(condition, Not):
        yield Said("", f"It waits until `{condition.part}` no longer holds.")


def _where(play: Play, name: str) -> str:
    """Where an item is now, or what turns a flag."""
    level, index, position = play.level, play.rules.index, play.position
    parts = []
    if name in level.items:
        carried = position[index["carried", name]]
        if carried:
            parts.append(f"{carried} carried")
        for variable, number in index.items():
            if variable[0] in ("lying", "put-down") and variable[2] == name and position[number]:
                parts.append(f"{position[number]} in {variable[1]}")
        parts += list(_sources(level, name, play))
        return in_list(parts) if parts else "there is none left"
    on = "on" if position[index["flag", name]] else "off"
    return f"{on}; {in_list(_turners(level, name)) or 'nothing turns it'}"


def _sources(level: Level, item: str, play: Play) -> Iterator[str]:
    index, position = play.rules.index, play.position
    for one in sources(level):
        kind = {"chest": "opened", "act": "done", "event": "done"}.get(one.kind)
        if kind and item in one.gives and (one.again or not position[index[kind, one.name]]):
            where = f" ({one.room})" if one.room else ""
            word = "in" if one.kind == "chest" else "from"
            yield f"{one.gives[item]} {word} {one.name}{where}"


def _turners(level: Level, flag: str) -> list[str]:
    found = []
    for room in level.rooms.values():
        for act in room.all_acts():
            effects = act.effects
            if flag in (*effects.sets, *effects.clears, *effects.flips) or act.teaches == flag:
                found.append(f"{act.name} in {room.name} turns it")
        for chest in room.chests.values():
            if flag in (*chest.effects.sets, *chest.effects.clears, *chest.effects.flips):
                found.append(f"opening {chest.name} in {room.name} turns it")
    for event in level.events.values():
        if flag in (*event.effects.sets, *event.effects.clears, *event.effects.flips):
            found.append(f"{event.name} turns it")
    for passage in level.passages:
        if flag in (*passage.effects.sets, *passage.effects.clears, *passage.effects.flips):
            found.append(f"walking {passage.thing} turns it")
    return list(dict.fromkeys(found))


def _room(play: Play, name: str) -> Iterator[Said]:
    if name == play.room:
        yield Said(name, "you are here")
        return
    near = play.choices.reachable(play.position).get(play.rules.places.index(name))
    if near is not None:
        yield Said(name, f"open from here, {near.steps} step{'' if near.steps == 1 else 's'} away")
        return
    yield Said(name, f"no way there is open from {play.room}")
    waiting = {
        passage.thing: move
        for passage in play.level.passages
        if name in (passage.b, passage.a if passage.two_way else passage.b)
        for move in play.rules.moves
        if move.what.get("name") == passage.name and move.what.get("to") == name
    }
    for thing, move in waiting.items():
        position = list(play.position)
        position[PLACE] = move.places[0]
        why_not = play.waiting.why_not(tuple(position), move)
        here = play.rules.places[move.places[0]]
        yield Said(f"  {thing}", f"from {here}" + (f": {why_not}" if why_not else ""))
