"""Dominators: what every way from the start of a graph to a node goes through."""

from __future__ import annotations

from collections.abc import Collection, Sequence


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
        above: list[int | None] = [None] * count  # the forest of visited rooms
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
