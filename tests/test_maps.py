"""Tile maps: cut into rooms, they answer as if every cell were a room."""

from __future__ import annotations

import json
from pathlib import Path
from random import Random
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, assume, given, settings

import ukemi
from ukemi.checks.route_words import route_words, stops

from .helpers import DEMO, readable, run
from .levels import MapDrawer, map_levels
from .test_against_naive import LEVELS, compare_level


@given(map_levels())
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_a_cut_map_answers_as_if_every_cell_were_a_room(plain: dict[str, Any]) -> None:
    compare_cut(readable(plain))


def compare_cut(level: ukemi.Level) -> None:
    cells = level.to_rooms(every_cell=True)
    assert len(cells.rooms) >= len(level.rooms)
    every = ukemi.check(cells, max_positions=20_000, max_seconds=10)
    assume(every.search.complete)
    cut = ukemi.check(level)
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


FLOOR = "maps:\n  ground: |\n    #######\n    #@.k.G#\n    #######\n"
LEGEND = "items: {key: {}}\nlegend: {k: {item: key}, G: {room: far}}\n"


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("goal: far\n" + LEGEND + FLOOR.replace("@", "."), "4:1: there is no start"),
        ("goal: far\n" + LEGEND + FLOOR.replace("@.", "@@"), "7:7: there are two starts: ground@2,2 and ground@3,2"),
        ("goal: far\nstart: ground@1,1\n" + LEGEND + FLOOR.replace("@", "."), "2:8: nobody can stand on ground@1,1"),
        ("goal: far\nstart: far\n" + LEGEND + FLOOR, "[start-blocked]"),
        ("goal: at ground@1,2\n" + LEGEND + FLOOR, "[thing-in-wall]"),
        ("goal: at ground@6,2\n" + LEGEND + FLOOR, "has a name: write far"),
        ("goal: at cellar@6,2\n" + LEGEND + FLOOR, "there is no map 'cellar'"),
        ("goal: far\n" + LEGEND + FLOOR.replace("k.G", "k$G"), "7:9: the symbol '$' at ground@5,2 is not in the legend"),
        ("goal: far\n" + LEGEND + FLOOR.replace("@.k", "@\tk"), "7:7: there is a tab at ground@3,2"),
        ("goal: far\n" + LEGEND.replace("item: key", "item: kee") + FLOOR, "did you mean 'key'"),
        ("goal: far\n" + LEGEND.replace("{item: key}", "grass") + FLOOR, "must be wall, floor, void or start"),
        ("goal: far\n" + LEGEND.replace("{item: key}", "{chest: {holds: key}}") + FLOOR, "needs a name"),
        ("goal: far\n" + LEGEND + "maps: {ground: {csv: no.csv}}", "a CSV file can only be named in a level file"),
        ("goal: far\n" + LEGEND.replace("room: far", "room: key-room}, x: {room: far") + FLOOR, "the legend has 'x' for it, which is on no map"),
    ],
)  # fmt: skip
def test_mistakes_on_maps_are_told_with_their_cell(text: str, says: str) -> None:
    with pytest.raises(ukemi.LevelError) as caught:
        ukemi.loads(text, None)
    assert says in str(caught.value), str(caught.value)
    assert len(caught.value.problems) == 1


@pytest.mark.parametrize(
    ("rows", "place"),
    [
        ("|\n    @..\n    .?z\n", (4, 6)),
        ("\n    - '@..'\n    - '.?z'\n", (4, 9)),
        ("\n    - ..@\n    - .?z\n", (4, 8)),
        ("['@..', '.?z']\n", (2, 21)),
        ("\n    - ['@', ., .]\n    - [., '?', z]\n", (4, 11)),
        ('"@?z"\n', (2, 13)),
        ('"@..\\n.?z"\n', (2, 11)),  # of several rows in quotes, only the start is known
    ],
)
def test_a_cell_is_told_where_it_stands(rows: str, place: tuple[int, int]) -> None:
    with pytest.raises(ukemi.LevelError) as caught:
        ukemi.loads(f"maps:\n  ground: {rows}goal: at far\nlegend: {{z: {{room: far}}}}\n")
    (problem,) = (one for one in caught.value.problems if "'?'" in one.message)
    assert (problem.place.line, problem.place.column) == place


def test_findings_of_maps() -> None:
    text = (
        "goal: far\nitems: {key: {}}\nlegend: {D: {lock: key, name: door}, c: {chest: {name: bin}},"
        " x: wall, k: {item: key}, G: {room: far}}\n"
        "maps:\n  ground: |\n    #########\n    #@.kG.D##\n    #####.#c#\n    ####..###\n    #.k######\n"
    )
    report = ukemi.check(ukemi.loads(text))
    said = {(one.code, one.subject, one.place.line, one.place.column) for one in report.findings}
    assert ("thing-in-wall", "bin", 8, 12) in said
    assert ("door-without-sides", "door", 7, 11) in said
    assert ("unconnected", "ground@3,5", 10, 7) in said
    assert "unused-symbol" in {one.code for one in report.findings}


