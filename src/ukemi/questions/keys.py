"""How many of each spent key are there, and how many does finishing take?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ..level import Item, Level
from ..level.joined import Joined
from ..level.sources import sources
from ..rules import Rules
from ..rules.expressions import Negated, Within
from ..spaces.space import S
from .answers import KeyMeasure
from .context import Context
from .named_sets import Sets

if TYPE_CHECKING:
    from .free_level import FreeLevel


def ask(context: Context[S]) -> dict[str, KeyMeasure]:
    """Return how many of each kind of spent key there are, and how many finishing takes.

    A kind has no fixed number if something gives it again and again, or if a walk, an unlocking or a
    pickup gives it. It is left out. So is every kind if no finishing run was found, or if the search was
    cut short: then a run not seen may use fewer.

    Returns:
        By item; :mod:`~ukemi.questions.spare` says which units are spare.
    """
    measures: dict[str, KeyMeasure] = {}
    level = context.level
    for item in level.items.values():
        if item.use != "spent" or not _countable(level, item):
            continue
        left = most_left(context, item.name)
        if left is not None and left[0]:
            tight = left[1] == 0  # then no unit can be spared, and none need be tried
            measures[item.name] = KeyMeasure(left[0], left[0] - left[1], 0, all_tried=tight)
    return measures


def most_left(context: Context[S], item: str) -> tuple[int, int] | None:
    """Return the units of an item at the start, and the greatest number that a finishing run leaves.

    In a campaign there is no such number: entering a level again restores its keys.
    """
    if isinstance(context.level, Joined):
        return None
    rules = context.rules
    constant, terms = units_as_sum(context.level, rules, item)

    def units(values: Sequence[int]) -> int:
        return constant + sum(n * values[variable] for variable, n in terms)

    def by_landmarks(free: FreeLevel) -> tuple[int, int] | None:
        if not free.can_finish:
            return None
        # No move uses any up, or something could be lost by it.
        return units(rules.initial), units(free.marks.start)

    def by_sets(sets: Sets[S]) -> tuple[int, int] | None:
        if not sets.complete or not sets.finished:
            return None
        most, least = units(rules.initial), -1  # more than `least`, and at most `most`
        while most - least > 1:
            middle = (most + least) // 2
            more = Negated(Within(tuple(terms), middle - constant))
            if sets.finished & sets.space.where(more):
                least = middle
            else:
                most = middle
        return units(rules.initial), most

    return context.decide(None, free=by_landmarks, sets=by_sets)


def _countable(level: Level, item: Item) -> bool:
    """Whether the units of an item are all in one place or another from the start."""
    again = (one for one in sources(level) if one.again)
    return item.kind != "supply" and not any(item.name in one.gives for one in again)


def units_as_sum(level: Level, rules: Rules, item: str) -> tuple[int, list[tuple[int, int]]]:
    """The units that are still somewhere: carried, lying, put down, held or still to be given.

    Returns:
        A constant, and variables with how many units each of their values stands for.
    """
    index = rules.index
    constant, terms = 0, [(carried, 1) for carried in rules.carried(item)]
    terms += [(number, 1) for kind, number in index.items() if _lies(kind, item)]
    for one in sources(level):
        if one.kind in ("chest", "act", "event") and (count := one.gives.get(item, 0)):
            # it is there until the chest was opened, or the act done
            constant += count
            terms.append((index["opened" if one.kind == "chest" else "done", one.name], -count))
    return constant, terms


def _lies(variable: tuple[str, ...], item: str) -> bool:
    return variable[0] in ("lying", "put-down") and variable[2] == item
