"""The searches for large levels, against the plain one."""

from __future__ import annotations

import json
import os
import pty
import select
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.checks import case, parts, slices
from ukemi.checks.case import Case
from ukemi.checks.cases import Cases
from ukemi.checks.check import report_on
from ukemi.report import report_dict
from ukemi.rules import Rules, compile_level
from ukemi.search import Limits, explore
from ukemi.search.packed import PackedExploration, TooLargeError, explore_packed

from .helpers import DEMO, ROOT, readable, run
from .levels import alike_levels, choice_levels, plain_levels
from .test_against_naive import LEVELS
from .test_claims import draw_claims
from .test_maps import map_levels

sys.path.insert(0, str(ROOT / "benchmarks"))
import families


def answers_of(report: ukemi.Report) -> dict[str, Any]:
    """Every answer by its path, in the words of the JSON."""
    found: dict[str, Any] = {}

    def walk(value: Any, path: str) -> None:
        if isinstance(value, dict):
            for key, inner in value.items():
                walk(inner, f"{path}/{key}")
        else:
            found[path] = sorted(value) if isinstance(value, list) else value

    walk(report_dict(report)["answers"], "")
    return found


def mistakes_of(report: ukemi.Report, shortest: bool = False) -> dict[str, int]:
    """Each mistake with the steps of its route; only those told to be the fewest, if asked."""
    found = {}
    for finding in report_dict(report)["findings"]:
        if finding["code"] == "can-get-stuck" and "mistake" in finding:
            for one in [finding, *finding.get("also", [])]:
                if not shortest or "shortest" not in one["route"]:
                    found[json.dumps(one["mistake"])] = one["route"]["steps"]
    return found


#: The bounds on positions for one question.
BOUNDS = ("EACH", "EACH_PRUNED", "EACH_COUNTED", "MOST_TOGETHER")


def in_parts(level: ukemi.Level, **most: int) -> ukemi.Report:
    """The report of a level that is answered in parts, with other bounds on the positions of each."""
    with pytest.MonkeyPatch.context() as patch:
        for name, value in most.items():
            patch.setattr(slices, name, value)
        return report_on(parts.PartCases(Case(level, Limits(1)), Limits().begin()))


@given(st.one_of(plain_levels(), alike_levels(), map_levels()), st.sampled_from([8, 40, 3_000]))
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_parts_answer_as_the_whole_does(plain: dict[str, Any], most: int) -> None:
    level = readable(plain)
    whole = Case(level, Limits(1_500))
    assume(whole.complete)
    by_whole = report_on(Cases(whole))
    by_parts = in_parts(level, EACH=most)
    nothing_else_is_told(by_parts, by_whole)
    if most == 3_000:  # then nothing may be left open
        assert answers_of(by_parts) == answers_of(by_whole)
        assert mistakes_of(by_parts) == mistakes_of(by_whole)


@given(st.one_of(choice_levels(), choice_levels(), plain_levels()), st.sampled_from([2, 6]))
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_regions_answer_as_the_whole_does(plain: dict[str, Any], most: int) -> None:
    level = readable(plain)
    whole = Case(level, Limits(3_000))
    assume(whole.complete)
    nothing_else_is_told(in_parts(level, **dict.fromkeys(BOUNDS, most)), report_on(Cases(whole)))


def nothing_else_is_told(by_parts: ukemi.Report, by_whole: ukemi.Report) -> None:
    """All that a report settles is so."""
    expected = answers_of(by_whole)
    for path, answer in answers_of(by_parts).items():
        if answer != "unknown" and not path.startswith("/measures"):
            assert answer == expected[path], path
    assert by_parts.answers.finish == by_whole.answers.finish
    for name in by_parts.shortest:
        assert by_parts.routes[name].steps == by_whole.routes[name].steps
    fewest = mistakes_of(by_whole)
    for mistake, steps in mistakes_of(by_parts).items():
        assert steps >= fewest[mistake]
    for mistake, steps in mistakes_of(by_parts, shortest=True).items():
        assert steps == fewest[mistake]
    if by_parts.search.complete:
        assert mistakes_of(by_parts).keys() == fewest.keys()


def packed_or_skipped(rules: Rules) -> PackedExploration:
    """All positions, packed; a level with too much of something is drawn again."""
    try:
        return explore_packed(rules)
    except TooLargeError:
        assume(False)
        raise


def failed_claims(report: ukemi.Report) -> set[str]:
    """The claims that fail, without the figures that show it."""
    failed = (one for one in report.findings if one.code == "expectation-failed")
    return {one.message.split(", but")[0] for one in failed}


