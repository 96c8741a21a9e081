"""Graphs: closures, cheapest ways, dominators and bridges.

A graph is a function from a node to the edges that leave it, or, where all of it is needed at once,
a list of edges between numbered nodes.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Hashable, Iterable, Iterator, Sequence
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


class Dominators:
    """The dominator tree of a directed graph.

    A node dominates another if every way from the start to the other enters it. T. Lengauer and R. E.
    Tarjan, "A fast algorithm for finding dominators in a flowgraph", TOPLAS 1 (1979): the simple
    version, in O(m log n).

    Args:
        leads: For each node, by number, the nodes that edges lead to.
        start: The start.

    Example:
        >>> tree = Dominators([{1, 2}, {3}, {3}, {4}, set(), set()], 0)
        >>> tree.dominates(3, [4]), tree.dominates(1, [4]), tree.dominates(1, [5])
        (True, False, True)
    """

    def __init__(self, leads: Sequence[Collection[int]], start: int) -> None:
        order, parent, number, before = _depth_first(leads, start)
        count = len(order)
        semi, label = list(range(count)), list(range(count))
        above: list[int | None] = [None] * count  # the forest of visited nodes
        bucket: list[list[int]] = [[] for _ in range(count)]
        idom = [0] * count

        def lowest(node: int) -> int:
            """The node of least semidominator on the way up to the root of a tree of the forest."""
            way = []
            while (up := above[node]) is not None and above[up] is not None:
                way.append(node)
                node = up
            for one in reversed(way):
                up = above[one]
                assert up is not None
                if semi[label[up]] < semi[label[one]]:
                    label[one] = label[up]
                above[one] = above[up]
            return label[way[0] if way else node]

        for node in range(count - 1, 0, -1):
            for other in before[node]:
                semi[node] = min(semi[node], semi[lowest(other)])
            bucket[semi[node]].append(node)
            above[node] = up = parent[node]
            for one in bucket[up]:
                least = lowest(one)
                idom[one] = least if semi[least] < semi[one] else up
            bucket[up] = []
        for node in range(1, count):
            if idom[node] != semi[node]:
                idom[node] = idom[idom[node]]
        self._number = number
        self._first, self._last = _nested(idom)

    def dominates(self, node: int, others: Collection[int]) -> bool:
        """Whether every way from the start to any of some nodes enters a node."""
        reached = [self._number[one] for one in others if one in self._number]
        if node not in self._number:
            return not reached
        mine = self._number[node]
        first, last = self._first[mine], self._last[mine]
        return all(first <= self._first[one] <= last for one in reached)


def _depth_first(
    leads: Sequence[Collection[int]], start: int
) -> tuple[list[int], list[int], dict[int, int], list[list[int]]]:
    """The nodes that are reached, numbered depth first: in order, by parent, by node, and from where."""
    order: list[int] = []
    parent: list[int] = []
    number: dict[int, int] = {}
    ahead = [(start, 0)]
    while ahead:
        node, came = ahead.pop()
        if node not in number:
            number[node] = len(order)
            order.append(node)
            parent.append(came)
            ahead += [(to, number[node]) for to in leads[node] if to not in number]
    before: list[list[int]] = [[] for _ in order]
    for node in order:
        for to in leads[node]:
            before[number[to]].append(number[node])
    return order, parent, number, before


def _nested(idom: Sequence[int]) -> tuple[list[int], list[int]]:
    """For each node of a tree, the first and the last number of its branch, numbered depth first."""
    below: list[list[int]] = [[] for _ in idom]
    for node in range(1, len(idom)):
        below[idom[node]].append(node)
    first, last = [0] * len(idom), [0] * len(idom)
    count = 0
    ahead = [0]
    while ahead:
        node = ahead.pop()
        if node < 0:
            last[~node] = count - 1
            continue
        first[node] = count
        count += 1
        ahead += [~node, *below[node]]
    return first, last


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
