"""The command, run as a user runs it."""

from __future__ import annotations

import json
import re
import subprocess
import sys
from pathlib import Path

import pytest

from ukemi.cli.main import COMMANDS

from .helpers import DEMO, ROOT, check_json, run


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("demo") / "mill"
    done = run("demo", folder)
    assert done.returncode == 0, done.stderr
    assert f"ukemi check {folder / 'wasted-key.yaml'}" in done.stdout
    assert done.stdout.count("error can-get-stuck") == 5
    assert done.stdout.count("error left-behind") == 2
    return folder


def test_demo_draws_its_levels_and_keeps_what_was_worked_on(demo: Path) -> None:
    pictures = sorted(demo.glob("*.png"))
    levels = [*(one.stem for one in DEMO.glob("*.yaml")), "mill-year"]
    assert [picture.stem for picture in pictures] == sorted(levels)
    assert all(picture.read_bytes().startswith(b"\x89PNG") for picture in pictures)
    wasted = demo / "wasted-key.yaml"
    wasted.write_text(wasted.read_text().replace(", use: spent", ""))
    again = run("demo", demo)
    assert again.stdout.count("error can-get-stuck") == 4
    assert "use: spent" not in wasted.read_text()


@pytest.mark.parametrize(
    ("level", "code", "says"),
    [
        ("tide-mill.yaml", 0, "Can get stuck: never"),
        ("wasted-key.yaml", 1, "the only iron-key was spent on store-door"),
        ("one-way-drop.yaml", 1, "no way back from race to wheel-pit"),
    ],
)
def test_check_tells_the_verdict_and_the_reason(level: str, code: int, says: str) -> None:
    done = run("check", DEMO / level)
    assert done.returncode == code
    assert says in done.stdout
    assert "\x1b" not in done.stdout


def test_check_colours_only_where_asked() -> None:
    assert (
        "\x1b[1;31m" in run("check", DEMO / "wasted-key.yaml", FORCE_COLOR="1", TERM="xterm").stdout
    )
    plain = run(
        "check", DEMO / "wasted-key.yaml", FORCE_COLOR="1", NO_COLOR="1", TERM="xterm"
    ).stdout
    assert "can-get-stuck" in plain
    assert "31m" not in plain


def test_json_has_the_shape_of_the_design() -> None:
    report = check_json(DEMO / "wasted-key.yaml")
    assert report["ukemi"] == 1
    assert report["level"] == "The Wasted Key"
    assert report["answers"]["finish"] == "yes"
    assert report["answers"]["stuck"] == "possible"
    assert report["routes"]["finish"]["steps"] == 8
    assert report["routes"]["finish"]["moves"][0] == {
        "do": "take",
        "item": "iron-key",
        "in": "quay",
    }
    assert report["routes"]["finish"]["moves"][-1] == {"do": "finish"}
    (stuck,) = [one for one in report["findings"] if one["code"] == "can-get-stuck"]
    assert (stuck["line"], stuck["column"]) == (21, 5)
    assert stuck["mistake"] == {"do": "unlock", "name": "store-door", "with": {"iron-key": 1}}
    assert stuck["route"]["moves"][-1] == stuck["mistake"]
    assert report["search"]["complete"] is True


def test_several_levels_and_the_gravest_exit_code(tmp_path: Path) -> None:
    bad = tmp_path / "bad.yaml"
    bad.write_text("start: quay\ngoal: mill\nrooms: [quay, mil]\n")
    done = run("check", DEMO / "tide-mill.yaml", bad, "--format", "json")
    assert done.returncode == 2
    sound, unreadable = json.loads(done.stdout)
    assert sound["answers"]["stuck"] == "never"
    assert unreadable["findings"][0]["code"] == "unknown-name"
    assert f"{bad}:2:7: 'mill' is not a room" in done.stderr


def test_a_search_cut_short_claims_nothing_it_has_not_seen() -> None:
    done = run("check", DEMO / "tide-mill.yaml", "--max-positions", "5")
    assert done.returncode == 3
    assert "Can get stuck: undecided" in done.stdout
    assert "never" not in done.stdout
    report = check_json(DEMO / "wasted-key.yaml", "--max-positions", "19")
    assert report["answers"]["stuck"] in ("possible", "unknown")
    assert report["search"]["complete"] is False
    assert report["search"]["positions"] <= 19
    whole = check_json(DEMO / "tide-mill.yaml", "--max-positions", "20")  # it has just so many
    assert (whole["search"]["positions"], whole["search"]["complete"]) == (20, True)
    seconds = check_json(DEMO / "tide-mill.yaml", "--max-seconds", "0")
    assert seconds["answers"] | {"finish": "unknown", "stuck": "unknown"} == seconds["answers"]


