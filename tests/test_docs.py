"""The docs tell the truth: their levels are read, and they name every field and finding."""

from __future__ import annotations

import ast
import importlib.util
import inspect
import json
import os
import re
import subprocess
import sys
from collections import Counter
from pathlib import Path

import pytest

import ukemi
from ukemi.cli.main import COMMANDS
from ukemi.language.fields import fields, passages, whole
from ukemi.language.fields import map_fields as tiles
from ukemi.language.fields import room_fields as parts
from ukemi.language.fields.scattering import SCATTER
from ukemi.report.pages import codes

from .helpers import ROOT

DOCS = ROOT / "docs"
BLOCKS = [
    pytest.param(block, id=f"{path.stem}-{number}")
    for path in (ROOT / "README.md", DOCS / "level-file.md", DOCS / "rules-of-play.md")
    for number, block in enumerate(re.findall(r"```yaml\n(.*?)```", path.read_text(), re.DOTALL), 1)
]


@pytest.mark.parametrize("block", BLOCKS)
def test_levels_of_the_docs_can_be_finished(block: str) -> None:
    report = ukemi.check(ukemi.loads(block))
    assert report.answers.finish == "yes"
    assert not [one for one in report.findings if one.severity == "error"]


def test_every_field_is_documented() -> None:
    text = (DOCS / "level-file.md").read_text()
    tables = (
        whole.LEVEL, whole.EXPECT, passages.PASSAGE, parts.ROOM, parts.CHEST, fields.ITEM, fields.LOCK,
        fields.ACT, fields.SWITCH, fields.INVENTORY, fields.RULES, fields.PLACEMENT, fields.EVENT, fields.SHORTEST, tiles.TILE,
    )  # fmt: skip
    missing = {one.name for table in tables for one in table if f"{one.name}" not in text}
    assert not missing
    ticked = set(re.findall(r"`([a-z-]+)", text))
    assert {one.name for table in tables for one in table} <= ticked | {"at-least", "at-most"}
    scattering = set(re.findall(r"\| `([a-z-]+)`", (DOCS / "scattering.md").read_text()))
    assert {one.name for one in SCATTER} <= scattering


def test_every_finding_is_listed() -> None:
    listed = re.findall(
        r"\[([a-z-]+)\]\(\.\./src/ukemi/report/pages/\1\.md\)", (DOCS / "findings.md").read_text()
    )
    assert sorted(listed) == codes()


def test_links_of_the_docs_lead_somewhere() -> None:
    for path in [ROOT / "README.md", *DOCS.glob("*.md")]:
        for link in re.findall(r"\]\(([^)#]+)(?:#[^)]*)?\)", path.read_text()):
            assert link.startswith("https://") or (path.parent / link).exists(), f"{path}: {link}"


def test_readme_shows_what_is_really_printed(tmp_path: Path) -> None:
    from .helpers import DEMO, run

    (tmp_path / "tide-mill").mkdir()  # as `ukemi demo` makes it
    (tmp_path / "tide-mill" / "wasted-key.yaml").write_text((DEMO / "wasted-key.yaml").read_text())
    words = ["check", "tide-mill/wasted-key.yaml", "--mends"]
    printed = run(*words, cwd=tmp_path).stdout
    readme = (ROOT / "README.md").read_text()
    assert f"$ ukemi {' '.join(words)}\n{printed}" in readme
    beside = re.findall(r"```text\n(.*?)```", readme, re.DOTALL)[0].splitlines()
    (tmp_path / "small.yaml").write_text("\n".join(line[:54] for line in beside))
    answer = " ".join(run("check", "small.yaml", cwd=tmp_path).stdout.split())
    verdict = [line[54:].strip() for line in beside if line[54:].strip()]
    assert len(verdict) == 6 and all(line in answer for line in verdict)
    first = re.split(r"^## A first level.*$", readme, flags=re.MULTILINE)[1]
    level, added = re.findall(r"```(?:yaml|text)\n(.*?)```", first, re.DOTALL)[:2]
    room, passage = (line.partition(" #")[0].rstrip() for line in added.splitlines())
    (tmp_path / "mill.yaml").write_text(
        level.replace("passages:", f"{room}\npassages:").rstrip() + f"\n{passage}\n"
    )
    printed = run("check", "mill.yaml", cwd=tmp_path).stdout
    assert "a softlock" in printed and f"$ ukemi check mill.yaml\n{printed}" in readme
    assert "pip install '.[test]' && pytest" in (ROOT / "README.md").read_text()
    assert "pip install '.[test]' && pytest" in (ROOT / ".ci" / "run").read_text()


