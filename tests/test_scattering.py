"""Scattering: every placement that is told of holds, and all of those that hold can come."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
from collections import Counter
from dataclasses import replace
from itertools import product
from pathlib import Path
from random import Random
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.level.maps.tilemap import cell_of
from ukemi.scattering import Scatterer
from ukemi.scattering.placing import Laid, laid, lying_in

from .clock import wait_for
from .helpers import DEMO, readable, run
from .levels import choice_levels, map_levels, plain_levels

LEVELS = int(os.environ.get("UKEMI_LEVELS", "20"))


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
    return scatterer if total <= 150 else None


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


SKEWED = """
start: quay
goal: loft
items: {iron: {}, oak: {}}
rooms: {quay: {items: [iron, oak]}, store: {}, pit: {}, loft: {}}
passages:
  - quay <-> store
  - quay <-> pit: {lock: iron}
  - pit -> quay
  - pit <-> loft: {lock: oak}
scatter: {keys: {items: [iron, oak]}}
"""


FAR = """
start: a
goal: a
items: {oak: {}, ash: {}}
rooms: {a: {items: [oak, ash]}, b: {}, c: {}, d: {}}
passages: [a <-> b: {steps: 2}, b -> c, c <-> d, d -> a]
scatter: {keys: {items: [oak, ash], apart: APART}}
"""


@pytest.mark.parametrize("steps", [1, 2, 3, 4])
def test_things_lie_as_far_apart_as_asked_both_ways(steps: int) -> None:
    ways = {"a": {"b": 2}, "b": {"a": 2, "c": 1}, "c": {"d": 1}, "d": {"c": 1, "a": 1}}
    far = {(a, b): 0 if a == b else ways[a].get(b, 99) for a in ways for b in ways}
    for by, a, b in product(ways, repeat=3):
        far[a, b] = min(far[a, b], far[a, by] + far[by, b])
    wanted = {pair for pair in far if min(far[pair], far[pair[::-1]]) >= steps}
    found = ukemi.scatter(ukemi.loads(FAR.replace("APART", str(steps))), count=100)
    assert {(dict(one.where)["oak"], dict(one.where)["ash"]) for one in found} == wanted


def chi_square(text: str, chance: dict[Any, float], even: bool, draws: int = 300) -> float:
    """How far the placements of many seeds are from what each should come up by chance."""
    level = ukemi.loads(text)
    times: Counter[Any] = Counter()
    for seed in range(draws):
        [one] = ukemi.scatter(level, seed=seed, even=even)
        times[one.where] += 1
    assert times.keys() <= chance.keys()
    return sum((times[one] - draws * p) ** 2 / (draws * p) for one, p in chance.items())


def test_how_evenly_each_valid_placement_comes_up() -> None:
    every = {one.where for one in ukemi.scatter(ukemi.loads(SKEWED), count=100)}
    assert len(every) == 6
    alike = dict.fromkeys(every, 1 / 6)
    assert chi_square(SKEWED, alike, even=True) < 20.5  # 5 degrees of freedom: one in a thousand
    assert chi_square(SKEWED, alike, even=False) < 20.5
    # As docs/scattering.md says: here two of ten come up twice as often as the others, unless evenly.
    other = SKEWED.replace("pit <-> loft: {lock: oak}", "store <-> loft: {lock: oak}")
    every = {one.where for one in ukemi.scatter(ukemi.loads(other), count=100)}
    assert len(every) == 10
    skewed = {where: 1 / 6 if dict(where)["oak"] == "pit" else 1 / 12 for where in every}
    assert chi_square(other, skewed, even=False) < 27.9  # 9 degrees of freedom
    assert chi_square(other, dict.fromkeys(every, 1 / 10), even=True) < 27.9


OPEN = """
start: quay
goal: loft
items: {iron: {}}
rooms: {quay: {items: {iron: 2}}, store: {}, loft: {}}
passages: [quay <-> store, store <-> loft]
scatter: {keys: {items: [iron], into: [quay, store, loft]}}
"""


def test_units_that_are_alike_are_drawn_as_evenly_as_others() -> None:
    every = {one.where for one in ukemi.scatter(ukemi.loads(OPEN), count=100)}
    assert len(every) == 6  # two in one of three rooms, or one in each of two
    assert chi_square(OPEN, dict.fromkeys(every, 1 / 6), even=True) < 20.5


def test_same_seed_same_files_and_a_second_run_goes_on(tmp_path: Path) -> None:
    file = DEMO / "jumbled-keys.yaml"
    first, second = tmp_path / "one", tmp_path / "two"
    shot, table = tmp_path / "where.png", tmp_path / "table.csv"
    said = run(
        "scatter", file, "-n", 6, "--seed", 3, "-o", first, "--picture", shot, "--csv", table
    )
    assert said.returncode == 0, said.stderr
    assert "6 levels in" in said.stdout and shot.read_bytes().startswith(b"\x89PNG")
    rows = table.read_text().splitlines()
    assert len(rows) == 7 and rows[0].startswith("file,steps,all-rewards,order,choices")
    names = sorted(path.name for path in first.iterdir())
    assert names == [f"jumbled-keys-3-{n:03}.yaml" for n in range(1, 7)]
    for path in first.iterdir():
        assert ukemi.check(path).sound
        assert path.read_text().startswith("# Keys to place anew for each round of play")
    (tmp_path / "two").mkdir()
    for name in names[:3]:
        (second / name).write_bytes((first / name).read_bytes())
    before = {name: (second / name).stat().st_mtime_ns for name in names[:3]}
    again = run("scatter", file, "-n", 6, "--seed", 3, "-o", second, "-j", 2)
    assert again.returncode == 0, again.stderr
    for name in names:
        assert (second / name).read_bytes() == (first / name).read_bytes()
    assert before == {name: (second / name).stat().st_mtime_ns for name in names[:3]}
    (second / names[1]).write_text((DEMO / "tide-mill.yaml").read_text())
    refused = run("scatter", file, "-n", 6, "--seed", 3, "-o", second)
    assert refused.returncode == 2 and "it is not of this level" in refused.stderr
    assert "The Tide Mill" in (second / names[1]).read_text()


def test_wishes_are_kept_or_told_as_what_cannot_be(tmp_path: Path) -> None:
    file = DEMO / "jumbled-keys.yaml"
    for one in ukemi.scatter(file, count=4, shortest=(12, 20), order_at_least=3, spread=1):
        finish = one.report.answers.measures.finish
        assert finish is not None and 12 <= finish.steps <= 20
        assert one.order_length is not None and one.order_length >= 3
        assert one.spread is not None and one.spread >= 1
        measures = one.report.answers.measures
        answers = replace(ukemi.check(one.level).answers, measures=measures)  # runs may be others
        assert one.report.answers == answers and one.report.answers.in_hand
        assert one.level.expected == ukemi.load(file).expected
    small = tmp_path / "small.yaml"
    small.write_text(SKEWED)
    none = run("scatter", small, "-o", tmp_path / "out", "--shortest", "30..")
    assert none.returncode == 1 and "that is proven" in none.stderr
    assert "--shortest fails 6 times: their shortest runs take 6 to 8 steps" in none.stderr
    assert not list((tmp_path / "out").iterdir())
    few = run("scatter", small, "-n", 9, "-o", tmp_path / "out", "--order-at-least", 4)
    assert few.returncode == 1 and "There is no more placement" in few.stderr
    far = run("scatter", small, "-o", tmp_path / "out", "--spread", 3)
    assert far.returncode == 1 and "that is proven" in far.stderr
    assert "--spread 3 fails: without this wish, the best of some placements has 1" in far.stderr
    tried = run("scatter", small, "-o", tmp_path / "none", "--shortest", "30..", "--tries", 2)
    assert tried.returncode == 3 and "in 2 tries: there may be one, or not" in tried.stderr


BANK = """
start: {start}
goal: gear
items: {{can: {{kind: key, use: spent}}, gear: {{kind: tool}}, oak: {{}}}}
maps:
  bank: |
    #.........#
    #@oC.#bk.D#
    ###  ######
