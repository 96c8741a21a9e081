"""Levels played: from Python, from a pipe, at a terminal, again, and by a crowd."""

from __future__ import annotations

import itertools
import json
import os
import re
import shutil
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from random import Random
from typing import Any

import pytest
from benchmarks.families import designed
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.checks.route_words import stops
from ukemi.demo import starter
from ukemi.playing.around import around
from ukemi.playing.crowd import interval, play_crowd
from ukemi.playing.replaying import replay_session
from ukemi.playing.said import as_text
from ukemi.playing.talk import Talk
from ukemi.spaces import Limits, Route
from ukemi.spaces.limits import Deadline

from .clock import wait_for
from .helpers import DEMO, ROOT, readable, run
from .levels import ANY, map_levels, plain_levels
from .naive import Naive
from .test_against_naive import LEVELS
from .test_campaigns import campaigns, loaded
from .test_players import for_several

WASTED = DEMO / "wasted-key.yaml"


def piped(
    level: Path, *lines: str, cwd: Path | None = None, end: str = "\n", **options: Any
) -> Any:
    """Run ``ukemi play`` with commands on standard input."""
    return subprocess.run(
        [sys.executable, "-m", "ukemi", "play", str(level), *options.get("args", ())],
        input="\n".join(lines) + end,
        capture_output=True,
        encoding="utf-8",
        cwd=cwd,
        env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
    )


def write(path: Path, text: str) -> Path:
    path.write_text(text, encoding="utf-8")
    return path


# -- from Python ------------------------------------------------------------------------------


@given(plain_levels())
@settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
def test_random_play_agrees_with_the_naive_player(plain: dict[str, Any]) -> None:
    level = readable(plain)
    naive = Naive(level, limit=400)
    assume(naive.complete)
    able = naive.able(lambda spot: spot.end == "finished")
    play, random = ukemi.play(level), Random(1)
    for _ in range(12):
        moves = [
            {key: move[key] for key in move if key != "again"} for move in play.session().moves
        ]
        spots = naive.follow(moves)  # more than one where a unit was taken up again
        assert (play.can_finish == "yes") in {spot in able for spot in spots}
        assert (play.hint() is None) == (play.can_finish == "no" or play.over)
        options = play.moves()
        assert len({option.asked for option in options}) == len(options)
        offered = {json.dumps(option.what) for option in options}
        assert offered == {
            json.dumps(move.what) for move, _ in play.rules.successors(play.position)
        }
        for text in play.waiting.here(play.position).values():
            assert text.startswith(("needs ", "has collapsed", "does not fit"))
        if not options:
            break
        chosen = random.choice(options)
        again = play.do(chosen.asked)
        assert again.after == chosen.after
    replayed = replay_session(level, play.session())
    assert replayed.works == "yes"
    assert replayed.play.position == play.position


def test_a_play_from_python() -> None:
    play = ukemi.play(WASTED)
    play.do("take iron-key")
    play.do("go granary")
    play.do({"do": "unlock", "name": "store-door"})
    assert (play.can_finish, play.ends, play.turns_since_good()) == ("no", "stuck", 1)
    assert play.last_changes == ["iron-key -1", "store-door opened"]
    play.undo(2)
    play.redo()
    assert (play.room, play.inventory, play.steps) == ("granary", {"iron-key": 1}, 2)
    with pytest.raises(ValueError, match="unlock loft-door: needs oak-key"):
        play.do({"do": "unlock", "name": "loft-door"})
    with pytest.raises(ValueError, match="the level has no such move"):
        play.do({"do": "unlock", "name": "cellar-door"})
    with pytest.raises(ValueError, match="2 moves to take back"):
        play.undo(3)


# -- by what it says itself ------------------------------------------------------------------


def play_by_hints(level: ukemi.Level) -> Talk:
    """A play in which each hint is typed as it was said."""
    talk = Talk(level)
    for _ in range(200):
        if talk.play.can_finish == "no" or talk.play.over:
            break
        (hint,) = talk.answer("hint")
        line, _, far = hint.text.partition(" (finishing takes ")
        steps, before = talk.play.steps, talk.play.position
        shown = talk.answer(line)
        assert not talk.failed, (line, shown)
        assert talk.play.position != before
        assert shown[0].text.rstrip(".")  # what was done is said
        assert talk.play.steps - steps >= 0
        assert int(far.split()[0]) >= 0
    return talk


@pytest.mark.parametrize("file", [*sorted(DEMO.glob("*.yaml")), "map", "rooms"])
def test_hints_can_be_typed_to_the_end(file: Path | str) -> None:
    level = ukemi.load(file) if isinstance(file, Path) else ukemi.loads(starter(file))
    talk = play_by_hints(level)
    assert talk.play.ends == "finished"
    assert talk.play.steps == ukemi.check(level).routes["finish"].steps


