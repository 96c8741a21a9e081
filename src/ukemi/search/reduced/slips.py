"""The cheapest way to lose something for good while the level can still be finished."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from heapq import heappop, heappush

from ...rules import END, PLAYING, Move, Position, Rules
from ..limits import Limits
from .prospects import Prospects


@dataclass(frozen=True)
class Slip:
    """Whether something can be lost, and how.

    Attributes:
        found: Whether it can; ``None`` where that is not settled.
        moves: The cheapest run to losing it.
        looked: How many positions were looked at.
    """

    found: bool | None
    moves: tuple[Move, ...] = ()
    looked: int = 0


def find_slip(
    rules: Rules,
    taken: Callable[[Position], bool],
    can_finish: Callable[[Position], bool | None],
    with_it: Prospects,
    limits: Limits,
) -> Slip:
    """Look for the cheapest move after which the level can be finished, but no longer with something.

    Uniform-cost search (Dijkstra 1959) of the positions from which a run still finishes with it.
    Whatever leads out of those loses it, and where nothing more is lost, nothing is looked for.

    Args:
        rules: What matters to finishing with it and without.
        taken: Whether it has been had in a position; once had, it always has been.
        can_finish: Whether a run finishes from a position; ``None`` where that is not settled.
        with_it: Tells whether a run finishes with it.
        limits: How far to go.

    Returns:
        What was found.
    """
    start = rules.start()
    if start[END] != PLAYING or taken(start):
        return Slip(False)
    first = with_it.finishes(start)
    if not first:
        finishes = can_finish(start)
        # Where it is out of reach from the start, it is lost there if the level can be finished.
        return Slip(None if first is None or finishes is None else finishes)
    costs = {start: 0}
    came: dict[Position, tuple[Position, Move]] = {}
    queue: list[tuple[int, int, Position]] = [(0, 0, start)]
    best: tuple[int, Position, Move] | None = None
    settled, count, done = True, 0, set()
    by_choice = {start}  # come to by moves that are not free, so that other regions lie ahead
    while queue:
        cost, _, position = heappop(queue)
        if best is not None and best[0] <= cost:
            break
        if position in done:
            continue
        done.add(position)
        if len(done) > limits.positions or limits.over:
            return Slip(None, looked=len(done))
        if position in by_choice and with_it.nothing_is_lost(position):
            continue
        for move, after in rules.successors(position):
            if after[END] != PLAYING or taken(after):
                continue
            cost_after = cost + move.cost
            if not with_it.free(after, move):
                without = can_finish(after)
                if without is False:
                    continue  # then the level is lost, and not that one thing
                still = with_it.finishes(after)
                if still is None or (still is False and without is None):
                    settled = False
                if still is False:
                    if without and (best is None or cost_after < best[0]):
                        best = (cost_after, position, move)
                    continue
                by_choice.add(after)
            if cost_after < costs.get(after, cost_after + 1):
                costs[after] = cost_after
                came[after] = (position, move)
                count += 1
                heappush(queue, (cost_after, count, after))
    if best is None:
        return Slip(False if settled else None, looked=len(done))
    _, position, move = best
    moves = [move]
    while position in came:
        position, move = came[position]
        moves.append(move)
    return Slip(True, tuple(reversed(moves)), len(done))
