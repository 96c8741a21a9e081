"""Figures a designer compares between versions of a level."""

from __future__ import annotations

from ..spaces import Route
from ..spaces.space import S
from . import keys
from .answers import Measures, PacePoint, RunMeasure
from .context import Context
from .pace import pace, walks_again


def measure(context: Context[S], finish: Route | None, all_rewards: Route | None) -> Measures:
    """Return the figures of a level, but none of a run that is not proven shortest."""
    if finish is None or not finish.shortest:
        return Measures()
    routes = {"finish": finish, "all-rewards": all_rewards}
    paces = {
        name: points
        for name, route in routes.items()
        if route is not None and route.shortest
        if (points := pace(context.level, context.rules, route, context.limits))
    }
    return Measures(
        _run(finish),
        _run(all_rewards) if all_rewards is not None and all_rewards.shortest else None,
        walked_again(finish),
        choices(finish, paces.get("finish", ())),
        keys.ask(context),
        paces,
    )


def _run(route: Route) -> RunMeasure:
    return RunMeasure(route.steps, len(route.moves))


def choices(route: Route, points: tuple[PacePoint, ...]) -> tuple[int, ...]:
    """Return what can be done before each move of a run that is no walk; nothing where its pace is not known."""
    pairs = zip(route.moves, points, strict=True) if points else ()
    return tuple(point.things for move, point in pairs if move.what["do"] != "walk")


def walked_again(route: Route) -> float:
    """The share of a run's steps, to three places, along passages walked before, either way."""
    pairs = zip(route.moves, walks_again(route), strict=True)
    again = sum(move.cost for move, once_more in pairs if once_more)
    return round(again / route.steps, 3) if route.steps else 0.0
