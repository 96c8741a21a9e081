"""Tile maps: cut into rooms, they answer as if every cell were a room."""

from __future__ import annotations

import json
import re
from pathlib import Path
from random import Random
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.checks.route_words import route_words, stops
from ukemi.level.maps.paths import Paths

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
        ("goal: far\nstart: ground@1,1\n" + LEGEND + FLOOR.replace("@", "."), "2:8: the player cannot stand on ground@1,1"),
        ("goal: far\nstart: far\n" + LEGEND + FLOOR, "8:6: the player starts in 'far' and, by a map, in 'ground@2,2'"),
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
    with pytest.raises(ukemi.LevelError, match="the player cannot stand on ground@1,1"):
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


def test_levels_with_maps_differ_by_what_is_drawn_and_by_what_is_not() -> None:
    text = (
        "{goal: mill, items: {oak: {}}, maps: {ground: '#@.k.#'}, legend: {k: {item: oak}}, "
        "rooms: {mill: {items: oak}}, passages: ['ground@5,1 -> mill']}"
    )
    level = ukemi.loads(text)
    assert level == ukemi.loads(text) and level != text
    for old, new in (
        ("->", "<->"), ("{items: oak}", "{}"), ("#@.k.#", "#@k..#"), ("k: {item", "x: floor, k: {item"),
    ):  # fmt: skip
        assert old in text and ukemi.loads(text.replace(old, new, 1)) != level


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


# -- seen from the side -----------------------------------------------------------------------

SIDE = {
    "#": {}, ".": {}, " ": {}, "@": {}, "=": {"bears": True}, "L": {"climb": True},
    "k": {"item": "iron"}, "r": {"item": "ledger"}, "G": {"gate": "iron"}, "h": {"steps": 3, "loses": "iron"},
    "Q": {"room": "far"}, ">": {}, "^": {}, "v": {},
}  # fmt: skip
ONE_WAY = {">": (1, 0), "^": (0, -1), "v": (0, 1)}


def side_map(random: Random) -> tuple[dict[str, Any], list[str], int, int]:
    """A random map seen from the side: the level file's data, its rows, and how far one jumps."""
    width, height = random.randint(4, 9), random.randint(3, 7)
    rows = [[random.choice("......####==LLkrGh>^v ") for _ in range(width)] for _ in range(height)]
    stands = [(x, y) for y in range(height - 1) for x in range(width) if rows[y + 1][x] in "#="]
    assume(len(stands) > 1)
    (ax, ay), (bx, by) = random.sample(stands, 2)
    rows[ay][ax], rows[by][bx] = "@", "Q"
    # What hangs in the air is an error of its own.
    drawn = list(map("".join, rows))
    for y, row in enumerate(rows):
        for x, symbol in enumerate(row):
            if symbol in "krGh>^v" and not holds(drawn, x, y):
                row[x] = "."
                drawn[y] = "".join(row)
    assume(holds(drawn, ax, ay) and holds(drawn, bx, by))
    up, across = random.randint(0, 2), random.randint(0, 3)
    level = {
        "goal": random.choice(["far", "at far and ledger"]),
        "rules": {"falling": random.choice(["impossible", "deadly"])},
        "items": {"iron": {"use": random.choice(["kept", "spent"])}, "ledger": {"kind": "reward"}},
        "maps": {"bank": {"seen-from": "side", "jump": {"up": up, "across": across}, "rows": "\n".join(drawn) + "\n"}},
        "legend": {symbol: one for symbol, one in SIDE.items() if one},
    }  # fmt: skip
    return level, drawn, up, across


def cell_at(rows: list[str], x: int, y: int) -> str:
    return rows[y][x] if 0 <= y < len(rows) and 0 <= x < len(rows[y]) else " "


def is_open(rows: list[str], x: int, y: int) -> bool:
    return cell_at(rows, x, y) not in "# "


def holds(rows: list[str], x: int, y: int) -> bool:
    """Whether a player can be in a cell without falling."""
    return is_open(rows, x, y) and (
        cell_at(rows, x, y) == "L" or cell_at(rows, x, y + 1) in ("#", "=", "L")
    )