@given(
    st.one_of(plain_levels(), alike_levels()),
    st.randoms(use_true_random=False),
    st.sampled_from([8, 3_000]),
)
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_claims_fail_of_parts_as_of_the_whole(
    plain: dict[str, Any], random: Any, most: int
) -> None:
    plain["expect"] = {**draw_claims(random, plain), "rewards": random.choice(["any", "together"])}
    level = readable(plain)
    whole = Case(level, Limits(1_500))
    assume(whole.complete)
    expected = failed_claims(report_on(Cases(whole)))
    told = in_parts(level, EACH=most)
    assert failed_claims(told) <= expected
    open_claims = [one for one in told.findings if one.code == "undecided"]
    assert failed_claims(told) == expected or (most == 8 and open_claims)


@given(st.one_of(plain_levels(), alike_levels()))
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_missed_rewards_cost_what_they_cost_the_whole(plain: dict[str, Any]) -> None:
    plain["expect"] = {"stuck": "possible"}
    for item in plain["items"].values():
        item["kind"] = "supply" if item.get("vital") else "reward"
        item.pop("use", None)
    level = readable(plain)
    whole = Case(level, Limits(1_500))
    assume(whole.complete)
    expected = missed_of(report_on(Cases(whole)))
    told = in_parts(level, EACH=8)
    assert missed_of(told).items() <= expected.items()
    unsure = any(one.missable == "unknown" for one in told.answers.rewards.values())
    assert unsure or missed_of(told) == expected


def missed_of(report: ukemi.Report) -> dict[str, int]:
    """Each reward that can be missed, with the steps of the route that shows it."""
    missed = report.with_code("reward-can-be-missed")
    return {one.subject: one.route.steps for one in missed if one.route is not None}


