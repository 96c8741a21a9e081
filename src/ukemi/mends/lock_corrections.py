"""Corrections of conditions: another key, a count, a gate that holds just when it should not."""

from __future__ import annotations

import re
from collections.abc import Iterator
from itertools import pairwise

from ..language.text.editing import REMOVED, Edit, Path
from ..level import ALWAYS, Level
from .correction import EASIER, LIKELY, POSSIBLE, SURE, UNLIKELY, Correction, alike
from .site import Site
from .statements import conditions_said, idle_keys, ways_said, with_field, without_field


def lock_corrections(site: Site) -> Iterator[Correction]:
    """Yield every correction of a lock, a gate or another condition.

    Args:
        site: The level and one of its findings.
    """
    for kind in (_gates, _locks, _counts, _asks_less, _uses, _in_order):
        yield from kind(site)


def _gates(site: Site) -> Iterator[Correction]:
    """Negate a gate, let it ask for something that nothing asks for, or take it off."""
    idle = {*idle_keys(site)} & {*site.level.items, *site.level.all_flags()}
    for name, path, gate in conditions_said(site):
        if path[-1] == "gate" and " and " not in gate and " or " not in gate:
            other = gate[4:] if gate.startswith("not ") else f"not {gate}"
            others = [(other, POSSIBLE)]
            others += [(one, LIKELY - 0.2 * alike(name, one)) for one in sorted(idle)]
            for new, unlikely in others:
                yield Correction(f"let {name} ask for {new}", "gate", unlikely, (Edit(path, new),))
    for path, text, fields in ways_said(site):
        if "gate" in fields:
            say = f"take the gate off {fields.get('name', text)}"
            yield Correction(say, "no gate", EASIER, without_field(path, text, fields, "gate"))
    for room, fields in site.rooms_said():
        if "gate" in fields:
            edit = Edit(("rooms", room, "gate"), REMOVED)
            yield Correction(f"take the gate off {room}", "no gate", EASIER, (edit,))


def _locks(site: Site) -> Iterator[Correction]:
    """Let a lock ask for another key, or take it off."""
    idle = idle_keys(site)
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


def _counts(site: Site) -> Iterator[Correction]:
    """Let a condition ask for no more than there is."""
    for name, path, said in conditions_said(site):
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
    """Leave one part out of what a condition asks for."""
    for name, path, said in conditions_said(site):
        parts = said.split(" and ")
        if path == ("goal",) or "(" in said or " or " in said:
            continue
        for part in parts:
            left = " and ".join(one for one in parts if one is not part)
            if left or path[-1] not in ("lock", "gate"):
                say = f"let {name} not ask for {part}"
                yield Correction(say, "asks less", EASIER, (Edit(path, left or REMOVED),))


def _uses(site: Site) -> Iterator[Correction]:
    """Let a key be kept that is used up."""
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


def _in_order(site: Site) -> Iterator[Correction]:
    """Make a thing come after another, as the level expects."""
    finding, level = site.finding, site.level
    if finding.code != "expectation-failed" or "`order: " not in finding.message:
        return
    for claim in level.expected.order:
        for first, then in pairwise(claim.names):
            wants = _once_done(level, first)
            if (
                then != finding.subject
                or f"`order: {first}, {then}`" not in finding.message
                or not wants
            ):
                continue
            say = f"let {then} ask for {wants}"
            for path, field in _asking(site, then):
                said = site.at((*path, field))
                asked = f"({said}) and {wants}" if said else wants
                yield Correction(say, "in order", LIKELY, (Edit((*path, field), asked),))
            for passage in (one for one in site.passages if one.thing == then and one.lock is None):
                found = site.entry(passage)
                if found is not None:
                    asked = f"({passage.gate}) and {wants}" if passage.gate != ALWAYS else wants
                    edits = with_field(*found, "gate", asked)
                    yield Correction(f"{say} (a gate)", "in order", LIKELY, tuple(edits))
            for name, path, said in site.locks():
                where = (*path, "needs") if isinstance(said, dict) else path
                asked = site.at(where)
                if name == then and path[0] == "passages" and isinstance(asked, str):
                    needs = str(level.locks[asked].needs) if asked in level.locks else asked
                    if where == path or asked == needs:
                        yield Correction(
                            say, "in order", LIKELY, (Edit(where, f"({needs}) and {wants}"),)
                        )


def _once_done(level: Level, name: str) -> str | None:
    """The condition that holds once a thing is done; ``None`` if there is none."""
    thing = level.things.get(name)
    if thing is not None:
        return f"opened {name}" if thing.kind in ("door", "chest") else f"done {name}"
    item = level.items.get(name)
    return name if item is not None and item.use == "kept" else None


def _asking(site: Site, name: str) -> Iterator[tuple[Path, str]]:
    """Where a room, chest, act or switch says what it asks for."""
    if name in (site.document.get("rooms") or ()):
        yield ("rooms", name), "gate"
    for room, fields in site.rooms_said():
        for kind in ("switches", "acts"):
            if name in (fields.get(kind) or {}):
                yield ("rooms", room, kind, name), "needs"
        if name in (fields.get("chests") or {}) and isinstance(
            site.at(("rooms", room, "chests", name, "lock", "needs")), str | None
        ):
            yield ("rooms", room, "chests", name, "lock"), "needs"
