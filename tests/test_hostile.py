"""What somebody else wrote: levels, sessions, typed lines, labels and file names that mean harm.

A fuzz target too: ``UKEMI_LEVELS=100000 pytest tests/test_hostile.py`` runs for hours.
"""

from __future__ import annotations

import json
import os
import resource
import stat
import subprocess
import sys
from pathlib import Path
from random import Random
from typing import Any
from xml.etree import ElementTree as Xml

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.draw import draw_map, draw_order
from ukemi.draw.svg import svg_map
from ukemi.language.files.replacing import write_file
from ukemi.language.text.json_text import json_text
from ukemi.level.visible import HIDDEN
from ukemi.playing.keeping import read_file
from ukemi.playing.replaying import replay_session
from ukemi.playing.said import as_text
from ukemi.playing.session import SessionError, read_session
from ukemi.playing.talk import Talk
from ukemi.report import report_lines
from ukemi.report.as_json import report_dict
from ukemi.report.as_junit import junit
from ukemi.report.as_sarif import sarif
from ukemi.report.as_text import plain_text
from ukemi.report.page import html_page

from .helpers import DEMO, ROOT, run
from .test_against_naive import LEVELS

TEXTS = [file.read_text(encoding="utf-8") for file in sorted(DEMO.glob("*.yaml"))]
WASTED = DEMO / "wasted-key.yaml"
HOSTILE = [
    "\x1b[2J", "\x07", "\r\n  Can be finished: yes", "\u202e", "\u200b", "\x9b31m", "]]>", "--><script>",
    "&lt;", '"', "'", "$x^", "::error::x", "##vso[task.x]", "\ufffe", "\u2028", "constructor", "\\", "{", "%s",
]  # fmt: skip


# -- reading --------------------------------------------------------------------------------------


def spoiled(text: str, random: Random) -> str:
    """A level with something changed that somebody's slip, or ill will, could change."""
    for _ in range(random.randint(1, 4)):
        at, to = sorted(random.randrange(len(text) + 1) for _ in range(2))
        part = text[at : min(to, at + random.choice([1, 4, 30]))]
        new = random.choice(
            ["", part * 2, random.choice(HOSTILE), "*a", "&a ", "9" * random.choice([1, 20, 5000]), "[" * 300,
             "²", "\n", "  ", "- ", ": ", text[random.randrange(len(text)) :][:20]]
        )  # fmt: skip
        text = text[:at] + new + text[at + len(part) :]
    return text


@given(st.sampled_from(TEXTS), st.randoms(use_true_random=False))
@settings(max_examples=LEVELS, deadline=None)
def test_a_spoiled_level_is_read_or_told(text: str, random: Random) -> None:
    for file in ("mill.yaml", "mill.json"):
        try:
            level = ukemi.loads(spoiled(text, random), file)
        except ukemi.LevelError as error:
            assert error.lines()
            assert not HIDDEN.search("".join(error.lines()))
            continue
        report = ukemi.check(level, max_positions=300)
        assert not HIDDEN.search(plain_text(report_lines(report, full=True)).replace("\n", ""))


def limited(text: str, tmp_path: Path, megabytes: int = 400, seconds: int = 5) -> Any:
    """Check a level with little memory and time."""
    file = tmp_path / "level.yaml"
    file.write_text(text, encoding="utf-8", errors="surrogateescape")
    size = megabytes << 20
    done = subprocess.run(
        [sys.executable, "-m", "ukemi", "check", str(file)], timeout=12 * seconds,
        capture_output=True, encoding="utf-8", env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
        preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_AS, (size, size)),
    )  # fmt: skip
    assert "Traceback" not in done.stderr
    return done


