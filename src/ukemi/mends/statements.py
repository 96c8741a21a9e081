"""Find where a level file describes its ways, conditions, switches and acts, and what it says."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ..facts.supply_and_demand import all_costs
from ..language.text.editing import Edit, Path
from ..level import Has, HasAll
from ..level.asked import all_conditions
from ..level.conditions import atoms
from .site import Site


def ways_said(site: Site) -> Iterator[tuple[Path, str, dict[str, Any]]]:
    """The passages of the file: where each stands, its text and its fields."""
    for number, said in enumerate(site.document.get("passages") or ()):
        if isinstance(said, str):
            yield ("passages", number), said, {}
        elif isinstance(said, dict) and len(said) == 1:
            text, fields = next(iter(said.items()))
            if isinstance(fields, dict | None):
                yield ("passages", number), text, fields or {}


def conditions_said(site: Site) -> Iterator[tuple[str, Path, str]]:
    """Each condition of the file: what it belongs to, where it stands, and what it says."""
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
    for path, text, fields in ways_said(site):
        if isinstance(fields.get("gate"), str):
            yield str(fields.get("name", text)), (*path, text, "gate"), fields["gate"]
    for symbol, said in (site.document.get("legend") or {}).items():
        if isinstance(said, dict) and isinstance(said.get("gate"), str):
            yield str(said.get("name", symbol)), ("legend", symbol, "gate"), said["gate"]
    for room, fields in site.rooms_said():
        if isinstance(fields.get("gate"), str):
            yield room, ("rooms", room, "gate"), fields["gate"]
        items = fields.get("items")
        for item, said in items.items() if isinstance(items, dict) else ():
            if isinstance(said, dict) and isinstance(said.get("needs"), str):
                yield f"{room}/{item}", ("rooms", room, "items", item, "needs"), said["needs"]
    events = site.document.get("events")
    for name, said in events.items() if isinstance(events, dict) else ():
        if isinstance(said, dict) and isinstance(said.get("when"), str):
            yield name, ("events", name, "when"), said["when"]


def idle_keys(site: Site) -> list[str]:
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


def without_field(path: Path, text: str, fields: dict[str, Any], field: str) -> tuple[Edit, ...]:
    """The edits that take a field of a passage away."""
    left = {key: one for key, one in fields.items() if key != field}
    return (Edit(path, {text: left} if left else text),)


def with_field(path: tuple[str | int, ...], said: Any, field: str, value: Any) -> list[Edit]:
    """The edits that set a field of a passage or a way, which may be its text alone."""
    if isinstance(said, str):
        return [Edit(path, {said: {field: value}})]
    text = next(iter(said))
    if said[text] is None:
        return [Edit(path, {text: {field: value}})]
    return [Edit((*path, text, field), value)]


def acts_said(document: Any) -> Iterator[tuple[tuple[str | int, ...], str, dict[str, Any]]]:
    """The switches and acts of a file: where each stands, its name and its fields."""
    rooms, legend = document.get("rooms"), document.get("legend")
    for room, said in rooms.items() if isinstance(rooms, dict) else ():
        for field in ("switches", "acts"):
            named = said.get(field) if isinstance(said, dict) else None
            for name, fields in named.items() if isinstance(named, dict) else ():
                does = fields if isinstance(fields, dict) else {}
                yield ("rooms", room, field, name), str(name), does
    for symbol, said in legend.items() if isinstance(legend, dict) else ():
        for field in ("switch", "act"):
            fields = said.get(field) if isinstance(said, dict) else None
            if isinstance(fields, dict):
                yield ("legend", symbol, field), str(fields.get("name", symbol)), fields
