"""Graphs: closures, cheapest ways, bridges, and what every way goes through.

A graph is a function from a node to the edges that leave it, or, where all of it is needed at once,
a list of edges between numbered nodes.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Iterator, Sequence
from heapq import heappop, heappush
from typing import Generic, TypeVar

N = TypeVar("N", bound=Hashable)
E = TypeVar("E")


def closure(starts: Iterable[N], leads: Callable[[N], Iterable[N]]) -> set[N]:
    """Find all nodes that edges lead to, directly or through others.

    Args:
        starts: Where to begin.
        leads: For a node, the nodes that its edges lead to; asked once for each node.

    Returns:
        The nodes, those to begin with included.

    Example:
        >>> sorted(closure([1], {1: [2], 2: [1, 3], 3: [], 4: [1]}.__getitem__))
        [1, 2, 3]
    """
    found = set(starts)
    ahead = [*found]
    while ahead:
        for node in leads(ahead.pop()):
            if node not in found:
                found.add(node)
                ahead.append(node)
    return found


def strong_parts(leads: Sequence[Iterable[int]]) -> list[int]:
    """Number the parts of a graph in which every node leads to every other.

    R. E. Tarjan, "Depth-first search and linear graph algorithms", SIAM Journal on Computing 1 (1972).

    Args:
        leads: For each node, by number, the nodes that edges lead to.

    Returns:
        The number of each node's part. A part leads only to parts with lower numbers.

    Example:
        >>> strong_parts([[1], [0, 2], [3], []])
        [2, 2, 1, 0]
    """
    count = len(leads)
    number, low, part = [-1] * count, [0] * count, [-1] * count
    open_nodes: list[int] = []
    seen = parts = 0
    for start in range(count):
        if number[start] >= 0:
            continue
        number[start] = low[start] = seen
        seen += 1
        open_nodes.append(start)
        way = [(start, iter(leads[start]))]
        while way:
            node, ahead = way[-1]
            for other in ahead:
                if number[other] < 0:
                    number[other] = low[other] = seen
                    seen += 1
                    open_nodes.append(other)
                    way.append((other, iter(leads[other])))
                    break
                if part[other] < 0 and number[other] < low[node]:
                    low[node] = number[other]
            else:
                way.pop()
                if way and low[node] < low[way[-1][0]]:
                    low[way[-1][0]] = low[node]
                if low[node] == number[node]:
                    while part[node] < 0:
                        part[open_nodes.pop()] = parts
                    parts += 1
    return part


class CheapestWays(Generic[N, E]):
    """The cheapest ways from a node to others, found in order of their cost.

    Iterating yields the nodes in that order, and asks for the edges of a node after it was yielded: whoever
    has seen enough stops. E. W. Dijkstra, "A note on two problems in connexion with graphs",
    Numerische Mathematik 1 (1959), 269-271.

    Args:
        start: Where all ways begin.
        leads: For a node, its edges: where each leads, what it costs (0 or more), and whatever the
            caller wants to know it by.

    Attributes:
        costs: The cost of the cheapest way known to each node; final once the node was yielded.

    Example:
        >>> roads = {"quay": [("mill", 5, "road"), ("pond", 1, "path")], "pond": [("mill", 2, "dam")]}
        >>> ways = CheapestWays("quay", lambda node: roads.get(node, ()))
        >>> list(ways), ways.costs["mill"], ways.to("mill")
        (['quay', 'pond', 'mill'], 3, ['path', 'dam'])
    """

    def __init__(self, start: N, leads: Callable[[N], Iterable[tuple[N, int, E]]]) -> None:
        self.costs = {start: 0}
        self._start = start
        self._leads = leads
        self._came: dict[N, tuple[N, E]] = {}

    def __iter__(self) -> Iterator[N]:
        ahead: list[tuple[int, int, N]] = [(0, 0, self._start)]
        while ahead:
            cost, _, node = heappop(ahead)
            if cost > self.costs[node]:
                continue
            yield node
            for to, more, edge in self._leads(node):
                reached = cost + more
                if to not in self.costs or reached < self.costs[to]:
                    self.costs[to] = reached
                    self._came[to] = (node, edge)
                    heappush(ahead, (reached, len(self._came), to))

    def reach(self, node: N) -> bool:
        """Search until a node is reached; whether it is."""
        return any(one == node for one in self)

    def to(self, node: N) -> list[E]:
        """List the edges of the cheapest way known to a node."""
        edges: list[E] = []
        while node in self._came:
            node, edge = self._came[node]
            edges.append(edge)
        return edges[::-1]


def on_every_way(way: Sequence[int], leads: Callable[[int], Iterable[int]]) -> list[int]:
    """Find the nodes of a way that every way from its beginning to its end goes through.

    The way is followed from node to node; from each, all that can be reached off the way is searched. A node is on every
    way if no search before it has come back to the way beyond it.

    Args:
        way: The nodes of one way, each once.
        leads: For a node, the nodes that its edges lead to; asked once for each node.

    Returns:
        The nodes in their order, the first and the last among them.

    Example:
        >>> on_every_way([0, 1, 2, 4], {0: [1], 1: [2, 3], 2: [4], 3: [4], 4: []}.__getitem__)
        [0, 1, 4]
    """
    number = {node: order for order, node in enumerate(way)}
    seen = set(way)
    furthest = 0
    found = []
    for order, node in enumerate(way):
        if furthest == order:
            found.append(node)
        ahead = [node]
        while ahead:
            for to in leads(ahead.pop()):
                furthest = max(furthest, number.get(to, 0))
                if to not in seen:
                    seen.add(to)
                    ahead.append(to)
    return found


def parts_between_bridges(count: int, edges: Sequence[tuple[int, int]]) -> list[int]:
    """Number the parts of an undirected graph that stay connected without any one edge.

    The bridges are the edges between parts. R. E. Tarjan, "A note on finding the bridges of a graph",
    Information Processing Letters 2 (1974), 160-161. An edge of a depth-first tree is a bridge if no
    other edge leads round it: those lead from a node to one that the search went through on its way there.

    Args:
        count: How many nodes there are.
        edges: The two ends of each edge; two edges may have the same ends.

    Returns:
        For each node, the number of its part.

    Example:
        >>> parts_between_bridges(4, [(0, 1), (1, 2), (2, 0), (2, 3)])
        [0, 0, 0, 1]
    """
    beside: list[list[tuple[int, int]]] = [[] for _ in range(count)]
    for edge, (a, b) in enumerate(edges):
        beside[a].append((b, edge))
        beside[b].append((a, edge))
    came: dict[int, tuple[int, int]] = {}  # in depth-first order: the node before, and the edge
    for first in range(count):
        ahead = [(first, first, -1)]
        while ahead:
            here, before, by = ahead.pop()
            if here not in came:
                came[here] = (before, by)
                ahead += [(there, here, edge) for there, edge in beside[here] if there not in came]
    time = {node: order for order, node in enumerate(came)}
    tree = {by for _, by in came.values()}
    round_it = [0] * count  # the edges parallel to the edge by which the search entered the node
    for edge, (a, b) in enumerate(edges):
        if edge not in tree:
            early, late = (a, b) if time[a] < time[b] else (b, a)
            round_it[late] += 1
            round_it[early] -= 1
    for node in reversed(came):
        before, _ = came[node]
        if before != node:
            round_it[before] += round_it[node]
    parts = [-1] * count
    number = 0
    for node, (before, _) in came.items():
        if round_it[node] and before != node:
            parts[node] = parts[before]
        else:
            parts[node] = number
            number += 1
    return parts