def levels_of_every_kind() -> st.SearchStrategy[ukemi.Level]:
    """Levels, maps, levels for several players and campaigns that fork and go round."""
    randoms = st.randoms(use_true_random=False)
    two = map_levels().map(lambda plain: {**plain, "players": ["ada", "ben"]})
    single = st.one_of(ANY, for_several(), two).map(readable)
    return st.one_of(single, randoms.map(lambda random: loaded(*campaigns(random))))


@given(levels_of_every_kind(), st.randoms(use_true_random=False))
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_levels_are_played_by_what_is_said_of_them(level: ukemi.Level, random: Random) -> None:
    """To the end by each hint; along each route that a check prints, line by line; and at random."""
    report = ukemi.check(level, max_positions=2_000)
    assume((report.search.all_seen and not report.level.several) or report.search.positions < 400)
    talk = play_by_hints(level)
    assert talk.play.over or talk.play.can_finish != "yes"
    for route in random.sample(routes := all_routes(report), min(3, len(routes))):
        talk = Talk(level, alarm=False)
        for stop in stops(route, level):
            shown = talk.answer(stop.words)
            assert not talk.failed, (stop.words, shown)
        assert talk.play.position == route.positions[-1]
        assert talk.play.steps == route.steps
    talk = Talk(level, alarm=False)
    for _ in range(8):
        options = talk.play.moves()
        assert len({option.asked for option in options}) == len(options)
        if not options:
            break
        chosen = random.choice(options)
        talk.answer(
            chosen.asked if talk.play.player is None else f"{talk.play.player}: {chosen.asked}"
        )
        assert not talk.failed and talk.play.position == chosen.after, chosen.asked
        if talk.play.player is not None:
            talk.play.player = random.choice(list(level.players))


def all_routes(report: ukemi.Report) -> list[Route]:
    """Every route that a report tells."""
    found = [*report.routes.values(), *(one.route for one in report.mistakes)]
    return [*found, *(one.route for one in report.findings if one.route is not None)]


@given(map_levels())
@settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
def test_hints_can_be_typed_on_random_maps(plain: dict[str, Any]) -> None:
    talk = play_by_hints(readable(plain))
    assert talk.play.over or talk.play.can_finish == "no"
    offered = [option.asked for option in talk.play.moves()]
    assert len(set(offered)) == len(offered)
    for line in offered[:3]:
        talk.answer(line)
        assert not talk.failed, line
        talk.answer("undo")


def test_an_open_door_on_a_map_is_walked_through(tmp_path: Path) -> None:
    level = write(tmp_path / "mill.yaml", starter("map"))
    done = piped(
        level, "go mill-door", "1", "take iron-key", "go mill-door", "go ground@5,3", "unlock mill-door",
        "go mill-door", "go ledger", "go ground@2,2", "walk to ground@6,3", "go ground@5,2",
        "go ground@6,2", "walk to bell-loft", "go bell-loft",
    )  # fmt: skip
    text = done.stdout
    assert "go ground@10,3 (5 steps): ledger\n           2  go bell-loft (9 steps)\n" in text
    assert text.count("you are at ground@5,3 already") == 1
    assert "your move: go mill-door\nyou are at mill-door already\n" in text
    assert "Walk to ground@6,3 (5 steps)." in text
    assert "ground@5,2 is floor with nothing on it to walk to" in text
    assert "nothing is called 'ground@6,2'" in text
    assert "you are at bell-loft already" in text
    assert "can do    nothing" not in text


def test_one_way_tiles_are_offered_where_they_lead_nowhere_else() -> None:
    level = ukemi.loads("goal: at ground@5,1\nmaps:\n  ground: |\n    @.>..\n")
    talk = play_by_hints(level)
    assert [turn.option.asked for turn in talk.play.turns] == [
        "go ground@3,1", "go ground@5,1", "finish",
    ]  # fmt: skip


# -- from a pipe ------------------------------------------------------------------------------


def test_without_the_key_with_the_wrong_one_and_with_the_right_one() -> None:
    done = piped(
        WASTED, "# first without the key", "go granary", "unlock pit-door", "go quay", "1", "go granary",
        "unlock store", "undo", "why loft-door", "hint", "unlock pit", "go wheel-pit", "take oak",
        "go granary", "unlock loft-door", "go bell-loft", "finish",
    )  # fmt: skip
    text = done.stdout
    assert "pit-door: needs iron-key\n" in text
    assert "ALARM     the level can no longer be finished" in text
    assert "the only iron-key was spent on store-door" in text
    assert "the last good position is 1 move back: `undo`" in text
    assert "  oak-key 1 in wheel-pit" in text
    assert "hint      unlock pit-door (finishing takes 6 steps" in text
    assert "Finished in bell-loft after 11 moves, 10 steps." in text
    assert "The shortest finishing run takes 8 steps." in text
    assert "rooms entered: 4 of 5; not yet: store-room" in text
    assert "mistakes met: 1 of 1" in text
    assert (done.returncode, done.stderr) == (2, "")  # two lines could not be done


