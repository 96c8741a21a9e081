"""The ways to unlock a lock."""

from __future__ import annotations

from ..level import Condition, Has, HasAll, Level, Lock
from ..level.conditions import And, alternatives
from .expressions import Expression, all_of, any_of
from .variables import Names

#: A way to unlock: its guard and what it spends.
Way = tuple[Expression, dict[str, int]]


def ways_to_unlock(level: Level, names: Names, lock: Lock) -> list[Way]:
    """Each way to unlock, as its guard and what it spends.

    Returns:
        One way for each alternative of what the lock needs; alternatives that spend the same are
        one way.
    """
    if lock.takes is not None:
        guard = all_of(names.guard(lock.needs), *names.carries(lock.takes))
        return [(guard, dict(lock.takes))]
    if isinstance(lock.needs, Has):  # as nearly all are: one way, and nothing to multiply out
        return [(names.guard(lock.needs), _spent(level, names, (lock.needs,)))]
    ways: dict[tuple[tuple[str, int], ...], list[Expression]] = {}
    for way in alternatives(lock.needs):
        spends = _spent(level, names, way)
        ways.setdefault(tuple(spends.items()), []).append(names.guard(And(way)))
    return [(any_of(*guards), dict(spends)) for spends, guards in ways.items()]


def _spent(level: Level, names: Names, way: tuple[Condition, ...]) -> dict[str, int]:
    spends: dict[str, int] = {}
    for part in way:
        match part:
            case Has(name, count):
                pass
            case HasAll(name):
                count = names.placed(name)
            case _:
                continue
        if count and name in level.items and level.items[name].use == "spent":
            spends[name] = max(count, spends.get(name, 0))
    return dict(sorted(spends.items()))
