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
        over: The walks from one part to another, by number.
    """

    def __init__(self, rules: Rules) -> None:
        self.walks = {move.number: to for move in rules.moves if (to := move.leads_to) is not None}
        self._rules = rules
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
        self.over: dict[tuple[int, int], list[int]] = {}
        for number, to in self.walks.items():
            for room in rules.moves[number].places:
                self.over.setdefault((self.parts[room], self.parts[to]), []).append(number)

    def tree(self, root: int) -> dict[int, int]:
        """Return the part before each part, on the way from one of them; the nearer parts come first."""
        before = {root: root}
        order = [root]
        for here in order:
            for there in self.links[here]:
                if there not in before:
                    before[there] = here
                    order.append(there)
        return before

    def cheapest(self, here: int, there: int) -> int | None:
        """Return the cost of the cheapest walk from a part to the next; ``None`` if there is none."""
        walks = self.over.get((here, there), ())
        return min((self._rules.moves[number].cost for number in walks), default=None)
