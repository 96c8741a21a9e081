"""The kinds of change that are tried, each a function from a finding to changes, smallest first."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from itertools import zip_longest
from typing import Any, NamedTuple

from ..checks.accepting import subjects_of
from ..files.editing import REMOVED, Edit
from ..findings.of_layout.copied_key import copies
from ..level import Passage
from ..level.language.accepted import CODES
from ..level.names import in_list
from .site import Site


class Change(NamedTuple):
    """A change to try."""

    say: str
    edits: list[Edit]


Kind = Callable[[Site], Iterator[Change]]

KINDS: list[Kind] = []


def kind(tried: Kind) -> Kind:
    """Take up a kind of change."""
    KINDS.append(tried)
    return tried


def changes(site: Site) -> Iterator[Change]:
    """Every change to try for a finding: the first of each kind, then the second of each.

    That it is meant is said last.

    Args:
        site: The level and the finding.
    """
    if site.finding.code == "copied-key":
        yield from _own_key(site)
    else:
        for some in zip_longest(*(one(site) for one in KINDS if one is not accepted)):
            yield from (one for one in some if one is not None)
    yield from accepted(site)


@kind
def side_of_lock(site: Site) -> Iterator[Change]:
    """A lock that can only be opened from the side one does not come from."""
    for name, path, said in site.locks():
        if isinstance(said, dict) and "from" in said:
            yield Change(
                f"let {name} be unlocked from either side", [Edit((*path, "from"), REMOVED)]
            )


@kind
def two_way(site: Site) -> Iterator[Change]:
    """A one-way passage that should lead back too, or the other way round."""
    for passage in site.passages:
        found = site.entry(passage)
        if passage.two_way or found is None:
            continue
        path, said = found
        for text, say in (
            (f"{passage.a} <-> {passage.b}", "two-way"),
            (f"{passage.b} -> {passage.a}", f"lead from {passage.b} to {passage.a}"),
        ):
            new = {text: next(iter(said.values()))} if isinstance(said, dict) else text
            make = f"make {passage.name} {say}" if say == "two-way" else f"let {passage.name} {say}"
            yield Change(make, [Edit(path, new)])


@kind
def gate_before(site: Site) -> Iterator[Change]:
    """A gate before the point of no return that asks for what would be missing."""
    move = site.finding.mistake or {}
    if move.get("do") != "walk":
        return
    for passage in _walked(site, move):
        asked = (
            str(passage.gate) if site.entry(passage) and "gate" in _fields(site, passage) else ""
        )
        wanted = [flag for name in site.flags for flag in (name, f"not {name}")]
        for item in site.items:
            most = min(3, site.placed(item))
            wanted += [f"{units} {item}" if units > 1 else item for units in range(1, most + 1)]
        for wants in wanted:
            gate = f"({asked}) and {wants}" if asked else wants
            edits = site.set_field(passage, "gate", gate)
            if edits:
                yield Change(f"let {passage.name} ask for {wants} (a gate)", edits)


@kind
def one_more(site: Site) -> Iterator[Change]:
    """One more of what is missing, where the player can still go."""
    for item in site.items:
        for room in site.places_for(item):
            edits = site.with_one_more(room, item)
            if edits:
                yield Change(f"put one more {item} in {room}", edits)


@kind
def moved(site: Site) -> Iterator[Change]:
    """A key moved out from behind its own door."""
    for item in site.items:
        lying = [room for room in site.level.rooms if item in site.level.rooms[room].items]
        lying.sort(key=lambda room: room not in site.report.unreached)
        for source in lying:
            for target in site.places_for(item):
                out = site.without_one(source, item)
                put = site.with_one_more(target, item)
                if source != target and out and put and not _same_drawing(out, put):
                    yield Change(f"move {item} from {source} to {target}", [*out, *put])
                elif source != target:
                    drawn = site.redrawn(source, target, item)
                    if drawn:
                        yield Change(f"move {item} from {source} to {target}", drawn)


@kind
def other_lock(site: Site) -> Iterator[Change]:
    """Another lock on the door that wastes the key, or that asks for the wrong one."""
    others = [
        *(site.document.get("locks") or {}),
        *(n for n, i in site.level.items.items() if i.kind == "key"),
    ]
    locks = sorted(site.locks(), key=lambda one: one[0] not in site.words)
    for name, path, said in locks:
        if path[0] == "locks":
            continue
        for other in others:
            if isinstance(said, str) and other != said:
                yield Change(f"let {name} ask for {other}", [Edit(path, other)])
        if path[0] != "legend":
            yield Change(f"take the lock off {name}", [Edit(path, REMOVED)])


def _own_key(site: Site) -> Iterator[Change]:
    """The key that a copied lock should ask for."""
    copy = next(one for one in copies(site.level) if one.lock == site.finding.subject)
    for name, path, said in site.locks():
        if name == copy.lock:
            where = path if isinstance(said, str) else (*path, "needs")
            yield Change(f"let {name} ask for {copy.item}", [Edit(where, copy.item)])


@kind
def count(site: Site) -> Iterator[Change]:
    """A count that asks for more than there is."""
    for name, path, said in _conditions(site):
        for found in re.finditer(r"\b(\d+) ([A-Za-z][\w-]*)", said):
            number, item = int(found[1]), found[2]
            if item not in site.level.items:
                continue
            for fewer in range(number - 1, 0, -1):
                less = f"{fewer} {item}" if fewer > 1 else item
                new = said[: found.start()] + less + said[found.end() :]
                say = f"let {name} ask for {less} instead of {found[0]}"
                yield Change(say, [Edit(path, new)])


@kind
def asks_less(site: Site) -> Iterator[Change]:
    """A condition asks for an item that no run can carry there."""
    for name, path, said in sorted(
        _conditions(site), key=lambda one: not site.words & {one[0], *one[2].split()}
    ):
        parts = said.split(" and ")
        if path[-1] == "gate" and len(parts) > 1:
            yield Change(f"take the gate off {name}", [Edit(path, REMOVED)])
        if path == ("goal",) or "(" in said or " or " in said:
            continue
        for part in parts:
            left = " and ".join(one for one in parts if one is not part)
            if left or path[-1] != "lock":
                edit = Edit(path, left or REMOVED)
                yield Change(f"let {name} not ask for {part}", [edit])


@kind
def room_to_carry(site: Site) -> Iterator[Change]:
    """A larger inventory, or things that can be put down."""
    said = site.document.get("inventory") or {}
    slots = said.get("slots")
    if not isinstance(slots, int):
        return
    for more in (1, 2, 3):
        yield Change(
            f"carry {slots + more} at once instead of {slots}",
            [Edit(("inventory", "slots"), slots + more)],
        )
    if not said.get("drop"):
        yield Change("let things be put down", [Edit(("inventory", "drop"), True)])


@kind
def kept(site: Site) -> Iterator[Change]:
    """A key that stays with the player."""
    for item in site.items:
        if site.level.items[item].use == "spent":
            yield Change(
                f"let {item} be kept when it is used", [Edit(("items", item, "use"), REMOVED)]
            )


@kind
def way_back(site: Site) -> Iterator[Change]:
    """A way back from where there is none."""
    move = site.finding.mistake or {}
    route = site.finding.route
    if (
        move.get("do") != "walk"
        or route is None
        or not isinstance(site.document.get("passages"), list)
    ):
        return
    for passage in _walked(site, move):
        back = f"{passage.b} -> {passage.a}"
        yield Change(
            f"add a way back, {back}", [Edit(("passages", len(site.document["passages"])), back)]
        )


@kind
def floor_drawn(site: Site) -> Iterator[Change]:
    """A one-way tile that should be floor."""
    for room in (name for name in site.level.rooms if name in site.words):
        edits = site.with_floor(room)
        if edits:
            yield Change(f"draw floor at {room} instead of the one-way tile", edits)


@kind
def switch_within_reach(site: Site) -> Iterator[Change]:
    """A switch for a flag, if the player is stuck without it."""
    route = site.finding.route
    room = site.level.start if route is None else site.room_of(route.positions[-1])
    for flag in site.flags:
        name = f"{flag}-switch"
        edits = site.with_switch(room, name, flag) if room else None
        if edits:
            yield Change(f"put a switch in {room} that turns {flag} on and off", edits)


@kind
def again(site: Site) -> Iterator[Change]:
    """A switch that works once only, where it would have to be turned back."""
    for room, fields in site.rooms_said():
        for name, said in (fields.get("switches") or {}).items():
            if isinstance(said, dict) and said.get("once"):
                path = ("rooms", room, "switches", name, "once")
                yield Change(f"let {name} be used again and again", [Edit(path, REMOVED)])


@kind
def swapped(site: Site) -> Iterator[Change]:
    """Two things that lie each where the other should."""
    for item in site.items:
        for source in (room for room in site.level.rooms if item in site.level.rooms[room].items):
            for target in site.rooms:
                for other in site.level.rooms[target].items:
                    changed = (
                        None if other == item else _exchange(site, source, item, target, other)
                    )
                    if changed:
                        yield Change(f"swap {item} in {source} and {other} in {target}", changed)


@kind
def accepted(site: Site) -> Iterator[Change]:
    """A finding that the designer may have meant."""
    finding = site.finding
    if finding.severity == "error" or finding.code not in CODES:
        return
    said = (site.document.get("accept") or {}).get(finding.code)
    before = [] if said is None else [said] if isinstance(said, str) else list(said)
    names = [*before, *sorted(name for _, name in subjects_of(finding) if name not in before)]
    value = names[0] if len(names) == 1 else names
    yield Change(
        f"if it is meant, accept {finding.code} for {in_list(names)}",
        [Edit(("accept", finding.code), value)],
    )


def _exchange(site: Site, source: str, item: str, target: str, other: str) -> list[Edit] | None:
    if source == target or any(site.level.rooms[room].cell for room in (source, target)):
        return None
    parts = (
        site.without_one(source, item), site.with_one_more(target, item),
        site.without_one(target, other), site.with_one_more(source, other),
    )  # fmt: skip
    if any(part is None for part in parts):
        return None
    said = site.document["rooms"]
    edits = []
    for room, gone, come in ((source, item, other), (target, other, item)):
        items = said[room]["items"]
        new: Any = come
        if isinstance(items, list):
            new = [
                come if one == gone and items.index(one) == n else one
                for n, one in enumerate(items)
            ]
        elif isinstance(items, dict):
            return None
        edits.append(Edit(("rooms", room, "items"), new))
    return edits


def _walked(site: Site, move: dict[str, Any]) -> list[Passage]:
    return [
        one
        for one in site.passages
        if move.get("name") in (one.name, one.thing) and not one.part_of
    ]


def _fields(site: Site, passage: Passage) -> dict[str, Any]:
    found = site.entry(passage)
    fields = next(iter(found[1].values())) if found and isinstance(found[1], dict) else None
    return fields if isinstance(fields, dict) else {}


def _same_drawing(out: list[Edit], put: list[Edit]) -> bool:
    """Whether both change one value, so that the second would undo the first."""
    return bool({one.path for one in out} & {one.path for one in put}) or (
        out[0].path[:3] == put[0].path[:3] and out[0].path[0] == "rooms"
    )


def _conditions(site: Site) -> Iterator[tuple[str, tuple[str | int, ...], str]]:
    """Each condition of the file that may ask for too much: of what, where, and what it says."""
    goal = site.document.get("goal")
    if isinstance(goal, str):
        yield "the goal", ("goal",), goal
    for name, path, said in site.locks():
        if isinstance(said, str):
            yield name, path, said
        elif isinstance(said, dict) and isinstance(said.get("needs"), str):
            yield name, (*path, "needs"), said["needs"]
    for room, fields in site.rooms_said():
        for kind_of in ("switches", "acts"):
            for name, act in (fields.get(kind_of) or {}).items():
                if isinstance(act, dict) and isinstance(act.get("needs"), str):
                    yield name, ("rooms", room, kind_of, name, "needs"), act["needs"]
    for passage in site.passages:
        gate = _fields(site, passage).get("gate")
        found = site.entry(passage)
        if isinstance(gate, str) and found:
            yield passage.name, (*found[0], next(iter(found[1])), "gate"), gate
