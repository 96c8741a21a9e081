"""Levels by the thousand: as a table, in several processes, and on a cluster."""

from __future__ import annotations

import json
import os
import re
import shutil
import signal
import socket
import subprocess
import threading
from collections import Counter
from pathlib import Path
from typing import Any

import pandas
import pytest

import ukemi
from ukemi.bulk.resuming import Resumed

from .helpers import DEMO, run

LEVEL = """
name: Mill {n}
start: quay
goal: loft
items: {{iron: {{use: spent}}}}
rooms: {{quay: {{items: {{iron: {keys}}}}}, store: {{}}, loft: {{}}}}
passages:
  - quay <-> store: {{lock: iron}}
  - quay <-> loft: {{lock: iron}}
"""


def write_levels(folder: Path, count: int) -> list[Path]:
    """Levels, every second of which can be lost by a wrong door."""
    files = []
    for n in range(count):
        files.append(folder / f"mill-{n:03}.yaml")
        files[-1].write_text(LEVEL.format(n=n, keys=1 + n % 2))
    return files


def test_a_folder_with_one_broken_level_is_a_table_with_its_error(tmp_path: Path) -> None:
    files = write_levels(tmp_path, 12)
    files[5].write_text("goal: [")
    seen: list[Any] = []
    table = ukemi.check_many(files, jobs=2, on_row=seen.append)
    assert list(table["file"]) == [str(file) for file in files]
    assert list(table["stuck"].fillna("-")) == [
        "-" if n == 5 else "never" if n % 2 else "possible" for n in range(12)
    ]
    assert table["error"].notna().tolist() == [n == 5 for n in range(12)]
    assert sorted(row["file"] for row in seen) == sorted(table["file"])  # told as they come
    alone = ukemi.check_many([ukemi.load(file) for file in files[:4]])
    same = alone.columns.difference(["error", "seconds"])
    pandas.testing.assert_frame_equal(alone[same], table[:4][same], check_dtype=False)
    found = run("check", tmp_path, "-j", 2, "--format", "csv")
    assert found.returncode == 2 and "mill-005.yaml:1:7" in found.stderr
    lines = found.stdout.splitlines()
    assert len(lines) == 13 and lines[1].startswith(f"Mill 0,{files[0]},yes,possible,")
    unreadable = run("check", files[5], "--format", "csv").stdout.splitlines()
    assert unreadable[0] == "file,error" and unreadable[1].startswith(str(files[5]))


@pytest.fixture
def cluster() -> Any:
    """A scheduler, and two workers in processes of their own."""
    from distributed import LocalCluster

    with LocalCluster(  # type: ignore[no-untyped-call]
        n_workers=2, threads_per_worker=1, dashboard_address=None, host="127.0.0.1"
    ) as started:
        yield started


@pytest.mark.filterwarnings("default")
def test_a_cluster_answers_each_level_once_though_a_worker_is_killed(
    tmp_path: Path, cluster: Any
) -> None:
    from distributed import Client

    files = write_levels(tmp_path, 120)
    files[7].write_text("goal: [")
    killed: list[int] = []
    with Client(cluster) as client:  # type: ignore[no-untyped-call]
        workers = client.run(os.getpid)

        def told(row: dict[str, Any]) -> None:
            if not killed:
                killed.append(next(iter(workers.values())))
                os.kill(killed[0], signal.SIGKILL)

        table = ukemi.check_many(files, client=client, on_row=told)
    assert killed and Counter(table["file"]) == Counter(map(str, files))
    expected = ["-" if n == 7 else "never" if n % 2 else "possible" for n in range(120)]
    assert list(table["stuck"].fillna("-")) == expected

    address = cluster.scheduler_address
    found = run("check", tmp_path / "mill-00*.yaml", "--cluster", address, "--format", "json")
    plain = run("check", tmp_path / "mill-00*.yaml", "--format", "json")
    assert found.returncode == plain.returncode == 2
    reports = json.loads(found.stdout), json.loads(plain.stdout)
    for one, other in zip(*reports, strict=True):
        assert one.pop("search")["complete"] == other.pop("search")["complete"]
        assert one == other


