"""What can be supposed of each thing of a level, as the page offers it."""

from __future__ import annotations

from ..level import Level
from ..level.asked import things_walked
from ..level.joined import Joined
from ..level.room import Act


def what_of(level: Level) -> dict[str, dict[str, list[str]]]:
    """List what can be supposed of each thing, by its kind and its name.

    The kinds are ``door`` (with all other ways), ``chest``, ``room``, ``item``, ``act`` (with switches), ``flag``
    and ``player``.

    Example:
        >>> from ukemi.language import loads
        >>> level = loads("{start: quay, goal: mill, items: {peg: {}}, rooms: [quay, mill],"
        ...               " passages: [quay <-> mill: {lock: peg, name: door}]}")
        >>> what_of(level)["door"]
        {'door': ['open door', 'no lock door', 'shut door']}
    """
    doors = {door.thing: lock for door, lock in level.doors()}
    ways: dict[str, list[str]] = {}
    for passage in things_walked(level):
        name = passage.thing
        said = [f"no lock {name}", f"shut {name}"] if name in doors else [f"shut {name}"]
        stays_open = name in doors and not doors[name].relocks
        ways[name] = [f"open {name}", *said] if stays_open else said
    codes = {act.teaches for room in level.rooms.values() for act in room.all_acts()}
    rooms = {
        # A cell without a name has something on it, and the player starts on free floor.
        room.name: ([] if "@" in room.name else [f"start {room.name}"])
        + [f"no {item} in {room.name}" for item in room.items]
        for room in level.rooms.values()
    }
    chests = {
        chest.name: ([f"no lock {chest.name}"] if chest.lock is not None else [])
        + [f"no {item} in {chest.name}" for item in chest.holds]
        for room in level.rooms.values()
        for chest in room.chests.values()
    }
    flags = {
        flag: [f"{flag} on", f"{flag} off", *([f"knows {flag}"] if flag in codes else [])]
        for flag in sorted(level.all_flags())
    }
    acts = {
        act.name: [one for flag in _turned(act) for one in flags.get(flag, ())]
        for room in level.rooms.values()
        for act in room.all_acts()
    }
    carried = {item: [f"carry {item}", f"carry 2 {item}"] for item in level.items}
    return {
        "door": ways,
        "chest": chests,
        "room": rooms,
        # In a campaign, each level has what is carried at its start.
        "item": {} if isinstance(level, Joined) else carried,
        "act": acts,
        "flag": flags,
        "player": {name: [f"without {name}"] for name in level.players},
    }


def _turned(act: Act) -> list[str]:
    """The flags that an act or switch turns."""
    effects = act.effects
    turned = [
        *effects.sets,
        *effects.clears,
        *effects.flips,
        *([act.teaches] if act.teaches else []),
    ]
    return list(dict.fromkeys(turned))
