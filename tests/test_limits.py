"""How far a search may go: what is told when it ends early, by the clock, by Ctrl-C or by a death."""

from __future__ import annotations

import json
import os
import pty
import select
import signal
import subprocess
import sys
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import replace
from functools import cache
from itertools import pairwise
from pathlib import Path
from random import Random
from typing import Any

import pytest
from benchmarks.families import chain, designed, drops, hands, late_choice
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.bulk import processes
from ukemi.checks.check import report_on, unreached_rooms
from ukemi.facts.find_finish import finishes_by
from ukemi.facts.guided import find_run
from ukemi.facts.relaxed import Reach, Relaxed
from ukemi.facts.relaxed_plan import Planner
from ukemi.facts.remaining_cost import remaining_cost
from ukemi.mends import add_mends
from ukemi.playing import Play
from ukemi.questions import ahead, evidence, get_stuck
from ukemi.questions.answers import RewardAnswer
from ukemi.questions.context import Context
from ukemi.questions.evidence import gather
from ukemi.questions.first_runs import FirstRuns
from ukemi.questions.verdict import Answer
from ukemi.reasons.reason import Reasons
from ukemi.report.as_text import verdict_lines
from ukemi.rules import END, FINISHED, Rules, compile_level
from ukemi.rules.actions import actions_of
from ukemi.rules.branches import TooManyBranchesError, move_branches
from ukemi.rules.expressions import all_of
from ukemi.rules.most import most_values
from ukemi.spaces import CutShortError, Limits, explore, replay, symbolic
from ukemi.spaces.explicit import ExplicitSpace
from ukemi.spaces.symbolic import diagram_space, symbolic_space
from ukemi.spaces.symbolic.implied import implied

from .clock import WorkClock, wait_for
from .evidence import runs_prove_only_what_is_so
from .helpers import DEMO, ROOT, readable, report_dict, run
from .levels import ANY, plain_levels
from .test_against_naive import LEVELS

CASES = Path(__file__).parent / "cases"
ENVIRONMENT = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
few = settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))


# -- what searches are made of --------------------------------------------------------------------