def test_a_file_does_not_multiply_without_end(tmp_path: Path) -> None:
    items = ", ".join(f"k{n}: {{}}" for n in range(300))
    things = ", ".join(f"k{n}: 1" for n in range(300))
    rooms = "".join(f"  r{n}: {{items: *all}}\n" for n in range(1, 400))
    text = f"start: r0\ngoal: r1\nitems: {{{items}}}\nrooms:\n  r0: {{items: &all {{{things}}}}}\n{rooms}"
    done = limited(text, tmp_path)
    assert (done.returncode, "its aliases (`*`) make more than 100,000 values" in done.stderr) == (
        2,
        True,
    )
    done = limited("start: quay\ngoal: quay\nrooms: &r {quay: *r}\n", tmp_path)
    assert (done.returncode, "aliases" in done.stderr) == (2, True)
    shared = "items: {k: {}}\nstart: a\ngoal: b\nrooms: {a: &x {items: [k]}, b: *x}\npassages: [a <-> b]\n"
    assert limited(shared, tmp_path).returncode == 0


def test_thousands_of_mistakes_are_told_as_a_few_and_a_count(tmp_path: Path) -> None:
    rooms = "".join(f"  room{n}: {{}}\n" for n in range(3000))
    ways = "".join(f"  - roam{n} <-> room{n}\n" for n in range(3000))
    done = limited(f"start: room0\ngoal: room1\nrooms:\n{rooms}passages:\n{ways}", tmp_path)
    lines = done.stderr.splitlines()
    assert (done.returncode, len(lines)) == (2, 21)
    assert "(did you mean 'room0'?)" in lines[0]
    assert lines[-1].endswith(": and 2,980 more like these")


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("goal: m@1,1\nmaps:\n  m: |\n    @" + "\n    [" * 300 + "\nlegend: {'[': wall}\n", ""),
        ("goal: m@1,1\nmaps:\n  m: |\n    @\n    " + "-" * 1500 + "\nlegend: {'-': wall}\n", ""),
        ("start: a\ngoal: b\nrooms: {a: {label: \"x\x1by\"}, b: {}}", ":3:22: the character U+001B cannot"),
        ("start: a\ngoal: a\nrooms: {a: {}}\nitems: {k: {color: C0}}", ":4:20: 'C0' is not a colour"),
        ("goal: m@" + "9" * 5000 + ",1\nmaps: {m: '@'}", ":1:"),
        ("goal: m@1,1\nmaps: {m: {csv: /proc/self/environ}}", "lies in the level's folder or below it"),
        ("goal: m@1,1\nmaps: {m: {csv: ../other.csv}}", "lies in the level's folder or below it"),
        ("goal: m@1,1\nmaps: {m: {csv: pipe.csv}}", "it is not a regular file"),
        ("goal: m@1,1\nmaps: {m: {csv: own.csv}}", "the symbol 'secr'... at m@1,1 is not in the legend, and"),
        ("goal: m@1,1\nmaps: {m: [['@', [x]]]}", "a symbol of a map is text, not a list"),
    ],
)  # fmt: skip
def test_what_a_level_may_not_do_is_told(text: str, says: str, tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe.csv")
    (tmp_path / "own.csv").write_text("secret-password,secret\nmore,lines\n")
    done = limited(text, tmp_path)
    assert says in done.stderr
    assert done.returncode == (2 if says else 0), done.stderr
    assert "secret" not in done.stderr


def test_utf_16_is_read_and_json_numbers_may_be_long(tmp_path: Path) -> None:
    file = tmp_path / "mill.yaml"
    file.write_bytes(TEXTS[-1].encode("utf-16"))
    assert ukemi.load(file).name == "The Wasted Key"
    for broken in ('{"slots": ' + "9" * 5000 + "}", '{"slots": NaN}', '{"slots": 1e999999}'):
        with pytest.raises(ukemi.LevelError):
            ukemi.loads(broken, "mill.json")


# -- sessions and typed lines ---------------------------------------------------------------------


def test_a_renamed_door_is_told_on_replay(tmp_path: Path) -> None:
    play = ukemi.play(WASTED)
    for line in ("take iron-key", "go granary", "unlock pit-door"):
        play.do(line)
    renamed = ukemi.loads(WASTED.read_text().replace("pit-door", "cellar-door"))
    done = replay_session(renamed, play.session())
    assert (done.failed, done.why) == (3, "unlock pit-door: the level has no such move")
    session = tmp_path / "play.json"
    session.write_text(json.dumps(play.session().plain()))
    shown = run("replay", WASTED, session)
    assert (shown.returncode, shown.stderr) == (0, "")


PLAIN = read_session(
    {"ukemi-session": 1, "level": "The Wasted Key", "moves": [
        {"do": "take", "item": "iron-key", "in": "quay"},
        {"do": "walk", "name": "quay <-> granary", "to": "granary"},
        {"do": "unlock", "name": "pit-door", "with": {"iron-key": 1}},
    ]}
).plain()  # fmt: skip


@given(st.randoms(use_true_random=False))
@settings(max_examples=LEVELS, deadline=None)
def test_a_spoiled_session_is_read_or_told(random: Random) -> None:
    level = ukemi.load(WASTED)
    plain = json.loads(json.dumps(PLAIN))
    move = random.choice(plain["moves"])
    strange = [None, [], {}, True, -1, 10**30, "", "quay", "pit-door", *HOSTILE]
    spot = random.choice([plain, move, move.setdefault("with", {})])
    spot[random.choice([*spot, "again", "steps", "x"])] = random.choice(strange)
    try:
        done = replay_session(level, read_session(plain))
    except SessionError as error:
        assert str(error)
    else:
        assert done.failed is None or done.why


def test_a_session_file_is_read_as_carefully_as_a_level(tmp_path: Path) -> None:
    session = tmp_path / "play.json"
    for text in (
        '{"ukemi-session": ' + "9" * 5000 + "}", "[" * 5000, '{"ukemi-session": 1, "moves": [{"do": []}]}', "\x00",
    ):  # fmt: skip
        session.write_text(text)
        with pytest.raises(SessionError, match=r"play\.json"):
            read_file(session)


@given(st.lists(st.one_of(st.sampled_from(["go ", "take ", "why ", "undo ", "load ", "²", "9" * 5000, "٣", *HOSTILE]),
                          st.text(max_size=12)), max_size=3))  # fmt: skip
@settings(max_examples=LEVELS, deadline=None)
def test_any_typed_line_is_answered(words: list[str]) -> None:
    talk = TALK
    said = talk.answer("".join(words))
    assert all(isinstance(one.text, str) for one in said)


TALK = Talk(ukemi.load(DEMO / "flooded-cellar.yaml"))


# -- what is printed and drawn --------------------------------------------------------------------


@pytest.mark.parametrize("letter", ["\u200d", "\U000e01f0", "\U0001d173", "\u0301", "\u3164"])
def test_a_label_that_shows_nothing_is_drawn(letter: str) -> None:
    level = ukemi.Level("Mill")
    level.room("quay", label=letter)
    level.set_start("quay")
    level.set_goal("quay")
    assert "<svg" in svg_map(level)
    draw_map(level)


@given(st.lists(st.one_of(st.sampled_from(HOSTILE), st.text(max_size=3)), min_size=1, max_size=3))
@settings(max_examples=max(LEVELS // 6, 10), deadline=None)
def test_labels_hide_nothing_and_break_nothing(parts: list[str]) -> None:
    label = "".join(parts).encode("utf-8", "ignore").decode()
    plain = (
        {"name": label, "start": "a", "goal": "b", "items": {"constructor": {"use": "spent", "label": label}},
                    "rooms": {"a": {"items": ["constructor"], "label": label}, "b": {}, "c": {}},
                    "passages": [{"a <-> b": {"lock": "constructor", "name": "d", "label": label}},
                                 {"a <-> c": {"lock": "constructor", "label": label}}]}
    )  # fmt: skip
    level = ukemi.loads(json.dumps(plain), "mill.json")
    report = ukemi.check(level)
    text = plain_text(report_lines(report, full=True))
    assert not HIDDEN.search(text.replace("\n", ""))
    assert not any(line.lstrip().startswith("::") or "##vso[" in line for line in text.split("\n"))
    Xml.fromstring(junit([report]).split("\n", 1)[1])
    assert json.loads(json_text(sarif([report], "1")))
    assert json.loads(json_text(report_dict(report)))["level"] == label
    Xml.fromstring(svg_map(level))
    page = html_page([report], {0: svg_map(level)})
    assert "<script>" not in page.replace('<script>"use strict"', "").replace("<script>\n", "")
    draw_map(level, report.findings[0].route)
    draw_order(report)
    assert not HIDDEN.search(as_text(Talk(level).opening()).replace("\n", ""))


def test_the_same_bytes_whatever_the_hash_seed(tmp_path: Path) -> None:
    views = ("map", "order", "locks", "inventory")
    draw = (
        "import runpy, sys\n"
        f"for view in {views!r}:\n"
        f"    sys.argv = ['ukemi', 'draw', {str(DEMO / 'tide-mill.yaml')!r}, '--view', view, '-o', view + '.svg']\n"
        "    try:\n        runpy.run_module('ukemi', run_name='__main__')\n    except SystemExit as end:\n        assert not end.code\n"
    )
    made = []
    for seed in ("1", "2"):
        env = {**os.environ, "PYTHONPATH": str(ROOT / "src"), "PYTHONHASHSEED": seed}
        subprocess.run([sys.executable, "-c", draw], cwd=tmp_path, env=env, check=True)
        made.append([(tmp_path / f"{view}.svg").read_bytes() for view in views])
    assert made[0] == made[1]


def test_closed_streams_and_pipes_that_end_are_no_tracebacks(tmp_path: Path) -> None:
    ukemi_ = f"{sys.executable} -m ukemi"
    environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    for line in (
        f"{ukemi_} check {WASTED} <&- >&-", f"{ukemi_} check {WASTED} >&- 2>&-", f"{ukemi_} play {WASTED} <&-",
        f"{ukemi_} check --full {WASTED} {WASTED} {WASTED} | head -1", f"{ukemi_} schema | head -1",
    ):  # fmt: skip
        done = subprocess.run(
            ["bash", "-c", line], capture_output=True, encoding="utf-8", env=environment
        )
        assert "Traceback" not in done.stderr and "Exception" not in done.stderr, line


# -- writing --------------------------------------------------------------------------------------


def test_output_goes_where_it_may_and_nowhere_else(tmp_path: Path) -> None:
    level = tmp_path / "mill.yaml"
    level.write_text(WASTED.read_text())
    before = level.read_bytes()
    long = "x" * 300 + ".html"
    for output, says in {
        "mill.yaml": "this is what was read", "./mill.yaml": "this is what was read", "page.yaml": "ends in one of .html",
        ".": "it is a folder", "/": "it is a folder", "": "it is a folder", long: "file name too long",
        "none/page.html": "there is no folder none", os.fsdecode(b"\xff.html"): "its name is not UTF-8",
    }.items():  # fmt: skip
        done = run("report", level, "-o", output, cwd=tmp_path)
        assert (done.returncode, done.stdout) == (2, ""), output
        assert says in done.stderr and len(done.stderr.splitlines()) == 1, (output, done.stderr)
    assert level.read_bytes() == before
    assert [one.name for one in tmp_path.iterdir()] == ["mill.yaml"]
    assert "is what was read" in run("draw", level, "-o", level).stderr


def test_links_rights_pipes_and_devices_stay_what_they_are(tmp_path: Path) -> None:
    real, link = tmp_path / "real.html", tmp_path / "link.html"
    real.write_text("old")
    real.chmod(0o640)
    link.symlink_to(real)
    write_file(link, "new", endings=[".html"])
    assert (link.is_symlink(), real.read_text(), stat.S_IMODE(real.stat().st_mode)) == (
        True,
        "new",
        0o640,
    )
    write_file("/dev/null", "gone")
    assert stat.S_ISCHR(Path("/dev/null").stat().st_mode)
    with pytest.raises(OSError, match="/dev/full: cannot write this file: no space left"):
        write_file("/dev/full", "much" * 10_000)
    with pytest.raises(OSError, match="left as it is"):
        write_file(real, "more", over=False)
    assert sorted(one.name for one in tmp_path.iterdir()) == ["link.html", "real.html"]


def test_nothing_is_left_of_a_write_that_is_ended(tmp_path: Path) -> None:
    (tmp_path / "page.html").write_text("old")
    ended = (
        "import os, signal, sys; from pathlib import Path; from ukemi.cli.main import run;"
        "Path.replace = lambda *all: os.kill(os.getpid(), signal.SIGTERM);"
        f"sys.argv = ['ukemi', 'report', {str(WASTED)!r}, '-o', 'page.html']; run()"
    )
    done = subprocess.run(
        [sys.executable, "-c", ended], cwd=tmp_path, capture_output=True,
        env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
    )  # fmt: skip
    assert done.returncode == 143
    assert [(one.name, one.read_text()) for one in tmp_path.iterdir()] == [("page.html", "old")]


def test_two_that_save_at_once_leave_one_whole(tmp_path: Path) -> None:
    from concurrent.futures import ThreadPoolExecutor

    target = tmp_path / "mill.txt"
    with ThreadPoolExecutor(8) as pool:
        list(pool.map(lambda n: write_file(target, str(n % 10) * 100_000), range(40)))
    assert len(set(target.read_text())) == 1
    assert len(target.read_text()) == 100_000
    assert list(tmp_path.iterdir()) == [target]


# -- from Python ----------------------------------------------------------------------------------


def test_what_cannot_be_is_told_at_once(tmp_path: Path) -> None:
    level = ukemi.Level("unfinished")
    with pytest.raises(ukemi.LevelError, match="nothing to draw"):
        ukemi.draw_map(level, tmp_path / "map.png")
    level.room("quay")
    ukemi.draw_map(level, tmp_path / "map.png")
    for write in (lambda: ukemi.save(level, tmp_path / "mill.yaml"), lambda: ukemi.dumps(level)):
        with pytest.raises(ukemi.LevelError, match="no start yet"):
            write()
    with pytest.raises(ukemi.LevelError, match="true or false, not 'no'"):
        level.flag("low-water", on="no")  # type: ignore[arg-type]
    level.flag("low-water")
    with pytest.raises(ukemi.LevelError, match="there is a flag 'low-water' already"):
        level.flag("low-water")
    level.set_start("quay")
    level.set_goal("quay")
    level.name = "Mill\ufffe\x1b\x7f"
    for file in ("mill.json", "mill.yaml"):
        ukemi.save(level, tmp_path / file)
        assert ukemi.load(tmp_path / file).name == level.name
    (tmp_path / "ground.csv").write_text("@,.\n")
    (tmp_path / "map.yaml").write_text("goal: m@2,1\nmaps: {m: {csv: ground.csv}}\n")
    (tmp_path / "far").mkdir()
    with pytest.raises(
        ukemi.LevelError, match=r"could not be read: cannot read the map 'ground\.csv'"
    ):
        ukemi.save(ukemi.load(tmp_path / "map.yaml"), tmp_path / "far" / "map.yaml")
    assert not list((tmp_path / "far").iterdir())


# -- repositories from somebody else --------------------------------------------------------------

LEVEL = "start: quay\ngoal: mill\nrooms: [quay, mill]\npassages: [quay -> mill]  # $Format:%H$\n"


def repository(folder: Path) -> Path:
    """A repository with two versions of a level; the older one is HEAD~1."""
    folder.mkdir(parents=True)
    for text in (LEVEL, LEVEL.replace("->", "<->")):
        (folder / "mill.yaml").write_text(text)
        for words in (["init", "-q"], ["add", "."], ["commit", "-qm", "mill"]):
            subprocess.run(
                ["git", "-c", "user.name=ada", "-c", "user.email=ada@mill.example", *words],
                cwd=folder, check=True,
            )  # fmt: skip
    return folder


ATTACKS = {
    "filter": ("[filter \"x\"]\n smudge = {run}\n clean = {run}\n process = {run}\n required = true\n", "*.yaml filter=x\n"),
    "attributes": ("", "mill.yaml export-ignore\n*.yaml export-subst\n"),
    "pager": ("[core]\n pager = {run}\n editor = {run}\n[pager]\n ls-tree = {run}\n cat-file = {run}\n", ""),
    "monitor": ("[core]\n fsmonitor = {run}\n hooksPath = hooks\n sshCommand = {run}\n gitProxy = {run}\n", ""),
    "diff": ("[diff]\n external = {run}\n[diff \"x\"]\n textconv = {run}\n command = {run}\n", "*.yaml diff=x\n"),
    "alias": ("[alias]\n rev-parse = !{run}\n ls-tree = !{run}\n cat-file = !{run}\n", ""),
    "remote": ("[extensions]\n partialClone = far\n[core]\n repositoryformatversion = 1\n"
               "[remote \"far\"]\n url = ext::{run}\n promisor = true\n[protocol \"ext\"]\n allow = always\n", ""),
}  # fmt: skip


@pytest.mark.parametrize("attack", ATTACKS)
def test_an_older_version_is_read_and_nothing_of_the_repository_run(
    attack: str, tmp_path: Path
) -> None:
    folder = repository(tmp_path / "levels")
    mark = tmp_path / "was-run"
    program = tmp_path / "program"
    program.write_text(f"#!/bin/sh\ntouch {mark}\ncat\n")
    program.chmod(0o755)
    config, attributes = ATTACKS[attack]
    with (folder / ".git" / "config").open("a") as file:
        file.write(config.format(run=program))
    (folder / ".git" / "info" / "attributes").write_text(attributes)
    (folder / ".gitattributes").write_text(attributes)
    if attack == "remote":  # an object that is missing would be fetched
        tree = subprocess.run(["git", "rev-parse", "HEAD~1:mill.yaml"], cwd=folder, capture_output=True,
                              env={**os.environ, "GIT_CONFIG_GLOBAL": "/dev/null"}, text=True)  # fmt: skip
        name = tree.stdout.strip()
        (folder / ".git" / "objects" / name[:2] / name[2:]).unlink()
    done = run("compare", folder / "mill.yaml", "--since", "HEAD~1")
    assert not mark.exists(), "a program of the repository was run"
    assert "Traceback" not in done.stderr
    if attack == "remote":
        assert done.returncode == 2
    else:
        assert done.returncode == 0 and "quay <-> mill is new" in done.stdout, done


def test_a_bare_repository_inside_a_work_tree_is_refused(tmp_path: Path) -> None:
    folder = repository(tmp_path / "levels")
    mark = tmp_path / "was-run"
    inside = folder / "sub"
    subprocess.run(["git", "init", "-q", "--bare", str(inside)], check=True)
    with (inside / "config").open("a") as file:
        file.write(f"[core]\n fsmonitor = touch {mark}\n worktree = {inside}\n")
    (inside / "mill.yaml").write_text(LEVEL)
    done = run("compare", inside / "mill.yaml", "--since", "HEAD")
    assert done.returncode == 2 and "in no git repository with a work tree" in done.stderr
    assert not mark.exists()
