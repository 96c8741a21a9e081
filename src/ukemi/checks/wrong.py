"""Choices that lose a large level, told by its regions."""

from __future__ import annotations

import json
from dataclasses import dataclass

from ..rules import DEAD, END, PLAYING, Move, Position
from ..search.reduced.commuting import commutes
from ..search.reduced.runs import run_to
from .free import Free

#: The most ways into a kind of mistake of which to take the shortest.
MOST_TRIED = 8


@dataclass(frozen=True, eq=False)
class Wrong:
    """A choice after which the level can no longer be finished.

    Attributes:
        moves: A run that ends with it, not always a shortest one.
        after: The position after it.
        rooms: The rooms that can still be come to.
        dies: Whether the player can still die.
    """

    moves: list[Move]
    after: Position
    rooms: frozenset[int]
    dies: bool


def wrong_choices(free: Free) -> tuple[list[Wrong], bool]:
    """Kinds of moves that lose the level once all that is free has been done, with a run into each.

    Args:
        free: The regions of what matters to finishing; all of them are known.

    Returns:
        One of each kind, and whether those are all: whether leaving undone what is free never makes
        a difference.
    """
    every = commutes(free.finder)
    # What is of no use to a choice can be left out where its order does not matter.
    wanted = () if every else None
    found = free.regions
    able = found.reaching(found.finished)
    numbers = {region.position: number for number, region in enumerate(found.regions)}
    ways: list[tuple[int, Move, int, int]] = []
    on: list[list[int]] = [[] for _ in found.regions]
    for number, region in enumerate(found.regions):
        for move, room, after in free.finder.ways_on(region):
            lead = numbers[free.finder.region(after).position]
            on[number].append(lead)
            ways.append((number, move, room, lead))
    start = free.rules.start()
    runs: dict[str, list[tuple[list[Move], int]]] = {}
    for number, move, room, lead in ways:
        playing = found.regions[lead].position[END] == PLAYING
        tried = runs.setdefault(json.dumps(move.what), [])
        if able[number] and not able[lead] and playing and len(tried) < MOST_TRIED:
            tried.append((run_to(free.finder, found, number, start, wanted, (move, room)), lead))
    wrong = []
    for tried in runs.values():
        if tried:
            run, lead = min(tried, key=lambda one: sum(move.cost for move in one[0]))
            ahead = _following(on, lead)
            rooms = frozenset(room for one in ahead for room in found.regions[one].rooms)
            dies = any(found.regions[one].position[END] == DEAD for one in ahead)
            wrong.append(Wrong(run, _position_after(free, run), rooms, dies))
    return wrong, every


def _following(on: list[list[int]], number: int) -> list[int]:
    """A region, and those that can be come to from it."""
    ahead = [number]
    for one in ahead:  # grows as it is walked
        ahead += [lead for lead in dict.fromkeys(on[one]) if lead not in ahead]
    return ahead


def _position_after(free: Free, run: list[Move]) -> Position:
    position = free.rules.start()
    for move in run:
        after = free.rules.after(position, move)
        assert after is not None  # the run was played before
        position = after
    return position