def test_a_cluster_that_is_not_there_is_a_clear_error(tmp_path: Path) -> None:
    [file] = write_levels(tmp_path, 1)
    for address in ("tcp://127.0.0.1:9", "nowhere"):
        found = run("check", file, "--cluster", address)
        assert found.returncode == 2 and "Traceback" not in found.stderr
        says = "no scheduler answers there" if ":" in address else "this is no address"
        assert found.stderr.startswith(f"--cluster {address}: {says}")


@pytest.mark.parametrize("says", [b"", b"HTTP/1.1 200 OK\r\n\r\nhello" * 9])
def test_what_never_answers_or_answers_nonsense_ends_with_a_sentence(
    says: bytes, tmp_path: Path
) -> None:
    [file] = write_levels(tmp_path, 1)
    with socket.create_server(("127.0.0.1", 0)) as listening:
        kept = []

        def answer() -> None:
            while True:
                try:
                    caller, _ = listening.accept()
                except OSError:
                    return
                kept.append(caller)
                caller.sendall(says)

        threading.Thread(target=answer, daemon=True).start()
        address = f"tcp://127.0.0.1:{listening.getsockname()[1]}"
        found = run("check", file, "--cluster", address)
    assert found.returncode == 2 and found.stderr.startswith(f"--cluster {address}: no scheduler")
    assert found.stderr.count("\n") == 1


def test_a_table_is_no_formula_and_standard_input_is_a_level(tmp_path: Path) -> None:
    file = tmp_path / "=cmd.yaml"
    file.write_text('name: "=1+1"\nstart: quay\ngoal: quay\nrooms: [quay]\n')
    rows = run("check", file, "--format", "csv", cwd=tmp_path).stdout.splitlines()
    assert rows[1].startswith("'=1+1,")
    found = ukemi.check_many([ukemi.loads("{start: a, goal: a, rooms: [a]}")], max_positions=5)
    assert list(found["finish"]) == ["yes"] and list(found["errors"]) == [0]
    assert ukemi.check_many([]).empty


def few_levels(folder: Path) -> Path:
    """A folder with four of the demo levels."""
    folder.mkdir()
    for name in ("flooded-cellar", "one-way-drop", "tide-mill", "wasted-key"):
        shutil.copy(DEMO / f"{name}.yaml", folder)
    return folder


def test_results_are_written_in_every_form_and_lose_nothing(tmp_path: Path) -> None:
    levels = few_levels(tmp_path / "levels")
    printed = {one: run("check", levels, "--format", one).stdout for one in ("json", "csv")}
    for name in ("a.json", "a.csv", "a.sarif", "a.xml", "a.txt", "a.parquet"):
        done = run("check", levels, "-o", tmp_path / name)
        assert (done.returncode, done.stdout) == (1, ""), done.stderr
        assert (tmp_path / name).stat().st_size > 300
    timeless = [
        re.sub(r'"seconds": [0-9.]+', "", one)
        for one in (printed["json"], (tmp_path / "a.json").read_text())
    ]
    assert timeless[0] == timeless[1]
    table = pandas.read_parquet(tmp_path / "a.parquet")
    assert list(table["level"]) == [one["level"] for one in json.loads(printed["json"])]
    assert "Can get stuck: yes, by 1 mistake" in (tmp_path / "a.txt").read_text()
    assert "<testsuite" in (tmp_path / "a.xml").read_text()
    mill = levels / "tide-mill.yaml"
    before = mill.read_bytes()
    for words, says in (
        ([levels, "-o", tmp_path / "a.zip"], "say which --format"),
        ([mill, "--format", "json", "-o", mill], "read"),
        ([mill, "--format", "parquet"], "name a file for it"),
        ([mill, "--resume", mill], "this is one of the levels"),
        ([mill, "--resume", tmp_path / "a.json"], "keeps no results of a check"),
        ([mill, "--resume", tmp_path / "new", "--format", "sarif"], "not with sarif"),
    ):
        done = run("check", *words)
        assert done.returncode == 2 and says in done.stderr and "Traceback" not in done.stderr, (
            words
        )
    assert mill.read_bytes() == before


