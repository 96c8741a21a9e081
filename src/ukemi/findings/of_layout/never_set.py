"""``never-set`` and ``unused-flag``: a flag that nothing turns on, or that nothing asks for."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from ...level import Has, Level, Place
from ...level.asked import all_conditions
from ...level.conditions import atoms
from ...level.maps.tilemap import Tile
from ...level.maps.undrawn import undrawn
from ...level.names import nearest
from ...level.sense import all_effects
from ..finding import Finding
from ..registry import layout


def _turns_on(tile: Tile, flag: str) -> bool:
    """Whether a symbol of a legend turns a flag on."""
    acts = [act for act in (tile.switch, tile.act) if act is not None]
    return any(flag in (*act.effects.sets, *act.effects.flips) for act in acts)


@layout
def never_set(level: Level) -> Iterator[Finding]:
    """Report each flag that starts off and is never turned on, and each that nothing asks for."""
    turned_on = {flag for flag, on in level.flags.items() if on}
    set_: set[str] = set()  # a flag that is set and not asked for is the finding does-nothing
    places: dict[str, Place | None] = {}
    for effects, _, _, place in all_effects(level):
        turned_on |= {*effects.sets, *effects.flips}
        for flag in (*effects.sets, *effects.clears, *effects.flips):
            places.setdefault(flag, place)
            set_.add(flag)
    taught: dict[str, Place | None] = {
        act.teaches: act.place
        for room in level.rooms.values()
        for act in room.all_acts()
        if act.teaches
    }
    asked: set[str] = set()
    for condition, _, place in all_conditions(level):
        for atom in atoms(condition):
            if isinstance(atom, Has):
                asked.add(atom.name)
                places.setdefault(atom.name, place)
    for claims in (level.expected.never, level.expected.possible, level.expected.always_possible):
        for claim in claims:
            if not isinstance(claim.says, str):
                asked |= {atom.name for atom in atoms(claim.says) if isinstance(atom, Has)}
    for flag in sorted(level.all_flags()):
        place = places.get(flag) or taught.get(flag) or level.places.get("flags")
        if flag not in turned_on and flag not in taught:
            near = nearest(flag, turned_on | taught.keys())
            mend = f"let a switch or an act set it, or start with it on: `flags: {{{flag}: true}}`"
            mend = f"write {near}, if that is what was meant; or {mend}" if near else mend
            message = f"{flag} starts off, and nothing ever turns it on."
            why = undrawn(level, partial(_turns_on, flag=flag), "would turn it on")
            yield Finding("never-set", "warning", flag, message, why, mend, place)
        elif flag not in asked and flag not in set_:
            near = nearest(flag, asked & level.all_flags())
            mend = f"write {near}, if that is what was meant" if near else "take it out"
            message = f"{flag} is declared, and nothing asks for it."
            yield Finding("unused-flag", "note", flag, message, "", mend, place)