legend:
  o: {{item: can}}
  C: {{chest: {{name: crate, lock: can, holds: [gear]}}}}
  b: {{label: bush}}
  k: {{room: nook, item: oak}}
  D: {{lock: oak, name: gate}}
scatter:
  finds: {{items: [can, oak], chests: crate{into}}}
"""


def test_on_maps_things_lie_on_floor_and_shut_no_way() -> None:
    level = ukemi.loads(BANK.format(start="bank@2,2", into="").replace("start: bank@2,2\n", ""))
    seen: set[str] = set()
    for one in ukemi.scatter(level, count=300):
        assert one.report.sound
        where = dict(one.where)
        for _, spot in one.where:
            seen.add(spot)
            assert level.maps["bank"].symbol(7, 2) == "b"  # nothing lies on the bush
            assert spot not in ("bank@4,2", "bank@5,2")  # there is nothing below it
        rows = one.level.maps["bank"].rows
        assert sum(row.count("C") for row in rows) == 1 and "b" in rows[1] and "@" in rows[1]
        assert where["crate"] not in ("bank@6,1",)  # it would part the floor
    assert {"nook", "crate"} <= seen
    part = ukemi.loads(
        BANK.format(start="bank@2,2", into=', into: "floor of bank from 3,1 to 8,2"').replace(
            "start: bank@2,2\n", ""
        )
    )
    for one in ukemi.scatter(part, count=20):
        cells = [cell for _, spot in one.where if (cell := cell_of(spot))]
        assert all(3 <= cell.column <= 8 and cell.row <= 2 for cell in cells)
        assert len({*cells}) == 3


@pytest.mark.parametrize(
    ("scatter", "says"),
    [
        ("{k: {items: [gold]}}", "'gold' is not the name of an item"),
        ("{k: {items: [iron], into: [quay, quay]}}", "'quay' is listed twice"),
        ("{k: {items: [iron], into: qay}}", "did you mean 'quay'?"),
        ("{k: {items: [iron], into: floor of quay}}", "'quay' is not the name of a map"),
        ("{k: {items: [iron], into: floor of}}", "is not a part of a map"),
        ("{k: {into: quay}}", "neither `items` nor `chests`"),
        ("{k: {items: [iron]}, m: {items: iron}}", "'iron' is scattered twice"),
        ("{k: {items: [iron], into: pull}}", "can be done again and again"),
        ("{k: {items: [iron, oak], chests: bin}}", "'bin' is not the name of a chest"),
    ],
)
def test_what_cannot_be_scattered_is_told_as_the_level_is_read(scatter: str, says: str) -> None:
    text = SKEWED.replace("store: {}", "store: {switches: {pull: {}}}")
    with pytest.raises(ukemi.LevelError) as error:
        ukemi.loads(text.replace("{keys: {items: [iron, oak]}}", scatter))
    assert says in str(error.value)


def test_too_many_things_nowhere_and_unknown_groups(tmp_path: Path) -> None:
    file = tmp_path / "level.yaml"

    def told(scatter: str, *more: Any, text: str = SKEWED) -> str:
        file.write_text(text.replace("{keys: {items: [iron, oak]}}", scatter))
        found = run("scatter", file, "-o", tmp_path / "out", *more)
        assert found.returncode == 2 and "Traceback" not in found.stderr
        assert not (tmp_path / "out").exists()
        return found.stderr

    crowded = told("{keys: {items: [iron, oak], into: quay, at-most: 1}}")
    assert "has 2 things to place, and room for 1" in crowded
    nowhere = SKEWED.replace("[iron, oak]}, store", "[iron]}, store")
    assert "'oak' lies nowhere" in told("{keys: {items: [oak]}}", text=nowhere)
    assert "did you mean 'keys'?" in told("{keys: {items: [oak]}}", "--group", "kys")
    assert "write the fewest and the most" in told("{keys: {items: oak}}", "--shortest", "9")
    assert "nothing to scatter" in told("{}", text=SKEWED.replace("scatter: {keys", "accept: {} #"))
    claims = SKEWED + "expect: {required: quay/oak}\n"
    assert "name the item alone" in told("{keys: {items: [oak]}}", text=claims)


@pytest.mark.parametrize(
    ("csv", "says"),
    [
        ("level.yaml", "one of the levels"),
        ("out/level-1-002.yaml", "one of the levels"),
        ("out/../level.yaml", "one of the levels"),
        ("table.txt", ".csv"),
        ("there.csv/table.csv", "there.csv"),
    ],
)
def test_a_table_is_refused_before_anything_is_written(tmp_path: Path, csv: str, says: str) -> None:
    file = tmp_path / "level.yaml"
    file.write_text(SKEWED)
    (tmp_path / "there.csv").write_text("kept")
    for option in ("--csv", "--picture"):
        said = run("scatter", file, "-n", 2, "-o", tmp_path / "out", option, tmp_path / csv)
        assert said.returncode == 2 and "Traceback" not in said.stderr
        assert (says if option == "--csv" else csv.rpartition("/")[2]) in said.stderr
        assert not [one for one in tmp_path.rglob("*") if one.name.startswith("level-")]
    said = run("scatter", file, "-n", 2, "-o", tmp_path / "there.csv")
    assert said.returncode == 2 and "folder" in said.stderr
    assert file.read_text() == SKEWED and (tmp_path / "there.csv").read_text() == "kept"


def test_a_full_disk_leaves_what_was_written_whole(tmp_path: Path) -> None:
    file, out = tmp_path / "level.yaml", tmp_path / "out"
    file.write_text(SKEWED)
    out.mkdir()
    (out / "level-1-003.yaml").mkdir()  # nothing can be written there
    said = run("scatter", file, "-n", 4, "-o", out)
    assert said.returncode == 2 and "level-1-003.yaml" in said.stderr
    assert "Traceback" not in said.stderr
    written = [path for path in out.iterdir() if path.is_file()]
    assert sorted(path.name for path in written) == ["level-1-001.yaml", "level-1-002.yaml"]
    assert all(ukemi.check(path).sound for path in written)


def test_ctrl_c_stops_and_the_same_call_goes_on(tmp_path: Path) -> None:
    call = [sys.executable, "-m", "ukemi", "scatter", str(DEMO / "jumbled-keys.yaml"), "-n", "9"]
    call += ["-o", str(tmp_path)]
    running = subprocess.Popen(
        call, stdout=subprocess.PIPE, stderr=subprocess.PIPE, encoding="utf-8"
    )
    wait_for(lambda: len(list(tmp_path.glob("jumbled*"))) >= 2 or running.poll() is not None)
    running.send_signal(signal.SIGINT)
    out, err = running.communicate(timeout=30)
    written = sorted(tmp_path.iterdir())
    assert running.returncode == 3 and "the same call continues from here" in err, (out, err)
    assert 1 <= len(written) < 9 and all(ukemi.check(path).sound for path in written)
    done = subprocess.run(call, capture_output=True, encoding="utf-8")
    assert done.returncode == 0 and len(list(tmp_path.iterdir())) == 9


def test_time_ends_it_and_campaigns_have_nothing_to_scatter(tmp_path: Path) -> None:
    file = DEMO / "jumbled-keys.yaml"
    cut = run("scatter", file, "-n", 500, "-o", tmp_path / "out", "--max-seconds", "1")
    assert cut.returncode == 3
    assert "the same call continues from here" in cut.stderr
    assert all(ukemi.check(path).sound for path in (tmp_path / "out").iterdir())
    year = run("scatter", DEMO.parent / "campaign" / "mill-year.yaml", "-o", tmp_path / "no")
    assert year.returncode == 2 and "nothing to scatter" in year.stderr


def test_groups_rooms_on_maps_csv_maps_and_lists_of_rooms(tmp_path: Path) -> None:
    text = """
