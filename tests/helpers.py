"""What several tests need: running the command, and the demo levels."""

from __future__ import annotations

import json
import multiprocessing
import os
import subprocess
import sys
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import jsonschema
from hypothesis import assume

import ukemi
from ukemi.report.as_json import report_dict as plain_report
from ukemi.report.as_json import report_schema

from .one_command import one_command

VALIDATOR = jsonschema.Draft202012Validator(report_schema())
ROOT = Path(__file__).parents[1]
DEMO = ROOT / "src" / "ukemi" / "demo" / "levels"


#: Starts processes that have the heavy libraries loaded already; each runs one command.
_SERVER = multiprocessing.get_context("forkserver")
_SERVER.set_forkserver_preload(
    ["ukemi.cli.main", "ukemi.report.page", "ukemi.draw.map", "tests.one_command"]
)


def run(
    *args: str | Path, cwd: Path | None = None, fresh: bool = False, **env: str
) -> subprocess.CompletedProcess[str]:
    """Run the ``ukemi`` command in a process of its own, on demand in a fresh interpreter."""
    words = [sys.executable, "-m", "ukemi", *map(str, args)]
    if env or fresh or sys.platform != "linux":
        full = {**os.environ, "PYTHONPATH": str(ROOT / "src"), **env}
        return subprocess.run(words, capture_output=True, encoding="utf-8", cwd=cwd, env=full)
    with TemporaryDirectory() as folder:
        out, err = Path(folder, "out"), Path(folder, "err")
        given = (words[3:], str(cwd or Path.cwd()), dict(os.environ), str(out), str(err))
        process = _SERVER.Process(target=one_command, args=given)
        process.start()
        process.join()
        return subprocess.CompletedProcess(
            words, process.exitcode or 0, out.read_bytes().decode(), err.read_bytes().decode()
        )


def check_json(*args: str | Path) -> Any:
    """What ``ukemi check --format json`` prints."""
    return json.loads(run("check", "--format", "json", *args).stdout)


def readable(plain: dict[str, Any]) -> ukemi.Level:
    """The level that random plain data describe; those that cannot be read are drawn again."""
    try:
        return ukemi.loads(json.dumps(plain))
    except ukemi.LevelError:
        assume(False)
        raise


def report_dict(report: ukemi.Report) -> dict[str, Any]:
    """A report as plain values, which must be of the shape that the schema gives."""
    plain = plain_report(report)
    VALIDATOR.validate(plain)
    return plain


def check(text: str, **limits: Any) -> ukemi.Report:
    """Check a level given as text."""
    return ukemi.check(ukemi.loads(text), **limits)
