"""Checks the evidence of a lower bound without the code that made it, on the graph of all positions."""

from __future__ import annotations

from collections.abc import Callable

from ukemi.facts.lower_bounds import LowerBound
from ukemi.rules import PLACE, Position, Rules
from ukemi.spaces.estimate import Estimate
from ukemi.spaces.explore import explore
from ukemi.spaces.limits import Limits


class AllPositions:
    """Every position of a small level, with the moves between them."""

    def __init__(self, rules: Rules, most: int = 3_000) -> None:
        self.rules = rules
        self.found = explore(rules, Limits(most).begin())
        self.complete = self.found.complete

    def reached(self, without: frozenset[int] = frozenset()) -> set[int]:
        """The positions that runs reach which make none of some moves."""
        known, ahead = {0}, [0]
        while ahead:
            for move, after in self.found.moves[ahead.pop()]:
                if move.number not in without and after not in known:
                    known.add(after)
                    ahead.append(after)
        return known

    def check(self, bound: LowerBound, wanted: Callable[[Position], bool]) -> None:
        """Check that a bound holds for all runs into some positions, and so does its evidence.

        No run may reach a wanted position in a room without a move of each set that is listed for
        that room; the sets may not overlap; and their cheapest moves must cost what is claimed.
        """
        positions, costs = self.found.positions, self.found.costs
        targets = {number for number, one in enumerate(positions) if wanted(one)}
        for end in {positions[number][PLACE] for number in targets}:
            assert end in bound.ends
            here = {number for number in targets if positions[number][PLACE] == end}
            assert bound.least <= min(costs[number] for number in here)
            listed = bound.landmarks(end)
            numbers = [number for one in listed for number in one.moves]
            assert len(numbers) == len({*numbers}), "two sets share a move"
            for one in listed:
                assert one.cost <= min(self.rules.moves[number].cost for number in one.moves)
                assert not here & self.reached(one.moves), "a run makes no move of this set"
            assert bound.least <= sum(one.cost for one in listed)

    def check_estimate(self, estimate: Estimate, wanted: Callable[[Position], bool]) -> None:
        """Check that no move lowers an estimate by more than it costs, and that it is 0 where runs lead."""
        assert all(term.cost >= 0 for term in estimate.terms)
        values = [estimate.of(position) for position in self.found.positions]
        for number, position in enumerate(self.found.positions):
            assert not (wanted(position) and values[number])
            for move, after in self.found.moves[number]:
                assert values[number] - values[after] <= move.cost