def test_routes_are_told_as_walks() -> None:
    text = (
        "goal: far\n" + LEGEND.replace("{room: far}", "{lock: key, name: door, room: far}") + FLOOR
    )
    report = ukemi.check(ukemi.loads(text))
    assert route_words(report.routes["finish"], report.level) == (
        "walk to ground@4,2 (2 steps), take key, walk to ground@5,2, unlock door, walk to far by door, finish"
    )
    full = route_words(report.routes["finish"], report.level, full=True)
    assert full.startswith("walk to ground@4,2 over 3,2, take key")
    assert report.answers.doors == {"door": "required"}
    level = ukemi.loads(
        "{goal: at far and 2 oak, items: {oak: {}}, maps: {ground: ['@.o.D.z']},"
        " legend: {o: {items: {oak: 3}}, D: {name: hatch, lock: oak}, z: {room: far}}}"
    )
    told = stops(ukemi.check(level).routes["finish"], level)
    assert [(one.words, one.first, one.last) for one in told] == [
        ("walk to ground@3,1 (2 steps)", 0, 0), ("take 2 oak", 1, 2), ("walk to ground@4,1", 3, 3),
        ("unlock hatch", 4, 4), ("walk to far (3 steps)", 5, 7), ("finish", 8, 8),
    ]  # fmt: skip


def test_touch_takes_what_is_stepped_on_and_a_way_round_avoids_it() -> None:
    narrow = (
        "goal: far and not key\nrules: {pickup: touch}\nflags: [far]\n"
        + LEGEND.replace("room: far", "room: end")
        + FLOOR
    )
    narrow = narrow.replace("goal: far and not key", "goal: at end and not key")
    assert ukemi.check(ukemi.loads(narrow)).answers.finish == "no"
    wide = narrow.replace("    #######\n    #@", "    #.....#\n    #@")
    assert ukemi.check(ukemi.loads(wide)).routes["finish"].steps == 6


def test_a_map_from_text_an_array_and_csv(tmp_path: Path) -> None:
    rows = ["#####", "#@.k#", "#####"]
    (tmp_path / "ground.csv").write_text("\n".join(",".join(row) for row in rows))
    level_file = tmp_path / "mill.yaml"
    level_file.write_text(
        "goal: key\nitems: {key: {}}\nlegend: {k: {item: key}}\nmaps: {ground: {csv: ground.csv}}\n"
    )
    read = ukemi.load(level_file)
    drawings = ["\n".join(rows), rows, np.array([list(row) for row in rows]),
                ukemi.load_csv_map(tmp_path / "ground.csv")]  # fmt: skip
    for drawing in drawings:
        level = ukemi.Level()
        level.item("key")
        level.tile("k", item="key")
        level.map("ground", drawing)
        level.set_goal("key")
        assert ukemi.check(level).routes["finish"].steps == 3
        assert list(level.rooms) == list(read.rooms) == ["ground@2,2", "ground@4,2"]
        rooms = level.to_rooms()
        assert (len(rooms.maps), len(rooms.passages)) == (0, 1)
    ukemi.save(read, level_file)
    assert ukemi.load(level_file) == read
    level.text = None
    assert ukemi.loads(ukemi.dumps(level)) == level
    level.room("shed")
    level.passage("ground@3,2 <-> shed")
    assert "ground@3,2" in level.rooms
    with pytest.raises(ukemi.LevelError, match="nobody can stand on ground@1,1"):
        level.passage("ground@1,1 <-> shed")
    with pytest.raises(ukemi.LevelError, match="say what is on it with tile"):
        level.put("ground@2,2", "key")
    with pytest.raises(ukemi.LevelError, match="'%' at cellar@2,1 is not in the legend"):
        level.map("cellar", "#%#")
    level_file.write_text(level_file.read_text().replace("ground.csv", "grund.csv"))
    with pytest.raises(
        ukemi.LevelError, match=r"4:16: cannot read the map 'grund.csv': no such file"
    ):
        ukemi.load(level_file)


def test_new_writes_a_level_but_never_over_one(tmp_path: Path) -> None:
    for kind in ("--map", "--rooms"):
        file = tmp_path / f"new{kind}.yaml"
        assert run("new", kind, file).returncode == 0
        assert run("check", file, "--strict").returncode == 0
        before = file.read_text()
        again = run("new", kind, file)
        assert (again.returncode, file.read_text()) == (2, before)
        assert "left as it is" in again.stderr
    assert run("new", tmp_path / "none.yaml").returncode == 2
    assert not (tmp_path / "none.yaml").exists()


@pytest.mark.parametrize("name", ["ground-floor", "flooded-cellar"])
def test_maps_are_drawn_with_a_route(name: str, tmp_path: Path) -> None:
    picture = tmp_path / "map.svg"
    route = "stuck" if name == "flooded-cellar" else "finish"
    done = run("draw", DEMO / f"{name}.yaml", "--route", route, "-o", picture)
    assert done.returncode == 0, done.stderr
    level = ukemi.load(DEMO / f"{name}.yaml")
    cut, cells = ukemi.check(level), ukemi.check(level.to_rooms(every_cell=True))
    assert cut.routes["finish"].steps == cells.routes["finish"].steps
    assert cut.answers.doors == cells.answers.doors
    assert picture.stat().st_size > 20_000