@pytest.mark.parametrize(
    ("lines", "code"),
    [
        (["take iron-key", "go granary"], 0),
        (["take iron-key", "go granary", "unlock store-door"], 1),
        (["quit", "nonsense"], 0),
        ([""], 0),
    ],
)
def test_the_exit_code_says_how_it_was_left(lines: list[str], code: int) -> None:
    done = piped(WASTED, *lines)
    assert done.returncode == code, done.stdout
    assert "Tried in this play:" in done.stdout


def test_the_alarm_can_be_turned_off() -> None:
    done = piped(WASTED, "1", "1", "unlock store-door", args=["--no-alarm"])
    assert "ALARM" not in done.stdout


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("unlok pit-door", "there is no command 'unlok'; did you mean 'unlock'?"),
        ("re", "'re' could be redo or restart"),
        ("go grnary", "nothing is called 'grnary'; did you mean 'granary'?"),
        ("take oak-key", "oak-key: not in quay; `why oak-key` says where it is"),
        ("finish", "cannot finish yet: the goal is `at bell-loft`"),
        ("7", "there is no number 7: they go from 1 to 2"),
        ("1 2", "a number stands alone"),
        ("undo", "nothing to take back: this is the start"),
        ("undo x", "write `undo`, or `undo 3`"),
        ("redo", "nothing to make again"),
        ("look around", "`look` stands alone"),
        ("why", "why THING: its needs, and where the needed things are; which?"),
        ("why lof-door", "nothing is called 'lof-door'; did you mean 'loft-door'?"),
        ("map", "quay is on no map"),
        ("go bell-loft", "no way to bell-loft is open from quay"),
        ("go oak-key", "no walk from quay leads to oak-key"),
        ("load nothing.json", "nothing.json: cannot read this file: no such file or directory"),
        ("\x00\x1b[31m", "there is no command"),
    ],
)
def test_what_cannot_be_done_says_why(line: str, says: str) -> None:
    done = piped(WASTED, line)
    assert says in done.stdout
    assert done.returncode == (0 if line == "map" else 2)
    assert "Traceback" not in done.stderr


def test_hands_that_are_full_say_so(tmp_path: Path) -> None:
    level = write(
        tmp_path / "hands.yaml",
        "start: quay\ngoal: at quay and lamp and oak and rope\nitems: {lamp: {}, oak: {}, rope: {}}\n"
        "rooms: {quay: {items: [lamp, oak, rope]}}\ninventory: {slots: 2, drop: true}\n",
    )
    done = piped(level, "take lamp", "take oak", "take rope", "drop lamp", "take rope",
                 "take lamp again", args=["--no-alarm"])  # fmt: skip
    full = "does not fit: there is no room for it in the inventory"
    assert f"waiting   rope: {full}\n" in done.stdout
    assert done.stdout.count(f"\nlamp: {full}\n") == 1
    assert "here      lamp (put down)\n" in done.stdout
    assert "lamp: needs lamp" not in done.stdout


def test_input_that_ends_in_a_line_does_nothing_by_guessing() -> None:
    cut = piped(WASTED, "take ir", end="")
    assert cut.returncode == 2
    assert "the input ends in the middle of a line: `take ir` was not done" in cut.stderr
    assert "items taken: 0 of 3" in cut.stdout
    whole = piped(WASTED, "take iron-key", end="")
    assert (whole.returncode, "items taken: 1 of 3" in whole.stdout) == (0, True)


def test_maps_are_walked_and_drawn() -> None:
    done = piped(
        DEMO / "flooded-cellar.yaml", "go crowbar", "map", "go brass-key", "take crowbar", "go slide",
        "go brass-key", "1", "why grating", "why bell-stair",
    )  # fmt: skip
    assert "1  go cellar@5,4 (5 steps): crowbar\n" in done.stdout
    assert "  #...&....#.....b.....#\n" in done.stdout
    assert "no walk from cellar@5,4 leads to brass-key" in done.stdout
    assert "brass-key 1 (+1)" in done.stdout
    assert "grating   a door between cellar@11,6 and cellar@11,8" in done.stdout