#: What lies below a map.
BELOW = (-1, -1)


def naive_moves(
    rows: list[str], x: int, y: int, up: int, across: int
) -> dict[tuple[int, int], int]:
    """Each cell that one move leads to, with its steps: told from the rules, a cell at a time."""
    found: dict[tuple[int, int], int] = {}

    def passes(cell: tuple[int, int]) -> bool:
        return is_open(rows, *cell) and cell_at(rows, *cell) not in "Gh"

    def go(to: tuple[int, int], steps: int, *ways: tuple[int, int]) -> None:
        out, into = ways[0], ways[-1]
        leaves = ONE_WAY.get(cell_at(rows, x, y), out) == out
        if leaves and holds(rows, *to) and ONE_WAY.get(cell_at(rows, *to), into) == into:
            found[to] = min(steps, found.get(to, steps))

    def fall(beside: tuple[int, int], way: tuple[int, int]) -> None:
        column, row = beside
        if not passes(beside) or holds(rows, *beside):
            return
        steps = 1
        while passes((column, row)) and not holds(rows, column, row):
            row, steps = row + 1, steps + 1
        if holds(rows, column, row):
            go((column, row), steps, way, (0, 1))
        elif cell_at(rows, column, row) == " " and ONE_WAY.get(cell_at(rows, x, y), way) == way:
            found[BELOW] = 1

    for dx in (-1, 1):
        go((x + dx, y), 1, (dx, 0))
        fall((x + dx, y), (dx, 0))
    if cell_at(rows, x, y) == "L":
        go((x, y - 1), 1, (0, -1))
        if not holds(rows, x, y + 1):
            fall((x, y + 1), (0, 1))
    if cell_at(rows, x, y + 1) == "L":
        go((x, y + 1), 1, (0, 1))
    for high in range(up + 1):
        if not all(passes((x, y - one)) for one in range(1, high + 1)):
            break
        if high:
            go((x, y - high), high, (0, -1))
        for dx in (-1, 1):
            for far in range(1, across + 1):
                if all(passes((x + dx * one, y - high)) for one in range(1, far)):
                    go((x + dx * far, y - high), high + far, (dx, 0))
    return found


@given(st.randoms(use_true_random=False))
@settings(max_examples=max(LEVELS * 2, 60), deadline=None, suppress_health_check=list(HealthCheck))
def test_a_map_seen_from_the_side_answers_as_each_move_by_itself(random: Random) -> None:
    plain, rows, up, across = side_map(random)
    level = readable(plain)
    naive: dict[str, Any] = {**plain, "rooms": {}, "passages": []}
    del naive["maps"], naive["legend"]
    names = {"Q": "far"}
    naive["rules"] = {}
    naive["items"] = {**plain["items"], "breath": {"kind": "supply", "vital": True}}
    naive["inventory"], naive["rooms"]["below"] = {"start": ["breath"]}, {}
    cells = [(x, y) for y, row in enumerate(rows) for x in range(len(row)) if holds(rows, x, y)]
    name = {one: names.get(cell_at(rows, *one), f"c{one[0]}-{one[1]}") for one in cells}
    for one in cells:
        symbol = cell_at(rows, *one)
        item = {"k": ["iron"], "r": ["ledger"]}.get(symbol, [])
        naive["rooms"][name[one]] = {"items": item}
        if symbol == "@":
            naive["start"] = name[one]
        for to, steps in naive_moves(rows, *one, up, across).items():
            if to == BELOW:
                if plain["rules"]["falling"] == "deadly":
                    naive["passages"].append({f"{name[one]} -> below": {"loses": "breath"}})
                continue
            into = SIDE[cell_at(rows, *to)]
            fields = {"steps": steps - 1 + into.get("steps", 1)}
            fields |= {key: into[key] for key in ("gate", "loses") if key in into}
            naive["passages"].append({f"{name[one]} -> {name[to]}": fields})
    found, expected = ukemi.check(level), ukemi.check(ukemi.loads(json.dumps(naive)))
    ours, theirs = found.answers, expected.answers
    assert (ours.finish, ours.stuck, ours.all_rewards) == (
        theirs.finish,
        theirs.stuck,
        theirs.all_rewards,
    )
    assert ours.deadly == theirs.deadly
    for route in expected.routes:
        assert found.routes[route].steps == expected.routes[route].steps
        assert found.routes[route].shortest
    statuses = sorted(one.status for one in ours.rewards.values())
    assert statuses == sorted(one.status for one in theirs.rewards.values())
    assert ukemi.loads(saved(level)) == level


