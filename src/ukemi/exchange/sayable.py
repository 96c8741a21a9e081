"""Decide which parts of a level the forms of other programs can express."""

from __future__ import annotations

from ..level import Level
from ..level.joined import Joined
from ..rules import Rules, compile_level
from ..rules.actions import Action, actions_of
from ..rules.branches import TooManyBranchesError


class CannotBeSaidError(ValueError):
    """A part of a level that another form cannot express."""


def sayable(level: Level, form: str) -> tuple[Rules, list[Action]]:
    """The rules of a level, and the effects of its moves, together with the events after them.

    Args:
        form: The name of the form.

    Raises:
        CannotBeSaidError: It is a campaign, or for several players, or a move turns out in too
            many ways.
    """
    if isinstance(level, Joined):
        raise CannotBeSaidError("a campaign is several levels: convert each of them")
    if level.several:
        message = f"`players`: a level for several players cannot be said in {form} here"
        raise CannotBeSaidError(message)
    rules = compile_level(level)
    try:
        return rules, list(actions_of(rules))
    except TooManyBranchesError as error:
        raise CannotBeSaidError(str(error)) from None