def test_a_map_fits_its_window_with_the_player_in_it() -> None:
    rows = ["#" * 90, "#" + "." * 70 + "@" + "." * 17 + "#", "#" * 90]
    level = ukemi.loads(
        "goal: at ground@3,2\nmaps:\n  ground: |\n    " + "\n    ".join(rows) + "\n"
    )
    lines = [line.text for line in around(ukemi.play(level), 39)]
    assert all(len(line) <= 39 for line in lines[1:4])
    assert "columns from 54" in lines[0]
    assert lines[2].strip("# ").count("&") == 1


def test_sessions_are_kept_and_never_over_another_file(tmp_path: Path) -> None:
    other = write(tmp_path / "notes.json", "mine")
    done = piped(
        WASTED, "1", "save notes.json", "save play.json", "go granary", "save play.json", "restart",
        "load play.json", cwd=tmp_path,
    )  # fmt: skip
    assert (
        "notes.json: a file of that name exists and was left as it is; choose another"
        in done.stdout
    )
    assert other.read_text() == "mine"
    kept = json.loads((tmp_path / "play.json").read_text())
    assert [move["do"] for move in kept["moves"]] == ["take", "walk"]
    assert done.stdout.count("at        granary   (2 moves, 2 steps)") == 2


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("{", "play.json:1:2: a damaged session: broken JSON: Expecting property name"),
        ("[1]", "play.json: not a session: it has no `ukemi-session`"),
        ('{"ukemi-session": 9}', "version 9"),
        (
            '{"ukemi-session": 1, "level": "The Tide Mill", "moves": []}',
            "of the level 'The Tide Mill'",
        ),
        ('{"ukemi-session": 1, "level": "x", "moves": {}}', "`moves` is a list, not a mapping"),
        ('{"ukemi-session": 1, "level": "x", "moves": [{"do": "tak"}]}', "did you mean 'take'?"),
        (
            '{"ukemi-session": 1, "level": "x", "moves": [{"do": "walk", "to": "quay"}]}',
            "play.json:1:46: a damaged session: move 1 (walk) needs `name`",
        ),
        (
            '{"ukemi-session": 1, "level": "x", "ends": "no", "moves": []}',
            "'no' must be playing, finished, dead or stuck",
        ),
        ("[" * 100_000, "a damaged session"),
        ("\udcff", "the byte 0xff is not UTF-8 text"),
    ],
)
def test_a_session_that_cannot_be_read_says_where(tmp_path: Path, text: str, says: str) -> None:
    session = tmp_path / "play.json"
    session.write_bytes(text.encode("utf-8", "surrogateescape"))
    done = run("replay", WASTED, "play.json", cwd=tmp_path)
    assert (done.returncode, done.stdout) == (2, "")
    assert says in done.stderr
    assert "Traceback" not in done.stderr


def test_replay_tells_the_move_that_no_longer_works(tmp_path: Path) -> None:
    level = write(tmp_path / "mill.yaml", WASTED.read_text())
    piped(level, "1", "1", "unlock pit", "save play.json", cwd=tmp_path)
    done = run("replay", level, "play.json", cwd=tmp_path)
    assert (done.returncode, "every move works (3 moves, 3 steps)" in done.stdout) == (0, True)
    write(
        level,
        WASTED.read_text().replace("{lock: iron-key, name: pit", "{lock: 2 iron-key, name: pit"),
    )
    done = run("replay", level, "play.json", cwd=tmp_path)
    assert done.returncode == 1
    assert "move 3 of 3 no longer works: `unlock pit-door with iron-key`" in done.stdout
    assert "why: unlock pit-door: needs 2 iron-key (carried: 1)" in done.stdout
    write(level, WASTED.read_text().replace("items: [oak-key]", "items: []"))
    done = run("replay", level, "play.json", cwd=tmp_path)
    assert done.returncode == 1
    assert "it ends stuck; recorded: playing" in done.stdout
    assert "from the start, nothing finishes the level any more" in done.stdout


# -- at a terminal ----------------------------------------------------------------------------

Screen = Callable[..., str]


@pytest.fixture
def screen(tmp_path: Path) -> Iterator[Screen]:
    """A terminal of 40 columns in which the level is played: keys go in, the screen comes out."""
    server = ["tmux", "-L", f"ukemi-{os.getpid()}", "-f", "/dev/null"]
    command = f"{sys.executable} -m ukemi play {WASTED}; echo left with $?; sleep 60"
    environment = {**os.environ, "PYTHONPATH": str(ROOT / "src"), "LANG": "C.UTF-8"}
    environment.pop("COLUMNS", None)  # a runner of tests may say how wide it is
    subprocess.run(
        [*server, "new-session", "-d", "-x", "40", "-y", "50", "bash", "-c", command],
        check=True, env=environment, cwd=tmp_path,
    )  # fmt: skip

    def press(*keys: str, until: str) -> str:
        if keys:
            subprocess.run([*server, "send-keys", *keys], check=True)

        def shown() -> str:
            call = [*server, "capture-pane", "-p"]
            return subprocess.run(call, check=True, capture_output=True, encoding="utf-8").stdout

        return str(wait_for(lambda: until in (text := shown()) and text, until))

    yield press
    subprocess.run([*server, "kill-server"], check=False)


