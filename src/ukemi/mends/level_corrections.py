"""Corrections of a level that can be read: each undoes a mistake in what the file says."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterator
from itertools import chain
from typing import Any

from ..checks.accepting import subjects_of
from ..facts.supply_and_demand import all_costs
from ..files.editing import REMOVED, Edit, Path
from ..level import ALWAYS, Has, HasAll, Passage
from ..level.asked import all_conditions
from ..level.conditions import atoms
from ..level.language.accepted import CODES
from ..level.names import in_list
from ..level.sources import sources
from .correction import EASIER, GATED, LIKELY, POSSIBLE, SURE, UNLIKELY, Correction, alike
from .site import Site, acts_said

Kind = Callable[[Site], Iterator[Correction]]


def level_corrections(site: Site) -> Iterator[Correction]:
    """Every correction of what a level says, in no order.

    Args:
        site: The level and one of its findings.
    """
    for kind in (
        _ways, _fields_of_ways, _gates, _gates_before, _ways_back, _locks, _lockless, _new_ways, _counts,
        _asks_less, _amounts, _uses, _effects, _chests, _placements, _on_floors, _swapped, _switches, _goal,
    ):  # fmt: skip
        yield from kind(site)


def _said(site: Site) -> Iterator[tuple[Path, str, dict[str, Any]]]:
    """The passages of the file: where each stands, its text and its fields."""
    for number, said in enumerate(site.document.get("passages") or ()):
        if isinstance(said, str):
            yield ("passages", number), said, {}
        elif isinstance(said, dict) and len(said) == 1:
            text, fields = next(iter(said.items()))
            if isinstance(fields, dict | None):
                yield ("passages", number), text, fields or {}


def _ends(text: str) -> tuple[str, str, str] | None:
    found = re.fullmatch(r"\s*(\S+)\s+(<->|->)\s+(\S+)\s*", text)
    return (found[1], found[2], found[3]) if found else None


def _ways(site: Site) -> Iterator[Correction]:
    """A way that leads the wrong way, or should not be there."""
    for path, text, fields in _said(site):
        ends = _ends(text)
        if ends is None:
            continue
        a, arrow, b = ends
        name = fields.get("name", text)
        if arrow == "->":
            for new, say in (
                (f"{a} <-> {b}", f"make {name} two-way"),
                (f"{b} -> {a}", f"let {name} lead from {b} to {a}"),
            ):
                yield Correction(
                    say, say, POSSIBLE, (Edit(path, {new: fields} if fields else new),)
                )
        else:
            for x, y in ((a, b), (b, a)):
                new = f"{x} -> {y}"
                say = f"let {name} lead from {x} to {y} alone"
                yield Correction(
                    say, "one way", UNLIKELY, (Edit(path, {new: fields} if fields else new),)
                )
        if not fields:
            yield Correction(f"take out {text}", "take out", POSSIBLE, (Edit(path, REMOVED),))


def _fields_of_ways(site: Site) -> Iterator[Correction]:
    """A passage that collapses, or a door that shuts again, which should not."""
    for path, text, fields in _said(site):
        name = fields.get("name", text)
        if "once" in fields:
            yield Correction(
                f"let {name} stay, and not collapse",
                "once",
                LIKELY,
                _less(path, text, fields, "once"),
            )
    for name, path, said in site.locks():
        if isinstance(said, dict) and "relocks" in said:
            yield Correction(
                f"let {name} stay open", "relocks", LIKELY, _lock_without(path, said, "relocks")
            )
        if isinstance(said, dict) and "from" in said:
            say = f"let {name} be unlocked from either side"
            yield Correction(say, "side", LIKELY, _lock_without(path, said, "from"))
            for passage in site.passages:
                if passage.thing == name:
                    other = passage.b if said["from"] == passage.a else passage.a
                    say = f"let {name} be unlocked from {other}"
                    yield Correction(say, "side", POSSIBLE, (Edit((*path, "from"), other),))


def _less(path: Path, text: str, fields: dict[str, Any], field: str) -> tuple[Edit, ...]:
    left = {key: one for key, one in fields.items() if key != field}
    return (Edit(path, {text: left} if left else text),)


def _lock_without(path: Path, said: dict[str, Any], field: str) -> tuple[Edit, ...]:
    left = {key: one for key, one in said.items() if key != field}
    if set(left) == {"needs"}:
        return (Edit(path, left["needs"]),)
    return (Edit((*path, field), REMOVED),)


def _conditions(site: Site) -> Iterator[tuple[str, Path, str]]:
    """Each condition of the file: of what, where it stands, and what it says."""
    goal = site.document.get("goal")
    if isinstance(goal, str):
        yield "the goal", ("goal",), goal
    for name, path, said in site.locks():
        if isinstance(said, str):
            yield name, path, said
        elif isinstance(said, dict) and isinstance(said.get("needs"), str):
            yield name, (*path, "needs"), said["needs"]
    for path, name, does in acts_said(site.document):
        if isinstance(does.get("needs"), str):
            yield name, (*path, "needs"), does["needs"]
    for path, text, fields in _said(site):
        if isinstance(fields.get("gate"), str):
            yield str(fields.get("name", text)), (*path, text, "gate"), fields["gate"]
    for symbol, said in (site.document.get("legend") or {}).items():
        if isinstance(said, dict) and isinstance(said.get("gate"), str):
            yield str(said.get("name", symbol)), ("legend", symbol, "gate"), said["gate"]


def _gates(site: Site) -> Iterator[Correction]:
    """A gate that holds just when it should not."""
    for name, path, gate in _conditions(site):
        if path[-1] == "gate" and " and " not in gate and " or " not in gate:
            other = gate[4:] if gate.startswith("not ") else f"not {gate}"
            yield Correction(f"let {name} ask for {other}", "gate", POSSIBLE, (Edit(path, other),))
    for path, text, fields in _said(site):
        if "gate" in fields:
            say = f"take the gate off {fields.get('name', text)}"
            yield Correction(say, "no gate", EASIER, _less(path, text, fields, "gate"))


def _gates_before(site: Site) -> Iterator[Correction]:
    """A gate before the point of no return that asks for what would be missing."""
    for passage in _walked(site):
        asked = "" if passage.gate == ALWAYS else str(passage.gate)
        wanted = [flag for name in site.flags for flag in (name, f"not {name}")]
        for item in site.items:
            most = min(3, site.placed(item))
            wanted += [f"{units} {item}" if units > 1 else item for units in range(1, most + 1)]
        for wants in wanted:
            gate = f"({asked}) and {wants}" if asked else wants
            edits = site.set_field(passage, "gate", gate)
            if edits:
                say = f"let {passage.name} ask for {wants} (a gate)"
                yield Correction(say, "a gate", GATED, tuple(edits))


def _ways_back(site: Site) -> Iterator[Correction]:
    """A way back from where there is none."""
    passages = site.document.get("passages")
    for passage in _walked(site) if isinstance(passages, list) else ():
        back = f"{passage.b} -> {passage.a}"
        edit = Edit(("passages", len(passages)), back)
        yield Correction(f"add a way back, {back}", "way back", EASIER - 1, (edit,))


def _walked(site: Site) -> list[Passage]:
    """The passages whose walk is the mistake."""
    move = site.finding.mistake or {}
    return [
        one
        for one in site.passages
        if move.get("do") == "walk"
        and move.get("name") in (one.name, one.thing)
        and not one.part_of
    ]


def _locks(site: Site) -> Iterator[Correction]:
    """A lock that asks for the key of another."""
    idle = _idle_keys(site)
    named = [*(site.document.get("locks") or {})]
    keys = [name for name, item in site.level.items.items() if item.kind in ("key", "tool")]
    for name, path, said in site.locks():
        needs = (
            said if isinstance(said, str) else said.get("needs") if isinstance(said, dict) else None
        )
        where = path if isinstance(said, str) else (*path, "needs")
        if path[0] == "locks" or not isinstance(needs, str):
            others = keys if isinstance(needs, str) else []
        else:
            others = [*named, *keys] if isinstance(said, str) else keys
        for other in others:
            if other != needs:
                unlikely = LIKELY if other in idle else UNLIKELY
                unlikely -= 0.2 * alike(name, other)
                yield Correction(
                    f"let {name} ask for {other}", f"key of {name}", unlikely, (Edit(where, other),)
                )
        if path[0] not in ("locks", "legend"):
            yield Correction(f"take the lock off {name}", "no lock", EASIER, (Edit(path, REMOVED),))


def _idle_keys(site: Site) -> list[str]:
    """Keys and tools that nothing asks for, flags that nothing tests, and locks that nothing has."""
    asked: set[str] = set()
    for one in all_conditions(site.level):
        for atom in atoms(one.condition):
            if isinstance(atom, Has | HasAll):
                asked.add(atom.name if isinstance(atom, Has) else atom.item)
    for counts, _, _ in all_costs(site.level):
        asked |= counts.keys()
    idle = [
        n for n, item in site.level.items.items() if item.kind in ("key", "tool") and n not in asked
    ]
    used = {str(said) for name, path, said in site.locks() if path[0] != "locks"}
    idle += [name for name in site.document.get("locks") or {} if name not in used]
    return idle + [flag for flag in sorted(site.level.all_flags()) if flag not in asked]


def _lockless(site: Site) -> Iterator[Correction]:
    """A way that lost its lock or its gate."""
    idle = _idle_keys(site)
    flags = site.level.all_flags()
    for path, text, fields in _said(site):
        if {"lock", "gate"} & fields.keys():
            continue
        name = str(fields.get("name", text))
        for wants in idle:
            field = "gate" if wants in flags else "lock"
            unlikely = POSSIBLE - 0.4 * alike(name, wants) - (0.3 if "name" in fields else 0)
            tool = wants in site.level.items and site.level.items[wants].kind == "tool"
            unlikely += 0.3 * tool
            says = {text: {**fields, field: wants}}
            say = f"let {name} ask for {wants} (a {field})"
            yield Correction(say, f"{field} {wants}", unlikely, (Edit(path, says),))
            if field == "gate":
                says = {text: {**fields, field: f"not {wants}"}}
                say = f"let {name} ask for not {wants} (a gate)"
                yield Correction(say, f"{field} {wants}", unlikely + 0.1, (Edit(path, says),))
            elif tool:
                says = {text: {**fields, "gate": wants}}
                say = f"let {name} ask for {wants} (a gate)"
                yield Correction(say, f"gate {wants}", unlikely - 0.3, (Edit(path, says),))


def _new_ways(site: Site) -> Iterator[Correction]:
    """A way that was forgotten, to or from a room that no run enters or leaves."""
    passages = site.document.get("passages")
    if not isinstance(passages, list | None):
        return

    def added(way: Any) -> tuple[Edit, ...]:
        last: Path = ("passages", len(passages or ()))
        return (Edit(last, way) if passages else Edit(("passages",), [way]),)

    level, flags, idle = site.level, site.level.all_flags(), _idle_keys(site)
    own = [name for name, room in level.rooms.items() if room.cell is None or "@" not in name]
    order = {name: at for at, name in enumerate(own)}
    # Whatever is shut: a way to a room behind a door is no way that was forgotten, but one round the door.
    met = set(level.connected([level.start] if level.start else []))
    reached = [name for name in own if name in met]
    cut_off = [name for name in own if name not in met]
    joined = {frozenset((one.a, one.b)) for one in level.passages}
    degree = Counter(chain.from_iterable(joined))
    wanted = {name for name in own if degree[name] <= 1}
    for a in own:
        for b in own if not cut_off else cut_off if a in met else reached:
            if a == b or frozenset((a, b)) in joined or not (cut_off or {a, b} & wanted):
                continue
            far = min(abs(order[a] - order[b]), 6) * 0.1
            unlikely = POSSIBLE + far + (0 if cut_off else 3)
            if order[a] < order[b]:
                way = f"{a} <-> {b}"
                yield Correction(f"add {way}", "new way", unlikely, added(way))
                for wants in idle:
                    asking = {way: {"gate" if wants in flags else "lock": wants}}
                    say, idea = f"add {way}, which asks for {wants}", f"new way with {wants}"
                    yield Correction(say, idea, unlikely - 0.2, added(asking))
            way = f"{a} -> {b}"
            yield Correction(f"add {way}", "new way", unlikely + 0.6, added(way))


def _counts(site: Site) -> Iterator[Correction]:
    """A condition that asks for more than there is."""
    for name, path, said in _conditions(site):
        for found in re.finditer(r"\b(\d+) ([A-Za-z][\w-]*)", said):
            for fewer in range(int(found[1]) - 1, 0, -1):
                less = f"{fewer} {found[2]}" if fewer > 1 else found[2]
                new = said[: found.start()] + less + said[found.end() :]
                idea = f"count of {name}"
                for named, lock in (site.document.get("locks") or {}).items():
                    needs = lock.get("needs") if isinstance(lock, dict) else lock
                    if new == needs and path[-1] in ("lock", "needs") and path[0] != "locks":
                        say = f"let {name} ask for {named} instead of {found[0]}"
                        yield Correction(say, idea, SURE, (Edit(path, named),))
                say = f"let {name} ask for {less} instead of {found[0]}"
                yield Correction(say, idea, LIKELY + 0.1 * fewer, (Edit(path, new),))


def _asks_less(site: Site) -> Iterator[Correction]:
    """A condition that asks for something too much."""
    for name, path, said in _conditions(site):
        parts = said.split(" and ")
        if path == ("goal",) or "(" in said or " or " in said:
            continue
        for part in parts:
            left = " and ".join(one for one in parts if one is not part)
            if left or path[-1] not in ("lock", "gate"):
                say = f"let {name} not ask for {part}"
                yield Correction(say, "asks less", EASIER, (Edit(path, left or REMOVED),))


def _amounts(site: Site) -> Iterator[Correction]:
    """Too little to start with, or too much lost on a way; too little room to carry."""
    inventory = site.document.get("inventory")
    said = inventory if isinstance(inventory, dict) else {}
    start = said.get("start")
    for item, count in start.items() if isinstance(start, dict) else ():
        for more in (1, 2, 3) if isinstance(count, int) else ():
            say = f"start with {count + more} {item} instead of {count}"
            edit = Edit(("inventory", "start", item), count + more)
            yield Correction(say, f"start with {item}", UNLIKELY + 0.1 * more, (edit,))
    for path, text, fields in _said(site):
        loses = fields.get("loses")
        for item, count in loses.items() if isinstance(loses, dict) else ():
            for less in range(1, count) if isinstance(count, int) else ():
                say = f"let {fields.get('name', text)} lose {less} {item} instead of {count}"
                edit = Edit((*path, text, "loses", item), less)
                yield Correction(say, f"loses {item}", UNLIKELY + 0.1 * (count - less), (edit,))
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


def _uses(site: Site) -> Iterator[Correction]:
    """A key that is used up and should be kept, or the other way round."""
    for name, item in site.level.items.items():
        if item.kind == "reward" or name not in (site.document.get("items") or {}):
            continue
        path: Path = ("items", name, "use")
        if item.use == "spent":
            asked = sum(name in str(said) for _, _, said in site.locks())
            unlikely = POSSIBLE if asked > site.placed(name) else UNLIKELY
            yield Correction(
                f"let {name} be kept when it is used", "kept", unlikely, (Edit(path, REMOVED),)
            )


def _effects(site: Site) -> Iterator[Correction]:
    """A switch or act that does nothing, or turns a flag the wrong way."""
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


def _chests(site: Site) -> Iterator[Correction]:
    """A chest that holds nothing."""
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


def _placements(site: Site) -> Iterator[Correction]:
    """A thing that lies in another room than was meant, or nowhere."""
    level = site.level
    given = {item for one in sources(level) for item in one.gives}
    own = [
        name for name, room in level.rooms.items() if room.cell is None or name != str(room.cell)
    ]
    empty = {room for room in own if not level.rooms[room].items}
    for item, kind in level.items.items():
        if kind.kind == "reward" and item in given:
            continue
        for room in own:
            edits = site.with_one_more(room, item)
            if edits:
                unlikely = (POSSIBLE if item not in given else EASIER - 1.5) - 0.2 * (room in empty)
                yield Correction(
                    f"put one more {item} in {room}", f"more {item}", unlikely, tuple(edits)
                )
        for source in (one for one in own if item in level.rooms[one].items):
            out = site.without_one(source, item)
            shut = source in site.report.unreached
            for target in own:
                put = site.with_one_more(target, item)
                if target == source or not out or not put:
                    continue
                unlikely = UNLIKELY - 0.6 * shut - 0.2 * (target in empty)
                say = f"move {item} from {source} to {target}"
                yield Correction(say, f"move {item}", unlikely, (*out, *put))


def _on_floors(site: Site) -> Iterator[Correction]:
    """One more of a thing on a cell of a map."""
    for item in site.items:
        for room in site.places_for(item):
            edits = site.with_one_more(room, item) if "@" in room else None
            if edits:
                say = f"put one more {item} in {room}"
                yield Correction(say, f"more {item}", EASIER - 1, tuple(edits))


def _swapped(site: Site) -> Iterator[Correction]:
    """Two things that lie each where the other should."""
    for item in site.items:
        for source in (room for room in site.level.rooms if item in site.level.rooms[room].items):
            for target in site.rooms:
                for other in site.level.rooms[target].items:
                    edits = site.exchanged(source, item, target, other) if other != item else None
                    if edits:
                        say = f"swap {item} in {source} and {other} in {target}"
                        yield Correction(say, "swap", UNLIKELY + 0.2, tuple(edits))


def _switches(site: Site) -> Iterator[Correction]:
    """A switch for a flag, where the player is stuck without it."""
    route = site.finding.route
    room = site.level.start if route is None else site.room_of(route.positions[-1])
    for flag in site.flags:
        edits = site.with_switch(room, f"{flag}-switch", flag) if room else None
        if edits:
            say = f"put a switch in {room} that turns {flag} on and off"
            yield Correction(say, "new switch", EASIER, tuple(edits))


def acceptance(site: Site) -> Iterator[Correction]:
    """A warning or note that the designer may have meant.

    Args:
        site: The level and the finding.
    """
    finding = site.finding
    if finding.severity == "error" or finding.code not in CODES:
        return
    said = (site.document.get("accept") or {}).get(finding.code)
    before = [] if said is None else [said] if isinstance(said, str) else list(said)
    names = [*before, *sorted(name for _, name in subjects_of(finding) if name not in before)]
    say = f"if it is meant, accept {finding.code} for {in_list(names)}"
    edit = Edit(("accept", finding.code), names[0] if len(names) == 1 else names)
    yield Correction(say, "accept", EASIER + 3, (edit,))


def _goal(site: Site) -> Iterator[Correction]:
    """A goal in another room than was meant."""
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
