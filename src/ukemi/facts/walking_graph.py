"""The rooms and passages of a level as a graph, and its parts between bridges."""

from __future__ import annotations

from ..graph import parts_between_bridges
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
        self.parts = parts_between_bridges(len(rules.places), edges)
        self.links: list[list[int]] = [[] for _ in range(max(self.parts, default=-1) + 1)]
        for a, b in edges:
            here, there = self.parts[a], self.parts[b]
            if here != there:
                self.links[here].append(there)
                self.links[there].append(here)
