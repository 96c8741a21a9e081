"""Checks evidence without the code that made it, on the graph of all positions: of a lower bound, and of runs."""

from __future__ import annotations

from collections.abc import Callable

import ukemi
from ukemi.facts.lower_bounds import LowerBound
from ukemi.facts.one_each import too_few
from ukemi.facts.relaxed import Relaxed
from ukemi.questions.evidence import gather
from ukemi.questions.first_runs import FirstRuns
from ukemi.rules import FINISHED, PLACE, PLAYING, Position, Rules
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


def runs_prove_only_what_is_so(level: ukemi.Level, report: ukemi.Report) -> FirstRuns | None:
    """Look for first runs of a level, and compare what they prove with a report from all positions."""
    if not report.search.complete:
        return None
    context = gather(level, Limits().begin())
    limits = Limits(seconds=2.0).begin()
    runs = FirstRuns(level, context.rules, limits, context.subjects, context.rewards.values())
    runs.look()
    runs.look_longer()
    answers = report.answers
    known = (answers.doors, answers.chests, answers.acts, answers.items, answers.events)
    statuses = {name: one for kind in known for name, one in kind.items()}
    if too_few(level, Relaxed(context.rules)):
        assert answers.finish == "no"
    for name, status in runs.statuses.items():
        assert status in ("unknown", statuses[name]), name
    for room, status in runs.room_statuses.items():
        assert status in ("unknown", answers.rooms.get(room, status)), room
    for run in runs.finishing:
        assert run.positions[-1][1] == FINISHED and not run.at_least
    assert not runs.finishing or answers.finish == "yes"
    if runs.with_all(context.rewards.values()) is not None:
        assert answers.all_rewards == "yes"
    if runs.stuck is not None:
        assert answers.stuck == "possible"
        route, by_the_last = runs.stuck
        lost, sets = route.positions[-1], context.free is None and context.sets
        assert lost[1] == PLAYING
        if sets:
            assert sets.space.contains(sets.lost, lost)
            assert not by_the_last or sets.space.contains(sets.can_finish, route.positions[-2])
    return runs
