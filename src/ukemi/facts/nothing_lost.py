"""Whether nothing is ever lost: all that can be done only helps, and each walk can be walked back.

Then a free move may be made at once (a persistent set of one move, Godefroid 1996), and whether a thing
can be done depends only on the things that must precede it. The way back must lead straight back: a player
without one might lose something after all, and a way back through other rooms makes a run enter them.
"""

from __future__ import annotations

from collections.abc import Hashable, Mapping

from ..rules import END, PLACE, PLAYING, Rules
from ..rules.expressions import AtLeast, Expression, Is, conjuncts
from ..spaces.limits import Limits
from .landmarks import Bits, Lacks, Landmarks, MayLoseError, UncountedError
from .safe_moves import SafeMoves


def nothing_lost(
    rules: Rules, limits: Limits, watched: Mapping[int, Bits], marked: Mapping[int, Bits]
) -> Landmarks | None:
    """Return the landmarks of a level in which it is plain that nothing is ever lost; else
    ``None``.

    Raises:
        CutShortError: The time was over first.
    """
    safety = SafeMoves(rules, limits)
    if not safety.able or rules.start()[END] != PLAYING:
        return None
    try:
        marks = Landmarks(Lacks(rules), safety, limits, watched, marked)
    except (MayLoseError, UncountedError):
        return None
    return marks if _always_returns(marks) else None


def _always_returns(marks: Landmarks) -> bool:
    """Whether each walk can be walked back at once whenever it can be made.

    The way back may ask for three things: what the walk asks for, what every walk to where it began asks for,
    and what holds from the start. Since nothing is lost, all of these still hold after the walk.
    """
    walks: dict[tuple[int, int], list[list[Expression]]] = {}
    for move, *_ in marks.made.values():
        there = move.leads_to
        if there is not None and marks.lacks.ended(there) == PLAYING:
            marks.limits.check()
            for here in marks.where(move):
                walks.setdefault((here, there), []).append(list(conjuncts(marks.lacks.asks(move))))
    known = _known_inside(walks, marks.start[PLACE])
    values = list(marks.start)
    for (here, there), ways in walks.items():
        values[PLACE] = there
        backs = walks.get((there, here), [])
        for asked in ways if here != there else ():
            given = {*map(_named, asked), *known.get(here, ())}
            if not any(
                all(part.holds(values) or _named(part) in given for part in back) for back in backs
            ):
                return False
    return True


def _known_inside(
    walks: Mapping[tuple[int, int], list[list[Expression]]], start: int
) -> dict[int, frozenset[Hashable]]:
    """Return, for each room but the first, the common conditions of all walks into it."""
    known: dict[int, frozenset[Hashable]] = {start: frozenset()}
    for (_, there), ways in walks.items():
        for way in ways:
            asked = frozenset(map(_named, way))
            known[there] = known.get(there, asked) & asked
    return known


def _named(part: Expression) -> Hashable:
    """A value that is equal for expressions which plainly say the same."""
    match part:
        case Is(variable, value):
            return "is", variable, value
        case AtLeast(variable, least):
            return "at least", variable, least
    return id(part)
