"""Figures a designer compares between versions of a level."""

from __future__ import annotations

from ..spaces import Route
from .choices import choices
from .keys import key_measures
from .questions import Questions
from .result import Measures, RunMeasure


def measure(questions: Questions, finish: Route | None, all_rewards: Route | None) -> Measures:
    """The figures of a level; those of a run that was not found, or proven shortest, are left out."""
    if finish is None or not finish.shortest:
        return Measures()
    return Measures(
        _run(finish),
        _run(all_rewards) if all_rewards is not None and all_rewards.shortest else None,
        walked_again(finish),
        choices(questions.rules, finish, questions.limits),
        key_measures(questions),
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
