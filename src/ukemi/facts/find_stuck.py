"""Find one run that gets stuck, in a level that has too many positions to look at them all.

A depth-first search that makes the moves that may lose something before all others. If even the relaxed level
cannot finish from where it gets, the player is stuck for certain.
"""

from __future__ import annotations

from collections.abc import Iterator

from ..graph import CheapestWays
from ..rules import END, PLACE, PLAYING, Move, Position, Rules
from ..rules.reads import each_step
from ..rules.steps import Add, Set
from ..spaces.limits import CutShortError
from ..spaces.routes import replay
from .guided import find_run
from .regions import Regions
from .relaxed import Relaxed
from .relaxed_plan import Planner

#: The most positions to go on from, to ask the relaxed level about, and to plan a finish from.
MOST_POSITIONS, MOST_ASKED, MOST_PLANNED = 20_000, 200, 40

#: How often a part of the run is left out, to see whether it still gets stuck.
MOST_LEFT_OUT = 40


def find_stuck(relaxed: Relaxed) -> list[Move] | None:
    """A run into a position from which nothing finishes; it need not be a short one.

    Args:
        relaxed: The relaxed level; its limits apply here, too.

    Returns:
        The moves; ``None`` if no such run was found soon.
    """
    rules, losing = relaxed.rules, _losing(relaxed.rules)
    start = rules.start()
    known, ahead, asked = {start}, [start], 0

    def within(position: Position) -> Iterator[tuple[Position, int, Move]]:
        for move, after in rules.successors(position):
            if after in known:
                yield after, move.cost, move

    while ahead and len(known) < MOST_POSITIONS and not relaxed.limits.over:
        new = [one for one in rules.successors(ahead.pop()) if one[1] not in known]
        for move, after in sorted(new, key=lambda one: one[0].number in losing):
            known.add(after)
            if after[END] != PLAYING:
                continue
            if move.number in losing:
                asked += 1
                if asked > MOST_ASKED:
                    return None
                if not relaxed.reach(after).finishes:
                    ways = CheapestWays(start, within)
                    ways.reach(after)
                    return _Detours(relaxed).left_out(ways.to(after))
            ahead.append(after)
    return None


class _Detours:
    """Leaves out moves of a run that gets stuck, as long as the shorter run still gets stuck.

    Halves of its moves are left out, then quarters and so on: A. Zeller and R. Hildebrandt, "Simplifying and
    isolating failure-inducing input", IEEE Transactions on Software Engineering 28 (2002).

    Args:
        relaxed: The relaxed level.
    """

    def __init__(self, relaxed: Relaxed) -> None:
        self._relaxed, self._start = relaxed, relaxed.rules.start()
        self._regions = Regions(relaxed.rules, relaxed.limits)

    def left_out(self, run: list[Move]) -> list[Move]:
        """The run without its detours; its last move stays the last."""
        kept = self._but_walks(run)
        best, tried, part = run, 0, len(kept) // 2
        while part:
            begin = 0
            while begin < len(kept) - 1 and tried < MOST_LEFT_OUT and not self._relaxed.limits.over:
                tried += 1
                end = min(begin + part, len(kept) - 1)
                shorter, here = self._regions.made(self._start, [*kept[:begin], *kept[end:]])
                stuck = here[END] == PLAYING and not self._relaxed.reach(here).finishes
                if stuck and shorter and shorter[-1] is run[-1]:
                    best = shorter
                    kept = self._but_walks(best)
                else:
                    begin += part
            part //= 2
        return best

    def _but_walks(self, run: list[Move]) -> list[Move]:
        return [move for move, walk in self._regions.walks(self._start, run) if not walk]


def finishes_but_for_the_last(relaxed: Relaxed, run: list[Move]) -> bool:
    """Whether a finishing run was found from the position before the last move of a run."""
    before = replay(relaxed.rules, run[:-1]).positions[-1]
    try:
        return find_run(Planner(relaxed), before, MOST_PLANNED) is not None
    except CutShortError:
        return False


def _losing(rules: Rules) -> set[int]:
    """The moves that take something, turn something off, or lead where no move leads straight back."""
    walks = {(place, move.leads_to) for move in rules.moves for place in move.places}
    found = set()
    for move in rules.moves:
        to = move.leads_to
        if to is not None and any((to, place) not in walks for place in move.places):
            found.add(move.number)
        for step in each_step(move.steps):
            match step:
                case Add(variable, amount) if amount < 0:
                    if rules.variables[variable][0] == "carried":
                        found.add(move.number)
                case Set(variable, 0) if variable not in (PLACE, END):
                    found.add(move.number)
    return found
