"""Find what is needed either-or: some sets of things, such that every finishing run does all of at least one
set.

First, optional things are put into groups: two things are in one group if no finishing run leaves out both, and three
if none leaves out all three. Then two kinds of sets are enumerated side by side in each group: the smallest sets that
are enough for finishing, and the smallest sets that no finishing run leaves out. Each of the former meets each of the
latter (M. L. Fredman and L. Khachiyan, "On the complexity of dualization of monotone disjunctive normal forms",
Journal of Algorithms 21, 1996).
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Sequence
from itertools import combinations
from typing import TYPE_CHECKING

from ..graph import closure
from ..level.joined import Joined
from ..spaces.space import S
from .answers import Alternatives
from .context import Context
from .named_sets import Sets
from .smallest import irreducible
from .verdict import Answer

if TYPE_CHECKING:
    from .free_level import FreeLevel

#: The most things to look for pairs among, and for three that cannot all be left out.
_FOR_PAIRS, _FOR_THREES = 80, 20
#: The most things of a campaign: each multiplies the positions, since a campaign forgets what was done.
_IN_CAMPAIGNS = 6
#: A place with more sets than this, or with more things in them, is left out: no reader would follow it.
_MOST_SETS, _MOST_THINGS = 12, 24

#: Whether some finishing run does none of some things.
Avoids = Callable[[Collection[str]], bool]


def ask(context: Context[S], statuses: dict[str, Answer]) -> tuple[Alternatives, ...] | None:
    """Return what is needed either or.

    Args:
        statuses: The status of each thing by name. As long as one is unknown, the question is undecided.

    Returns:
        The alternatives, those of each place apart; ``None`` if that is undecided.
    """
    if Answer.UNKNOWN in statuses.values():
        return None
    kinds = ("door", "chest", "act", "item")
    names = [
        one.name
        for one in context.subjects
        if one.kind in kinds and statuses[one.name] == Answer.OPTIONAL
    ][:_FOR_PAIRS]
    if isinstance(context.level, Joined):
        if not context.few or len(names) > _IN_CAMPAIGNS:
            return None
        context = context.remembering(names)
    required = [name for name, one in statuses.items() if one == Answer.REQUIRED]

    def by_landmarks(free: FreeLevel) -> tuple[Alternatives, ...]:
        def avoids(some: Collection[str]) -> bool:
            return free.but(free.doing(some)).finish is not None

        found = []
        for things in _joined(names, _unavoidable_in(free, names)):
            ways = _smallest(things, avoids)
            if ways is not None:
                found.append(Alternatives(ways, *_neighbours_in(free, ways, required)))
        return tuple(found)

    def by_sets(sets: Sets[S]) -> tuple[Alternatives, ...] | None:
        if not sets.complete or sets.forgets:
            return None
        found = []
        for things in _joined(names, _unavoidable(context, sets, names)):
            ways = _smallest(things, lambda some: bool(sets.without(some, sets.finished)))
            if ways is not None:
                found.append(Alternatives(ways, *_neighbours(sets, ways, required)))
        return tuple(found)

    return context.decide(None, free=by_landmarks, sets=by_sets)


def _unavoidable(
    context: Context[S], sets: Sets[S], names: Sequence[str]
) -> Iterator[tuple[str, ...]]:
    """Yield the pairs and threes of things of which every finishing run does at least one."""
    left = {name: sets.undone(name, sets.finished) for name in names}
    both: dict[tuple[str, str], S] = {}
    for a, b in combinations(names, 2):
        context.limits.check()
        neither = sets.undone(b, left[a])
        if neither:
            both[a, b] = neither
        else:
            yield a, b
    if len(names) > _FOR_THREES:
        return
    for (a, b), neither in both.items():
        context.limits.check()
        for c in names[names.index(b) + 1 :]:
            if (a, c) in both and (b, c) in both and not sets.undone(c, neither):
                yield a, b, c


def _unavoidable_in(free: FreeLevel, names: Sequence[str]) -> Iterator[tuple[str, ...]]:
    """The same for a level in which nothing is ever lost: what must be done if others are left out."""
    moves = {name: free.doing([name]) for name in names}
    required = {name: _must_without(free, moves[name]) for name in names}
    left: list[tuple[str, str]] = []  # the pairs that some finishing run leaves out
    for a, b in combinations(names, 2):
        if required[a] & free.bits[b]:
            yield a, b
        else:
            left.append((a, b))
    if len(names) > _FOR_THREES:
        return
    for a, b in left:
        new = _must_without(free, [*moves[a], *moves[b]]) & ~(required[a] | required[b])
        yield from ((a, b, c) for c in names[names.index(b) + 1 :] if new & free.bits[c])


def _must_without(free: FreeLevel, moves: Sequence[int]) -> int:
    """The bits of all that a finishing run has to do if it makes none of some moves."""
    finish = free.but(moves, watching=True).finish
    assert finish is not None, "some finishing run makes none of them"
    return finish


def _joined(names: Sequence[str], sets: Iterator[tuple[str, ...]]) -> list[list[str]]:
    """The things that are in some set, in groups: two things of one set are in one group."""
    beside: dict[str, set[str]] = {}
    for some in sets:
        for name in some:
            beside.setdefault(name, set()).update(some)
    found: list[list[str]] = []
    left = dict.fromkeys(name for name in names if name in beside)
    while left:
        part = closure([next(iter(left))], beside.__getitem__)
        found.append([name for name in left if name in part])
        left = {name: None for name in left if name not in part}
    return found


def _smallest(things: Sequence[str], avoids: Avoids) -> tuple[tuple[str, ...], ...] | None:
    """The smallest sets such that each finishing run does all of one of them; ``None`` if they are many."""
    if len(things) > _MOST_THINGS:
        return None
    clauses: list[Sequence[str]] = []  # of each, every finishing run does a thing
    ways: list[frozenset[str]] = []  # the smallest sets that meet all of them
    while True:
        ways = _meeting(clauses)
        if len(ways) > _MOST_SETS:
            return None
        for way in ways:
            rest = [name for name in things if name not in way]
            if not avoids(rest):
                clauses.append(irreducible(rest, lambda some: not avoids(some)))
                break
        else:
            break
    ways.sort(key=lambda way: (len(way), [things.index(name) for name in things if name in way]))
    return tuple(tuple(name for name in things if name in way) for way in ways)


def _meeting(clauses: Sequence[Sequence[str]]) -> list[frozenset[str]]:
    """The smallest sets that have a thing in common with each of some lists, in the order of these."""
    found: list[frozenset[str]] = [frozenset()]
    for clause in clauses:
        met = (
            way if not way.isdisjoint(clause) else way | {name} for way in found for name in clause
        )
        grown = dict.fromkeys(met)
        found = [way for way in grown if not any(other < way for other in grown)]
    return found


def _neighbours(
    sets: Sets[S], ways: Sequence[Sequence[str]], required: Sequence[str]
) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The required things that come before all of the alternatives, and those that come after one of them."""
    good = sets.can_finish
    things = {name for way in ways for name in way}
    begun = sets.joined(sets.done(name, good) for name in things)
    whole = sets.joined(_all_done(sets, way, good) for way in ways)
    before = [name for name in required if not sets.undone(name, begun)]
    after = [name for name in required if sets.done(name, good) <= whole]
    return tuple(before), tuple(after)


def _neighbours_in(
    free: FreeLevel, ways: Sequence[Sequence[str]], required: Sequence[str]
) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The same in a level in which nothing is ever lost."""
    earlier = free.required
    for name in dict.fromkeys(name for way in ways for name in way):
        earlier &= free.marks.before.get(free.subjects[name].variable, 0)
    before = [name for name in required if earlier & free.bits[name]]
    after = [name for name in required if name not in before]
    for some in _meeting(ways):  # each leaves no way whole
        reached = free.but(free.doing(some), watching=True).before
        after = [name for name in after if free.subjects[name].variable not in reached]
    return tuple(before), tuple(after)


def _all_done(sets: Sets[S], names: Sequence[str], among: S) -> S:
    for name in names:
        among = sets.done(name, among)
    return among