@pytest.mark.parametrize("ending", ["png", "svg", "pdf"])
def test_draw_saves_a_picture(tmp_path: Path, ending: str) -> None:
    picture = tmp_path / f"map.{ending}"
    done = run("draw", DEMO / "one-way-drop.yaml", "-o", picture, "--route", "stuck")
    assert done.returncode == 0, done.stderr
    assert picture.stat().st_size > 5_000
    assert [one.name for one in tmp_path.iterdir()] == [picture.name]
    if ending == "svg":
        again = tmp_path / "again.svg"
        run("draw", DEMO / "one-way-drop.yaml", "-o", again, "--route", "stuck")
        assert again.read_text() == picture.read_text()


@pytest.mark.parametrize(
    ("args", "says"),
    [
        (["check"], "Missing argument"),
        (["check", "nowhere.yaml"], "nowhere.yaml: cannot read this file: no such file"),
        (["chek"], "check"),
        (["check", "x.yaml", "--format", "xml"], "xml"),
        (["draw", str(DEMO / "tide-mill.yaml"), "-o", "map.gif"], ".png, .svg, .pdf"),
        (["draw", str(DEMO / "tide-mill.yaml"), "-o", "no/map.png"], "cannot write this file"),
        (["draw", str(DEMO / "tide-mill.yaml"), "-o", "m.png", "--route", "stuck"], "no mistake"),
    ],
)
def test_bad_calls_get_one_message(args: list[str], says: str, tmp_path: Path) -> None:
    done = run(*args, cwd=tmp_path)
    assert done.returncode == 2
    assert says in done.stderr
    assert "Traceback" not in done.stderr
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize(
    ("command", "more"),
    [
        ("check", []), ("mend", []), ("draw", ["-o", "m.png"]), ("report", ["-o", "r.html"]),
        ("play", []), ("crowd", []), ("replay", ["x"]), ("scatter", ["-o", "rounds"]),
        ("convert", ["m.dot"]), ("compare", ["{}.yaml"]),
    ],
)  # fmt: skip
def test_each_fault_of_a_level_gets_one_line(command: str, more: list[str], tmp_path: Path) -> None:
    bad = "start: quay\ngoal: mil\nrooms: [quay, mill]\npassages: [quay <-> mlil]\n"
    (tmp_path / "bad.yaml").write_text(bad, encoding="utf-8")
    faults = {
        "nowhere": ["nowhere.yaml: cannot read this file: no such file or directory [no-file]"],
        "bad": [
            "bad.yaml:2:7: 'mil' is not a room, an item or a flag (did you mean 'mill'?) [unknown-name]",
            "bad.yaml:4:21: 'mlil' is not the name of a room (did you mean 'mill'?) [unknown-name]",
        ],
    }
    for file, says in faults.items():
        done = run(command, f"{file}.yaml", *(one.format(file) for one in more), cwd=tmp_path)
        assert done.returncode == 2 and (file == "bad" or not done.stdout)
        assert done.stderr.splitlines() == says * (
            2 if command == "compare" else 1
        )  # both versions


def test_a_small_check_loads_nothing_heavy() -> None:
    code = (
        "import sys; sys.argv = ['ukemi', 'check', sys.argv[1]]\n"
        "from ukemi.cli.main import run\n"
        "try: run()\n"
        "except SystemExit: pass\n"
        "heavy = {'numpy', 'scipy', 'pandas', 'matplotlib', 'lark', 'pydantic'}\n"
        "assert not heavy & set(sys.modules), heavy & set(sys.modules)"
    )
    level = str(DEMO / "tide-mill.yaml")
    done = subprocess.run([sys.executable, "-c", code, level], capture_output=True, text=True)
    assert done.returncode == 0, done.stderr


@pytest.mark.parametrize("example", sorted((ROOT / "examples").glob("*.py")), ids=lambda p: p.name)
def test_examples_run_as_they_stand(example: Path) -> None:
    done = subprocess.run([sys.executable, example], capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    assert any(
        said in done.stdout for said in ("can no longer be finished", "wrote", "stuck never")
    )


def test_help_tells_each_command_in_a_whole_sentence() -> None:
    told = run("--help").stdout
    assert "..." not in told.partition("Begin:")[2]
    groups = [
        line[:-1] for line in told.splitlines() if line and line[0] != " " and line[-1] == ":"
    ]
    assert groups[1:] == [*COMMANDS]  # after the options
    for group in COMMANDS.values():
        for name in group:
            assert re.search(rf"^  {name} +[A-Z]", told, re.MULTILINE), name
