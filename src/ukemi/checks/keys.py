"""How many of each spent key there are, and how many finishing takes."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..level import Item, Level
from ..level.sources import sources
from ..rules import Rules
from .result import KeyMeasure

if TYPE_CHECKING:
    from .questions import Questions


def key_measures(questions: Questions) -> dict[str, KeyMeasure]:
    """Return how many of each kind of spent key there are and how many finishing takes.

    A kind that something gives again and again, or that a walk, an unlocking or a pickup gives,
    has no fixed number and is left out; so is everything where finishing was not found, or where
    the search was cut short and a run not seen may use fewer.

    Returns:
        By item; which units are spare is left to :mod:`~ukemi.checks.spare`.
    """
    measures: dict[str, KeyMeasure] = {}
    level = questions.level
    for item in level.items.values():
        if item.use != "spent" or not _countable(level, item):
            continue
        left = questions.most_left(item.name)
        if left is not None and left[0]:
            tight = left[1] == 0  # then no unit can be spared, and none need be tried
            measures[item.name] = KeyMeasure(left[0], left[0] - left[1], 0, all_tried=tight)
    return measures


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
