"""The plain search: every position that can be reached, cheapest first.

Meant to be checked by eye: it is the reference that faster searches are compared with.
"""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property
from heapq import heappop, heappush
from time import perf_counter

from ..level.collector import without_collector
from ..rules import END, PLAYING, Move, Position, Rules
from ..values import dataclass, field
from .alike import Alike
from .limits import Limits


def bytes_of(rules: Rules) -> int:
    """The memory that a position takes with its moves, about, in bytes."""
    return 1_000 + 8 * len(rules.variables)


@dataclass(eq=False, repr=False)
class Exploration:
    """The positions reached and the moves between them.

    Attributes:
        rules: The rules they follow.
        positions: The positions, the start first.
        costs: The steps of the cheapest run found to each; exact up to ``bound``.
        came: For each but the start, the position and the move it is reached by.
        moves: For each position, the moves that can be made in it and where each leads; empty
            where the run has ended and where the search did not get to.
        explored: For each position, 1 if its moves are known, or it has none.
        seconds: How long it took.
    """

    rules: Rules
    positions: list[Position] = field(default_factory=list)
    costs: list[int] = field(default_factory=list)
    came: list[tuple[int, Move] | None] = field(default_factory=list)
    moves: list[list[tuple[Move, int]]] = field(default_factory=list)
    explored: bytearray = field(default_factory=bytearray)
    numbers: dict[Position, int] = field(default_factory=dict)
    seconds: float = 0.0

    @cached_property
    def complete(self) -> bool:
        """Whether every position that can be reached has been."""
        return 0 not in self.explored

    @cached_property
    def bound(self) -> float:
        """The cost up to which costs are exact: nothing cheaper is left to explore."""
        open_costs = [c for c, done in zip(self.costs, self.explored, strict=True) if not done]
        return min(open_costs, default=float("inf"))

    @cached_property
    def before(self) -> list[list[int]]:
        """For each position, the positions that a move leads from to it."""
        before: list[list[int]] = [[] for _ in self.positions]
        for number, moves in enumerate(self.moves):
            for _, after in moves:
                before[after].append(number)
        return before

    @cached_property
    def following(self) -> list[list[int]]:
        """For each position, the positions that a move leads to from it."""
        return [[after for _, after in moves] for moves in self.moves]

    def route_to(self, number: int) -> list[Move]:
        """The moves of the cheapest run found to a position."""
        moves: list[Move] = []
        came = self.came[number]
        while came is not None:
            number, move = came
            moves.append(move)
            came = self.came[number]
        return moves[::-1]


@without_collector
def explore(
    rules: Rules,
    limits: Limits | None = None,
    start: Position | None = None,
) -> Exploration:
    """Explore every position that can be reached, in order of cost.

    Uniform-cost search: E. W. Dijkstra, "A note on two problems in connexion with graphs",
    Numerische Mathematik 1 (1959), 269-271; with moves that all cost the same it is
    breadth-first search.

    Args:
        rules: The variables and moves.
        limits: How far to go.
        start: Where to begin; ``None`` for where a run begins.

    Returns:
        The explored positions; :attr:`Exploration.complete` says whether these are all.

    Example:
        >>> from ukemi.language import loads
        >>> from ukemi.rules import compile_level
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [quay -> mill]}")
        >>> found = explore(compile_level(level))
        >>> len(found.positions), found.complete
        (3, True)
    """
    limits = (limits or Limits()).begin()
    began = perf_counter()
    found = Exploration(rules)
    queue: list[tuple[int, int]] = []
    most = limits.room_for(bytes_of(rules))
    alike = Alike(rules) if rules.alike else None

    def reach(position: Position, cost: int, came: tuple[int, Move] | None) -> int:
        number = found.numbers.get(position)
        if number is None:
            number = found.numbers[position] = len(found.positions)
            found.positions.append(position)
            found.costs.append(cost)
            found.came.append(came)
            found.moves.append([])
            found.explored.append(0)
            heappush(queue, (cost, number))
        elif cost < found.costs[number]:
            found.costs[number] = cost
            found.came[number] = came
            heappush(queue, (cost, number))
        return number

    reach(rules.start() if start is None else start, 0, None)  # players that are alike start alike
    while queue:
        cost, number = heappop(queue)
        if found.explored[number]:
            continue
        position = found.positions[number]
        if position[END] == PLAYING:
            if limits.over:
                break
            if number % 1_000 == 0:
                limits.progress(len(found.positions), "positions", len(queue))
            options: Iterable[tuple[Move, Position]] = rules.successors(position)
            if alike is not None:
                options = [(move, alike.standing_for(after)) for move, after in options]
            if len(found.positions) + len(rules.moves) > most:  # they may be too many
                options = list(options)
                new = {after for _, after in options if after not in found.numbers}
                if len(found.positions) + len(new) > most:
                    break
            for move, after in options:
                reached = reach(after, cost + move.cost, (number, move))
                found.moves[number].append((move, reached))
        found.explored[number] = 1
    found.seconds = perf_counter() - began
    return found
