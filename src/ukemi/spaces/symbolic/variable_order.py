"""The order of the bits of a diagram: bits that are read together stand together."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence

from ..limits import Limits

#: The number of times that bits are moved to the middle of their neighbours, and the number of moves
#: without gain before it stops.
ROUNDS, IN_VAIN = 60, 8


def force_directed(
    begins: Sequence[Sequence[int]],
    together: Sequence[Collection[int]],
    limits: Limits | None = None,
) -> list[int]:
    """An order in which things that go together stand close.

    FORCE: F. A. Aloul, I. L. Markov and K. A. Sakallah, "FORCE: a fast and easy-to-implement
    variable-ordering heuristic", GLSVLSI 2003. A large group pulls each of its things less than a small one does:
    many doors that take one kind of key are one group, and what lies behind a door is to stand beside that door.

    Args:
        begins: Orders of the things, numbered from 0, to begin with.
        together: The groups of things that go together.
        limits: Say when the time is over.

    Returns:
        The things in order; of the orders that come up, the one with the shortest span.

    Example:
        >>> force_directed([[0, 2, 3, 1]], [{0, 1}, {2, 3}])
        [0, 1, 2, 3]
    """
    groups = sorted(
        tuple(sorted(one)) for one in {frozenset(one) for one in together} if len(one) > 1
    )
    shares = _shares(begins[0], groups)
    best, least = list(begins[0]), _span(begins[0], groups)
    for begin in begins:
        order = list(begin)
        mine_least, vain = math.inf, 0
        for _ in range(ROUNDS):
            if limits is not None:
                limits.check()
            span = _span(order, groups)
            if span < least:
                best, least = order, span
            vain = 0 if span < mine_least else vain + 1
            mine_least = min(mine_least, span)
            if vain > IN_VAIN:
                break
            spot = {one: place for place, one in enumerate(order)}
            middle = [sum(spot[one] for one in group) / len(group) for group in groups]
            pull = {
                one: sum(share * middle[number] for number, share in some) if some else spot[one]
                for one, some in shares.items()
            }
            order = sorted(order, key=lambda one: (pull[one], one))
    return best


def _shares(
    things: Sequence[int], groups: Sequence[Sequence[int]]
) -> dict[int, list[tuple[int, float]]]:
    """For each thing, its groups by number, and the share that each has in where it is pulled."""
    mine: dict[int, list[int]] = {one: [] for one in things}
    for number, group in enumerate(groups):
        for one in group:
            mine[one].append(number)
    weight = [1 / (len(group) - 1) for group in groups]
    whole = {one: sum(weight[number] for number in some) for one, some in mine.items()}
    return {
        one: [(number, weight[number] / whole[one]) for number in some]
        for one, some in mine.items()
    }


def _span(order: Sequence[int], groups: Sequence[Sequence[int]]) -> float:
    spot = {one: place for place, one in enumerate(order)}
    total = 0.0
    for group in groups:
        places = [spot[one] for one in group]
        total += (max(places) - min(places)) / (len(group) - 1)
    return total