@pytest.mark.skipif(shutil.which("tmux") is None, reason="needs tmux")
def test_the_terminal_completes_remembers_and_wraps(screen: Screen) -> None:
    screen(until="your move:")
    screen("tak", "Tab", until="your move: take iron-key")
    screen("Enter", until="iron-key 1 (+1)")
    screen("go granary", "Enter", until="(2 moves, 2 steps)")
    # what has changed wraps below its label
    shown = screen("unlock store-door", "Enter", until="          finished\n")
    assert all(len(line) <= 40 for line in shown.splitlines())
    screen("half a li", "C-c", until="your move: half a li")
    screen("Up", until="your move: unlock store-door\n")
    screen("C-c", "undo", "Enter", "C-d", until="left with 0")


# -- a crowd ----------------------------------------------------------------------------------


def test_a_crowd_fares_as_the_proof_allows() -> None:
    for file in sorted(DEMO.glob("*.yaml")):
        level = ukemi.load(file)
        answers = ukemi.check(level).answers
        outcomes = play_crowd(level, runs=300, seed=2, patience=300)
        assert [one.player for one in outcomes] == ["careless", "thorough", "hasty"]
        for one in outcomes:
            assert one.finished + one.stuck + one.dead + one.gave_up == one.runs == 300
            assert one.stuck == sum(one.lost_by.values())
            assert not one.stuck or answers.stuck == "possible"
            assert len(one.steps) == one.finished
            assert one.stuck_between[0] <= one.stuck / 300 <= one.stuck_between[1]
    alone = play_crowd(level, runs=300, seed=2, patience=300, players=["hasty"])
    assert alone == outcomes[2:]
    assert play_crowd(level, runs=300, seed=3, patience=300) != outcomes


def test_a_careless_player_is_as_careless_as_reckoned() -> None:
    # From the start two doors are equally likely; one of them wastes the key.
    (one,) = play_crowd(ukemi.load(WASTED), runs=20_000, players=["careless"])
    assert 0.485 < one.stuck / one.runs < 0.515
    assert interval(50, 100) == pytest.approx((0.4038, 0.5962), abs=1e-4)  # by hand, Wilson's


def test_what_a_crowd_meets_is_counted_exactly() -> None:
    level = ukemi.loads("""
start: quay
goal: at mill
items: {oak: {}, ledger: {kind: reward}}
rooms: {quay: {}, yard: {items: oak}, mill: {chests: {coffer: {lock: oak and ledger}}}, attic: {items: ledger}}
passages: [quay <-> yard, quay <-> mill: {lock: oak, name: door}, attic -> quay]
""")
    (one,) = ukemi.crowd(level, runs=50, players=["thorough"])
    # to the yard, take oak, back, unlock, to the mill, finish
    assert one.steps == [5] * 50 and one.again == 0.2
    assert one.spent == {"quay": 150, "yard": 100}
    assert one.walked == {("quay", "yard"): 50, ("yard", "quay"): 50, ("quay", "mill"): 50}
    assert one.tried == {"door": (50, 50)}  # at the start; with the key, it was not tried in vain
    assert one.missed == {"coffer": 50, "attic/ledger": 50}
    assert one.entered == {"quay": 50, "yard": 50, "mill": 50, "attic": 0}
    assert (one.usual_steps, one.steps_of(0.9)) == (5, 5)
    mixed = ukemi.crowd(
        level, runs=2_000, players={"a": {"careless": 1}, "b": {"careless": 1, "thorough": 9}}
    )
    plain = ukemi.crowd(level, runs=2_000, players=["careless", "thorough"])
    assert mixed[0].usual_steps == pytest.approx(plain[0].usual_steps, abs=1.5)
    assert plain[1].usual_steps <= mixed[1].usual_steps < plain[0].usual_steps
    for wrong in (
        {"a": {"careles": 1}},
        {"a": {"careless": 0}},
        {"a": {"careless": -1, "hasty": 2}},
    ):
        with pytest.raises(ValueError, match=r"no player|weight"):
            ukemi.crowd(level, players=wrong)


