"""Figures a designer compares between versions of a level."""

from __future__ import annotations

from ..spaces import Route
from ..spaces.space import S
from . import keys
from .answers import Measures, RunMeasure
from .choices import choices
from .context import Context
from .pace import pace


def measure(context: Context[S], finish: Route | None, all_rewards: Route | None) -> Measures:
    """Return the figures of a level, but none of a run that is not proven shortest."""
    if finish is None or not finish.shortest:
        return Measures()
    return Measures(
        _run(finish),
        _run(all_rewards) if all_rewards is not None and all_rewards.shortest else None,
        walked_again(finish),
        choices(context.rules, finish, context.limits),
        keys.ask(context),
        {
            name: points
            for name, route in (("finish", finish), ("all-rewards", all_rewards))
            if route is not None and route.shortest
            if (points := pace(context.level, context.rules, route, context.limits))
        },
    )


def _run(route: Route) -> RunMeasure:
    return RunMeasure(route.steps, len(route.moves))


def walked_again(route: Route) -> float:
    """The share of a run's steps, to three places, along passages walked before, either way."""
    walked: set[tuple[str, str]] = set()
    again = 0
    for move in route.moves:
        if move.what["do"] == "walk":
            one = (move.what.get("by", ""), move.what["name"])
            again += move.cost if one in walked else 0
            walked.add(one)
    return round(again / route.steps, 3) if route.steps else 0.0
