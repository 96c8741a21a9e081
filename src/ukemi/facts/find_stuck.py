"""Find one run that gets stuck, in a level that has too many positions to look at them all.

A depth-first search that makes the moves that may lose something before all others. From where it gets, even
the relaxed level may not finish: that proves that the player is stuck.
"""

from __future__ import annotations

from collections.abc import Iterator

from ..graph import CheapestWays
from ..rules import END, PLACE, PLAYING, Move, Position, Rules
from ..rules.reads import each_step
from ..rules.steps import Add, Set
from ..spaces.limits import CutShortError
from .guided import Guide, find_run
from .relaxed import Relaxed

#: The most positions to go on from, to ask the relaxed level about, and to plan a finish from.
MOST_POSITIONS, MOST_ASKED, MOST_PLANNED = 20_000, 400, 40


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
                    return ways.to(after)
            ahead.append(after)
    return None


def finishes_but_for_the_last(relaxed: Relaxed, run: list[Move]) -> bool:
    """Whether a finishing run was found from the position before the last move of a run."""
    position = relaxed.rules.start()
    for move in run[:-1]:
        after = relaxed.rules.after(position, move)
        assert after is not None
        position = after
    try:
        return find_run(Guide(relaxed), position, MOST_PLANNED) is not None
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