@given(plain_levels())
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_a_crowd_knows_every_position_as_the_naive_player_does(plain: dict[str, Any]) -> None:
    try:
        level = ukemi.loads(json.dumps(plain))
    except ukemi.LevelError:
        assume(False)
    naive = Naive(level, limit=400)
    assume(naive.complete)
    able = naive.able(lambda spot: spot.end == "finished")
    finished, lost, dead = (
        any(one) for one in zip(*[
            (spot.end == "finished", spot.end == "playing" and spot not in able, spot.end == "dead")
            for spot in naive.spots
        ], strict=True)
    )  # fmt: skip
    for one in ukemi.crowd(level, runs=200, patience=60, players=["careless"]):
        assert not one.unsure and not one.cut_short
        assert one.finished + one.stuck + one.dead + one.gave_up == 200
        # an end that no run can have is never counted
        assert (
            (one.finished == 0 or finished) and (one.stuck == 0 or lost) and (one.dead == 0 or dead)
        )
        assert one.stuck == sum(one.lost_by.values())
        assert {room for room, runs in one.entered.items() if runs} <= {
            spot.room for spot in naive.spots
        }


def test_crowd_prints_a_table_and_draws_a_picture(tmp_path: Path) -> None:
    done = run("crowd", WASTED, "--runs", "200", "-o", tmp_path / "crowd.png", "--seed", "4")
    assert done.returncode == 0, done.stderr
    assert "unlock store-door with iron-key" in done.stdout
    assert "prove nothing" in done.stdout
    assert (tmp_path / "crowd.png").read_bytes().startswith(b"\x89PNG")
    plain = json.loads(run("crowd", WASTED, "--runs", "200", "--json", "--seed", "4").stdout)
    assert [one["runs"] for one in plain["players"]] == [200] * 3
    assert all(sum(one["steps"].values()) == one["finished"] for one in plain["players"])
    for name in (WASTED, DEMO / "ground-floor.yaml"):
        drawn = run("crowd", name, "--runs", "50", "--map", tmp_path / "map.svg", "--json")
        assert (
            drawn.returncode == 0 and "steps of a run there" in (tmp_path / "map.svg").read_text()
        )
    both = run("crowd", WASTED, "-o", tmp_path / "a.png", "--map", tmp_path / "a.png")
    assert (both.returncode, "name the same file" in both.stderr) == (2, True)
    wrong = run("crowd", WASTED, "--player", "hasti")
    assert (wrong.returncode, "did you mean 'hasty'?" in wrong.stderr) == (2, True)


def test_the_time_is_divided_among_kinds_of_player() -> None:
    """On a clock that moves on each time it is read: the answer does not depend on the machine."""
    level = designed(20, 1)
    ran = {}
    for seconds in (1, 300, 3_000, 30_000):
        deadline = Deadline(seconds, clock=itertools.count().__next__)
        outcomes = play_crowd(level, runs=20, limits=Limits(seconds=seconds, deadline=deadline))
        ran[seconds] = [one.runs for one in outcomes]
        for one in outcomes:
            ended = one.finished + one.stuck + one.dead + one.gave_up
            assert (one.runs, ended) in ((20, 20), (0, 0))
            assert one.cut_short <= one.gave_up
            assert (one.stuck_between is None) == (one.share(one.gave_up) is None) == (not one.runs)
    assert ran[1] == [0, 0, 0] and ran[300] == ran[3_000] == ran[30_000] == [20, 20, 20]
    assert not any(one.cut_short for one in outcomes[1:])


def test_a_kind_that_did_not_run_has_no_share(tmp_path: Path) -> None:
    words = ["crowd", WASTED, "--max-seconds", "0.00001"]
    done = run(*words, "-o", tmp_path / "crowd.svg")
    assert done.stdout.count("not run: the time was over") == 3 and "%  " not in done.stdout
    assert (tmp_path / "crowd.svg").read_text().count("not run") == 3
    plain = json.loads(run(*words, "--json").stdout)
    assert {(one["runs"], one["stuck-between"]) for one in plain["players"]} == {(0, None)}


def test_a_walk_that_is_shut_is_blamed_on_the_doors_on_the_way_alone() -> None:
    talk = Talk(ukemi.load(DEMO / "tide-mill.yaml"))
    talk.answer("go granary")
    shown = " ".join(one.text for one in talk.answer("go wheel-pit"))
    assert "pit-door: needs iron-key" in shown and "loft-door" not in shown


# -- as a player ------------------------------------------------------------------------------

CLOSET = DEMO / "millers-closet.yaml"


def typed(as_player: bool, *lines: str, level: ukemi.Level | None = None) -> list[str]:
    """What each typed line is answered, as text."""
    talk = Talk(level or ukemi.load(CLOSET), as_player=as_player)
    talk.opening()
    return [as_text(talk.answer(line)) for line in lines]


