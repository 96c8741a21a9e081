"""Levels watched: checked again at each save, and only what changed told."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from .clock import wait_for
from .helpers import DEMO, ROOT

SOUND = (DEMO / "tide-mill.yaml").read_text()


class Watching:
    """The command, watching, with what it said so far."""

    def __init__(self, folder: Path, *files: Path) -> None:
        self.out = folder / "said.txt"
        with self.out.open("w") as said:
            self.process = subprocess.Popen(
                [sys.executable, "-m", "ukemi", "watch", *map(str, files)],
                stdout=said, stderr=said, env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
            )  # fmt: skip

    def until(self, words: str, times: int = 1) -> None:
        """Wait until it has said something so many times."""
        wait_for(lambda: self.out.read_text().count(words) >= times, words)


@contextmanager
def watching(folder: Path, *files: Path) -> Iterator[Watching]:
    one = Watching(folder, *files)
    try:
        one.until("Can be finished")  # what is saved from now on is seen
        yield one
    finally:
        one.process.kill()
        one.process.wait()


def test_each_save_tells_what_changed_and_no_more(tmp_path: Path) -> None:
    level = tmp_path / "mill.yaml"
    level.write_text(SOUND)
    with watching(tmp_path, level) as one:
        level.write_text(SOUND.replace("  - sluice-walk <-> quay\n", ""))
        one.until("passage sluice-walk <-> quay is gone")
        assert "now anyone can get stuck, by this: walk to sluice-walk" in one.out.read_text()
        level.write_text(SOUND[: len(SOUND) // 2])  # half saved
        one.until("[")
        level.unlink()
        one.until("no such file or directory")
        level.write_text(SOUND)
        one.until("passage sluice-walk <-> quay is new")
        level.write_text("# a remark\n" + SOUND)  # nothing changes that matters
        level.write_text(SOUND.replace("  - sluice-walk <-> quay\n", ""))
        one.until("passage sluice-walk <-> quay is gone", times=2)
        headings = [line for line in one.out.read_text().splitlines() if "The Tide Mill (" in line]
        assert [line.partition(") ")[2] for line in headings] == ["", "", "can be read again", ""]
        one.process.send_signal(signal.SIGINT)
        assert one.process.wait(timeout=10) == 0


def test_a_campaign_is_checked_when_a_level_of_it_is_saved(tmp_path: Path) -> None:
    for file in (DEMO.parent / "campaign").glob("*.yaml"):
        (tmp_path / file.name).write_text(file.read_text())
    cellar = tmp_path / "year-cellar.yaml"
    with watching(tmp_path, tmp_path / "mill-year.yaml") as one:
        cellar.write_text(cellar.read_text().replace("goal:", "gaol:"))
        one.until("did you mean 'goal'?")
        cellar.write_text(cellar.read_text().replace("gaol:", "goal:"))
        one.until("can be read again")


def test_a_save_stops_the_check_of_what_was_saved_before(tmp_path: Path) -> None:
    from benchmarks.families import hands

    import ukemi

    level, small = tmp_path / "long.yaml", tmp_path / "long.yaml"
    level.write_text(SOUND)
    with watching(tmp_path, level) as one:
        ukemi.save(hands(3, 10, 14), level)  # takes far longer than the test may
        small.write_text(SOUND.replace("  - sluice-walk <-> quay\n", ""))
        one.until("now anyone can get stuck")
        assert "3 slots" not in one.out.read_text()
