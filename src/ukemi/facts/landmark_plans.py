"""Find runs if nothing is ever lost: they make the required moves in the order in which these were found
possible.

Their moves are found from the end back, like those of relaxed plans: J. Hoffmann and B. Nebel, "The FF
planning system", Journal of Artificial Intelligence Research 14 (2001). The runs are not always shortest.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from ..graph import CheapestWays, closure
from ..rules import FINISHED, PLACE, PLAYING, Move
from ..rules.expressions import Expression, Negated, fold
from ..rules.steps import run
from .landmarks import Landmarks, Made


def finishing_plan(marks: Landmarks, wanted: Iterable[int] = ()) -> list[Move] | None:
    """The moves of a run that changes some variables and finishes; ``None`` where there is none."""
    initial = marks.rules.initial
    makers = [marks.did.get(one) for one in wanted if marks.start[one] == initial[one]]
    found = [made for made in makers if made is not None]
    last = _last(marks)
    return None if last is None or len(found) < len(makers) else _played(marks, found, last)


def plan_into(marks: Landmarks, room: int) -> list[Move] | None:
    """The moves of a run into a room; ``None`` where there is none."""
    if room == marks.start[PLACE]:
        return []
    return _played(marks, [], marks.came[room]) if room in marks.came else None


def _last(marks: Landmarks) -> Made | None:
    """The move that finishes: of several, the one that was found to be possible first."""
    ways = [made for place, made in marks.came.items() if marks.lacks.ended(place) == FINISHED]
    finishing = [(one, place) for one in marks.finishing for place in marks.where(one)]
    ways += [Made(move, place, len(marks.made)) for move, place in finishing]
    return min(ways, key=lambda made: _latest(_asked_for(marks, made)), default=None)


def _latest(some: Iterable[Made]) -> int:
    return max((made.time for made in some), default=-1)


def _asked_for(marks: Landmarks, made: Made) -> list[Made]:
    """Return the moves that must precede a move."""
    found = _holding(marks, marks.lacks.asks(made.move), made)
    assert found is not None  # or it would not have been found to be possible
    return [*found, marks.came[made.place]] if made.place in marks.came else found


def _holding(marks: Landmarks, expression: Expression, made: Made) -> list[Made] | None:
    """Return the moves that make an expression hold; ``None`` if the move was possible without them."""

    def atom(one: Expression, positive: bool) -> list[Made] | None:
        variable = marks.lacks.lacked(one if positive else Negated(one), made.place)
        if variable is None:
            return []
        maker = marks.did.get(variable)
        return [maker] if maker is not None and maker.time < made.time else None

    def every(parts: Iterable[list[Made] | None]) -> list[Made] | None:
        each = [*parts]
        return None if None in each else [one for some in each for one in some or ()]

    def some(parts: Iterable[list[Made] | None]) -> list[Made] | None:
        return min((way for way in parts if way is not None), key=_latest, default=None)

    return fold(expression, atom, every, some)


def _played(marks: Landmarks, wanted: list[Made], last: Made) -> list[Move]:
    """Return a run that makes some moves, and all moves that those ask for, in the order they were found.

    Args:
        wanted: Moves to make.
        last: The move that ends the run.
    """
    by_time = {made.time: made for made in (*wanted, last)}

    def asked_for(time: int) -> set[int]:
        found = {made.time: made for made in _asked_for(marks, by_time[time])}
        by_time.update(found)
        return found.keys() - {last.time}

    needed = closure(
        [*(made.time for made in wanted if made is not last), *asked_for(last.time)], asked_for
    )
    moves: list[Move] = []
    values = list(marks.start)
    for made in (*(by_time[time] for time in sorted(needed)), last):
        marks.limits.check()
        if made is last or not made.move.is_plain_walk:
            for move in (*_way(marks, values, made.place), made.move):
                run(move.steps, values)
                moves.append(move)
    return moves


def _way(marks: Landmarks, values: list[int], room: int) -> list[Move]:
    """The shortest way to a room with what is at hand."""
    values = values.copy()

    def leads(here: int) -> Iterator[tuple[int, int, Move]]:
        values[PLACE] = here
        for move in marks.rules.moves_at(here):
            there = move.leads_to if move.number in marks.made else None
            if (
                there is not None
                and marks.lacks.asks(move).holds(values)
                and marks.lacks.ended(there) == PLAYING
            ):
                yield there, move.cost, move

    ways = CheapestWays(values[PLACE], leads)
    ways.reach(room)
    return ways.to(room)