@pytest.mark.parametrize("as_player", [True, False])
def test_keys_are_tried_on_things_in_the_words_of_a_player(as_player: bool) -> None:
    *_, wrong, use, on, bare, late, opened, read = typed(
        as_player,
        "take tin-key", "go granary", "unlock closet-door with tin-key", "use tin-key",
        "use tin-key on closet-door", "closet-door", "open crate with oak-key", "press-brick",
        "open crate with tin-key",
    )  # fmt: skip
    assert wrong == use == on
    assert "tin-key does not fit closet-door. The keyhole is far too large for that." in wrong
    assert "It smells of oak." in bare and ("needs oak-key" in bare) != as_player
    assert ("not possible here" if as_player else "crate: needs brick-out") in late
    assert "says      The brick comes out." in opened
    assert "Under the straw lies the ledger." in read and "ledger 1" in read
    tried = typed(False, "go granary", "unlock closet-door", "go quay", "take tin-key", "go granary",
                  "unlock closet-door with tin-key", "press-brick", "use tin-key on crate", "tried")[-1]  # fmt: skip
    assert "locks tried without a key: 1 of 2; not yet: crate" in tried
    assert "locks tried with a wrong key: 1 of 2; not yet: crate" in tried
    assert "locks opened with the right key: 1 of 2; not yet: closet-door" in tried


@pytest.mark.parametrize("line", ["", "look", "take oak-key", "oak-key", "crate", "open crate", "go crate",
                                  "why crate", "hint", "tried", "unlock closet-door", "take oak", "9"])  # fmt: skip
def test_a_player_is_told_neither_conditions_nor_hidden_things(line: str) -> None:
    talk = Talk(ukemi.load(CLOSET), as_player=True)
    shown = as_text(talk.opening()) + as_text(talk.answer("go granary"))
    after = as_text(talk.answer(line)) + " ".join(talk.completions())
    for secret in ("brick-out", "needs"):
        assert secret not in shown + after
    for hidden in ("crate", "oak-key"):
        assert hidden not in shown.replace("The miller hangs the oak key", "")
        assert hidden not in after.replace(line or "-", "")


SHUTTERS = """
goal: end
items: {hook: {kind: key}, coin: {kind: reward}}
maps:
  sluice: |
    ########
    #@...hE#
    #.c....#
    #...b.D#
    #.X....#
    ########
legend:
  h: {item: {hook: {seen: ajar}}}
  c: {item: {coin: {seen: ajar}}}
  b: {act: {name: lever, sets: ajar}}
  X: {chest: {name: crate, lock: hook, holds: coin, seen: ajar}}
  D: {lock: hook, name: hatch, seen: ajar}
  E: {room: end, gate: hook}
"""


def test_a_player_on_a_map_sees_no_hidden_thing_before_its_time() -> None:
    hidden = ("hook", "coin", "crate", "hatch")
    level = ukemi.loads(SHUTTERS)
    looks, *_, floor, shut = typed(True, "look", "inventory", "map", "go end", level=level)
    assert "go sluice@5,3: lever" in looks and looks.count(" go ") == 2  # to the lever and the gate
    assert floor.splitlines()[1:] == [
        "  ########", "  #&....E#", "  #......#", "  #...b.##", "  #.#....#", "  ########", "b lever; E end",
    ]  # fmt: skip
    for name in hidden:
        (asked,) = typed(True, f"go {name}", level=level)
        assert asked == f"`go {name}` is not possible here"
        assert name not in looks + floor + shut
    gate, drawn = typed(True, "go end", "go end", "go lever", "lever", "map", level=level)[1::3]
    assert gate == "end: That does not work yet."
    assert "h hook; c coin; b lever; X crate; D hatch; E end" in drawn
    (whole,) = typed(False, "look", level=level)
    assert all(name in whole for name in hidden)
    *_, finished = typed(
        True, "go lever", "lever", "go hook", "hook", "go end", "finish", level=level
    )
    assert "hook 1" in finished and "ajar" not in finished


