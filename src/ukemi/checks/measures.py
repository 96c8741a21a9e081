"""Figures a designer compares between versions of a level."""

from __future__ import annotations

from ..rules import PLACE, Position, Rules
from ..rules.steps import Set, run
from ..search import Route
from .cases import Cases
from .keys import key_measures
from .result import Measures, RunMeasure


def measure(cases: Cases, finish: Route | None, all_rewards: Route | None) -> Measures:
    """The figures of a level.

    Args:
        cases: The level under check.
        finish: The shortest finishing run, if one is proven to be.
        all_rewards: The shortest finishing run that takes every reward.

    Returns:
        The figures; those of a run that was not found, or not proven to be shortest, are left out.
    """
    if finish is None:
        return Measures()
    return Measures(
        _run(finish),
        _run(all_rewards) if all_rewards is not None else None,
        walked_again(finish),
        choices(cases.whole.rules, finish),
        key_measures(cases),
    )


def _run(route: Route) -> RunMeasure:
    return RunMeasure(route.steps, len(route.moves))


def walked_again(route: Route) -> float:
    """The share of a run's steps that go along passages walked before, in either direction.

    Args:
        route: The run.

    Returns:
        A share from 0 to 1, rounded to three places; 0 for a run without steps.
    """
    walked: set[str] = set()
    again = 0
    for move in route.moves:
        if move.what["do"] == "walk":
            again += move.cost if move.what["name"] in walked else 0
            walked.add(move.what["name"])
    return round(again / route.steps, 3) if route.steps else 0.0


#: The rooms to walk to, at the most, to count the choices along one run.
MOST_WALKED = 3_000_000


def choices(rules: Rules, route: Route) -> tuple[int, ...]:
    """At each point of a run, how many different things could be done next.

    Walking is not counted: what counts is each other move that can be made after walking at will.

    Args:
        rules: The rules of the level.
        route: The run.

    Returns:
        A number for each position before a move that is not a walk; nothing where walking at will
        leads to more than can be counted.
    """
    counts = []
    left = MOST_WALKED
    for position, move in zip(route.positions, route.moves, strict=False):
        if move.what["do"] == "walk":
            continue
        walked, things = _by_walking(rules, position, left)
        left -= walked
        if left <= 0:
            return ()
        counts.append(things)
    return tuple(counts)


def _by_walking(rules: Rules, position: Position, most: int) -> tuple[int, int]:
    """How many positions walking leads to, and how many different things can be done in them."""
    plain = _over_plain_walks(rules, position, most)
    if plain is not None:
        return plain
    seen = {position}
    ahead = [position]
    things: set[int] = set()
    for here in ahead:
        for option, after in rules.successors(here):
            if option.what["do"] != "walk":
                things.add(option.number)
            elif after not in seen:
                seen.add(after)
                ahead.append(after)
        if len(seen) > most:
            break
    return len(seen), len(things)


def _over_plain_walks(rules: Rules, position: Position, most: int) -> tuple[int, int] | None:
    """The same where walks change nothing but the room, told without making each; or ``None``."""
    if rules.settling:
        return None
    values = list(position)
    rooms = [position[PLACE]]
    seen = set(rooms)
    things: set[int] = set()
    for room in rooms:
        values[PLACE] = room
        for move in rules.moves_at(room):
            if move.number in things or not move.guard.holds(values):
                continue
            if move.what["do"] != "walk":
                if run(move.steps, values.copy()):
                    things.add(move.number)
                continue
            (step, *more) = move.steps
            if more or not isinstance(step, Set) or step.variable != PLACE:
                return None
            if step.value not in seen:
                seen.add(step.value)
                rooms.append(step.value)
        if len(seen) > most:
            break
    return len(seen), len(things)
