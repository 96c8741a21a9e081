"""Levels by the thousand: as a table, in several processes, and on a cluster."""

from __future__ import annotations

import json
import os
import signal
import socket
import threading
from collections import Counter
from pathlib import Path
from typing import Any

import pandas
import pytest

import ukemi

from .helpers import run

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
    table = ukemi.check_many(files, jobs=2, told=seen.append)
    assert list(table["file"]) == [str(file) for file in files]
    assert list(table["stuck"].fillna("-")) == [
        "-" if n == 5 else "never" if n % 2 else "possible" for n in range(12)
    ]
    assert table["error"].notna().tolist() == [n == 5 for n in range(12)]
    assert [row["file"] for row in seen] == list(table["file"])
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

        table = ukemi.check_many(files, client=client, told=told)
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