@given(plain_levels())
@settings(few, max_examples=max(LEVELS // 2, 10))
def test_moves_turn_out_as_their_branches_say(plain: dict[str, Any]) -> None:
    rules = compile_level(readable(plain))
    found = explore(rules, Limits(200))
    known = cache(lambda number, place: move_branches(rules, rules.moves[number], place))
    for number, position in enumerate(found.positions):
        after = {move.number: found.positions[to] for move, to in found.moves[number]}
        if not found.explored[number] or position[1]:
            continue
        for move in rules.moves_at(position[0]):
            try:
                branches = known(move.number, position[0])
            except TooManyBranchesError:
                continue
            holding = [one for one in branches if all_of(*one.conditions).holds(position)]
            assert len(holding) == (move.number in after)
            for one in holding:
                values = list(position)
                for variable, amount in one.adds.items():
                    values[variable] += amount
                for variable, value in one.becomes.items():
                    values[variable] = value
                assert tuple(values) == after[move.number]


@given(ANY, st.randoms(use_true_random=False))
@few
def test_what_is_relaxed_is_never_too_little(plain: dict[str, Any], random: Random) -> None:
    """From the start, and from a position on the way with and without more to begin with."""
    rules = compile_level(readable(plain))
    found = explore(rules, Limits(1_000))
    assume(found.complete)
    relaxed = Relaxed(rules)
    whole = relaxed.reach(rules.initial)
    contains(whole, found.positions)
    begin = random.choice(found.positions)
    after = explore(rules, Limits(1_000), begin).positions
    contains(relaxed.reach(begin), after)
    contains(relaxed.with_more(whole, begin), [*after, *found.positions])


def test_what_has_settled_is_not_settled_once_more() -> None:
    """A level in which an event makes room, by which a second settling would pick something up."""
    rules = compile_level(ukemi.load(CASES / "relaxed.json"))
    positions = explore(rules, Limits(20_000)).positions
    assert rules.settle(list(positions[0])) != positions[0]
    contains(Relaxed(rules).reach(positions[0]), positions)


def contains(reach: Reach, positions: Iterable[Sequence[int]]) -> None:
    for position in positions:
        assert all(position[one] in rooms for one, rooms in reach.standing.items())
        assert position[1] in reach.ends
        for variable, value in enumerate(position[2:], start=2):
            assert reach.low[variable] <= value <= reach.high[variable]


@given(ANY)
@few
def test_runs_prove_nothing_that_all_positions_do_not(plain: dict[str, Any]) -> None:
    level = readable(plain)
    runs_prove_only_what_is_so(level, ukemi.check(level))


def test_runs_tell_what_a_large_level_asks_for_before_all_its_positions_do() -> None:
    level = designed(20, 3)
    report = ukemi.check(level)
    runs = runs_prove_only_what_is_so(level, report)
    assert runs is not None and runs.finishing
    proven = [one for one in (*runs.statuses.values(), *runs.room_statuses.values()) if one.proven]
    assert len(proven) > 20 and {*proven} >= {Answer.REQUIRED, Answer.OPTIONAL}


FULL_HANDS = """
start: quay
goal: mill
inventory: {slots: 2, drop: true}
items: {iron: {}, oak: {}, elm: {}}
rooms: {quay: {items: [iron, oak]}, shed: {items: [elm]}, mill: {}}
passages: [quay <-> shed: {lock: iron}, shed <-> mill: {lock: oak and elm}]
"""


@pytest.mark.parametrize(
    ("level", "plans"),
    [(hands(1), 2), (hands(3), 2), (hands(2, 14, 20), 2), (ukemi.loads(FULL_HANDS), 1)],
)
def test_a_plan_makes_room_by_putting_down_what_it_asks_for_last(
    level: ukemi.Level, plans: int
) -> None:
    rules = compile_level(level)
    run = find_run(Planner(Relaxed(rules)), rules.start(), plans)
    assert run is not None and finishes_by(rules, rules.start(), run)


@given(plain_levels())
@few
def test_no_value_is_more_than_its_bound_or_other_than_what_implies_it(
    plain: dict[str, Any],
) -> None:
    rules = compile_level(readable(plain))
    try:
        actions = list(actions_of(rules))
    except TooManyBranchesError:
        assume(False)
    most, told = most_values(rules, actions), implied(rules, actions)
    for position in explore(rules, Limits(1_500)).positions:
        for variable, value in enumerate(position[2:], start=2):
            assert value <= (value if (bound := most[variable]) is None else bound)
            if variable in told:
                terms = told[variable].terms.items()
                assert value == told[variable].constant + sum(n * position[v] for v, n in terms)


def test_what_is_carried_needs_no_bits_where_it_is_taken_and_spent_only() -> None:
    rules = compile_level(designed(20, 1))
    carried = {number for number, kind in enumerate(rules.variables) if kind[0] == "carried"}
    assert carried <= implied(rules, list(actions_of(rules))).keys()


@pytest.mark.parametrize("gate", ["not (iron and oak)", "not (iron or oak)", "iron or not oak"])
def test_what_is_not_asked_for_may_be_lacking_for_good(gate: str) -> None:
    level = ukemi.loads(
        "{start: quay, goal: mill, items: {iron: {}, oak: {}}, rooms: {quay: {}, mill: {items: [iron, oak]}}, "
        f"passages: [quay -> mill: {{gate: {gate}}}]}}"
    )
    rules = compile_level(level)
    assert Relaxed(rules).reach(rules.start()).finishes
    assert ukemi.check(level).answers.finish == "yes"


def test_where_moves_turn_out_in_too_many_ways_anything_may_come_to_pass(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    level = "{start: quay, goal: mill, rooms: [quay, mill], passages: [mill -> quay]}"
    rules = compile_level(ukemi.loads(level))
    assert not Relaxed(rules).reach(rules.start()).finishes
    monkeypatch.setattr("ukemi.rules.branches.MOST_BRANCHES", 0)
    relaxed = Relaxed(rules)
    assert relaxed.with_more(relaxed.reach(rules.start()), rules.start()).finishes


def test_a_player_is_in_no_room_because_of_its_number() -> None:
    """Of four rooms in a row of numbers, Ben enters the first, the third and the last; the last is next door."""
    text = (
        "{start: quay, goal: ben at pit, players: [ada, ben], rooms: [quay, pit, loft, mill],"
        " passages: [quay -> mill, quay -> loft]}"
    )
    rules = compile_level(ukemi.loads(text))
    assert not Relaxed(rules).reach(rules.start()).finishes
    rules = compile_level(ukemi.loads(text.replace("quay -> loft", "quay -> loft, loft -> pit")))
    reach = Relaxed(rules).reach(rules.start())
    assert reach.finishes and reach.rooms == {0, 1, 2, 3}
    plan = Planner(Relaxed(rules)).plan(rules.start())
    assert [move.what.get("to", "") for move in plan or ()] == ["loft", "pit", ""]
    for elsewhere, finishes in (("pit", True), ("quay", False)):  # Ben never leaves the quay
        gated = (
            "{goal: ada at mill, players: {ada: {start: loft}, ben: {start: quay}}, rooms: [quay, pit, loft, mill],"
            f" passages: [loft -> mill: {{gate: not ben at {elsewhere}}}]}}"
        )
        rules = compile_level(ukemi.loads(gated))
        assert Relaxed(rules).reach(rules.start()).finishes == finishes


@pytest.mark.parametrize(("rooms", "players"), [(4, 1), (20, 1), (10, 2)])
def test_rooms_that_no_run_enters_are_known_without_all_positions(rooms: int, players: int) -> None:
    level = designed(rooms, 5, players)
    for name in ("cellar", "vault"):
        level.room(name)
    level.item("crowbar")
    level.passage("room-0 <-> cellar", lock="crowbar", name="cellar-door")
    level.passage("vault -> room-0")
    assert unreached_rooms(level) == {"cellar", "vault"}
    assert {"cellar", "vault"} <= ukemi.check(level).unreached


def test_an_inventory_may_be_just_full() -> None:
    rules = compile_level(
        ukemi.loads(
            "{start: quay, goal: mill, items: {iron: {}}, inventory: {slots: 1}, rooms: {quay: {items: iron}, mill: {}},"
            " passages: [quay -> mill: {gate: iron}]}"
        )
    )
    assert Relaxed(rules).reach(rules.start()).finishes


# -- ended early ----------------------------------------------------------------------------------


@pytest.mark.parametrize("file", ["die24.yaml", "mist24.yaml"])
def test_no_route_is_called_shortest_where_a_shorter_one_is(file: str) -> None:
    level = ukemi.load(CASES / file)
    whole = report_dict(ukemi.check(level))
    least = {
        (one["code"], one["subject"]): one["route"]["steps"]
        for one in whole["findings"]
        if "route" in one
    }
    assert whole["search"]["complete"]
    for most in (10, 100, 1_000, 10_000):
        for one in report_dict(ukemi.check(level, max_positions=most))["findings"]:
            steps = least.get((one["code"], one["subject"]))
            if "route" in one and one["route"]["shortest"] and steps is not None:
                assert one["route"]["steps"] <= steps
    if file == "die24.yaml":
        assert least["can-die", min(name for code, name in least if code == "can-die")] == 31


def _touched() -> ukemi.Level:
    """A hub whose rooms each hold a thing that is taken on entering: 2^14 ways to walk about."""
    level = ukemi.Level("touch")
    level.set_rules(pickup="touch")
    level.room("hub")
    for number in range(14):
        level.item(f"bell-{number}")
        level.room(f"room-{number}", items=f"bell-{number}")
        level.passage(f"hub <-> room-{number}")
    level.set_start("hub")
    level.set_goal("room-0")
    return level


def _wasted_in_a_chain(rooms: int) -> ukemi.Level:
    """A long chain near whose start a key can be wasted."""
    level = chain(rooms)
    level.item("shed-key", kind="key", use="spent")
    level.put("room-0", "shed-key")
    for room, beside in (("shed", "room-0"), ("attic", "room-1")):
        level.room(room)
        level.passage(f"{beside} <-> {room}", lock="shed-key", name=f"{room}-door")
    return level


@pytest.mark.parametrize(
    "level", [designed(60, 1), _wasted_in_a_chain(300), _touched(), late_choice(60)], ids=repr
)
@pytest.mark.parametrize("calls", [1_000, 300_000])
def test_every_loop_looks_at_the_limits(level: ukemi.Level, calls: int) -> None:
    """What is done after the time is over is little, whatever it interrupts."""
    with WorkClock() as clock:
        rules = compile_level(level)
        until = 2 * clock.calls + calls  # the level is compiled once more, which nothing interrupts
        report = report_on(gather(level, clock.limits(until)), try_spare=False)
        over = clock.calls - until
    assert over < 60_000 + 200 * len(rules.moves) + calls // 5
    assert report.answers.finish in ("yes", "unknown")
    assert report.answers.stuck in ("possible", "never", "unknown")
    assert report.search.complete or report.exit_code() in (1, 3)


def test_mends_are_looked_for_no_longer_than_the_limits_allow() -> None:
    level = _wasted_in_a_chain(60)
    level.set_goal("attic")
    report = ukemi.check(level)
    which = [one for one in report.findings if one.severity == "error"]
    with WorkClock() as clock:
        mended = add_mends(report, which, clock.limits(clock.calls + 200_000))
        over = clock.calls - 200_000
    assert over < 3_000_000  # a try or two of a large level
    assert which and all(one.mends_cut_short for one in mended.findings if one.mends is not None)


def test_a_question_that_memory_ends_is_asked_once_more(monkeypatch: pytest.MonkeyPatch) -> None:
    level = ukemi.load(DEMO / "wasted-key.yaml")
    rules = compile_level(level)
    tidied: list[int] = []
    asked = ExplicitSpace.before

    def full(space: ExplicitSpace, *given: Any) -> Any:
        if len(tidied) == times:
            return asked(space, *given)
        raise MemoryError

    monkeypatch.setattr(ExplicitSpace, "before", full)
    monkeypatch.setattr(ExplicitSpace, "tidy", lambda space: tidied.append(1))
    times = 1
    space = ExplicitSpace(rules, Limits().begin())
    found = get_stuck.ask(Context(level, rules, space.limits, space))
    assert found.answer == "possible" and len(tidied) == 1
    times = 9  # as where there is no room whatever is let go of
    found = get_stuck.ask(Context(level, rules, space.limits, space))
    assert found.answer == "unknown" and len(tidied) == 2


def test_what_must_be_done_tells_what_long_runs_cost() -> None:
    one_way = ukemi.loads(
        "{start: quay, goal: loft, rooms: [quay, mill, loft, pit],"
        " passages: [quay -> mill, mill -> loft: {steps: 3}, quay -> pit]}"
    )
    known = ((drops(4), 16), (chain(6), 15), (one_way, 4), (late_choice(12), None))
    for level, least in known:
        rules = compile_level(level)
        space = ExplicitSpace(rules, Limits().begin())
        found = remaining_cost(rules, space, space.ended(FINISHED)).of(rules.start())
        cheapest = space.run_to(space.ended(FINISHED)).cost
        assert found <= cheapest
        assert least is None or found == cheapest == least


def test_little_memory_ends_in_unknown_and_never_in_a_guess() -> None:
    report = ukemi.check(hands(3), max_positions=20_000, max_memory=4_000_000)
    assert not report.search.complete
    assert report.answers.stuck == "unknown"
    assert report.exit_code() in (1, 3)


def test_what_lies_ahead_is_told_only_where_it_is_settled(monkeypatch: pytest.MonkeyPatch) -> None:
    level = ukemi.loads(
        "{start: quay, goal: loft, items: {iron: {}, oak: {}}, rooms: [quay, yard, mill, loft],"
        " passages: [quay <-> yard, quay <-> mill: {lock: iron}, mill <-> loft: {lock: oak}]}"
    )
    rules = compile_level(level)
    space = ExplicitSpace(rules, Limits().begin())
    context = Context(level, rules, space.limits, space)
    walked = replay(rules, [move for move in rules.moves if move.what.get("to") == "yard"])
    assert Reasons(context).explain(walked).why.startswith("From there only quay and yard")

    def cut_short(*given: Any) -> Any:
        raise CutShortError

    monkeypatch.setattr(ExplicitSpace, "after", cut_short)
    unsettled = Reasons(context).explain(walked)
    assert unsettled.why.endswith("are undecided: the search was cut short")
    assert "raise --max-positions" in unsettled.mend


def test_a_flag_is_never_so_only_if_all_positions_show_it() -> None:
    rules = compile_level(
        level := ukemi.loads(
            "{start: quay, goal: mill, rooms: {quay: {switches: {sluice: {flips: low}}}, race: {},"
            " mill: {}}, passages: [quay <-> race: {gate: not low}, race <-> mill: {gate: low}]}"
        )
    )
    low = rules.index["flag", "low"]
    for most, never in ((1_000, True), (2, False)):
        space = ExplicitSpace(rules, Limits(most).begin())
        assert space.complete == never
        context = Context(level, rules, space.limits, space)
        assert (ahead.run_where_never(context, "race", low, 1) is not None) == never
        assert ahead.run_where_never(context, "quay", low, 1) is None  # it can be on there


def test_a_late_choice_is_told_with_its_mistake() -> None:
    report = ukemi.check(late_choice(40))
    assert report.search.complete
    assert [one.subject for one in report.with_code("can-get-stuck")] == ["store-door"]
    assert report.routes["finish"].shortest


def test_where_the_positions_are_too_many_a_run_shows_that_a_player_gets_stuck(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    level = late_choice(30)
    whole = ukemi.check(level)

    def few(rules: Rules, limits: Limits, meanwhile: Callable[[], None]) -> ExplicitSpace:
        meanwhile()
        return ExplicitSpace(rules, Limits(50))

    monkeypatch.setattr(evidence, "_many", few)
    told: list[tuple[str, str]] = []
    limits = Limits(few=100, on_answer=lambda name, answer: told.append((name, answer)))
    report = report_on(gather(level, limits))
    assert told[:3] == [("finish", "yes"), ("stuck", "possible"), ("all_rewards", "yes")]
    assert (report.answers.finish, report.answers.stuck) == ("yes", "possible")
    (found,), (expected,) = (one.with_code("can-get-stuck") for one in (report, whole))
    assert (found.subject, found.message) == (expected.subject, expected.message) and found.route
    assert not found.route.shortest and found.route.steps >= expected.route.steps
    assert "passage" not in found.why
    for some, all_ in zip(_statuses(report), _statuses(whole), strict=True):
        assert some in ("unknown", all_)
    assert sum(one.proven for one in _statuses(report)) > len(level.rooms)


def _statuses(report: ukemi.Report) -> list[Answer]:
    answers = report.answers
    return [*answers.rooms.values(), *answers.doors.values(), *answers.items.values()]


def test_what_runs_prove_is_reported_if_the_positions_are_too_many(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    level = designed(20, 3)
    whole = ukemi.check(level).answers
    few = Limits(50).begin()
    monkeypatch.setattr(evidence, "ExplicitSpace", lambda rules, limits: ExplicitSpace(rules, few))
    monkeypatch.setattr(symbolic, "symbolic_space", lambda *given: None)
    report = ukemi.check(level)
    assert not report.search.complete
    assert report.answers.all_rewards == whole.all_rewards == "yes"
    told = {name: one.status for name, one in report.answers.rewards.items()}
    assert told == {name: one.status for name, one in whole.rewards.items()}
    assert report.routes["all-rewards"].steps >= report.routes["finish"].steps


@pytest.mark.parametrize(("long", "looked"), [(0.0, 1), (1e9, 0)])
def test_more_runs_are_looked_for_only_if_the_positions_take_long(
    long: float, looked: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    calls: list[FirstRuns] = []
    monkeypatch.setattr(diagram_space, "LONG", long)
    monkeypatch.setattr(FirstRuns, "look_longer", lambda self: calls.append(self))
    report = ukemi.check(designed(20, 3))
    assert report.search.complete and len(calls) == looked


@pytest.mark.skipif(not Path("/proc/self/statm").exists(), reason="memory is measured on Linux")
@pytest.mark.parametrize(("files", "most", "megabytes"), [(1, "100M", 130), (2, "180M", 155)])
def test_the_memory_that_is_really_taken_is_kept(
    files: int, most: str, megabytes: int, tmp_path: Path
) -> None:
    names = [tmp_path / f"rooms-{number}.yaml" for number in range(files)]
    for name in names:
        ukemi.save(designed(40, 5), name)  # takes 168 MB where only what the search counts is kept
    # A small program between: what a process takes at most counts what started it, too.
    between = (
        "import resource, subprocess, sys; done = subprocess.run(sys.argv[1:]); "
        "print(done.returncode, resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss)"
    )
    options = ["--quiet", "--jobs", str(files), "--max-memory", most]
    done = subprocess.run(
        [sys.executable, "-c", between, sys.executable, "-m", "ukemi", "check", *names, *options],
        env=ENVIRONMENT, capture_output=True, text=True,
    )  # fmt: skip
    assert done.stderr.count("the answers proven so far follow") == files
    code, kilobytes = map(int, done.stdout.split()[-2:])
    assert done.stdout.count("can be finished") >= files and code in (1, 3)
    assert kilobytes < megabytes << 10


def test_rewards_that_one_run_takes_are_told_whatever_else_is_not_settled() -> None:
    report = ukemi.check(
        ukemi.loads(
            "{start: quay, goal: mill, items: {ledger: {kind: reward}, bell: {kind: reward}}, "
            "rooms: {quay: {items: [ledger, bell]}, mill: {}}, passages: [quay <-> mill]}"
        )
    )
    unknown = RewardAnswer(Answer.UNKNOWN, Answer.UNKNOWN)
    rewards = dict.fromkeys(report.answers.rewards, unknown)
    cut = replace(report, answers=replace(report.answers, rewards=rewards))
    assert next(one.text for one in verdict_lines(cut) if one.label == "Rewards") == (
        "a player who still finishes can collect 2 of 2, all in one run; "
        "whether 2 can be missed is undecided"
    )


def test_a_size_that_is_none_is_told() -> None:
    page, picture = ["report", "-o", "page.html"], ["draw", "-o", "map.png"]
    for size, command in (("5X", ["check"]), ("0", page), ("-1G", picture)):
        done = run(*command, DEMO / "tide-mill.yaml", f"--max-memory={size}")
        assert (done.returncode, done.stdout) == (2, "")
        assert "write a size, such as 500M or 2G" in done.stderr


@pytest.fixture
def long(tmp_path: Path) -> Path:
    """A level that takes minutes."""
    ukemi.save(designed(160, 1), tmp_path / "long.yaml")
    return tmp_path / "long.yaml"


def test_ctrl_c_still_tells_what_is_proven(long: Path) -> None:
    terminal, inside = pty.openpty()
    running = subprocess.Popen(
        [sys.executable, "-m", "ukemi", "check", str(long)], stdout=subprocess.PIPE, stderr=inside,
        encoding="utf-8", env=ENVIRONMENT,
    )  # fmt: skip
    seen = ""
    while seen.count("a second") < 3:  # it is in the middle of its search
        assert select.select([terminal], [], [], 90)[0], seen
        seen += os.read(terminal, 1000).decode()
    assert "waiting" in seen
    running.send_signal(signal.SIGINT)
    text, _ = running.communicate(timeout=60)
    os.close(terminal)
    os.close(inside)
    assert running.returncode == 3
    assert "Can get stuck: undecided" in text


# -- several at a time ----------------------------------------------------------------------------


def test_several_at_a_time_print_what_one_at_a_time_prints(tmp_path: Path) -> None:
    bad = tmp_path / "bad.yaml"
    bad.write_text("start: quay\n")
    files = [*sorted(DEMO.glob("*.yaml")), bad]
    one, two = run("check", *files), run("check", "-j", "2", *files)
    assert (one.returncode, one.stdout, one.stderr) == (two.returncode, two.stdout, two.stderr)


def _dies_of_one(level: str) -> str:
    if level == "b":
        os.kill(os.getpid(), signal.SIGKILL)
    return level


def test_a_process_that_dies_costs_its_own_level_only() -> None:
    stopped = processes.get_context().Value("b", 0)
    told = list(
        processes._in_order(["a", "b", "c", "d"], _dies_of_one, processes._died, 2, stopped)
    )  # type: ignore[arg-type]
    assert [told[0], *told[2:]] == ["a", "c", "d"]
    assert isinstance(told[1], ukemi.LevelError)
    assert str(told[1]) == "b: the process that checked this level died [syntax]"


@pytest.mark.parametrize("ending", [signal.SIGINT, signal.SIGTERM])
def test_several_at_a_time_leave_nothing_behind(long: Path, ending: signal.Signals) -> None:
    other = long.with_name("other.yaml")
    other.write_text(long.read_text())
    running = subprocess.Popen(
        [sys.executable, "-m", "ukemi", "check", "-j", "2", "--quiet", str(long), str(other)],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, encoding="utf-8", env=ENVIRONMENT,
        start_new_session=True,
    )  # fmt: skip
    wait_for(lambda: _working(running.pid) == 2, "two busy processes")
    running.send_signal(ending)
    text, wrong = running.communicate(timeout=60)
    assert "Traceback" not in wrong
    if ending == signal.SIGINT:
        assert running.returncode in (1, 3)  # it may be proven by then that anyone can get stuck
        assert text.count("160 rooms") == 2 and "undecided" in text
    wait_for(lambda: not _left(running.pid), "the end of its processes")


def _left(group: int) -> list[Path]:
    """The processes of a group that have not ended."""
    found = []
    for one in Path("/proc").glob("[0-9]*/stat"):
        try:
            said = one.read_text().rpartition(")")[2].split()
        except OSError:
            continue  # it has just ended
        if int(said[2]) == group and said[0] != "Z":
            found.append(one)
    return found


def _working(group: int) -> int:
    """How many processes of a group have worked for two seconds."""
    ticks = [one.read_text().rpartition(")")[2].split()[11] for one in _left(group)]
    return sum(int(one) > 2 * os.sysconf("SC_CLK_TCK") for one in ticks)


def test_a_play_and_a_crowd_keep_to_their_limits(long: Path) -> None:
    play, crowd = ["play", str(long)], ["crowd", str(long), "--runs", "200"]
    for words, says in ((play, "undecided"), (crowd, "the time was over")):
        done = subprocess.run(
            [sys.executable, "-m", "ukemi", *words, "--max-seconds", "0"], input="hint\n",
            capture_output=True, encoding="utf-8", env=ENVIRONMENT, timeout=60, check=False,
        )  # fmt: skip
        assert "Traceback" not in done.stderr
        assert says in done.stdout


def test_a_play_knows_of_large_levels_when_they_are_lost(tmp_path: Path) -> None:
    play = Play(designed(40, 1))
    lost = next(route for route in _lost_routes(play.level))
    for what in lost[:-1]:
        play.do(what)
        assert play.can_finish == ukemi.checks.Answer.YES
    play.do(lost[-1])
    assert play.can_finish == ukemi.checks.Answer.NO


def _lost_routes(level: ukemi.Level) -> Iterator[list[dict[str, Any]]]:
    for finding in ukemi.check(level).findings:
        if finding.code == "can-get-stuck" and finding.route:
            yield [move.what for move in finding.route.moves]


def test_as_many_positions_as_a_level_has_are_enough(monkeypatch: pytest.MonkeyPatch) -> None:
    """Also where each position has so many variables that fewer are looked at first."""
    monkeypatch.setattr("ukemi.spaces.limits.MOST_VALUES", 60_000)
    rooms = [f"r{number}" for number in range(300)]
    level = ukemi.Level("drops")
    for room in rooms:
        level.room(room)
    for here, there in pairwise(rooms):
        level.passage(f"{here} -> {there}", once=True)
    level.set_start(rooms[0])
    level.set_goal(rooms[-1])
    most = len(rooms) + 1  # one for each room, and the end
    enough, too_few = (ukemi.check(level, max_positions=most - less) for less in (0, 1))
    assert (enough.search.positions, enough.search.complete) == (most, True)
    assert not too_few.search.complete and not too_few.search.all_seen
    assert too_few.search.positions < most


@pytest.mark.parametrize("megabytes", [1, 3, 5, 8])
def test_diagrams_that_run_out_of_memory_end_in_no_error(megabytes: int) -> None:
    report = ukemi.check(designed(40, 5), max_memory=megabytes << 20)
    assert report.answers.finish in ("yes", "unknown")
    assert report.answers.stuck in ("possible", "unknown")
    assert report.exit_code() in (1, 3)


# -- bounds of searches that end early --------------------------------------------------------------


def test_a_longer_run_that_was_found_first_is_not_called_shortest() -> None:
    """The way round is shorter, and not explored yet when the search ends."""
    level = ukemi.loads(
        "{start: quay, goal: mill, rooms: [quay, a, b, mill], rules: {finish: touch},"
        " passages: [quay -> mill: {steps: 9}, quay -> a, a -> b, b -> mill]}"
    )
    cut, whole = ukemi.check(level, max_positions=3), ukemi.check(level)
    route = cut.routes["finish"]
    assert (route.steps, route.shortest) == (9, False)
    assert 1 <= route.at_least <= whole.routes["finish"].steps == 3


@pytest.mark.parametrize(
    ("rooms", "seed", "plans", "part", "without"),
    [
        (40, 15, 4, "relaxed_plan.ATTEMPTS", 1),
        (40, 80, 3, "guided.MISLED", 0),
        (40, 105, 1, "relaxed_plan.Planner.safe", frozenset()),
        (80, 14_004, 60, "guided.MOST_EXACT", 0),
    ],
)
def test_what_a_guided_search_learns_saves_plans(
    monkeypatch: pytest.MonkeyPatch, rooms: int, seed: int, plans: int, part: str, without: object
) -> None:
    rules = compile_level(designed(rooms, seed))
    run_found = find_run(Planner(Relaxed(rules)), rules.start(), plans)
    assert replay(rules, run_found).positions[-1][END] == FINISHED
    assert not any(
        "ledger" in move.what.get("item", "") for move in run_found
    )  # nothing asks for one
    walks = [move for move in run_found if move.what["do"] == "walk"]
    assert len(walks) < 4 * rooms
    monkeypatch.setattr(f"ukemi.facts.{part}", without)
    with pytest.raises(CutShortError):
        find_run(Planner(Relaxed(rules)), rules.start(), plans)


def test_layers_that_are_cut_short_claim_no_more_than_they_have_seen() -> None:
    rules = compile_level(designed(8, 3))
    least = ExplicitSpace(rules, Limits().begin())
    assert least.complete
    cheapest = least.run_to(least.ended(FINISHED)).cost
    claimed = set()
    for nodes in range(0, 4_000, 40):
        space = symbolic_space(rules, Limits(memory=1 << 26).begin())
        space.nodes_a_run = nodes
        run = space.run_to(space.ended(FINISHED))
        assert run.at_least <= cheapest <= run.cost
        claimed.add(run.at_least)
    assert {cheapest - 1, cheapest} <= claimed  # also of the last that was cut short


def test_a_key_that_is_asked_for_twice_is_spent_as_often_as_the_larger_count() -> None:
    text = (
        "{start: quay, goal: loft, items: {iron: {use: spent}}, rooms: {quay: {items: {iron: 2}}, mill: {}, loft: {}},"
        " passages: [quay <-> mill: {lock: LOCK, name: first}, mill <-> loft: {lock: iron, name: second}]}"
    )
    for lock in ("2 iron and iron", "iron and 2 iron"):
        report = ukemi.check(ukemi.loads(text.replace("LOCK", lock)))
        assert report.answers.finish == "no"
        enough = text.replace("LOCK", lock).replace("iron: 2}", "iron: 3}")
        found = ukemi.check(ukemi.loads(enough))
        (unlock,) = [one for one in found.routes["finish"].whats if one.get("name") == "first"
                     and one["do"] == "unlock"]  # fmt: skip
        assert unlock["with"] == {"iron": 2}


def test_every_process_gives_the_same_answers(tmp_path: Path) -> None:
    """Also where runs are equally short, and where alternatives are many: in each, sets of names go another way."""
    files = [tmp_path / f"{rooms}-{seed}.yaml" for rooms, seed in ((20, 105), (30, 711))]
    for file in files:
        rooms, seed = map(int, file.stem.split("-"))
        file.write_text(ukemi.dumps(designed(rooms, seed)))
    found = []
    for number in ("1", "2", "4"):
        done = run("check", "--format", "json", *files, PYTHONHASHSEED=number)
        found.append([one | {"search": None} for one in json.loads(done.stdout)])
    assert found[0] == found[1] == found[2]
