"""The rooms of a level as a graph: which passages can always be walked back, which parts hang on one."""

from __future__ import annotations

from ...rules import PLACE, Move, Rules
from ...rules.expressions import Expression, Is
from ...rules.reads import leaves
from ...rules.steps import Set


class Ground:
    """The rooms and the passages between them, whatever locks or gates those have.

    Args:
        rules: The rules.

    Attributes:
        walks: The moves that lead from one room to another, with where they lead.
        parts: For each room, the number of its part: rooms that more than one passage holds
            together are one part. Parts and the passages between them make up a tree, or several.
        links: For each part, the passages that lead out of it: the part beyond, whether the
            passage is plain, and the room on this side.
        clean: For each part, whether every passage within it is plain.
    """

    def __init__(self, rules: Rules) -> None:
        self.rules = rules
        self.walks = {
            move.number: step.value
            for move in rules.moves
            for step in move.steps
            if isinstance(step, Set) and step.variable == PLACE
        }
        edges = self._passages()
        self.parts = _parts(len(rules.places), [ends for ends, _ in edges])
        count = max(self.parts, default=-1) + 1
        self.links: list[list[tuple[int, bool, int]]] = [[] for _ in range(count)]
        self.clean = [True] * count
        for (a, b), plain in edges:
            here, there = self.parts[a], self.parts[b]
            if here == there:
                self.clean[here] &= plain
            else:
                self.links[here].append((there, plain, a))
                self.links[there].append((here, plain, b))

    def _passages(self) -> list[tuple[tuple[int, int], bool]]:
        """Each passage between two rooms, and whether it is plain.

        A plain passage changes nothing but the room, and whoever has walked it can walk back at
        once and at any later time: it asks for nothing, or for a door that, once open, stays open.
        """
        ways: dict[tuple[str, int, int], list[Move]] = {}
        for number, to in self.walks.items():
            move = self.rules.moves[number]
            for here in move.places:
                if here != to:
                    ways.setdefault((move.what["name"], here, to), []).append(move)
        found: dict[tuple[str, int, int], bool] = {}
        for (name, here, to), moves in ways.items():
            back = ways.get((name, to, here), [])
            plain = all(self._only_walks(move) for move in (*moves, *back)) and any(
                one.guard is other.guard for one in moves for other in back
            )
            key = (name, min(here, to), max(here, to))
            found[key] = found.get(key, True) and plain
        return [((a, b), plain) for (_, a, b), plain in found.items()]

    def _only_walks(self, move: Move) -> bool:
        return len(move.steps) == 1 and len(move.places) == 1 and self._lasts(move.guard)

    def _lasts(self, guard: Expression) -> bool:
        """Whether a guard asks only for doors to be open, which they stay."""
        return all(
            isinstance(leaf, Is) and way and leaf.value == 1
            and self.rules.variables[leaf.variable][0] == "opened"
            for leaf, way in leaves(guard)
        )  # fmt: skip


def _parts(rooms: int, edges: list[tuple[int, int]]) -> list[int]:
    """Number the parts of a graph that no single edge holds together.

    The bridges of a graph: R. E. Tarjan, "A note on finding the bridges of a graph", Information
    Processing Letters 2 (1974), 160-161.
    """
    beside: list[list[tuple[int, int]]] = [[] for _ in range(rooms)]
    for number, (a, b) in enumerate(edges):
        beside[a].append((b, number))
        beside[b].append((a, number))
    order = [-1] * rooms
    low = [0] * rooms
    parts = [-1] * rooms
    found = count = 0
    for first in range(rooms):
        if order[first] >= 0:
            continue
        order[first] = low[first] = found
        found += 1
        open_rooms = [first]
        ahead: list[tuple[int, int, int]] = [(first, -1, 0)]
        while ahead:
            here, by, next_one = ahead.pop()
            if next_one < len(beside[here]):
                ahead.append((here, by, next_one + 1))
                there, edge = beside[here][next_one]
                if edge == by:
                    continue
                if order[there] < 0:
                    order[there] = low[there] = found
                    found += 1
                    open_rooms.append(there)
                    ahead.append((there, edge, 0))
                else:
                    low[here] = min(low[here], order[there])
                continue
            if ahead:
                low[ahead[-1][0]] = min(low[ahead[-1][0]], low[here])
            if low[here] == order[here]:
                while True:
                    room = open_rooms.pop()
                    parts[room] = count
                    if room == here:
                        break
                count += 1
    return parts