def saved(level: ukemi.Level) -> str:
    """The text that a level is written as."""
    with TemporaryDirectory() as folder:
        ukemi.save(level, Path(folder) / "level.yaml")
        return (Path(folder) / "level.yaml").read_text()


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ('{seen-from: side, rows: "@.Q\\n###\\n"}', None),
        ('{seen-from: side, jump: {up: 1, across: 1}, rows: "@.Q\\n#.."}', "hangs in the air"),
        ("{jump: {up: 1}, rows: '@Q'}", "`jump` needs `seen-from: side`"),
        ("{seen-from: side}", "a map has `rows`"),
        ("{seen-from: above, rows: '@Q'}", None),
        ("{seen-from: front, rows: '@Q'}", "must be above or side"),
        ("{seen-from: side, jump: {high: 1}, rows: '@Q'}", "has no field 'high'"),
    ],
)  # fmt: skip
def test_maps_seen_from_the_side_are_read_or_refused(text: str, told: str | None) -> None:
    level = f"goal: far\nmaps: {{bank: {text}}}\nlegend: {{Q: {{room: far}}}}\n"
    if told is None:
        ukemi.loads(level)
        return
    with pytest.raises(ukemi.LevelError, match=re.escape(told)):
        ukemi.loads(level)


def test_the_route_on_a_map_seen_from_the_side_turns_where_jumps_and_falls_do() -> None:
    level = ukemi.loads(
        "goal: far\nlegend: {Q: {room: far}}\nmaps:\n  bank:\n    seen-from: side\n    jump: {up: 2, across: 2}\n"
        "    rows: |\n      #..@..#\n      #..##.#\n      #Q...##\n      ########\n"
    )
    cells = Paths(level).cells("bank@4,1", "far")
    assert [(cell.column, cell.row) for cell in cells] == [(4, 1), (3, 1), (3, 3), (2, 3)]


def test_a_fall_out_of_the_map_is_death_only_if_the_level_says_so() -> None:
    text = "goal: far\n%smaps: {bank: {seen-from: side, rows: ['@..Q', '## #']}}\nlegend: {Q: {room: far}}\n"
    safe, deadly = (
        ukemi.check(ukemi.loads(text % one)) for one in ("", "rules: {falling: deadly}\n")
    )
    assert (safe.answers.deadly, deadly.answers.deadly) == ("no", "yes")
    (found,) = deadly.with_code("can-die")
    assert (found.subject, found.route.steps) == ("bank@below", 2)
    assert "bank@below" not in deadly.answers.rooms


def test_a_map_that_ends_early_and_rows_that_do_not_fit_are_found() -> None:
    rows = ["######", "#@..##", "#..m#", "######"]
    said = "{goal: mill, legend: {m: {room: mill}}, maps: {ground: %s}}"

    def ragged(rows: list[str]) -> list[str]:
        level = ukemi.loads(said % json.dumps("\n".join(rows)))
        return [one.message for one in ukemi.check(level).with_code("ragged-map")]

    assert ragged(rows) == [
        "Row 3 of ground has 1 symbol fewer than the rows beside it (ground@1,3)."
    ]
    rows[2] = "#..m##"
    assert ragged(rows) == []
    assert ragged(rows[:3]) == [
        "ground ends at row 3 (ground@1,3), and has walls on all sides but this one."
    ]
    assert ragged([*rows[:3], "#######"])[0].startswith("Row 4 of ground has 1 symbol more")