start: quay
goal: loft
items: {iron: {}, oak: {}, ledger: {kind: reward}}
rooms: [quay, store, loft]   # a plain list
passages:
  - quay <-> store
  - store <-> loft: {lock: oak}
inventory: {start: iron}
scatter:
  keys: {items: oak, into: [quay, store]}
"""
    text = text.replace(
        "rooms: [quay, store, loft]", "rooms: {quay: {items: oak}, store: {}, loft: {}}"
    )
    level = ukemi.loads(text)
    assert {one.where for one in ukemi.scatter(level, count=9)} == {
        (("oak", "quay"),), (("oak", "store"),),
    }  # fmt: skip
    (tmp_path / "ground.csv").write_text("#,#,#,#,#\n#,@,k,.,G\n#,#,#,#,#\n")
    drawn = tmp_path / "drawn.yaml"
    drawn.write_text(
        "goal: at far and iron\nitems: {iron: {}}\nmaps: {ground: {csv: ground.csv}}\n"
        "legend: {k: {item: iron}, G: {room: far}}\nscatter: {keys: {items: iron}}\n"
    )
    done = run("scatter", drawn, "-n", 9, "-o", tmp_path / "out")
    assert done.returncode == 1, done.stderr  # three places hold: two cells, and the far one
    found = [ukemi.load(path) for path in sorted((tmp_path / "out").iterdir())]
    assert len(found) == 3 and all(level.maps["ground"].csv is None for level in found)
    assert (tmp_path / "ground.csv").read_text().count("k") == 1
    two = ukemi.loads(text.replace("scatter:", "scatter:\n  more: {items: ledger, at-most: 1}").replace(
        "{items: oak}, store", "{items: [oak, ledger]}, store"))  # fmt: skip
    only = {thing for one in ukemi.scatter(two, count=3, groups=["more"]) for thing, _ in one.where}
    assert only == {"ledger"}


def test_what_a_picture_says_of_where_things_lie() -> None:
    from ukemi.draw.scattered import draw_scattered

    level = ukemi.load(DEMO / "jumbled-keys.yaml")
    found = list(ukemi.scatter(level, count=4, seed=2))
    figure = draw_scattered(level, [one.where for one in found], [5, 5, 7, 9])
    words = [text.get_text() for axes in figure.axes for text in axes.texts]
    words += [text.get_text() for text in figure.texts]
    assert any("in % of 4 levels" in one for one in words)
    shares = [int(one.split()[1]) for one in words if one.startswith("oak-key ")]
    assert sum(shares) == 100
    floors = ukemi.load(DEMO / "ground-floor.yaml")
    floors.scatter("keys", items=["iron-key"])
    lying = [one.where for one in ukemi.scatter(floors, count=3)]
    drawn = draw_scattered(floors, lying, [1, 2, 3])
    numbers = [text.get_text() for axes in drawn.axes for text in axes.texts]
    assert numbers.count("33") == 3


def test_what_is_accepted_keeps_no_placement_away() -> None:
    text = """
