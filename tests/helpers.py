"""What several tests need: running the command, and the demo levels."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path
from typing import Any

import jsonschema
from hypothesis import assume

import ukemi
from ukemi.report import report_dict as plain_report
from ukemi.report.as_json import report_schema

VALIDATOR = jsonschema.Draft202012Validator(report_schema())
ROOT = Path(__file__).parents[1]
DEMO = ROOT / "src" / "ukemi" / "demo" / "levels"


def run(*args: str | Path, cwd: Path | None = None, **env: str) -> subprocess.CompletedProcess[str]:
    """Run the ``ukemi`` command as a user does."""
    return subprocess.run(
        [sys.executable, "-m", "ukemi", *map(str, args)],
        capture_output=True,
        encoding="utf-8",
        cwd=cwd,
        env={**os.environ, "PYTHONPATH": str(ROOT / "src"), **env},
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
