"""Pictures: nothing covers anything, the same level gives the same picture, odd names do no harm."""

from __future__ import annotations

import json
import re
from contextlib import nullcontext
from html import unescape
from itertools import combinations, pairwise
from pathlib import Path
from random import Random
from typing import Any

import pytest
from benchmarks.families import chain, designed
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from matplotlib import image
from matplotlib.collections import LineCollection
from matplotlib.figure import Figure

import ukemi
from ukemi.checks.route_words import stops
from ukemi.draw import draw_inventory, draw_locks, draw_map, draw_order, drawn_dark, save
from ukemi.draw.box_positions import Box, place_rooms
from ukemi.draw.columns import place_in_layers
from ukemi.draw.labels import (
    goal_text,
    label_sizes,
    letters_of,
    passage_lines,
    room_lines,
    size_of,
)
from ukemi.draw.style import SMALL
from ukemi.draw.ways import place_label, ways

from .helpers import DEMO, ROOT, readable, run
from .levels import plain_levels


def random_rooms(random: Random) -> ukemi.Level:
    """A level of plain rooms, some of them joined by doors, some by nothing."""
    level = ukemi.Level("The Rambling Mill")
    level.item("key", use="spent")
    names = [
        f"room-{'x' * random.randint(0, 12)}{number}" for number in range(random.randint(2, 14))
    ]
    for name in names:
        level.room(name, items={"key": random.randint(1, 3)} if random.random() < 0.3 else {})
    for _ in range(random.randint(1, 20)):
        a, b = random.choice(names), random.choice(names)
        fields: dict[str, Any] = {"lock": "2 key"} if random.random() < 0.3 else {}
        level.passage(f"{a} {random.choice(['<->', '->'])} {b}", **fields)
    level.set_start(names[0])
    level.set_goal(names[-1])
    return level


@given(st.randoms(use_true_random=False))
@settings(max_examples=10, deadline=None, suppress_health_check=list(HealthCheck))
def test_rooms_never_overlap_and_fill_a_window(random: Any) -> None:
    level = random_rooms(random)
    sizes = {name: size_of(room_lines(level, room)) for name, room in level.rooms.items()}
    labels = label_sizes(level, {one.name: passage_lines(level, one) for one in level.passages})
    boxes = place_rooms(level, sizes, labels)
    assert boxes == place_rooms(level, sizes, labels)
    assert boxes.keys() == level.rooms.keys()
    for a, b in combinations(boxes.values(), 2):
        assert not a.overlaps(b, margin=20)
    placed: list[Box] = []
    for way in ways(level, boxes):
        lines = passage_lines(level, way.passage)
        if lines:
            placed.append(place_label(way, size_of(lines), [*boxes.values(), *placed]))
    assert not any(a.overlaps(b) for a, b in combinations([*boxes.values(), *placed], 2))
    figure = draw_map(level)
    ratio = figure.get_figwidth() / figure.get_figheight()
    assert 0.85 < ratio <= 1.8 or len(boxes) < 4, ratio


@pytest.mark.parametrize(
    ("passage", "lines"),
    [
        ("{lock: key}", [""]),
        ("{lock: key, name: door}", ["door"]),
        ("{lock: lens, name: door}", ["door", "needs lens"]),  # no mark in a room has its letters
        ("{lock: 2 coin, name: door}", ["door", "needs 2 coin"]),
        ("{lock: lit, name: door}", ["door", "needs lit"]),
        ("{lock: {needs: key, steps: 2}, name: door}", ["door", "needs key, 2 steps"]),
        ("{lock: key, name: door, once: true}", ["door", "needs key", "once"]),
        ("{lock: key, gate: lit}", ["needs key", "gate: lit"]),
        ("{name: plank}", ["plank"]),
    ],
)
def test_a_door_is_a_mark_where_that_says_as_much(passage: str, lines: list[str]) -> None:
    level = ukemi.loads(
        "start: a\ngoal: b\nitems: {key: {}, lens: {}, coin: {}}\nrooms:\n  a: {items: {key: 1, coin: 2}, chests: {bin: {holds: lens}},"
        f" switches: {{lamp: {{flips: lit}}}}}}\n  b: {{}}\npassages: [a <-> b: {passage}]\n"
    )
    (label,) = (passage_lines(level, one) for one in level.passages)
    assert [line.text for line in label] == lines
    framed = {
        patch.get_linewidth() for patch in draw_map(level).axes[0].patches if patch.zorder == 4
    }
    assert framed == ({0.7} if len(lines) > 1 else {0.0})


