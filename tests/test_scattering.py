"""Scattering: every placement that is told of holds, and all of those that hold can come."""

from __future__ import annotations

import json
import os
from collections import Counter
from itertools import product
from random import Random
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.scattering import Scatterer
from ukemi.scattering.placing import Laid, laid, lying_in

from .helpers import readable
from .levels import choice_levels, map_levels, plain_levels

LEVELS = int(os.environ.get("UKEMI_LEVELS", "40"))


def placements(scatterer: Scatterer) -> dict[frozenset[Any], Laid]:
    """Every placement that is allowed, by brute force."""
    draws = scatterer.draws
    found: dict[frozenset[Any], Laid] = {}
    for spots in product(*(unit.spots for unit in draws.units)):
        placed = tuple((unit.thing, spot) for unit, spot in zip(draws.units, spots, strict=True))
        if all(draws.allowed(placed[:n], unit, spots[n]) for n, unit in enumerate(draws.units)):
            found[frozenset(Counter(placed).items())] = placed
    return found


def valid(scatterer: Scatterer) -> dict[frozenset[Any], int]:
    """The placements with the exit code of a check of each."""
    codes = {}
    for known, placed in placements(scatterer).items():
        level = laid(scatterer.draws.base, scatterer.draws.taken, placed)
        level.sound = False
        codes[known] = ukemi.check(level).exit_code()
    return codes


def drawn_of(plain: dict[str, Any], random: Random) -> Scatterer | None:
    """A level with a group of its items scattered, where there are few enough placements."""
    level = readable({**plain, "scatter": None})
    here = [item for item in level.items if lying_in(level, [item], [])]
    items = random.sample(here, min(len(here), random.randint(1, 2)))
    if not items:
        return None
    fields: dict[str, Any] = {"items": items}
    if random.random() < 0.3:
        fields["at_most"] = random.randint(1, 2)
    if random.random() < 0.3:
        fields["apart"] = random.randint(1, 3)
    level.scatter("things", **fields)
    try:
        scatterer = Scatterer(level, seed=random.randint(0, 9))
        units = scatterer.draws.units
    except ukemi.LevelError:
        return None
    total = 1
    for unit in units:
        total *= len(unit.spots)
    return scatterer if total <= 400 else None


@given(st.one_of(plain_levels(), choice_levels(), map_levels()), st.integers(0, 10**6))
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_what_is_drawn_is_what_holds(plain: dict[str, Any], number: int) -> None:
    compare(plain, number)


def compare(plain: dict[str, Any], number: int) -> bool:
    """Draw all placements of a random level; they are those that a check of each lets through."""
    scatterer = drawn_of(plain, Random(number))
    if scatterer is None:
        return False
    codes = valid(scatterer)
    found = ukemi.scatter(scatterer.level, count=10_000, seed=scatterer.seed)
    kept = {frozenset(Counter(one.where).items()) for one in found}
    holding = {known for known, code in codes.items() if code == 0}
    assert kept == holding, json.dumps(plain)
    assert found.none_left == (3 not in codes.values())
    return bool(holding) and len(holding) < len(codes)
