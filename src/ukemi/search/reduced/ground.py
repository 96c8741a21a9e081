"""The rooms of a level as a graph: which parts of it hang on one passage."""

from __future__ import annotations

from ...rules import Rules


class Ground:
    """The rooms and the passages between them, whatever locks or gates those have.

    Args:
        rules: The rules.

    Attributes:
        walks: The moves that lead from one room to another, with where they lead.
        parts: For each room, the number of its part: rooms that more than one passage holds
            together are one part. Parts and the passages between them make up a tree, or several.
        links: For each part, the parts that passages lead to.
    """

    def __init__(self, rules: Rules) -> None:
        self.walks = {move.number: to for move in rules.moves if (to := move.leads_to) is not None}
        edges = [
            (a, b)
            for _, a, b in dict.fromkeys(
                (rules.moves[number].what["name"], min(here, to), max(here, to))
                for number, to in self.walks.items()
                for here in rules.moves[number].places
                if here != to
            )
        ]
        self.parts = _parts(len(rules.places), edges)
        self.links: list[list[int]] = [[] for _ in range(max(self.parts, default=-1) + 1)]
        for a, b in edges:
            here, there = self.parts[a], self.parts[b]
            if here != there:
                self.links[here].append(there)
                self.links[there].append(here)


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
