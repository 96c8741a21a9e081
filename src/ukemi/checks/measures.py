"""Figures a designer compares between versions of a level."""

from __future__ import annotations

from ..search import Route
from .choices import choices
from .keys import key_measures
from .questions import Questions
from .result import Measures, RunMeasure


def measure(questions: Questions, finish: Route | None, all_rewards: Route | None) -> Measures:
    """The figures of a level.

    Args:
        questions: Answers for the level.
        finish: A finishing run.
        all_rewards: One that takes every reward.

    Returns:
        The figures; those of a run that was not found, or not proven to be shortest, are left out.
    """
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
    """The share of a run's steps that go along passages walked before, in either direction.

    Args:
        route: The run.

    Returns:
        A share from 0 to 1, rounded to three places; 0 for a run without steps.
    """
    walked: set[tuple[str, str]] = set()
    again = 0
    for move in route.moves:
        if move.what["do"] == "walk":
            one = (move.what.get("by", ""), move.what["name"])
            again += move.cost if one in walked else 0
            walked.add(one)
    return round(again / route.steps, 3) if route.steps else 0.0