@pytest.mark.parametrize(("rooms", "print_size"), [(25, 9), (40, 7)])
@pytest.mark.parametrize("seed", [0, 11])
def test_a_large_level_is_read_in_a_window(rooms: int, print_size: float, seed: int) -> None:
    level = designed(rooms, seed) if seed else chain(rooms - 2)
    figure = draw_map(level)
    assert 1 <= figure.get_figwidth() / figure.get_figheight() <= 1.8
    assert SMALL * 1280 / (figure.get_figwidth() * 72) >= print_size
    sizes = {name: size_of(room_lines(level, room)) for name, room in level.rooms.items()}
    labels = label_sizes(level, {one.name: passage_lines(level, one) for one in level.passages})
    boxes = place_rooms(level, sizes, labels)
    hit = [
        (way.passage.name, name)
        for way in ways(level, boxes)
        for name, box in boxes.items()
        if name not in (way.passage.a, way.passage.b)
        and any(
            abs(x - box.x) < box.width / 2 and abs(y - box.y) < box.height / 2
            for x, y in (way.at(part / 40) for part in range(41))
        )
    ]
    assert len(hit) <= 1, hit


@pytest.mark.parametrize(
    ("goal", "marks"),
    {
        "at loft": {"loft": "GOAL"},
        "at loft and lens": {"loft": "GOAL, with lens"},
        "lens and at loft and (dry or at quay)": {
            "loft": "GOAL, with lens and (dry or at quay)",
            "quay": "GOAL: lens and at loft and (dry or at quay)",
        },
        "at loft or at quay": {
            "loft": "GOAL: at loft or at quay",
            "quay": "GOAL: at loft or at quay",
        },
        "lens and not at loft": {},
    }.items(),
)
def test_the_goal_is_marked_with_all_that_it_asks_for(goal: str, marks: dict[str, str]) -> None:
    level = ukemi.loads(
        f"{{start: quay, goal: {goal}, items: {{lens: {{}}}}, flags: [dry], rooms: [quay, loft]}}"
    )
    assert {room: text for room in level.rooms if (text := goal_text(level, room))} == marks


def test_more_rooms_than_anybody_could_read_are_not_drawn(tmp_path: Path) -> None:
    many = ", ".join(f"room-{number}" for number in range(1_001))
    file = tmp_path / "many.yaml"
    file.write_text(f"{{start: room-0, goal: room-0, rooms: [{many}]}}")
    drawn = run("draw", file, "--output", tmp_path / "many.svg")
    assert (drawn.returncode, "1,001 rooms, more than a picture can show" in drawn.stderr) == (
        2,
        True,
    )
    run("report", file, "--output", tmp_path / "many.html")
    assert "1,001 rooms, more than a picture can show" in (tmp_path / "many.html").read_text()


def svg_text(level: ukemi.Level, path: Path, route: ukemi.Route | None = None) -> str:
    """The comments Matplotlib leaves in an SVG: the text that is drawn."""
    ukemi.draw_map(level, path, route=route)
    lines = path.read_text(encoding="utf-8").splitlines()
    return unescape(
        "\n".join(line.strip()[5:-4] for line in lines if line.strip().startswith("<!-- "))
    )


def test_the_picture_says_what_the_level_says(tmp_path: Path) -> None:
    report = ukemi.check(DEMO / "wasted-key.yaml")
    route = report.with_code("can-get-stuck")[0].route
    said = svg_text(report.level, tmp_path / "mill.svg", route)
    for text in ("The Wasted Key", "quay", "START", "GOAL", "iron-key", "ledger (reward)", "store-door",
                 "door, with the letters of its key", "3. unlock store-door with iron-key", "3 ×",
                 "After move 3 no run finishes the level."):  # fmt: skip
        assert text in said
    finish = svg_text(report.level, tmp_path / "finish.svg", report.routes["finish"])
    assert "9. finish" in finish
    assert "×" not in finish


