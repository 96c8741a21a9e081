"""Corrections of things: where they lie, how many there are, and what chests and switches do."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ..language.text.editing import REMOVED, Edit, Path, edited
from ..language.text.level_document import LevelDocument
from ..level.names import in_list
from ..level.sources import sources
from .correction import EASIER, LIKELY, POSSIBLE, SURE, UNLIKELY, Correction, alike
from .site import Site
from .statements import acts_said, ways_said

#: What a place is called in a sentence.
START_WORDS = {"start": "what the player starts with"}


def thing_corrections(site: Site) -> Iterator[Correction]:
    """Yield every correction of a thing.

    Args:
        site: The level and one of its findings.
    """
    for kind in (
        _spare,
        _placements,
        _one_for_each,
        _swapped,
        _chests,
        _effects,
        _switches,
        _amounts,
        _goal,
    ):
        yield from kind(site)


def _spare(site: Site) -> Iterator[Correction]:
    """Take the units of a key that can be spared out of the level."""
    item = site.finding.subject
    keys = site.report.answers.measures.keys
    if site.finding.code != "spare-keys" or item not in keys:
        return
    edits: list[Edit] = []
    document = site.document
    for where in keys[item].spare_in:
        out = LevelDocument(site.level, document).without_one_of(item, where)
        if not out:
            return  # the file cannot say it
        edits += out
        document = edited(document, out)
    places = in_list([START_WORDS.get(one, one) for one in dict.fromkeys(keys[item].spare_in)])
    say = f"take out {len(keys[item].spare_in)} {item} ({places})"
    yield Correction(say, "take out", SURE, tuple(edits))


def _placements(site: Site) -> Iterator[Correction]:
    """Place a thing that lies in another room than was meant, or nowhere."""
    level = site.level
    given = {item for one in sources(level) for item in one.gives}
    own = [
        name for name, room in level.rooms.items() if room.cell is None or name != str(room.cell)
    ]
    empty = {room for room in own if not level.rooms[room].items}
    for item, kind in level.items.items():
        if kind.kind == "reward" and item in given:
            continue
        near = site.places_for(item) if item in site.items else []
        floors = [site.free_cell(room) for room in near if room not in own]
        for room in dict.fromkeys((*own, *(cell for cell in floors if cell))):
            edits = site.with_more(room, item)
            if edits:
                again = EASIER - (1.5 if room in own else 1)
                unlikely = (again if item in given else POSSIBLE - 0.2) - 0.2 * (room in empty)
                say = f"put one more {item} in {room}"
                yield Correction(say, f"more {item}", unlikely, tuple(edits), place=room)
        for source in (one for one in own if item in level.rooms[one].items):
            out = site.without_one(source, item)
            shut = source in site.report.unreached
            for target in own:
                put = site.with_more(target, item)
                if target == source or not out or not put:
                    continue
                unlikely = UNLIKELY - 0.6 * shut - 0.2 * (target in empty)
                say = f"move {item} from {source} to {target}"
                idea = f"move {item} from {source}"
                yield Correction(say, idea, unlikely, (*out, *put), place=target)


def _one_for_each(site: Site) -> Iterator[Correction]:
    """Place one for each player of every item that the finding speaks of, where such an item comes from."""
    if not site.level.several or site.finding.code != "cannot-finish":
        return
    edits: list[Edit] = []
    said: list[str] = []
    document, units = site.document, 0
    for item in site.items:
        giving = [one for one in sources(site.level) if item in one.gives]
        more = len(site.level.players) - site.placed(item)
        if item not in site.words or not giving or more <= 0:
            continue
        where = giving[0].room if giving[0].kind == "item" else giving[0].name
        put = LevelDocument(site.level, document).with_more(where, item, more)
        if put:
            edits += put
            said.append(f"{more} more {item} in {where}")
            document, units = edited(document, put), units + more
    if units > 1:  # one more of one item is a correction of its own
        say = f"put {in_list(said)}, so that each player can have one"
        yield Correction(say, "one for each", LIKELY, tuple(edits))


def _swapped(site: Site) -> Iterator[Correction]:
    """Exchange two things, each of which lies where the other should."""
    for item in site.items:
        for source in (room for room in site.level.rooms if item in site.level.rooms[room].items):
            for target in site.rooms:
                for other in site.level.rooms[target].items:
                    edits = site.exchanged(source, item, target, other) if other != item else None
                    if edits:
                        say = f"swap {item} in {source} and {other} in {target}"
                        yield Correction(say, "swap", UNLIKELY + 0.2, tuple(edits))


def _chests(site: Site) -> Iterator[Correction]:
    """Fill a chest that holds nothing."""
    given = {item for one in sources(site.level) for item in one.gives}
    for room, fields in site.rooms_said():
        for name, said in (fields.get("chests") or {}).items():
            does = said if isinstance(said, dict) else {}
            if not does.get("holds"):
                for item in site.level.items:
                    unlikely = SURE if item not in given else UNLIKELY
                    path: Path = ("rooms", room, "chests", name)
                    say = f"let {name} hold {item}"
                    yield Correction(
                        say, f"holds {name}", unlikely, (Edit(path, {**does, "holds": [item]}),)
                    )


def _effects(site: Site) -> Iterator[Correction]:
    """Correct a switch or act that does nothing, or turns a flag the wrong way."""
    idle = [*dict.fromkeys((*site.flags, *sorted(site.level.all_flags())))]
    given = {item for one in sources(site.level) for item in one.gives}
    lacking = [name for name in site.level.items if name not in given]
    for path, name, does in acts_said(site.document):
        for old, new, how in (
            ("clears", "sets", "on"), ("sets", "clears", "off"),
            ("clears", "flips", "on and off"), ("sets", "flips", "on and off"),
        ):  # fmt: skip
            if isinstance(does.get(old), str) and new not in does:
                rest = {(new if key == old else key): one for key, one in does.items()}
                say = f"let {name} turn {does[old]} {how}"
                unlikely = (LIKELY if old == "clears" else POSSIBLE) + 0.3 * (new == "flips")
                yield Correction(say, f"effect of {name}", unlikely, (Edit(path, rest),))
        if does.get("once"):
            say = f"let {name} be used again and again"
            yield Correction(say, f"once {name}", LIKELY, (Edit((*path, "once"), REMOVED),))
        if {"sets", "clears", "flips", "gives", "opens", "teaches"} & does.keys():
            continue
        usual = "sets" if "act" in str(path[2]) else "flips"
        for flag in idle:
            for effect, how in (("flips", "on and off"), ("sets", "on")):
                say = f"let {name} turn {flag} {how}"
                unlikely = LIKELY - 0.2 * alike(name, flag) + 0.1 * (effect != usual)
                edit = Edit(path, {**does, effect: flag})
                yield Correction(say, f"effect of {name}", unlikely, (edit,))
        for item in lacking:
            edit = Edit(path, {**does, "gives": item})
            yield Correction(f"let {name} give {item}", f"effect of {name}", LIKELY, (edit,))


def _switches(site: Site) -> Iterator[Correction]:
    """Add a switch for a flag, where the player is stuck without it."""
    route = site.finding.route
    room = site.level.start if route is None else site.room_of(route.positions[-1])
    for flag in site.flags:
        edits = site.with_switch(room, f"{flag}-switch", flag) if room else None
        if edits:
            say = f"put a switch in {room} that turns {flag} on and off"
            yield Correction(say, "new switch", EASIER, tuple(edits))


def _amounts(site: Site) -> Iterator[Correction]:
    """Start with more, lose less on a way, or make more room to carry things."""
    inventory = site.document.get("inventory")
    said = inventory if isinstance(inventory, dict) else {}
    start = said.get("start")
    for item, count in start.items() if isinstance(start, dict) else ():
        for more in (1, 2, 3) if isinstance(count, int) else ():
            say = f"start with {count + more} {item} instead of {count}"
            edit = Edit(("inventory", "start", item), count + more)
            yield Correction(say, f"start with {item}", UNLIKELY + 0.1 * more, (edit,))
    for path, text, fields in ways_said(site):
        loses = fields.get("loses")
        for item, count in loses.items() if isinstance(loses, dict) else ():
            for less in range(1, count) if isinstance(count, int) else ():
                say = f"let {fields.get('name', text)} lose {less} {item} instead of {count}"
                edit = Edit((*path, text, "loses", item), less)
                yield Correction(say, f"loses {item}", UNLIKELY + 0.1 * (count - less), (edit,))
    if said.get("drop") is True:
        edit = Edit(("inventory", "drop"), REMOVED)
        yield Correction("let nothing be put down", "no drop", UNLIKELY, (edit,))
    slots = said.get("slots")
    if not isinstance(slots, int):
        return
    for more in (1, 2, 3):
        say = f"carry {slots + more} at once instead of {slots}"
        edit = Edit(("inventory", "slots"), slots + more)
        yield Correction(say, "slots", EASIER - 1 + 0.1 * more, (edit,))
    if not said.get("drop"):
        edit = Edit(("inventory", "drop"), True)
        yield Correction("let things be put down", "drop", EASIER, (edit,))


def _goal(site: Site) -> Iterator[Correction]:
    """Move the goal to another room."""
    goal = site.document.get("goal")
    if not isinstance(goal, str):
        return
    own = [
        name
        for name, room in site.level.rooms.items()
        if room.cell is None or name != str(room.cell)
    ]
    for found in re.finditer(r"[A-Za-z][\w@,-]*", goal):
        if found[0] in site.level.rooms:
            for room in own:
                if room != found[0]:
                    new = goal[: found.start()] + room + goal[found.end() :]
                    last = own.index(room) == len(own) - 1
                    unlikely = EASIER - 1 - 0.5 * last
                    yield Correction(
                        f"let the goal be {new}", "goal", unlikely, (Edit(("goal",), new),)
                    )
