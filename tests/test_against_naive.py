"""Everything a check answers, against the naive player, on random levels of the whole language.

``UKEMI_LEVELS=5000 pytest tests/test_against_naive.py`` compares that many.
"""

from __future__ import annotations

import json
import os
from collections.abc import Iterable, Sequence
from itertools import accumulate, combinations
from typing import Any

from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.questions.answers import PacePoint
from ukemi.questions.backbone import backbone
from ukemi.questions.pace import longest_without

from .helpers import report_dict
from .levels import plain_levels
from .naive import Naive

LEVELS = int(os.environ.get("UKEMI_LEVELS", "20"))


@given(plain_levels())
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_both_players_answer_alike(plain: dict[str, Any]) -> None:
    compare(plain)


def compare(plain: dict[str, Any]) -> None:
    """Read a level, where it can be, and check it both ways."""
    try:
        level = ukemi.loads(json.dumps(plain))
    except ukemi.LevelError:
        assume(False)
    compare_level(level)


def compare_level(level: ukemi.Level) -> None:
    """Check a level both ways; anything that differs fails."""
    naive = Naive(level, limit=800)
    assume(naive.complete)
    checked = ukemi.check(level)
    report = report_dict(checked)
    answers = report["answers"]
    finished, costs = naive.finished(), naive.costs()
    able = naive.able(lambda spot: spot.end == "finished")

    assert answers["finish"] == ("yes" if finished else "no")
    stuck = any(spot.end == "playing" and spot not in able for spot in naive.spots)
    assert answers["stuck"] == ("possible" if stuck else "never")
    dead = any(spot.end == "dead" for spot in naive.spots)
    assert answers["deadly"] == ("yes" if dead else "no")

    statuses = naive.statuses()
    told = {}
    for kind in ("doors", "chests", "acts", "rooms", "items", "events"):
        told |= answers[kind]
    assert told == statuses

    rewards = naive.reward_names()
    assert answers["rewards"].keys() == rewards.keys()
    for name, subject in rewards.items():
        assert answers["rewards"][name]["status"] == statuses[subject]
        assert answers["rewards"][name]["missable"] == naive.missable(subject)
    facts = naive.facts()
    with_all = [spot for spot in finished if all(facts[one](spot) for one in rewards.values())]
    assert answers["all-rewards"] == ("yes" if with_all else "no")

    for runs, route in ((finished, "finish"), (with_all, "all-rewards")):
        assert (route in report["routes"]) == bool(runs)
        if runs:
            assert report["routes"][route]["steps"] == min(costs[spot] for spot in runs)
            assert naive.follow(report["routes"][route]["moves"]) & set(runs)
            assert answers["measures"][route]["steps"] == report["routes"][route]["steps"]
    if finished:
        choices = naive.choices(report["routes"]["finish"]["moves"])
        assert answers["measures"]["choices"] == choices
        paces = answers["measures"].get("pace", {})
        assert paces.keys() == {one for one, route in report["routes"].items() if route["moves"]}
        for name, points in paces.items():
            moves = report["routes"][name]["moves"]
            assert [(one["rooms"], one["things"]) for one in points] == naive.around(moves)
            compare_pace(naive, moves, points, report["routes"][name]["steps"])

    compare_in_hand(naive, level, costs, report)
    compare_alternatives(naive, answers)
    order = naive.order()
    compare_order(answers["order"], order)
    kinds = ("doors", "chests", "acts", "items", "events")
    rooms = answers["rooms"].keys() - {name for kind in kinds for name in answers[kind]}
    compare_order(backbone(checked.answers), {pair for pair in order if not rooms & {*pair}})
    compare_mistakes(report["findings"], naive)


def compare_in_hand(naive: Naive, level: ukemi.Level, costs: Any, report: dict[str, Any]) -> None:
    """What can be carried in each room, the flags that can be on there, and the fewest steps to it."""
    told, rooms = report["in-hand"], report["answers"]["rooms"]
    assert told.keys() <= rooms.keys()
    for room in rooms:
        here = [spot for spot in naive.spots if spot.room == room]
        assert (room in told) == bool(here)
        if here:
            carried = [dict(spot.carried) for spot in here]
            ranges = {
                item: [min(some), max(some)]
                for item in level.items
                if max(some := [one.get(item, 0) for one in carried])
            }
            on = {flag for spot in here for flag in spot.flags}
            flags = {
                one: "on" if all(one in spot.flags for spot in here) else "on-or-off" for one in on
            }
            steps = min(costs[spot] for spot in here)
            assert told[room] == {"steps": steps, "items": ranges, "flags": flags}


