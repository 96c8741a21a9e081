"""What is offered for builds and commits, tried."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
import yaml

from .helpers import DEMO, ROOT


def bash(script: str, folder: Path, **env: str) -> subprocess.CompletedProcess[str]:
    """Run a step of a workflow, with the command of this environment."""
    command = folder / "bin"
    command.mkdir(exist_ok=True)
    (command / "ukemi").write_text(f'#!/bin/sh\nexec {sys.executable} -m ukemi "$@"\n')
    (command / "ukemi").chmod(0o755)
    path = f"{command}:{os.environ['PATH']}"
    return subprocess.run(
        ["bash", "-ec", script],
        cwd=folder,
        capture_output=True,
        text=True,
        env={**os.environ, "PATH": path, "PYTHONPATH": str(ROOT / "src"), **env},
    )


def git(folder: Path, *arguments: str) -> None:
    who = ["-c", "user.name=Miller", "-c", "user.email=miller@example.org"]
    subprocess.run(["git", *who, *arguments], cwd=folder, check=True, capture_output=True)


def test_the_steps_of_the_workflow_run(tmp_path: Path) -> None:
    workflow = yaml.safe_load((ROOT / "examples" / "workflows" / "check-levels.yaml").read_text())
    steps = {one["name"]: one for one in workflow["jobs"]["check"]["steps"] if "name" in one}
    levels = tmp_path / "levels"
    levels.mkdir()
    (levels / "mill.yaml").write_text((DEMO / "tide-mill.yaml").read_text())
    git(tmp_path, "init", "-q")
    git(tmp_path, "add", "levels")
    git(tmp_path, "commit", "-qm", "levels")
    check = steps["Check all levels, or those that a pull request changes"]["run"]
    assert bash(check, tmp_path).returncode == 0
    (levels / "mill.yaml").write_text((DEMO / "wasted-key.yaml").read_text())
    (levels / "same.yaml").write_text((DEMO / "one-way-drop.yaml").read_text())
    git(tmp_path, "add", "levels/same.yaml")
    git(tmp_path, "commit", "-qm", "one more")
    assert bash(check, tmp_path, BASE="HEAD").returncode == 1
    assert "same.yaml" not in (tmp_path / "levels.sarif").read_text()
    assert bash(check, tmp_path).returncode == 1
    assert "same.yaml" in (tmp_path / "levels.sarif").read_text()
    log = json.loads((tmp_path / "levels.sarif").read_text())
    assert any(one["ruleId"] == "can-get-stuck" for one in log["runs"][0]["results"])
    summary = tmp_path / "summary.md"
    said = bash(
        steps["Say what this change did"]["run"],
        tmp_path,
        BASE="HEAD",
        GITHUB_STEP_SUMMARY=str(summary),
    )
    assert said.returncode == 1 and "**now anyone can get stuck" in summary.read_text()


@pytest.mark.skipif(not shutil.which("pre-commit"), reason="needs pre-commit")
def test_the_hook_keeps_a_level_from_being_committed(tmp_path: Path) -> None:
    git(tmp_path, "init", "-q")
    (tmp_path / "levels").mkdir()
    (tmp_path / "levels" / "mill.yaml").write_text((DEMO / "wasted-key.yaml").read_text())
    (tmp_path / "other.yaml").write_text("nothing: of ours")
    git(tmp_path, "add", ".")
    call = ["pre-commit", "try-repo", str(ROOT), "ukemi-check", "--all-files", "--verbose"]
    tried = subprocess.run(call, cwd=tmp_path, capture_output=True, text=True)
    assert tried.returncode == 1 and "can get stuck" in tried.stdout, tried.stdout + tried.stderr
    (tmp_path / "levels" / "mill.yaml").write_text((DEMO / "tide-mill.yaml").read_text())
    git(tmp_path, "add", ".")
    assert subprocess.run(call, cwd=tmp_path, capture_output=True).returncode == 0


def test_the_shell_can_complete() -> None:
    code = "import sys; sys.argv = ['ukemi']; from ukemi.cli.main import run; run()"
    asked = subprocess.run(
        [sys.executable, "-c", code],
        capture_output=True,
        text=True,
        env={
            **os.environ,
            "PYTHONPATH": str(ROOT / "src"),
            "_UKEMI_COMPLETE": "complete_bash",
            "COMP_WORDS": "ukemi comp",
            "COMP_CWORD": "1",
        },
    )
    assert "compare" in asked.stdout.split()