VIEWS = {
    "pace": [
        "pace",
        "Shortest finishing run",
        "rooms in reach",
        "things to do",
        "iron-key",
        "pit-door",
    ],
    "inventory": ["what is carried", "take iron-key", "+1", "−1", "pit-door opened", "flooded on"],
    "order": [
        "what must come before what",
        "take iron-key (quay)",
        "open pit-door",
        "finish",
        "in any order",
    ],
    "locks": [
        "keys and locks",
        "door pit-door",
        "1 taken",
        "1 kept",
        "2 in quay",
        "spare",
        "required",
        "chest bin",
    ],
}


@pytest.mark.parametrize("view", VIEWS)
def test_the_other_views_say_what_the_check_found(view: str, tmp_path: Path) -> None:
    file = tmp_path / "mill.yaml"
    file.write_text(
        "start: quay\ngoal: loft\nitems: {iron-key: {use: spent}, oak-key: {}}\n"
        "rooms:\n  quay: {items: {iron-key: 2}, chests: {bin: {lock: 2 iron-key}}}\n"
        "  pit: {items: [oak-key], acts: {flood: {sets: flooded}}}\n  loft: {}\n"
        "passages:\n  - quay <-> pit: {lock: iron-key, name: pit-door}\n"
        "  - quay <-> loft: {lock: oak-key and flooded, name: loft-door}\n"
    )
    picture = tmp_path / "view.svg"
    done = run("draw", file, "--view", view, "-o", picture)
    assert done.returncode == 0, done.stderr
    lines = picture.read_text(encoding="utf-8").splitlines()
    said = "\n".join(line.strip()[5:-4] for line in lines if line.strip().startswith("<!-- "))
    for text in VIEWS[view]:
        assert text in said, text


@pytest.mark.parametrize(
    ("args", "says"),
    [
        (["--route", "stuck:2"], "no mistake number 2 (of 1)"),
        (["--route", "stuck:0"], "write finish, all-rewards, stuck or stuck:2"),
        (["--route", "finnish"], "write finish, all-rewards"),
        (["--route", "all-rewards"], "no run that takes every reward"),
        (["--view", "order", "--route", "finish"], "shows no route"),
        (["--view", "plan"], "plan"),
    ],
)
def test_views_and_routes_that_are_none(args: list[str], says: str, tmp_path: Path) -> None:
    done = run("draw", DEMO / "wasted-key.yaml", "-o", tmp_path / "map.png", *args)
    assert done.returncode == 2
    assert says in done.stderr
    assert not list(tmp_path.iterdir())


def test_what_no_run_reaches_is_hatched_and_dark_is_dark(tmp_path: Path) -> None:
    level = ukemi.loads(
        "start: quay\ngoal: quay\nitems: {key: {}}\nrooms: {quay: {}, vault: {items: key}}\n"
        "passages: [quay <-> vault: {lock: key}]"
    )
    report = ukemi.check(level)
    assert report.unreached == {"vault"}
    with drawn_dark(True):
        figure = draw_map(level, unreached=report.unreached)
    assert sum(figure.get_facecolor()[:3]) < 0.5
    assert sum(draw_map(level).get_facecolor()[:3]) == 3
    axes = figure.axes[0]
    assert sum(patch.get_hatch() is not None for patch in axes.patches) == 1
    assert "no run gets here" in [text.get_text() for text in axes.texts]
    save(figure, tmp_path / "small.png", width=400)
    assert image.imread(tmp_path / "small.png").shape[1] == 400


def test_a_floor_no_run_reaches_is_hatched() -> None:
    level = ukemi.Level()
    level.item("key")
    level.tile("D", lock="key", name="door")
    level.tile("G", room="far")
    level.map("hall", ["#######", "#@G#..#", "#..D..#", "#######"])
    level.set_goal("far")
    report = ukemi.check(level)
    plain, hatched = draw_map(level), draw_map(level, unreached=report.unreached)
    assert not plain.axes[0].collections
    (strokes,) = hatched.axes[0].collections
    assert isinstance(strokes, LineCollection)
    assert len(strokes.get_segments()) == 5  # the door and what is behind


