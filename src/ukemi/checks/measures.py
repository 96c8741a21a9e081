"""Figures a designer compares between versions of a level."""

from __future__ import annotations

from ..search import Route
from .cases import Cases
from .choices import choices
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
