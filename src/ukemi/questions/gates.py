"""The gates of a level: passages with a condition that must hold each time they are walked.

A door with a gate counts as the door that it is.
"""

from __future__ import annotations

from ..level import ALWAYS, Level, Passage
from ..rules import Rules


def gates(level: Level, rules: Rules) -> dict[str, frozenset[int]]:
    """The walks through each gate, by its name, as the numbers of their moves."""
    passages = {
        one.name: one.thing
        for one in level.passages
        if _is_gate(one) and one.thing not in level.rooms  # a gate of no name, on a cell of a map
    }
    walks: dict[str, set[int]] = {}
    for move in rules.moves:
        name = passages.get(str(move.what.get("name")))
        if name is not None and move.what["do"] == "walk":
            walks.setdefault(name, set()).add(move.number)
    return {name: frozenset(numbers) for name, numbers in walks.items()}


def _is_gate(passage: Passage) -> bool:
    return passage.gate != ALWAYS and passage.lock is None