def test_pictures_can_be_drawn_into_axes_of_a_notebook() -> None:
    report = ukemi.check(DEMO / "wasted-key.yaml")
    route = report.routes["finish"]
    figure = Figure(figsize=(10, 8))
    axes = figure.subplots(2, 2).ravel()
    assert draw_map(report.level, route, axes=axes[0]) is figure
    assert draw_inventory(report.level, route, axes[1]) is figure
    assert draw_order(report, axes[2]) is figure
    assert draw_locks(report, axes[3]) is figure
    assert all(one.texts for one in axes)
    assert max(text.get_fontsize() for text in axes[1].texts) < 15
    floors = ukemi.load(DEMO / "ground-floor.yaml")
    with pytest.raises(ValueError, match="2 floors; one Axes shows one"):
        draw_map(floors, axes=axes[0])
    cellar = ukemi.load(DEMO / "flooded-cellar.yaml")
    assert draw_map(cellar, axes=axes[0]) is figure


def test_everything_in_a_room_is_drawn(tmp_path: Path) -> None:
    level = ukemi.loads(
        "start: quay\ngoal: mill\ninventory: {start: coin}\nitems: {coin: {}, gem: {kind: reward}}\n"
        "rooms: {quay: {label: The Old Quay, items: {gem: {count: 2, needs: lit}},\n"
        "  chests: {bin: {lock: coin, holds: [gem]}}, switches: {lamp: {flips: lit}},\n"
        "  acts: {dig: {needs: coin}}}, mill: {}}\n"
        "passages:\n  - quay -> mill: {name: drop, once: true, steps: 3, gate: not lit}\n"
        "  - quay <-> mill: {lock: {needs: coin, from: quay, relocks: true}}\n  - mill <-> mill"
    )
    said = svg_text(level, tmp_path / "all.svg")
    for text in ("The Old Quay", "START, carrying coin", "2 gem (reward), needs lit", "chest bin, needs coin: gem",
                 "switch lamp", "act dig, needs coin", "drop", "once", "3 steps", "gate: not lit",
                 "needs coin, from quay, relocks"):  # fmt: skip
        assert text in said


@pytest.mark.parametrize(
    "name", ["$\\frac{1}{2}$", "<script>alert(1)</script>", "a & b", "טחנה ישנה", "水車", "_{x}^"]
)
def test_odd_names_are_drawn_as_text(name: str, tmp_path: Path) -> None:
    plain = {
        "start": "a",
        "goal": "b",
        "name": name,
        "rooms": {"a": {"label": name}, "b": {}},
        "passages": ["a -> b"],
    }
    level = ukemi.loads(json.dumps(plain))
    if name.isascii():
        said = svg_text(level, tmp_path / "odd.svg").replace("\\$", "$").splitlines()
        assert said.count(name) == 2  # the room's label and the title, as they are written
    with pytest.warns(UserWarning) if name == "水車" else nullcontext():
        ukemi.draw_map(level, tmp_path / "odd.png")
    assert (tmp_path / "odd.png").stat().st_size > 3_000


def test_a_colour_that_is_none_is_told_with_its_place(tmp_path: Path) -> None:
    file = tmp_path / "mill.yaml"
    file.write_text(
        "start: quay\ngoal: quay\nrooms: {quay: {items: key}}\nitems:\n  key: {color: slatgray}\n"
    )
    done = run("draw", file, "-o", tmp_path / "map.png")
    assert done.returncode == 2
    assert f"{file}:5:16: 'slatgray' is not a colour: " in done.stderr
    assert "(did you mean 'slategray'?)" in done.stderr
    assert not (tmp_path / "map.png").exists()


def test_a_picture_is_never_left_half_written(tmp_path: Path) -> None:
    level = ukemi.load(DEMO / "tide-mill.yaml")
    target = tmp_path / "map.png"
    target.write_bytes(b"what was there")
    with pytest.raises(ValueError, match="ends in one of"):
        ukemi.draw_map(level, tmp_path / "map.bmp")
    ukemi.draw_map(level, target)
    assert target.read_bytes().startswith(b"\x89PNG")
    assert [one.name for one in tmp_path.iterdir()] == ["map.png"]


