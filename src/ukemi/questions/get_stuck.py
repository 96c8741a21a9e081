"""Can anyone get stuck? Stuck are the positions playing - W: the run goes on, but nothing finishes.

A mistake is a move from W to a stuck position.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping

from ..rules import Move
from ..spaces import Route, replay
from ..spaces.alike import Alike
from ..spaces.space import Run, S
from .context import Context
from .named_sets import Sets
from .verdict import Answer, Verdict


def ask(context: Context[S]) -> Verdict:
    """Return whether anyone can get stuck: possible, never or unknown."""

    def by_sets(sets: Sets[S]) -> Answer:
        if context.stuck_route is not None or sets.lost:
            return Answer.POSSIBLE
        return Answer.NEVER if sets.complete else Answer.UNKNOWN

    return Verdict(
        context.decide(
            Answer.UNKNOWN,
            free=lambda free: Answer.NEVER if free.can_finish else Answer.POSSIBLE,
            sets=by_sets,
        )
    )


def all_mistakes_known(context: Context[S]) -> bool:
    """Return whether every kind of mistake is known."""
    return context.free is not None or (
        context.sets.complete and ask(context).answer != Answer.UNKNOWN
    )


def losing_moves(context: Context[S]) -> Iterable[Move]:
    """Return the moves that lose the level, whoever makes them.

    Raises:
        CutShortError: Time or memory ended first.
    """

    def by_sets(sets: Sets[S]) -> Iterable[Move]:
        moves, alike = _losing(sets), sets.space.alike
        if alike is None:
            return moves
        orders = list(alike.orders())
        return {alike.renamed(move, names) for move in moves for names in orders}

    return context.decide_or_cut(free=lambda free: (), sets=by_sets)


def mistakes(context: Context[S]) -> Iterator[Route]:
    """Yield, for each kind of move that loses the level, a cheapest run that ends with it."""
    if context.free is not None:
        return
    sets = context.sets
    nothing: list[tuple[Run, Move]] = []
    found = sets.in_time(lambda: _quickest_of_each_kind(sets), nothing)
    if not found and context.last_is_mistake and context.stuck_route is not None:
        yield context.stuck_route
    for run, move in sorted(found, key=lambda one: (one[0].cost + one[1].cost, one[1].number)):
        route = sets.route(run, move, certain=sets.complete)
        yield from _by_each_player(context, route, sets.space.alike)


def somewhere(context: Context[S]) -> Route | None:
    """Return a run into a stuck position, whichever of its moves is the mistake."""
    return context.decide(
        context.stuck_route,
        free=lambda free: None,
        sets=lambda sets: sets.route_to(sets.lost, certain=sets.complete) or context.stuck_route,
    )


def _losing(sets: Sets[S]) -> dict[Move, S]:
    """The moves that lose the level, each with the positions that it loses it from."""
    return sets.space.leading(sets.can_finish, sets.lost)


def _quickest_of_each_kind(sets: Sets[S]) -> list[tuple[Run, Move]]:
    kinds: dict[str, dict[Move, S]] = {}
    for move, sources in _losing(sets).items():
        kinds.setdefault(_kind(move.what, sets.space.alike), {})[move] = sources
    found = (sets.quickest(one) for one in kinds.values())
    return [one for one in found if one is not None]


def _kind(what: Mapping[str, object], alike: Alike | None) -> str:
    """The same for moves that differ only by which of several players that are alike makes them."""
    if alike is None:
        return json.dumps(what)
    names = ("by", "to") if what["do"] == "give" else ("by",)
    return json.dumps({key: one for key, one in what.items() if key not in names})


def _by_each_player(context: Context[S], route: Route, alike: Alike | None) -> Iterator[Route]:
    """A route, and the same with players that are alike in each other's place."""
    seen = set()
    for names in [{}] if alike is None else alike.orders():
        moves = route.moves if alike is None else [alike.renamed(m, names) for m in route.moves]
        what = json.dumps(moves[-1].what)
        if what not in seen:
            seen.add(what)
            yield replay(context.rules, moves, at_least=route.at_least)