def compare_alternatives(naive: Naive, answers: dict[str, Any]) -> None:
    """Each finishing run does all of one way of each fork, each way is taken, and none can be smaller."""
    facts, told = naive.facts(), answers["alternatives"]
    runs = [{name for name, done in facts.items() if done(spot)} for spot in naive.finished()]
    groups = [{name for way in one["ways"] for name in way} for one in told]
    for one, things in zip(told, groups, strict=True):
        ways = [{*way} for way in one["ways"]]
        assert all(any(way <= run for way in ways) for run in runs)
        assert all(any(run & things == way for run in runs) for way in ways)
        assert not any(a < b for a in ways for b in ways) and len(ways) > 1
    assert sum(map(len, groups)) == len(set().union(*groups))
    kinds = [answers[kind].items() for kind in ("doors", "chests", "acts", "items")]
    optional = [name for kind in kinds for name, one in kind if one == "optional"]
    for a, b in combinations(optional, 2):
        if all(a in run or b in run for run in runs):
            assert any({a, b} <= some for some in groups)


def compare_order(told: Iterable[Sequence[str]], expected: set[tuple[str, str]]) -> None:
    """The pairs told must say exactly what is expected, and none follow from others."""
    listed = [(a, b) for a, b in told]
    pairs = {*listed}
    assert len(pairs) == len(listed)
    assert closure(pairs) == expected
    assert all(closure(pairs - {pair}) != expected for pair in pairs)


def closure(pairs: set[tuple[str, str]]) -> set[tuple[str, str]]:
    while True:
        more = pairs | {(a, d) for a, b in pairs for c, d in pairs if b == c}
        if more == pairs:
            return pairs
        pairs = more


def test_what_lies_there_and_was_put_down_there_is_one_thing_to_take() -> None:
    """Two moves take an oak, and a player sees one; whether walks change anything or not."""
    text = (
        "{start: quay, goal: at mill and bell, items: {oak: {}, bell: {kind: reward}},"
        " inventory: {start: oak, slots: 1, drop: true}, rooms: {quay: {items: {oak: {}, bell: {}}}, mill: {}},"
        " passages: [quay <-> mill: WALK]}"
    )
    for walk in ("{}", "{sets: wet}"):
        report = ukemi.check(ukemi.loads(text.replace("WALK", walk)))
        first, second = report.answers.measures.pace["finish"][:2]
        assert first.things == 2  # put the oak down here, or in the mill
        assert second.things == 2  # take the oak, or the bell


def compare_pace(
    naive: Naive, moves: list[dict[str, Any]], points: list[dict[str, Any]], steps: int
) -> None:
    """What is new at each move of a route, and what it costs."""
    walked = set()
    for number, (move, point) in enumerate(zip(moves, points, strict=True)):
        before, *others = naive.follow(moves[:number])
        after, *more = naive.follow(moves[: number + 1])
        if others or more:
            return  # a move can be read two ways
        had, has = dict(before.carried), dict(after.carried)
        gets = {item: count - had.get(item, 0) for item, count in has.items()}
        assert point["gets"] == {item: count for item, count in gets.items() if count > 0}
        new = {
            *(after.opened - before.opened),
            *(after.done - before.done),
            *(after.flags - before.flags),
        }
        assert {*point["opens"]} == new
        assert point["carried"] == sum(had.values())
        assert point["again"] == (move["do"] == "walk" and move["name"] in walked)
        walked |= {move["name"]} if move["do"] == "walk" else set()
        rest = points[number + 1]["steps"] if number + 1 < len(points) else steps
        assert point["steps"] + point["cost"] == rest


@given(st.lists(st.tuples(st.integers(0, 3), st.booleans())))
def test_the_longest_stretch_without_anything_new(moves: list[tuple[int, bool]]) -> None:
    begins = [0, *accumulate(cost for cost, _ in moves)]
    points = tuple(
        PacePoint(begin, cost, ("door",) if new else (), {}, 1, 1, False, 0)
        for begin, (cost, new) in zip(begins, moves, strict=False)
    )
    idle = {n for one in points if not one.is_new for n in range(one.steps, one.steps + one.cost)}
    new = [one.steps for one in points if one.is_new]  # one without a step parts two stretches
    stretches = [
        (end - begin, begin)
        for begin in idle
        for end in range(begin + 1, begins[-1] + 1)
        if idle >= {*range(begin, end)} and not any(begin < one < end for one in new)
    ]
    most = max(stretches, key=lambda one: (one[0], -one[1]), default=None)
    assert longest_without(points) == most


def compare_mistakes(findings: list[dict[str, Any]], naive: Naive) -> None:
    able = naive.able(lambda spot: spot.end == "finished")
    told = {}
    for finding in findings:
        if finding["code"] == "can-get-stuck":
            for one in [finding, *finding.get("also", [])]:
                told[json.dumps(one["mistake"], sort_keys=True)] = one["route"]["steps"]
                ends = naive.follow(one["route"]["moves"])
                assert any(spot.end == "playing" and spot not in able for spot in ends)
        if "route" in finding:
            assert naive.follow(finding["route"]["moves"])
    assert told == (naive.mistakes() if naive.finished() else {})