def test_a_small_edit_moves_little() -> None:
    level = ukemi.load(DEMO / "tide-mill.yaml")
    sizes = dict.fromkeys(level.rooms, (100.0, 50.0))
    before = place_rooms(level, sizes, {})
    level.put("granary", "oak-key")
    assert place_rooms(level, sizes, {}) == before


def test_large_maps_are_drawn(tmp_path: Path) -> None:
    rows = ["#" * 200, *["#" + "." * 198 + "#"] * 198, "#" * 200]
    rows[1] = "#@" + rows[1][2:]
    rows[-2] = rows[-2][:-2] + "G#"
    rows[100] = "#" * 99 + "D" + "#" * 100
    level = ukemi.Level("The Great Hall")
    level.item("key")
    level.tile("D", lock="key", name="mid-door")
    level.tile("G", room="far")
    level.map("hall", rows)
    level.set_goal("far")
    level.set_inventory(start="key")
    report = ukemi.check(level)
    assert (
        report.routes["finish"].steps == 198 + 196 + 1 - 1 + 1 - 0 or report.answers.finish == "yes"
    )
    figure = ukemi.draw_map(level, tmp_path / "hall.png", route=report.routes["finish"])
    width, height = figure.get_size_inches()
    assert 10 < width < 20
    assert 10 < height < 25


def test_the_screenshots_are_linked_and_current_in_number() -> None:
    shots = sorted((ROOT / "docs" / "screenshots").glob("*.png"))
    readme = (ROOT / "README.md").read_text()
    assert 0 < len(shots) < 20
    assert all(f"docs/screenshots/{shot.name}" in readme for shot in shots)


# -- marks and columns ------------------------------------------------------------------------


@given(plain_levels())
@settings(max_examples=40, deadline=None)
def test_no_two_things_have_the_same_letters(plain: dict[str, Any]) -> None:
    plain["items"] |= {
        name: {} for name in ("iron-key", "ice-key", "ice-knife", "ivory-knob", "i-k")
    }
    level = readable(plain)
    letters = letters_of(level)
    assert letters.keys() == {*level.items, *level.all_flags()}
    assert len(set(letters.values())) == len(letters)
    assert all(0 < len(one) <= 4 for one in letters.values())


@given(st.lists(st.tuples(st.integers(0, 11), st.integers(0, 11)), max_size=24), st.integers(1, 12))
@settings(max_examples=150, deadline=None)
def test_lines_of_an_order_keep_clear_of_boxes(drawn: list[tuple[int, int]], things: int) -> None:
    names = [f"thing-{n}" for n in range(things)]
    pairs = sorted({(names[a], names[b]) for a, b in drawn if a < b < things})
    placed = place_in_layers({name: (30.0 + 7 * n, 28.0) for n, name in enumerate(names)}, pairs)
    assert list(placed.boxes) and len(placed.lines) == len(pairs)
    boxes = list(placed.boxes.values())
    for number, one in enumerate(boxes):
        for other in boxes[:number]:
            apart = abs(one.x - other.x) >= (one.width + other.width) / 2
            assert apart or abs(one.y - other.y) >= (one.height + other.height) / 2
    for (a, b), line in zip(pairs, placed.lines, strict=True):
        start, end = placed.boxes[a], placed.boxes[b]
        assert line[0] == (start.x + start.width / 2, start.y)
        assert line[-1] == (end.x - end.width / 2, end.y)
        assert [x for x, _ in line] == sorted(x for x, _ in line)
        for (x0, y0), (x1, y1) in pairwise(line):
            for box in boxes:
                beside = (
                    max(x0, x1) <= box.x - box.width / 2 or min(x0, x1) >= box.x + box.width / 2
                )
                level = y0 == y1 and abs(y0 - box.y) >= box.height / 2
                assert beside or level, "a line runs under a box"