def test_the_reference_is_made_from_the_docstrings_and_they_are_whole() -> None:
    run_path = importlib.util.spec_from_file_location("make_api", DOCS / "make_api.py")
    assert run_path is not None and run_path.loader is not None
    module = importlib.util.module_from_spec(run_path)
    run_path.loader.exec_module(module)
    assert (DOCS / "api.md").read_text() == module.page(), "run python docs/make_api.py"
    listed = {one for part in module.PARTS.values() for one in part if isinstance(one, str)}
    assert listed == {*ukemi.__all__}
    functions = [getattr(ukemi, name) for name in listed]
    functions += [value for name, value in vars(ukemi.Level).items() if not name.startswith("_")]
    for one in functions:
        if not inspect.isfunction(one):
            continue
        told, signature = inspect.getdoc(one) or "", inspect.signature(one)
        given = [name for name in signature.parameters if name not in ("self", "fields")]
        assert all(f"{name}:" in told or f"{name}," in told for name in given), one
        assert "Args:" in told or not given, one
        assert "Returns:" in told or signature.return_annotation in (None, "None"), one
        assert "Example:" in told, one


def test_no_two_files_and_no_two_classes_have_one_name() -> None:
    files = [one for one in (ROOT / "src").rglob("*.py") if one.name != "__init__.py"]
    names = [one.name for one in files if one.parent.name != "cli"]  # called as the commands
    trees = [ast.walk(ast.parse(one.read_text(encoding="utf-8"))) for one in files]
    classes = [node.name for tree in trees for node in tree if isinstance(node, ast.ClassDef)]
    assert [name for some in (names, classes) for name, n in Counter(some).items() if n > 1] == []


def test_the_tutorial_prints_just_what_it_says(tmp_path: Path) -> None:
    command = tmp_path / "bin"
    command.mkdir()
    (command / "ukemi").write_text(f'#!/bin/sh\nexec {sys.executable} -m ukemi "$@"\n')
    (command / "ukemi").chmod(0o755)
    env = {**os.environ, "PATH": f"{command}:{os.environ['PATH']}", "PYTHONPATH": str(ROOT / "src")}
    text = (DOCS / "tutorial.md").read_text()
    commands = 0
    for kind, body in re.findall(r"```(yaml|console)\n(.*?)```", text, re.DOTALL):
        if kind == "yaml":
            (tmp_path / body.split("\n")[0].removeprefix("# ")).write_text(body)
            continue
        for one in re.split(r"^\$ ", body, flags=re.MULTILINE)[1:]:
            typed, _, printed = one.partition("\n")
            done = subprocess.run(
                ["bash", "-c", typed],
                cwd=tmp_path,
                env=env,
                stdout=subprocess.PIPE,
                stderr=subprocess.STDOUT,
                text=True,
            )
            assert done.stdout.rstrip() == printed.rstrip(), typed
            commands += 1
    assert commands > 10


def test_the_site_is_built_strictly_with_what_commands_print(tmp_path: Path) -> None:
    built = subprocess.run(
        [sys.executable, "-m", "mkdocs", "build", "--quiet", "--site-dir", tmp_path / "site"],
        cwd=ROOT,
        capture_output=True,
        text=True,
    )
    assert built.returncode == 0, built.stderr
    site = {path: path.read_text() for path in (tmp_path / "site").rglob("*.html")}
    for path, text in site.items():
        fetched = re.findall(r"<(?:script|img|link)[^>]* (?:src|href)=\"(https?:[^\"]+)", text)
        assert not fetched, f"{path} needs the network"
    for name in (name for group in COMMANDS.values() for name in group):
        page = site[tmp_path / "site" / "commands" / f"{name}.html"]
        assert f"Usage: ukemi {name} " in page
        assert name == "language-server" or f"ukemi {name} " in page.partition("$ ")[2]
    assert "Can get stuck: yes, by 1 mistake" in site[tmp_path / "site" / "commands" / "check.html"]
    assert (tmp_path / "site" / "commands" / "made" / "mill.png").stat().st_size > 10_000
    index = json.loads((tmp_path / "site" / "search" / "search_index.json").read_text())
    found = {one["location"].split("#")[0] for one in index["docs"] if "shortcut" in one["text"]}
    assert "findings/bypassed.html" in found
    assert {f"findings/{code}.html" for code in codes()} <= {
        one["location"] for one in index["docs"]
    }


def test_a_command_that_cannot_be_done_ends_the_build_of_the_site(tmp_path: Path) -> None:
    found = importlib.util.spec_from_file_location("make_site", DOCS / "make_site.py")
    assert found is not None and found.loader is not None
    site = importlib.util.module_from_spec(found)
    found.loader.exec_module(site)
    shown = site.shown("ukemi explain\n", " 3", tmp_path)
    assert shown.startswith("```console\n$ ukemi explain\naccepted-nothing")
    assert shown.endswith("more lines\n```") and shown.count("\n") == 5
    with pytest.raises(site.PluginError, match="ends with 2"):
        site.shown("ukemi check nowhere.yaml", None, tmp_path)
    moved = site.moved("docs/findings.md", ROOT / "README.md", "index.md")
    assert moved == "findings.md"
    page = site.moved("../src/ukemi/report/pages/can-die.md", DOCS / "findings.md", "findings.md")
    assert page == "findings/can-die.md"