@given(st.one_of(plain_levels(), map_levels()))
@settings(max_examples=LEVELS // 2, deadline=None, suppress_health_check=list(HealthCheck))
def test_packed_positions_are_those_of_the_plain_search(plain: dict[str, Any]) -> None:
    rules = compile_level(readable(plain))
    one = explore(rules, Limits(1_500))
    assume(one.complete)
    other = packed_or_skipped(rules)
    assert other.complete
    assert dict(zip(one.positions, one.costs, strict=True)) == dict(
        zip(other.positions, other.costs, strict=True)
    )
    edges = [
        {
            (found.positions[number], move.number, found.positions[after])
            for number, moves in enumerate(found.moves)
            for move, after in moves
        }
        for found in (one, other)
    ]
    assert edges[0] == edges[1]
    unlike = tuple(value + 1_000 for value in rules.start())  # as when asking what would help
    assert other.numbers.get(unlike) is None
    for number, position in enumerate(other.positions):
        assert other.numbers[position] == number
        assert sum(move.cost for move in other.route_to(number)) == other.costs[number]


@given(st.one_of(plain_levels(), alike_levels(), map_levels()), st.sampled_from([0, 0, 500]))
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_packed_positions_answer_as_the_plain_ones_do(plain: dict[str, Any], few: int) -> None:
    level = readable(plain)
    whole = Case(level, Limits(1_500))
    assume(whole.complete)
    expected = report_on(Cases(whole))
    packed = Case(level, rules=whole.rules, found=packed_or_skipped(whole.rules))
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(case, "FEW_FOR_EACH", few)  # few or many for so many things
        told = report_on(Cases(packed))
    for path, answer in answers_of(told).items():
        if not path.startswith("/measures") or path.endswith("steps"):  # else of another run
            assert answer == answers_of(expected)[path], path
    assert mistakes_of(told) == mistakes_of(expected)
    assert missed_of(told) == missed_of(expected)
    assert told.shortest == expected.shortest


@pytest.mark.parametrize("family", [families.hall(5), families.drops(3), families.hub(6),
                                    families.chain(12), families.switches(5),
                                    families.late_choice(12)])  # fmt: skip
def test_families_answer_alike_small(family: ukemi.Level) -> None:
    by_whole = report_on(Cases(Case(family)))
    by_parts = report_on(parts.PartCases(Case(family, Limits(1)), Limits().begin()))
    assert answers_of(by_parts) == answers_of(by_whole)
    assert mistakes_of(by_parts) == mistakes_of(by_whole)


def test_sixty_keys_in_a_hall_leave_nothing_to_decide() -> None:
    report = ukemi.check(families.hall(60))
    assert report.sound
    assert report.search.complete
    assert report.search.positions < 100_000
    assert report.routes["finish"].steps == 3
    assert report.routes["all-rewards"].steps == 60 * 3 + 60 * 2 - 1
    assert report.shortest == {"finish", "all-rewards"}
    answers = report.answers
    assert (answers.stuck, answers.doors["door-59"], answers.doors["door-0"]) == (
        "never", "required", "optional",
    )  # fmt: skip


def test_what_is_left_behind_above_a_drop_is_told() -> None:
    report = ukemi.check(families.drops(8))
    mistakes = mistakes_of(report)
    assert len(mistakes) == 8
    assert sorted(mistakes.values()) == [1 + 2 * n for n in range(8)]


def test_a_choice_that_does_not_matter_leaves_nothing_to_lose() -> None:
    level = families.chain(60)  # of 3,600 positions, and each of the choices beside it
    level.item("iron", use="spent")
    level.put("room-3", "iron")
    for room in ("pit", "race"):
        level.room(room)
        level.passage(f"room-{len(room)} <-> {room}", lock="iron", name=f"{room}-door")
    cases = parts.PartCases(Case(level, Limits(1)), Limits(positions=500).begin())
    assert cases.all_is_free == "no"
    assert (cases.goal.complete, cases.goal.finish, cases.goal.stuck) == (False, "yes", "never")


def test_a_late_choice_costs_no_more_than_one() -> None:
    level = families.late_choice(90)  # of a million positions
    report = ukemi.check(level, max_positions=30_000)
    assert report.search.complete
    assert mistakes_of(report) == {
        json.dumps({"do": "unlock", "name": "store-door", "with": {"iron-key": 1}}): 85 * 3 + 2
    }
    (finding,) = report.with_code("can-get-stuck")
    assert "Missing to finish: 1 iron-key to unlock mill-door" in finding.why
    assert report.answers.doors["store-door"] == "only-when-stuck"
    assert report.routes["finish"].steps == 87 * 3 + 3
    assert report.shortest == {"finish", "all-rewards"}


@pytest.mark.parametrize("seconds", [0.0001, 0.05, 0.4])
def test_when_the_time_is_over_nothing_is_guessed(seconds: float) -> None:
    level = families.late_choice(40)
    told = ukemi.check(level, max_seconds=seconds)
    expected = answers_of(ukemi.check(level))
    for path, answer in answers_of(told).items():
        assert answer in ("unknown", expected.get(path)) or path.startswith("/measures"), path


def test_what_is_not_kept_is_searched_again(monkeypatch: pytest.MonkeyPatch) -> None:
    level = families.drops(4)
    expected = report_on(Cases(Case(level)))
    monkeypatch.setattr(slices, "MOST_KEPT", 1)
    cases = parts.PartCases(Case(level, Limits(1)), Limits().begin())
    told = report_on(cases)
    assert answers_of(told) == answers_of(expected)
    assert len(cases.slices._cases) == 2  # that of the goal, and the last one
    assert cases.positions > len(expected.answers.rooms) * 100


def test_levels_of_many_choices_are_answered_at_once() -> None:
    report = ukemi.check(families.switches(9))
    assert report.search.complete
    assert not report.search.in_parts
    assert report.answers.stuck == "never"
    assert {*report.answers.acts.values()} == {"required"}
    order = set(report.answers.order or ())
    assert {("switch-8", "loft"), ("room-0", "room-8")} & order


def test_limits_end_in_unknown_and_never_in_a_guess() -> None:
    level = families.hands(3)
    for limits in ({"max_positions": 30_000}, {"max_seconds": 1.0}, {"max_memory": 4_000_000}):
        report = ukemi.check(level, **limits)
        assert not report.search.complete
        assert report.answers.stuck == "unknown"
        assert report.exit_code() in (1, 3)


def test_several_at_a_time_print_what_one_at_a_time_prints(tmp_path: Path) -> None:
    bad = tmp_path / "bad.yaml"
    bad.write_text("start: quay\n")
    files = [*sorted(DEMO.glob("*.yaml")), bad]
    one, two = run("check", *files), run("check", "-j", "2", *files)
    assert (one.returncode, one.stdout, one.stderr) == (two.returncode, two.stdout, two.stderr)


@pytest.mark.parametrize("size", ["5X", "0", "-1G"])
def test_a_size_that_is_none_is_told(size: str) -> None:
    done = run("check", DEMO / "tide-mill.yaml", f"--max-memory={size}")
    assert (done.returncode, done.stdout) == (2, "")
    assert "write a size, such as 500M or 2G" in done.stderr


def test_ctrl_c_still_tells_what_is_proven(tmp_path: Path) -> None:
    ukemi.save(families.hands(3), tmp_path / "hands.yaml")
    terminal, inside = pty.openpty()
    running = subprocess.Popen(
        [sys.executable, "-m", "ukemi", "check", "hands.yaml", "--max-positions", "100000000"],
        stdout=subprocess.PIPE, stderr=inside, cwd=tmp_path, encoding="utf-8",
        env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
    )  # fmt: skip
    seen = ""
    while "a second" not in seen:
        assert select.select([terminal], [], [], 90)[0], seen
        seen += os.read(terminal, 1000).decode()
    assert "positions" in seen
    assert "waiting" in seen
    time.sleep(0.5)
    running.send_signal(signal.SIGINT)
    text, _ = running.communicate(timeout=60)
    os.close(terminal)
    os.close(inside)
    assert running.returncode == 3
    assert "Can get stuck: not settled" in text
    assert "the search was cut short" in text
