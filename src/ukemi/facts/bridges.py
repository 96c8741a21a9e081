"""The rooms of a level as a graph: its bridges, and the parts behind each."""

from __future__ import annotations

from ..rules import Rules


class WalkingGraph:
    """The rooms and the passages between them, whatever locks or gates those have.

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
    Processing Letters 2 (1974), 160-161. An edge of a depth-first tree is a bridge where no other edge leads
    round it: those lead from a room to one that the search went through on its way there.
    """
    beside: list[list[tuple[int, int]]] = [[] for _ in range(rooms)]
    for number, (a, b) in enumerate(edges):
        beside[a].append((b, number))
        beside[b].append((a, number))
    came: dict[int, tuple[int, int]] = {}  # in depth-first order: the room before, and the edge
    for first in range(rooms):
        ahead = [(first, first, -1)]
        while ahead:
            here, before, by = ahead.pop()
            if here not in came:
                came[here] = (before, by)
                ahead += [(there, here, edge) for there, edge in beside[here] if there not in came]
    time = {room: number for number, room in enumerate(came)}
    tree = {by for _, by in came.values()}
    round_it = [0] * rooms  # the edges parallel to the edge by which the search entered the room
    for number, (a, b) in enumerate(edges):
        if number not in tree:
            early, late = (a, b) if time[a] < time[b] else (b, a)
            round_it[late] += 1
            round_it[early] -= 1
    for room in reversed(came):
        before, _ = came[room]
        if before != room:
            round_it[before] += round_it[room]
    parts = [-1] * rooms
    count = 0
    for room, (before, _) in came.items():
        if round_it[room] and before != room:
            parts[room] = parts[before]
        else:
            parts[room] = count
            count += 1
    return parts