@pytest.mark.parametrize("form", ["text", "json", "csv"])
def test_a_run_that_was_ended_goes_on_where_it_stopped(tmp_path: Path, form: str) -> None:
    levels, kept = few_levels(tmp_path / "levels"), tmp_path / "kept"
    words = ["check", levels, "--format", form, "--resume", kept]

    def told() -> str:
        return re.sub(r"[0-9.]+(?=,\n)|\d+\.\d+", "", run(*words).stdout)

    whole = told()
    lines = kept.read_bytes().splitlines(keepends=True)
    assert len(lines) == 1 + len(list(levels.iterdir()))
    for cut in (1, 4, len(lines)):
        kept.write_bytes(
            b"".join(lines[:cut]) + b'{"file": "cut o'
        )  # ended in the middle of a line
        assert told() == whole
    # What has changed since is checked again, and nothing else.
    broken = levels / "tide-mill.yaml"
    broken.write_text(broken.read_text().replace("goal: bell-loft", "goal: quay"))
    before = len(kept.read_bytes().splitlines())
    assert told() != whole and len(kept.read_bytes().splitlines()) == before + 1
    other = run(*words, "--strict")
    assert (other.returncode, "with other options" in other.stderr) == (2, True)


def test_what_a_search_left_open_is_searched_again(tmp_path: Path) -> None:
    levels, kept = tmp_path / "levels", tmp_path / "kept"
    shutil.copytree(DEMO, levels)
    words = ["check", levels, "--format", "json", "--max-positions", "30", "--resume", kept]
    first = json.loads(run(*words).stdout)
    proven = {one["file"] for one in first if one["search"]["complete"]}
    assert proven and len(proven) < len(first)
    assert {json.loads(one)["file"] for one in kept.read_text().splitlines()[1:]} == proven
    # The result belongs to what the files said before the check.
    level = levels / "tide-mill.yaml"
    resumed = Resumed(tmp_path / "other", {})
    assert resumed.of("mill", [level]) is None
    text = level.read_text()
    level.write_text(text + "# saved meanwhile\n")
    resumed.keep("mill", {"code": 0})
    assert Resumed(tmp_path / "other", {}).of("mill", [level]) is None
    level.write_text(text)
    assert Resumed(tmp_path / "other", {}).of("mill", [level]) == {"code": 0}


def test_only_what_changed_since_a_revision_is_checked(tmp_path: Path) -> None:
    shutil.copytree(DEMO, tmp_path / "levels")
    shutil.copytree(DEMO.parent / "campaign", tmp_path / "levels" / "year")
    maps = tmp_path / "levels" / "drawn.yaml"
    maps.write_text("goal: far\nmaps: {ground: {csv: ground.csv}}\nlegend: {G: {room: far}}\n")
    (tmp_path / "levels" / "ground.csv").write_text("@,.,G\n")
    who = ["-c", "user.name=Miller", "-c", "user.email=miller@example.org"]
    for words in (["init", "-q"], ["add", "."], ["commit", "-qm", "levels"]):
        subprocess.run(["git", *who, *words], cwd=tmp_path, check=True)

    def changed() -> set[str]:
        done = run("check", tmp_path / "levels", "--changed-since", "HEAD", "--format", "json")
        said = json.loads(done.stdout)
        return {Path(one["file"]).name for one in (said if isinstance(said, list) else [said])}

    assert changed() == set()
    (tmp_path / "levels" / "ground.csv").write_text("@,.,.,G\n")
    assert changed() == {"drawn.yaml"}
    loft = tmp_path / "levels" / "year" / "year-loft.yaml"
    loft.write_text(loft.read_text() + "# a remark\n")
    (tmp_path / "levels" / "new.yaml").write_text((DEMO / "tide-mill.yaml").read_text())
    assert changed() == {"drawn.yaml", "year-loft.yaml", "mill-year.yaml", "new.yaml"}
    done = run("check", tmp_path / "levels", "--changed-since", "nowhere")
    assert (done.returncode, "no revision 'nowhere'" in done.stderr) == (2, True)
    done = run("compare", tmp_path / "levels", "--since", "HEAD")
    assert "new.yaml is new" in done.stdout and "14 of 16 levels are as they were" in done.stdout, (
        done.stdout
    )
    assert (
        "The Wasted Key" in run("compare", tmp_path / "levels", "--since", "HEAD", "--all").stdout
    )
