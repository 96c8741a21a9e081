"""``does-nothing``: a switch, act, chest or event without effect, or a flag that is set and never tested."""

from __future__ import annotations

from collections.abc import Iterator, Set

from ...level import Done, Effects, Has, Level, Opened
from ...level.asked import all_conditions
from ...level.conditions import Condition, atoms
from ...level.names import nearest
from ...level.sense import all_effects
from ..finding import Finding
from ..registry import layout


@layout
def does_nothing(level: Level) -> Iterator[Finding]:
    """Report each thing that has no effect and that no condition tests, and each flag set in vain."""
    flags, things = _tested(level)
    yield from _flags(level, flags)
    for room in level.rooms.values():
        for act in () if level.scattered else room.all_acts():
            if not (act.effects or act.teaches or act.says) and act.name not in things:
                kind = "switch" if act.switch else "act"
                message = f"The {kind} {act.name} changes nothing, and no condition tests it."
                mend = (
                    f"let it do something (`sets`, `opens`, `gives`), or ask for `done {act.name}`"
                )
                yield Finding("does-nothing", "warning", act.name, message, "", mend, act.place)
        for chest in () if level.scattered else room.chests.values():
            lock = level.lock_of(chest)
            effects = bool(chest.effects) or (lock is not None and bool(lock.effects))
            if not (chest.holds or effects or chest.says) and chest.name not in things:
                message = f"The chest {chest.name} is empty, and no condition tests it."
                mend = f"put something in (`holds`), or accept it, if {chest.name} is a decoy"
                yield Finding("does-nothing", "note", chest.name, message, "", mend, chest.place)
    for event in level.events.values():
        if not (event.effects or event.says) and event.name not in things:
            message = f"The event {event.name} changes nothing, and no condition tests it."
            mend = "let it do something, or take it out"
            yield Finding("does-nothing", "warning", event.name, message, "", mend, event.place)


def _tested(level: Level) -> tuple[set[str], set[str]]:
    """The flags, and the chests, acts and events, that some condition or claim tests."""
    expected = level.expected
    claims = (*expected.never, *expected.possible, *expected.always_possible)
    claimed = [claim.says for claim in claims if isinstance(claim.says, Condition)]
    flags: set[str] = set()
    things: set[str] = set()
    for condition in (*(asked.condition for asked in all_conditions(level)), *claimed):
        for atom in atoms(condition):
            if isinstance(atom, Has):
                flags.add(atom.name)
            elif isinstance(atom, (Done, Opened)):
                things.add(atom.name)
    return flags, things


def _flags(level: Level, tested: Set[str]) -> Iterator[Finding]:
    """Each flag that something sets and nothing tests, at the first thing that sets it."""
    reported: set[str] = set()
    for effects, _, owner, place in all_effects(level):
        for flag in _set_by(effects):
            if flag in tested or flag in reported:
                continue
            reported.add(flag)
            near = nearest(flag, tested & level.all_flags())
            message = f"{owner} sets {flag}, but no condition tests {flag}."
            mend = (
                f"write {near}, if you mean that" if near else f"let a door or gate ask for {flag}"
            )
            yield Finding("does-nothing", "warning", flag, message, "", mend, place)


def _set_by(effects: Effects) -> tuple[str, ...]:
    return (*effects.sets, *effects.clears, *effects.flips)