def test_pictures_say_what_switches_acts_and_events_do() -> None:
    level = ukemi.loads("""
start: quay
goal: mill
items: {grain: {kind: supply, max: 9}, iron-key: {}}
rooms:
  quay:
    items: {grain: {count: 3, pile: true}}
    switches: {sluice: {flips: low-water, steps: 4}}
    acts: {bribe: {spends: {grain: 2}, gives: iron-key}}
  mill: {}
passages: [quay <-> mill: {lock: {needs: iron-key, steps: 2}, loses: {grain: 1}, name: mill-door}]
events: {flood: {when: low-water, opens: mill-door}}
""")
    said = {text.get_text() for axes in ukemi.draw_map(level).axes for text in axes.texts}
    assert said >= {
        "3 grain (supply) as a pile",
        "switch sluice, 4 steps: flips low-water",
        "act bribe: spends 2 grain, gives iron-key",
        "needs iron-key, 2 steps",
        "loses grain",
        "event flood, when low-water: opens mill-door",
    }
    drawn = [text.get_text() for text in draw_order(ukemi.check(level)).axes[0].texts]
    assert "flood happens" not in drawn  # either way does
    assert drawn[-1].startswith(
        "Things without a path of arrows between them can be done in any order."
    )


def test_the_numbers_on_a_map_are_those_of_the_list(tmp_path: Path) -> None:
    report = ukemi.check(DEMO / "jumbled-keys.yaml")
    route = report.routes["all-rewards"]
    text = svg_text(report.level, tmp_path / "map.svg", route=route)
    told = [line for line in text.splitlines() if re.fullmatch(r"[0-9 ]+", line.strip())]
    numbers = sorted(int(number) for line in told for number in line.split())
    assert numbers == list(range(1, len(stops(route, report.level)) + 1))


def test_frames_of_areas_are_around_their_rooms_and_no_others() -> None:
    """On levels as designers build them, with the rooms in areas at random; half of them say where they are drawn."""
    from ukemi.draw.areas import frames_of

    for seed in range(6):
        random, level = Random(seed), designed(12, seed)
        rooms = list(level.rooms)
        random.shuffle(rooms)
        level.area("shore", *rooms[:4])
        level.area("tower", *rooms[4:7])
        fixed = {}
        if seed % 2:
            for number, room in enumerate(rooms[:5]):
                fixed[room] = level.rooms[room].drawn_at = (1 + number, 1 + number % 3)
        boxes = place_rooms(level, dict.fromkeys(rooms, (90.0, 40.0)), {})
        for a, b in combinations(fixed, 2):  # who stands further left, or higher up, is drawn so
            for side, here in enumerate((("x", 1), ("y", -1))):
                told = fixed[a][side] - fixed[b][side]
                drawn = here[1] * (getattr(boxes[a], here[0]) - getattr(boxes[b], here[0]))
                assert (told > 0) == (drawn > 1e-6) and (told < 0) == (drawn < -1e-6)
        frames = frames_of(level.areas, boxes)
        for area, some in frames.parts.items():
            inside = {room for room, box in boxes.items() if any(box.overlaps(one) for one in some)}
            assert inside == {*level.areas[area]}
            assert any(name == area for name, _, _ in frames.names)


def test_a_route_through_a_campaign_frames_each_level_and_lays_none_over_another() -> None:
    level = ukemi.load(DEMO.parent / "campaign" / "mill-year.yaml")
    boxes = place_rooms(level, dict.fromkeys(level.rooms, (120.0, 40.0)), {})
    ends = {}
    for stage, rooms in level.rooms_of.items():
        some = [boxes[room] for room in rooms]
        ends[stage] = (
            min(one.x - one.width / 2 for one in some), max(one.x + one.width / 2 for one in some),
            min(one.y - one.height / 2 for one in some), max(one.y + one.height / 2 for one in some),
        )  # fmt: skip
    for a, b in combinations(ends.values(), 2):
        assert a[1] < b[0] or b[1] < a[0] or a[3] < b[2] or b[3] < a[2]
    figure = ukemi.draw_map(level, route=ukemi.check(level).routes["finish"])
    words = {text.get_text() for axes in figure.axes for text in axes.texts}
    assert {"landing", "cellar", "loft", "GOAL of landing", "START of loft"} <= words


def test_a_way_there_and_a_way_back_are_two_lines() -> None:
    level = ukemi.Level("there and back")
    for room in ("a", "b"):
        level.room(room)
    level.passage("a -> b")
    level.passage("b -> a")
    boxes = {"a": Box(0, 0, 90, 40), "b": Box(300, 0, 90, 40)}
    there, back = ways(level, boxes)
    assert there.at(0.5)[1] * back.at(0.5)[1] < 0  # on two sides of the straight line