start: quay
goal: loft
items: {iron: {use: spent}}
rooms: {quay: {items: {iron: 2}}, store: {}, loft: {}}
passages:
  - quay <-> store: {lock: iron, name: store-door}
  - quay <-> loft: {lock: iron, name: loft-door}
scatter: {keys: {items: iron}}
"""
    strict = {one.where for one in ukemi.scatter(ukemi.loads(text), count=99)}
    meant = ukemi.loads(text + "accept: {can-get-stuck: store-door}\n")
    found = ukemi.scatter(meant, count=99)
    loose = {one.where for one in found}
    assert strict < loose and found.none_left


COLORS = """
start: quay
goal: loft
items: {red-key: {color: red}, blue-key: {color: blue}, third: {}}
rooms: {quay: {items: [red-key, blue-key, third]}, mill: {}, loft: {}, pit: {}}
passages:
  - quay <-> mill: {lock: red-key}
  - quay <-> pit: {lock: third}
  - mill <-> loft: {lock: {needs: blue-key, color: blue}}
scatter: {keys: {items: [red-key, blue-key, third], colors: shuffled}}
"""


def test_keys_exchange_colours_and_locks_follow(tmp_path: Path) -> None:
    level = ukemi.loads(COLORS)
    seen = set()
    for one in ukemi.scatter(level, count=12):
        colors = {name: item.color for name, item in one.level.items.items()}
        assert len({*colors.values()}) == 3 and {"red", "blue"} < {*colors.values()}
        (lock,) = (lock for _, lock in one.level.doors() if lock.color)
        assert lock.color == colors["blue-key"]
        assert not one.report.with_code("color-mismatch") and not one.report.with_code("same-color")
        seen.add(tuple(colors.values()))
    assert len(seen) > 2
    file = tmp_path / "keys.yaml"
    file.write_text(COLORS)
    first = run("scatter", file, "-n", 2, "-o", tmp_path / "out")
    again = run("scatter", file, "-n", 2, "-o", tmp_path / "out")
    assert first.returncode == again.returncode == 0, first.stderr + again.stderr
    assert ukemi.load(tmp_path / "out" / "keys-1-001.yaml").items["third"].color is not None


def test_a_wish_that_fails_is_named_with_the_best_that_was_found(tmp_path: Path) -> None:
    small = tmp_path / "small.yaml"
    small.write_text(SKEWED)
    order = run("scatter", small, "-o", tmp_path / "out", "--order-at-least", 40)
    assert "--order-at-least 40 fails 6 times: the best has 4" in order.stderr
    both = run("scatter", small, "-o", tmp_path / "out", "--order-at-least", 4, "--shortest", "9..")
    lines = both.stderr.splitlines()
    assert [line.split()[0] for line in lines if "fails" in line] == [
        "--shortest",
        "--order-at-least",
    ]
