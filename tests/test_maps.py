"""Tile maps: cut into rooms, they answer as if every cell were a room."""

from __future__ import annotations

import json
from random import Random
from typing import Any

from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

import ukemi

from .levels import Drawer
from .test_against_naive import LEVELS, compare_level

SYMBOLS = "k*DGhc!os"


class MapDrawer(Drawer):
    """Draws small levels on one or two floors, with or without rooms beside them."""

    def map_level(self) -> dict[str, Any]:
        random = self.random
        plain = self.level()
        plain["rooms"] = {"yard": {"items": {item: 1 for item in self.items if self.maybe(0.3)}}}
        plain["goal"] = random.choice(["far", "far", "at far and iron", "iron", "yard"])
        plain.pop("start")
        width, height = random.randint(3, 5), random.randint(2, 4)
        cells = [random.choice("....##^<") for _ in range(width * height)]
        spots = random.sample(range(width * height), min(width * height, random.randint(3, 7)))
        cells[spots[0]], cells[spots[1]] = "@", "z"
        for spot in spots[2:]:
            cells[spot] = random.choice(SYMBOLS)
        self.rooms = ["far", "yard"]
        self.doors, self.chests, self.acts = ["door"] * (cells.count("D") == 1), [], []
        plain["passages"] = [{f"far {random.choice(['<->', '->'])} yard": {}}]
        plain["flags"] = {flag: self.maybe(0.3) for flag in ("low", "lit")}
        shared = {"needs": self.condition()}
        plain["locks"] = {"shared": shared}
        lock = self.lock(False)
        for one in (lock, plain["items"][self.items[0]].get("on-pickup", {})):
            if isinstance(one, dict):
                one.pop("opens", None)
        plain["legend"] = {
            "k": {"item": {self.items[0]: {"count": 1}}},
            "*": {"items": self.some(self.items)},
            "D": {"lock": lock, "name": "door", **({"gate": self.condition()} if self.maybe(0.2) else {})},
            "G": {"gate": self.condition(), "steps": random.randint(0, 3)},
            "h": {"name": "hazard", "loses": self.some(self.items), **({"once": True} if self.maybe(0.4) else {})},
            "c": {"chest": {"name": "bin", "holds": self.some(self.items), "lock": self.condition()}},
            "!": {"switch": {"name": "lever", **self.act("once")}},
            "o": {"act": {"name": "heap", **self.act("repeat")}, "solid": False},
            "z": {"room": "far"},
            "s": {"one-way": random.choice(["up", "down", "left", "right"])},
        }  # fmt: skip
        for legend, kind in (("!", "switch"), ("o", "act")):
            plain["legend"][legend][kind].pop("opens", None)
        rows = ["".join(cells[n * width : (n + 1) * width]) for n in range(height)]
        plain["maps"] = {"ground": rows}
        used = {symbol for row in rows for symbol in row}
        plain["legend"] = {symbol: one for symbol, one in plain["legend"].items() if symbol in used}
        return plain


def map_levels() -> st.SearchStrategy[dict[str, Any]]:
    return st.randoms(use_true_random=False).map(lambda random: MapDrawer(random).map_level())


def readable(plain: dict[str, Any]) -> ukemi.Level:
    try:
        return ukemi.loads(json.dumps(plain))
    except ukemi.LevelError:
        assume(False)
        raise


@given(map_levels())
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_a_cut_map_answers_as_if_every_cell_were_a_room(plain: dict[str, Any]) -> None:
    compare_cut(readable(plain))


def compare_cut(level: ukemi.Level) -> None:
    cells = level.to_rooms(every_cell=True)
    assert len(cells.rooms) >= len(level.rooms)
    cut, every = ukemi.check(level), ukemi.check(cells, max_positions=20_000)
    assume(every.search.complete)
    for name in (
        "finish",
        "stuck",
        "all_rewards",
        "deadly",
        "rewards",
        "doors",
        "chests",
        "acts",
        "items",
    ):
        assert getattr(cut.answers, name) == getattr(every.answers, name), name
    known = cut.answers.rooms
    assert {name: every.answers.rooms[name] for name in known} == known
    assert cut.routes.keys() == every.routes.keys()
    assert {name: one.steps for name, one in cut.routes.items()} == {
        name: one.steps for name, one in every.routes.items()
    }
    assert cut.answers.order == every.answers.order or set(cut.answers.order or ()) == set(
        every.answers.order or ()
    )


@given(map_levels())
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_both_players_answer_alike_on_maps(plain: dict[str, Any]) -> None:
    compare_level(readable(plain))


def test_random_maps_are_mostly_readable() -> None:
    readable = 0
    for seed in range(100):
        try:
            ukemi.loads(json.dumps(MapDrawer(Random(seed)).map_level()))
            readable += 1
        except ukemi.LevelError:
            pass
    assert readable > 50
