"""Can a position still finish, which rooms are reachable from it, and can the player die there?"""

from __future__ import annotations

from typing import NamedTuple

from ..rules import DEAD, Position
from ..spaces import Route
from ..spaces.space import S
from .context import Context
from .named_sets import Sets
from .verdict import Answer, settled


class Ahead(NamedTuple):
    """What can come of a position.

    Attributes:
        rooms: The rooms that can be entered from there, its own included; ``None`` if undecided.
        dies: Whether the player can die there.
    """

    rooms: set[str] | None
    dies: bool


def ask(context: Context[S], position: Position) -> Answer:
    """Return whether the level can be finished from a position: it is in W, or proven to be lost."""

    def by_sets(sets: Sets[S]) -> Answer:
        good = sets.in_time(lambda: sets.space.contains(sets.can_finish, position), False)
        if good:
            return Answer.YES
        lost = sets.in_time(lambda: sets.space.contains(sets.lost, position), False)
        return Answer.NO if lost else Answer.UNKNOWN

    return context.decide(Answer.UNKNOWN, free=lambda free: settled(free.can_finish), sets=by_sets)


def hopeless(context: Context[S], position: Position) -> bool:
    """Return whether it is proven, and quick to decide, that nothing finishes from a position."""
    if context.free is not None or not context.sets.space.by_position:
        return False
    return context.sets.space.contains(context.sets.lost, position)


def run_where_never(context: Context[S], room: str, variable: int, value: int) -> Route | None:
    """Return a run into a room, if it is proven that a variable never has some value there."""

    def by_sets(sets: Sets[S]) -> Route | None:
        sets.must_be_complete()
        there = sets.at(room)
        return None if sets.space.having(variable, value, there) else sets.route_to(there)

    return context.decide(None, free=lambda free: None, sets=by_sets)


def what_comes(context: Context[S], position: Position) -> Ahead:
    """Return what can come of a position."""

    def by_sets(sets: Sets[S]) -> Ahead:
        here = sets.space.only(position)
        if not here:  # it was found in another way than by the search
            return Ahead(None, False)
        at_start = sets.space.start <= here
        after = sets.space.reachable if at_start else sets.space.after(here)
        if not sets.complete and after & sets.space.unexplored:
            return Ahead(None, False)
        return Ahead(sets.rooms(after), bool(after & sets.space.ended(DEAD)))

    return context.decide(
        Ahead(None, False), free=lambda free: Ahead(free.rooms, False), sets=by_sets
    )
