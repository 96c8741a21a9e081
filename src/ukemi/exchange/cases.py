"""The moves of a level as cases, for programs that know nothing of steps: what holds before, what changes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import NamedTuple

from ..level import Level
from ..level.joined import Joined
from ..rules import END, PLACE, PLAYING, Move, Rules, compile_level
from ..rules.branches import TooManyBranchesError, bounds, move_branches
from ..rules.expressions import Expression


class CannotBeSaidError(ValueError):
    """Something of a level that another form has no words for."""


class Change(NamedTuple):
    """What a variable is afterwards: a number, or so much more than it was."""

    fixed: bool
    value: int


@dataclass(frozen=True, eq=False)
class Case:
    """One way a move turns out in a room.

    Attributes:
        move: The move.
        place: The room, by number.
        holds: What holds before.
        changes: The variables that are changed.
    """

    move: Move
    place: int
    holds: tuple[Expression, ...]
    changes: dict[int, Change]


def rules_of(level: Level, form: str) -> Rules:
    """The rules of a level whose moves can be told as cases.

    Args:
        level: The level.
        form: What it is to become, as it is called.

    Raises:
        CannotBeSaidError: It is a campaign, or for several players.
    """
    if isinstance(level, Joined):
        raise CannotBeSaidError("a campaign is several levels: convert each of them")
    if level.several:
        message = f"`players`: a level for several players cannot be said in {form} here"
        raise CannotBeSaidError(message)
    return compile_level(level)


def cases(rules: Rules) -> Iterator[Case]:
    """Every way that a move turns out, what happens by itself after it with it.

    Args:
        rules: The rules.

    Raises:
        CannotBeSaidError: A move turns out in too many ways.
    """
    most = bounds(rules)
    for move in rules.moves:
        for place in move.places:
            try:
                branches = move_branches(rules, move, place, most)
            except TooManyBranchesError:
                message = f"the move {move.what} turns out in too many ways"
                raise CannotBeSaidError(message) from None
            for one in branches:
                changes = {number: Change(True, value) for number, value in one.becomes.items()}
                changes |= {number: Change(False, value) for number, value in one.adds.items()}
                for number, same in ((PLACE, place), (END, PLAYING)):
                    if changes[number].value == same:
                        del changes[number]
                yield Case(move, place, one.conditions, changes)