@given(plain_levels(), st.randoms(use_true_random=False))
@settings(max_examples=max(LEVELS // 2, 20), deadline=None, suppress_health_check=list(HealthCheck))
def test_all_that_a_player_may_do_is_listed_and_answered(
    plain: dict[str, Any], random: Random
) -> None:
    """Whatever is possible is listed for the player, unless it is a walk; and each line is answered."""
    level = readable(plain)
    talk = Talk(level, as_player=True)
    for _ in range(12):
        if talk.play.over:
            break
        shown = list(talk.completions())
        for option in talk.play.moves():
            assert option.asked.partition(" with ")[0] in shown
        line = random.choice(shown) if shown else "look"
        before = talk.play.position
        talk.failed = False
        talk.answer(line)
        assert talk.failed == (talk.play.position == before) or not talk.failed


def test_texts_are_read_once_and_labels_and_notes_are_shown() -> None:
    first, again = typed(True, "go granary", "go quay")
    assert "says" not in again and "says" not in first
    talk = Talk(ukemi.load(CLOSET))
    assert as_text(talk.opening()).count("The mill stands dark.") == 1
    granary = as_text(talk.answer("go granary"))
    assert "notes     granary: the loose brick must be visible from the door" in granary
    assert "oak-key: the only key that the miller never lent" in granary
    assert "tin-key (bent tin key)" in as_text(talk.answer("go quay"))
    why = as_text(talk.answer("why crate"))
    assert "hidden until brick-out" in why and "press-brick in granary turns it" in why


HEAVY = """
{start: quay, goal: mill, items: {oak: {}, elm: {}}, inventory: {start: [oak, elm], drop: true},
 rooms: {quay: {items: {elm: {needs: 2 oak}}}, mill: {}}, passages: [quay <-> mill]}
"""


def test_what_was_put_down_is_taken_by_its_name() -> None:
    """Also where another unit lies that cannot be taken; where both can be, each has words of its own."""
    level = ukemi.loads(HEAVY)
    for item, listed in (("oak", "take oak"), ("elm", "take elm again")):
        look, taken = typed(False, f"drop {item}", f"take {item}", level=level)
        assert f"  {listed}" in look and f"{item} 1 (+1)" in taken
    both = ukemi.loads(HEAVY.replace("{elm: {needs: 2 oak}}", "elm"))
    look, lying, down = typed(False, "drop elm", "take elm", "take elm again", level=both)
    assert "take elm\n" in look and "take elm again" in look
    assert "elm (put down)" in lying and "elm 2 (+1)" in down


TOUCH = """
goal: far
rules: {pickup: touch}
items: {yellow-key: {}}
maps:
  ground: |
    ########
    #@..y..#
    #.#.####
    #...DDz#
    #...DD.#
    ########
legend: {y: {item: yellow-key}, D: {lock: yellow-key, name: door}, z: {room: far}}
"""


def test_on_maps_walks_lead_to_what_is_taken_by_touch_and_to_the_nearest_door() -> None:
    level = ukemi.loads(TOUCH)
    shown, taken, walked, opened, through = typed(
        False, "look", "go yellow-key", "door", "door", "door", level=level
    )
    assert "go ground@5,2 (3 steps), taking yellow-key" in shown
    assert "yellow-key 1 (+1)" in taken
    assert "Walk to ground@4,4" in walked and "Unlock door@5,4." in opened
    assert through.startswith("Walk to")
    (elsewhere,) = typed(False, "unlock door", level=level)
    assert elsewhere == "no door is here; `go door` walks to the nearest"


def test_a_campaign_is_played_in_the_names_of_its_levels(tmp_path: Path) -> None:
    (tmp_path / "year.yaml").write_text("campaign: Year\nlevels: {one: one.yaml, two: two.yaml}\n")
    (tmp_path / "one.yaml").write_text(
        "{start: quay, goal: bell and key, items: {key: {}}, rooms: {quay: {items: key,"
        " acts: {bell: {sets: bell}}}, mill: {}}, passages: [quay <-> mill]}"
    )
    (tmp_path / "two.yaml").write_text(
        "{start: quay, goal: mill, items: {key: {}}, rooms: [quay, mill],"
        " passages: [quay <-> mill: {lock: key, name: big-door}]}"
    )
    answers = typed(
        False, "why goal", "finish", "go mill", "take key", "go quay", "take key", "bell", "finish",
        "why big-door", "big-door", "go mill", "finish", level=ukemi.load(tmp_path / "year.yaml"),
    )  # fmt: skip
    assert not re.search(r"(one|two)/|\bin two and\b", " ".join(answers))
    assert "cannot finish yet: the goal is `bell and key`" in answers[1]
    assert "turned off" not in answers[7]  # leaving a level resets it, and no player sees that
    assert answers[-1].startswith("Finish.")


def test_lists_of_things_of_several_levels_name_each_with_its_level() -> None:
    level = ukemi.load(DEMO.parent / "campaign" / "mill-year.yaml")
    (lines,) = typed(False, "tried", level=level)
    assert "not yet: boat-shed, mill-gate, stair-foot in cellar, vault in cellar," in lines
    assert "not yet: jetty/rope, boat-shed/lantern and vault/brass-key in cellar" in lines
