"""Corrections of passages: turned, forgotten, collapsing, or without the lock or gate that was meant."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from itertools import chain
from typing import Any

from ..language.text.editing import REMOVED, Edit, Path
from ..level import ALWAYS, Passage
from ..values import replace
from .correction import EASIER, GATED, LIKELY, POSSIBLE, UNLIKELY, Correction, alike
from .site import Site
from .statements import idle_keys, ways_said, with_field, without_field


def way_corrections(site: Site) -> Iterator[Correction]:
    """Yield every correction of a passage.

    Args:
        site: The level and one of its findings.
    """
    for kind in (_ways, _fields_of_ways, _lockless, _new_ways):
        yield from kind(site)
    yield from (replace(one, near=True) for one in walk_corrections(site))


def walk_corrections(site: Site) -> Iterator[Correction]:
    """Yield the corrections of a passage whose walk is the mistake.

    Args:
        site: The level and one of its findings.
    """
    yield from _gates_before(site)
    yield from _ways_back(site)


def _ways(site: Site) -> Iterator[Correction]:
    """Make a way two-way or one-way, turn it round, or take it out."""
    for path, text, fields in ways_said(site):
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


def _ends(text: str) -> tuple[str, str, str] | None:
    found = re.fullmatch(r"\s*(\S+)\s+(<->|->)\s+(\S+)\s*", text)
    return (found[1], found[2], found[3]) if found else None


def _fields_of_ways(site: Site) -> Iterator[Correction]:
    """Keep a passage that collapses, or a door that shuts again, open."""
    for path, text, fields in ways_said(site):
        name = fields.get("name", text)
        if "once" in fields:
            yield Correction(
                f"let {name} stay, and not collapse",
                "once",
                LIKELY,
                without_field(path, text, fields, "once"),
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


def _lock_without(path: Path, said: dict[str, Any], field: str) -> tuple[Edit, ...]:
    left = {key: one for key, one in said.items() if key != field}
    if set(left) == {"needs"}:
        return (Edit(path, left["needs"]),)
    return (Edit((*path, field), REMOVED),)


def _gates_before(site: Site) -> Iterator[Correction]:
    """Add a gate before the point of no return; it asks for what the player would lack beyond it."""
    for passage in _walked(site):
        asked = "" if passage.gate == ALWAYS else str(passage.gate)
        wanted = [flag for name in site.flags for flag in (name, f"not {name}")]
        for item in site.items:
            most = min(3, site.placed(item))
            wanted += [f"{units} {item}" if units > 1 else item for units in range(1, most + 1)]
        for wants in wanted:
            gate = f"({asked}) and {wants}" if asked else wants
            found = site.entry(passage)
            if found is not None:
                edits = with_field(*found, "gate", gate)
                say = f"let {passage.name} ask for {wants} (a gate)"
                yield Correction(say, f"gate {passage.name}", GATED, tuple(edits))


def _ways_back(site: Site) -> Iterator[Correction]:
    """Add a way back from where there is none."""
    passages = site.document.get("passages")
    for passage in _walked(site) if isinstance(passages, list) else ():
        back = f"{passage.b} -> {passage.a}"
        edit = Edit(("passages", len(passages)), back)
        yield Correction(f"add a way back, {back}", f"way back {back}", EASIER - 1, (edit,))


def _walked(site: Site) -> list[Passage]:
    """The passages whose walk is the mistake."""
    return [
        one for one in site.passages if site.walked in (one.name, one.thing) and one.part_of is None
    ]


def _lockless(site: Site) -> Iterator[Correction]:
    """Give a passage without a lock or gate one of them."""
    idle = idle_keys(site)
    flags = site.level.all_flags()
    for path, text, fields in ways_said(site):
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
    """Add a forgotten way to or from a room that no run enters or leaves."""
    passages = site.document.get("passages")
    if not isinstance(passages, list | None):
        return

    def added(way: Any) -> tuple[Edit, ...]:
        last: Path = ("passages", len(passages or ()))
        return (Edit(last, way) if passages else Edit(("passages",), [way]),)

    level, flags, idle = site.level, site.level.all_flags(), idle_keys(site)
    own = [name for name, room in level.rooms.items() if room.cell is None or "@" not in name]
    order = {name: at for at, name in enumerate(own)}
    # Whatever is shut: a way to a room behind a door is no way that was forgotten, but one round the door.
    met = set(level.connected(level.start_rooms()))
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
