"""Every space answers alike: symbolic ones, landmarks, and searches cut short, against all positions.

``UKEMI_LEVELS=5000 pytest tests/test_spaces.py`` compares that many levels.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from itertools import combinations
from math import comb
from pathlib import Path
from random import Random
from typing import Any

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.checks.check import report_on
from ukemi.facts.find_finish import find_finish
from ukemi.facts.find_stuck import find_stuck, finishes_but_for_the_last
from ukemi.facts.guided import find_run
from ukemi.facts.interchange import Interchange
from ukemi.facts.projection import Projection
from ukemi.facts.relaxed import Relaxed
from ukemi.facts.relaxed_plan import Planner
from ukemi.facts.remaining_cost import remaining_cost
from ukemi.questions import can_finish, die, get_stuck, missable, status, together
from ukemi.questions.context import Context
from ukemi.questions.evidence import FIRST, gather
from ukemi.questions.free_level import free_level
from ukemi.questions.named_sets import Sets
from ukemi.questions.spare import left_lying, units_of, without_unit
from ukemi.questions.subjects import subjects
from ukemi.reasons.reason import Reasons
from ukemi.rules import DEAD, END, FINISHED, PLACE, PLAYING, Move, Position, Rules, compile_level
from ukemi.rules.actions import actions_of
from ukemi.rules.expressions import Is, Negated, all_of
from ukemi.spaces import Limits, explore, replay
from ukemi.spaces.explicit import ExplicitSpace
from ukemi.spaces.limits import Deadline
from ukemi.spaces.symbolic import symbolic_space
from ukemi.spaces.symbolic.diagram_space import SymbolicSpace
from ukemi.spaces.symbolic.encoding import Encoding

from .evidence import AllPositions
from .helpers import DEMO, readable, report_dict
from .levels import ANY, alike_levels, free_levels
from .test_against_naive import LEVELS, closure

few = settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))


def explicit(level: ukemi.Level, most: int = 3_000) -> ukemi.Report:
    """The report from all positions; levels that have too many are drawn again."""
    rules = compile_level(level)
    space = ExplicitSpace(rules, Limits(most).begin())
    if not space.complete:
        assume(False)
    return report_on(Context(level, rules, space.limits, space))


def free_context(level: ukemi.Level, limits: Limits | None = None) -> Context[Any] | None:
    """What a level's questions are asked of if nothing is ever lost in it."""
    context: Context[Any] = Context(level, compile_level(level), limits or Limits().begin())
    free = free_level(level, context.rules, context.limits, context.subjects, context.gates)
    context.free = free
    return None if free is None else context


def symbolic(level: ukemi.Level, limits: Limits | None = None) -> ukemi.Report:
    """The report from decision diagrams; levels they are not good for are drawn again."""
    rules = compile_level(level)
    limits = limits or Limits(seconds=20, memory=1 << 26).begin()
    space = symbolic_space(rules, limits)
    if space is None:
        assume(False)
    report = report_on(Context(level, rules, space.limits, space))
    if limits.over:
        assume(False)
    return report


def told(report: ukemi.Report) -> dict[str, Any]:
    """All that a report says, with routes as what they cost: of equally short ones any will do."""
    plain = report_dict(report)
    said = {"answers": plain["answers"], "complete": plain["search"]["complete"]}
    said["answers"]["order"] = closure({(a, b) for a, b in said["answers"]["order"]})
    said["answers"]["measures"].pop("pace", None)
    said["answers"]["measures"].pop("choices")  # they are those of one shortest run
    said["answers"]["measures"].pop("walked-again")
    for run in ("finish", "all-rewards"):
        if said["answers"]["measures"][run] is not None:
            said["answers"]["measures"][run].pop("moves")
    said["routes"] = {name: cost(route) for name, route in plain["routes"].items()}
    said["mistakes"] = mistakes(plain)
    said["findings"] = sorted(
        (one["code"], one["severity"], one["subject"], cost(one.get("route")))
        for one in plain["findings"]
        if one["code"] not in ("can-get-stuck", "can-die", "reward-can-be-missed", "bypassed")
    )
    said["ways"] = sorted(  # what comes last in them may differ, what they cost may not
        (one["code"], cost(one["route"]))
        for one in plain["findings"]
        if one["code"] in ("can-die", "reward-can-be-missed", "bypassed") and "route" in one
    )
    return said


def cost(route: dict[str, Any] | None) -> tuple[int, bool]:
    return (route["steps"], route["shortest"]) if route else (-1, False)


def mistakes(plain: dict[str, Any]) -> dict[str, tuple[int, bool]]:
    """Each mistake with what the route to it costs, and whether that is proven to be the least."""
    return {
        json.dumps(one["mistake"]): cost(one["route"])
        for finding in plain["findings"]
        if finding["code"] == "can-get-stuck"
        for one in [finding, *finding.get("also", [])]
        if "mistake" in one
    }


@given(ANY)
@few
def test_diagrams_answer_as_positions_do(plain: dict[str, Any]) -> None:
    level = readable(plain)
    expected, found = explicit(level), symbolic(level)
    assert told(found) == told(expected)
    assert found.search.positions == expected.search.positions
    assert found.unreached == expected.unreached


@given(ANY)
@few
def test_rewards_that_share_a_search_are_missed_as_soon_as_alone(plain: dict[str, Any]) -> None:
    """However rewards are put together, the route to what misses each costs the same, and misses it."""
    level = readable(plain)
    rules = compile_level(level)
    found = []
    for same in (lambda *_: False, lambda *_: True, missable._much_the_same):
        for space in (
            ExplicitSpace(rules, Limits().begin()),
            symbolic_space(rules, Limits().begin()),
        ):
            if space is None or not space.complete:
                continue
            context: Context[Any] = Context(level, rules, space.limits, space)
            with pytest.MonkeyPatch.context() as patch:
                patch.setattr(missable, "_much_the_same", same)
                _, missed = missable.of_all(context, status.by_name(status.of_all(context)))
            for name, route in missed.items():
                if route is not None:
                    _, lost = missable._missed(context, context.sets, context.rewards[name])
                    assert space.contains(lost, route.positions[-1])
                    assert not space.contains(lost, route.positions[-2])
            found.append({name: one and (one.steps, one.shortest) for name, one in missed.items()})
    assert all(one == found[0] for one in found)


@given(alike_levels())
@few
def test_a_run_with_like_things_swapped_is_a_run_too(plain: dict[str, Any]) -> None:
    level = readable(plain)
    rules = compile_level(level)
    found = explore(rules, Limits(600).begin())
    interchange = Interchange(Relaxed(rules))
    things = [one.variable for one in subjects(level, rules)]
    for one, other in combinations(things, 2):
        swap = interchange.swap(one, other)
        for number in range(0, len(found.positions) if swap else 0, 5):
            run = found.route_to(number)
            assert swap is not None
            there = replay(rules, swap.run(rules, run)).positions[-1]
            assert (there[END], there[one]) == (
                found.positions[number][END],
                found.positions[number][other],
            )
            assert not found.complete or found.costs[found.numbers[there]] == found.costs[number]


ODD: dict[str, Callable[[dict[str, Any]], object]] = {
    "none": lambda plain: None,
    "a longer way": lambda plain: way_to_odd(plain).update(steps=2),
    "a way with no return": lambda plain: plain["passages"][2].update(
        {"hall -> closet-2": plain["passages"][2].pop("hall <-> closet-2")}
    ),
    "drops to other rooms": lambda plain: plain["passages"].__setitem__(
        slice(-3, -1),
        [{"closet-2 -> shed": {"gate": "lit"}}, {"closet-2 -> hall": {"gate": "lit"}}],
    ),
    "a dearer lock": lambda plain: way_to_odd(plain).update(lock="2 peg"),
    "another gate": lambda plain: way_to_odd(plain).update(gate="not lit and not dusty-2"),
    "more on the floor": lambda plain: plain["rooms"]["closet-2"].update(items={"ledger-2": 2}),
    "more from an act": lambda plain: plain["rooms"]["closet-2"]["acts"]["bow-2"].update(
        gives=["peg", "peg"]
    ),
    "an act that costs": lambda plain: plain["rooms"]["closet-2"]["acts"]["bow-2"].update(
        spends="peg"
    ),
    "a flag that is on": lambda plain: plain["flags"].update({"dusty-2": True}),
    "the start": lambda plain: plain.update(start="closet-2"),
}


def way_to_odd(plain: dict[str, Any]) -> dict[str, Any]:
    """The way to the closet that is unlike the others."""
    way: dict[str, Any] = plain["passages"][2]["hall <-> closet-2"]
    return way


def searched_one_by_one(level: ukemi.Level) -> tuple[list[str], ukemi.Report]:
    """The rewards that diagrams are asked about by themselves, and the report."""
    searched: list[str] = []
    answer = missable._answer

    def searching(context: Context[Any], subject: str) -> Any:
        searched.append(subject)
        return answer(context, subject)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(missable, "_answer", searching)
        return searched, symbolic(level)


def test_rewards_that_are_never_missed_are_proven_so_together() -> None:
    level = ukemi.loads(
        "{start: quay, goal: mill, items: {ledger: {kind: reward}, cup: {kind: reward},"
        " plate: {kind: reward}, bell: {kind: reward}}, rooms: {quay: {items: [ledger, cup]},"
        " mill: {items: plate}, loft: {items: bell}},"
        " passages: [quay -> mill, mill -> loft, loft -> mill]}"
    )
    searched, found = searched_one_by_one(level)
    assert searched == ["quay/ledger"]  # the cup lies beside it
    assert told(found) == told(explicit(level))


@pytest.mark.parametrize("odd", ODD)
def test_of_closets_that_are_alike_but_for_names_one_is_asked_about(odd: str) -> None:
    numbers = range(3)
    plain: dict[str, Any] = {
        "start": "hall",
        "goal": "shed",
        "flags": {"lit": True, **{f"dusty-{n}": False for n in numbers}},
        "items": {"peg": {"use": "spent"}, **{f"ledger-{n}": {"kind": "reward"} for n in numbers}},
        "rooms": {
            "hall": {"items": {"peg": 3}, "switches": {"lamp": {"flips": "lit"}}},
            "shed": {},
        },
        "passages": [
            {
                f"hall <-> closet-{n}": {
                    "lock": "peg",
                    "name": f"door-{n}",
                    "gate": f"lit and not dusty-{n}",
                }
            }
            for n in numbers
        ],
    }
    for n in numbers:
        acts = {f"bow-{n}": {"gives": "peg"}}
        plain["rooms"][f"closet-{n}"] = {"items": {f"ledger-{n}": 1}, "acts": acts}
        plain["passages"] += [{f"closet-{n} -> {to}": {"gate": "lit"}} for to in ("hall", "shed")]
    plain["passages"].append({"hall <-> shed": {"lock": "2 peg"}})
    ODD[odd](plain)
    level = ukemi.loads(json.dumps(plain))
    searched, found = searched_one_by_one(level)
    assert searched == [f"closet-{n}/ledger-{n}" for n in ((0,) if odd == "none" else (0, 2))]
    assert told(found) == told(explicit(level, 50_000))


def test_what_one_walk_does_at_once_comes_in_no_order() -> None:
    """Whoever enters the mill takes the grain by that walk: neither comes before the other."""
    level = ukemi.loads(
        "{start: quay, goal: loft, rules: {pickup: touch}, items: {grain: {}},"
        " rooms: {quay: {}, mill: {items: grain}, loft: {}},"
        " passages: [quay <-> mill, mill <-> loft: {gate: grain}]}"
    )
    found = symbolic(level)
    assert told(found) == told(explicit(level))
    assert {("mill", "mill/grain"), ("mill/grain", "mill")}.isdisjoint(found.answers.order)


@given(ANY)
@few
def test_all_evidence_together_answers_as_positions_do(plain: dict[str, Any]) -> None:
    """With no positions looked at first: a projection, guided searches, landmarks or diagrams."""
    level = readable(plain)
    expected = explicit(level)
    limits = Limits(seconds=20, memory=1 << 26, few=1).begin()
    context = gather(level, limits)
    assume(context.free is None and not context.space.by_position)
    found = report_on(context)
    assume(not limits.over)
    assert told(found) == told(expected)


@given(ANY, st.randoms(use_true_random=False))
@few
def test_runs_to_any_positions_are_cheapest(plain: dict[str, Any], random: Random) -> None:
    """Into sets that no question asks for, through all positions and within those that can finish."""
    level = readable(plain)
    rules = compile_level(level)
    each, every = ExplicitSpace(rules, Limits(3_000).begin()), AllPositions(rules)
    whole = symbolic_space(rules, Limits(memory=1 << 26).begin()) if each.complete else None
    assume(whole is not None)
    good, same = (space.before(space.ended(FINISHED)) for space in (each, whole))
    assert whole.count(same) == each.count(good)
    for _ in range(6):
        values = random.choice(each.found.positions)
        alone = whole.only(values)
        assert whole.count(alone) == 1 and whole.contains(alone, values)
        asked = [variable for variable in range(len(values)) if variable != END]
        some = random.sample(asked, random.randint(1, min(4, len(asked))))
        guard = all_of(*(Is(variable, values[variable]) for variable in some))
        targets, alike = each.where(guard), whole.where(guard)
        for within, such in ((None, None), (good, same)):
            wanted = targets if within is None else targets & within
            if not wanted:
                continue
            least = each.run_to(wanted).cost
            run = whole.run_to(alike if such is None else alike & such, such)
            assert run.cost == run.at_least == least
            end = replay(rules, run.moves).positions[-1]
            assert guard.holds(end)
            if not level.several and within is None:
                estimate = remaining_cost(rules, each, wanted)
                every.check_estimate(estimate, guard.holds)
                anyhow = replace(estimate, first=frozenset())
                run = whole.run_to(alike, whole.before(alike), lambda anyhow=anyhow: anyhow)
                assert run.cost == run.at_least == least


@given(ANY, st.randoms(use_true_random=False))
@few
def test_cheapest_finishing_runs_with_some_things_done(
    plain: dict[str, Any], random: Random
) -> None:
    """By an estimate, and with safe moves first, beside all positions one by one."""
    level = readable(plain)
    rules = compile_level(level)
    each = ExplicitSpace(rules, Limits(3_000).begin())
    whole = symbolic_space(rules, Limits(memory=1 << 26).begin()) if each.complete else None
    assume(whole is not None)
    contexts = [Context(level, rules, space.limits, space) for space in (each, whole)]
    names = [one.name for one in contexts[0].subjects]
    for count in (0, 1, len(names) // 2, len(names)):
        some = random.sample(names, min(count, len(names)))
        routes = [context.sets.finishing_with(some) for context in contexts]
        assert len({route is None for route in routes}) == 1
        if routes[0] is not None:
            assert all(route.shortest for route in routes)
            assert routes[0].steps == routes[1].steps
            end = contexts[0].sets.finished_with(some)
            number = each.found.positions.index(routes[1].positions[-1])
            assert number in end


class Both:
    """One level in both spaces; each set is made in both, and compared position by position."""

    def __init__(self, each: ExplicitSpace, whole: SymbolicSpace, random: Random) -> None:
        self.each, self.whole, self.random = each, whole, random
        self.positions = each.found.positions

    def same(self, one: Any, other: Any) -> tuple[Any, Any]:
        assert self.whole.count(other) == self.each.count(one)
        for number, position in enumerate(self.positions):
            assert self.whole.contains(other, position) == (number in one)
            assert self.each.contains(one, position) == (number in one)
        return one, other

    def some(self) -> tuple[Any, Any]:
        """Some positions: those that share some values with one of them, or all but those."""
        values = self.random.choice(self.positions)
        chosen = self.random.sample(range(len(values)), self.random.randint(0, min(3, len(values))))
        guard: Any = all_of(*(Is(variable, values[variable]) for variable in chosen))
        guard = Negated(guard) if chosen and self.random.random() < 0.3 else guard
        return self.same(self.each.where(guard), self.whole.where(guard))

    def leading(self, changing: tuple[int, int] | None) -> None:
        sources, targets = self.some(), self.some()
        found = self.each.leading(sources[0], targets[0], changing)
        other = self.whole.leading(sources[1], targets[1], changing)
        assert {move.number for move in found} == {move.number for move in other}
        for move, some in found.items():
            self.same(some, other[move])

    def run_to(self, limited: bool) -> None:
        targets, within = self.some(), self.some() if limited else (None, None)
        runs = self.each.run_to(targets[0], within[0]), self.whole.run_to(targets[1], within[1])
        assert (runs[0] is None) == (runs[1] is None)
        if runs[0] is None or runs[1] is None:
            return
        assert runs[0].cost == runs[0].at_least == runs[1].cost == runs[1].at_least
        for run in runs:
            route = replay(self.each.rules, run.moves).positions
            assert self.each.contains(targets[0], route[-1])
            assert not limited or all(self.each.contains(within[0], one) for one in route)


@given(ANY, st.randoms(use_true_random=False))
@settings(few, max_examples=max(LEVELS // 2, 10))
def test_each_operation_gives_the_same_in_both_spaces(
    plain: dict[str, Any], random: Random
) -> None:
    rules = compile_level(readable(plain))
    each = ExplicitSpace(rules, Limits(400).begin())
    whole = symbolic_space(rules, Limits(memory=1 << 26).begin()) if each.complete else None
    assume(whole is not None)
    assert whole is not None
    both = Both(each, whole, random)
    both.same(each.reachable, whole.reachable)
    both.same(each.start, whole.start)
    for end in (PLAYING, FINISHED, DEAD):
        both.same(each.ended(end), whole.ended(end))
    for place in range(len(rules.places)):
        both.same(each.at(place), whole.at(place))
        source = both.some()
        both.same(each.after(source[0], around=place), whole.after(source[1], around=place))
    for variable in range(len(rules.variables)):
        for value in range(max(one[variable] for one in both.positions) + 2):
            among = both.some()
            both.same(
                each.having(variable, value, among[0]), whole.having(variable, value, among[1])
            )
            both.leading((variable, value))
    for _ in range(4):
        one, other = both.some(), both.some()
        assert each.places(one[0]) == whole.places(one[1])
        both.same(each.before(one[0], one[0] | other[0]), whole.before(one[1], one[1] | other[1]))
        both.same(each.before(one[0]), whole.before(one[1]))
        both.same(each.after(one[0] - other[0], avoiding=other[0]),
                  whole.after(one[1] - other[1], avoiding=other[1]))  # fmt: skip
        left_out = random.sample(range(len(rules.moves)), min(2, len(rules.moves)))
        both.same(each.after(one[0], without=left_out), whole.after(one[1], without=left_out))
        alone = random.choice(both.positions)
        both.same(each.only(alone), whole.only(alone))
        both.leading(None)
        both.run_to(limited=False)
        both.run_to(limited=True)
        assert (one[0] <= other[0]) == (one[1] <= other[1])
        both.same(one[0] - other[0], one[1] - other[1])
        both.same(one[0] & other[0], one[1] & other[1])
        both.same(one[0] | other[0], one[1] | other[1])


@given(ANY, st.randoms(use_true_random=False), st.booleans())
@few
def test_units_that_stay_lying_are_as_good_as_none(
    plain: dict[str, Any], random: Random, diagrams: bool
) -> None:
    """The positions in which they lie answer as a level without them does."""
    level = readable(plain)
    rules = compile_level(level)
    limits = Limits(3_000, seconds=20).begin()
    space = symbolic_space(rules, limits) if diagrams else ExplicitSpace(rules, limits)
    assume(space is not None and space.complete)
    context: Context[Any] = Context(level, rules, limits, space)
    units = [
        (item, where)
        for item in level.items
        for where, n in units_of(level, item)
        for _ in range(n)
    ]
    without = random.sample(units, min(len(units), random.randint(1, 3)))
    part, fewer = left_lying(context, [where for _, where in without]), level
    assume(part is not None and without)
    for item, where in without:
        fewer = without_unit(fewer, item, where)
    plainly = gather(fewer, limits, at_once=True)
    assume(plainly.all_seen)
    for ask in (
        can_finish.possible,
        together.possible,
        lambda one: get_stuck.ask(one).answer,
        die.ask,
    ):
        same = [getattr(ask(one), "answer", ask(one)) for one in (part, plainly)]
        alike = ask != together.possible or set(part.rewards) == set(plainly.rewards)
        assert same[0] == same[1] or not alike
    for name, subject in plainly.rewards.items():
        assert status.ask(part, [subject]) == status.ask(plainly, [subject]), name
        assert missable.possible(part, subject) == missable.possible(plainly, subject), name


@pytest.mark.parametrize(
    ("thing", "asked", "left"),
    [
        ("chests: {bin: {holds: peg}}", "oar", True),
        ("acts: {bin: {needs: oar, gives: peg}}", "oar", True),
        ("chests: {bin: {holds: [peg, oar]}}", "oar", False),
        ("chests: {bin: {holds: peg, lock: oar}}", "oar", False),
        ("chests: {bin: {holds: peg, sets: lit}}", "lit", False),
        ("acts: {bin: {gives: peg, sets: lit}}", "lit", False),
        ("acts: {bin: {gives: peg, teaches: lit}}", "lit", False),
        ("chests: {bin: {holds: peg}}", "opened bin", False),
        ("acts: {bin: {gives: peg}}", "done bin", False),
        ("chests: {bin: {holds: peg}}", "all peg", False),
    ],
)
def test_a_unit_is_left_only_in_what_does_nothing_else(thing: str, asked: str, left: bool) -> None:
    level = ukemi.loads(
        f"{{start: quay, goal: mill, items: {{peg: {{}}, oar: {{use: spent}}}}, rooms: {{quay: {{items: oar, {thing}}},"
        f" mill: {{}}}}, passages: [quay <-> mill: {{gate: {asked}}}]}}"
    )
    context = gather(level, Limits().begin(), at_once=True)
    assert (left_lying(context, ["bin"]) is not None) == left


@given(st.one_of(free_levels(), ANY))
@few
def test_landmarks_answer_as_positions_do(plain: dict[str, Any]) -> None:
    level = readable(plain)
    assume(landmarks_agree(level))
    context = free_context(level)
    every = AllPositions(context.rules)
    if every.complete and context.free.can_finish:
        every.check(context.free.at_least(set()), lambda position: position[END] == FINISHED)


KEYS = "start: quay, items: {iron: {}, oak: {max: 1}}, inventory: {start: iron}, flags: [lit]"
ROOMS = "rooms: {quay: {items: iron}, mill: {}, loft: {}}, goal: mill"
DROP = (
    "start: quay, items: {iron: {}, oak: {}, grain: {}}, inventory: {start: oak}, rooms: {quay: {items: iron},"
    " mill: {items: grain}, pit: {}, loft: {}}, passages: [quay -> mill, quay <-> loft"
)


@pytest.mark.parametrize(
    "text",
    [
        "{start: quay, goal: oak, items: {oak: {max: 1}}, rooms: [quay, mill], rules: {finish: touch},"
        " passages: [quay <-> mill: {gives: oak}]}",
        f"{{{KEYS}, {ROOMS}, passages: [quay <-> mill, mill <-> loft: {{gate: not lit}}],"
        " events: {flood: {when: at mill, sets: lit}}}",
        f"{{{KEYS}, {ROOMS}, passages: [quay <-> mill, mill <-> loft: {{gate: lit}}],"
        " events: {flood: {when: at loft, clears: lit}, dusk: {when: at mill, sets: lit}}}",
        "{goal: far, items: {iron: {on-pickup: {sets: lit}}, oak: {max: 1}}, flags: {low: true, lit: true},"
        " inventory: {start: [iron, oak]}, rooms: {yard: {items: {iron: 1, oak: 1}}}, passages: [far <-> yard],"
        " events: {flood: {when: 2 iron, spends: iron, sets: lit, clears: low}},"
        " legend: {G: {gate: 2 iron}, z: {room: far}}, maps: {ground: ['@zG', '...']}}",
        "{start: quay, goal: loft, items: {iron: {}, oak: {use: spent}}, rooms: {loft: {}, quay: {items: [iron, oak],"
        " chests: {bin: {holds: iron, lock: iron or oak}}}}, passages: [quay <-> loft: {gate: oak}]}",
        f"{{{KEYS}, {ROOMS}, passages: [quay <-> loft, quay <-> mill: {{sets: lit}}], rules: {{finish: touch}},"
        " events: {flood: {when: lit, gives: oak}}}",
        f"{{goal: loft, {DROP}, quay <-> mill: {{lock: iron, name: door}}]}}",
        f"{{goal: loft, {DROP}, mill <-> pit, pit -> quay: {{gate: iron}}]}}",
        f"{{goal: at loft and grain, {DROP}, mill <-> pit, pit <-> quay]}}",  # back by the pit
    ],
)
def test_what_can_lose_something_is_not_taken_for_free(text: str) -> None:
    landmarks_agree(ukemi.loads(text))


def test_what_happens_at_the_start_is_done_before_every_room() -> None:
    text = (
        "{start: quay, goal: mill, items: {lamp: {}, oak: {}}, inventory: {start: lamp}, rooms: {quay: {items: oak},"
        " mill: {}, pit: {}}, events: {gift: {when: lamp, opens: hatch}}, passages: [quay <-> mill,"
        " quay <-> mill: {lock: oak, name: door}, mill <-> pit: {lock: lamp, name: hatch}]}"
    )
    assert landmarks_agree(ukemi.loads(text))


def test_what_a_walk_gives_is_had_where_it_leads() -> None:
    assert landmarks_agree(
        ukemi.loads(
            "{start: quay, goal: loft, flags: [wet], rooms: [quay, mill, loft],"
            " passages: [quay <-> mill: {sets: wet}, quay <-> loft: {gate: wet}]}"
        )
    )


def test_places_where_ways_part_are_told_apart() -> None:
    level = ukemi.loads(
        "{start: quay, goal: loft, items: {oak: {}, ash: {}, elm: {}}, rooms: {quay: {items: [oak, ash, elm]},"
        " mill: {acts: {pull: {}, push: {}, turn: {}}}, yard: {}, loft: {}}, passages: ["
        "quay <-> mill: {lock: oak, name: hatch}, quay <-> mill: {lock: ash, name: door}, mill <-> yard:"
        " {gate: done pull or done push or done turn}, yard <-> loft: {lock: elm, name: trap}, yard <-> loft]}"
    )
    assert landmarks_agree(level)
    told = report_on(free_context(level)).answers.alternatives
    assert [one.ways for one in told] == [
        (("pull",), ("push",), ("turn",)),
        (("hatch", "quay/oak"), ("door", "quay/ash")),
    ]
    assert [(one.before, one.after) for one in told] == [((), ()), ((), ())]


@pytest.mark.parametrize("claim", ["optional: iron", "required: grain", "required: oak"])
def test_claims_of_things_that_are_had_in_several_rooms(claim: str) -> None:
    level = ukemi.loads(
        "{start: quay, goal: loft, items: {iron: {}, oak: {}, grain: {}}, rooms: {quay: {items: [iron, grain]},"
        " mill: {items: [iron, grain]}, loft: {}}, passages: [quay <-> mill, quay <-> loft: {lock: iron}],"
        f" expect: {{{claim}}}}}"
    )
    assert landmarks_agree(level)
    assert len(claims(ukemi.check(level))) == 1


def test_two_one_way_passages_are_as_good_as_one_that_is_not() -> None:
    assert landmarks_agree(ukemi.loads(f"{{goal: loft, {DROP}, mill -> quay: {{gate: oak}}]}}"))


def test_rooms_with_nothing_in_them_are_required_too() -> None:
    """Where there is nothing to do but to walk, the rooms on the only way are required."""
    level = ukemi.loads(
        "{start: quay, goal: mill, rooms: [quay, race, mill, yard],"
        " passages: [quay <-> race, race <-> mill, race <-> yard]}"
    )
    assert landmarks_agree(level)
    assert report_on(free_context(level)).answers.rooms["race"] == "required"


def test_a_door_that_can_be_gone_round_where_nothing_is_lost() -> None:
    level = ukemi.loads(
        "{start: quay, goal: mill, items: {key: {}}, rooms: {quay: {items: key}, yard: {}, mill: {}},"
        " passages: [quay <-> mill: {lock: key, name: door}, quay <-> yard, yard <-> mill: {steps: 2}]}"
    )
    assert landmarks_agree(level)
    free = free_context(level)
    (found,) = report_on(free).with_code("bypassed")
    assert [move["to"] for move in found.route.whats] == ["yard", "mill"]


def landmarks_agree(level: ukemi.Level) -> bool:
    """Whether landmarks answer for a level at all; where they do, as positions do."""
    free = free_context(level)
    if free is None:
        return False
    check_bounds(free)
    reports = explicit(level), report_on(free)
    ways = [{(one.subject, one.why) for one in report.with_code("bypassed")} for report in reports]
    assert ways[0] == ways[1]
    expected, found = map(told, reports)
    # Those of a run are told only where it is proven shortest.
    measures, known = (said["answers"].pop("measures") for said in (found, expected))
    assert measures["keys"].items() <= known["keys"].items()
    assert found["answers"] == expected["answers"]
    for name, (steps, shortest) in found["routes"].items():
        least = expected["routes"][name][0]
        assert steps == least if shortest else steps >= least
        assert reports[1].routes[name].at_least <= least
    assert seen(found) == seen(expected)
    assert claims(reports[0]) == claims(reports[1])
    return True


def check_bounds(context: Context[Any]) -> None:
    """Check the evidence of what finishing runs cost at least, with and without all rewards."""
    rules, every = context.rules, AllPositions(context.rules)
    rewards = {context.by_name[name].variable for name in context.rewards.values()}
    for asked in (set(), rewards):
        every.check(
            context.free.at_least(asked),
            lambda one: (
                one[END] == FINISHED and all(one[v] != rules.initial[v] for v in asked)  # noqa: B023
            ),
        )


def claims(report: ukemi.Report) -> set[tuple[str, bool]]:
    """The claims that do not hold, each with whether a run shows it."""
    return {(one.message, one.route is not None) for one in report.with_code("expectation-failed")}


@given(ANY, st.randoms(use_true_random=False))
@few
def test_a_guided_search_finishes_where_something_finishes(
    plain: dict[str, Any], random: Random
) -> None:
    level = readable(plain)
    rules = compile_level(level)
    space = ExplicitSpace(rules, Limits(2_000).begin())
    assume(space.complete)
    able = space.before(space.ended(FINISHED))
    around = random.randrange(len(rules.places))
    elsewhere = space.reachable - space.at(around)
    able_around = space.before(space.ended(FINISHED) & elsewhere, elsewhere)
    planner = Planner(Relaxed(rules))
    for number in random.sample(range(len(space.found.positions)), min(8, len(space.reachable))):
        position = space.found.positions[number]
        finishes(rules, position, find_run(planner, position, 5_000), number in able)
        if position[PLACE] != around:
            run_found = find_run(planner, position, 5_000, around=around)
            finishes(rules, position, run_found, number in able_around, around)


def finishes(
    rules: Rules, here: Position, run_found: list[Move] | None, able: bool, around: int = -1
) -> None:
    """Check that a run finishes without entering a room, or that there is none."""
    assert (run_found is not None) == able
    for move in run_found or ():
        after = rules.after(here, move)
        assert after is not None and after[PLACE] != around
        here = after
    assert run_found is None or here[END] == FINISHED


@given(ANY)
@few
def test_a_run_that_gets_stuck_is_found_without_the_positions(plain: dict[str, Any]) -> None:
    level = readable(plain)
    rules = compile_level(level)
    space = ExplicitSpace(rules, Limits(3_000).begin())
    assume(space.complete)
    sets = Context(level, rules, space.limits, space).sets
    relaxed = Relaxed(rules)
    run = find_stuck(relaxed)
    assert run is None or (run and sets.lost)
    if run is not None:
        route = replay(rules, run)
        assert space.contains(sets.lost, route.positions[-1])
        if finishes_but_for_the_last(relaxed, run):
            assert space.contains(sets.can_finish, route.positions[-2])


@given(ANY, st.randoms(use_true_random=False))
@few
def test_a_projection_gives_up_nothing_that_finishes(plain: dict[str, Any], random: Random) -> None:
    """Neither a position of the level nor one with another value, as a reason tries it."""
    rules = compile_level(readable(plain))
    space = ExplicitSpace(rules, Limits(3_000).begin())
    assume(space.complete)
    projection = Projection(rules, Limits().begin())
    positions = space.found.positions
    for number in space.before(space.ended(FINISHED)):
        assert projection.may_finish(positions[number])
    for _ in range(12):
        values = list(random.choice(positions))
        variable = random.randrange(PLACE, len(values))
        values[variable] = random.randint(0, 2) if variable != END else PLAYING
        values[PLACE] %= len(rules.places)
        changed = rules.settle(values)
        if not projection.may_finish(changed):
            assert find_finish(rules, changed, 100_000) is None


def test_a_flag_that_is_needed_off_and_on_is_seen_without_the_positions() -> None:
    """The relaxed level finishes; with sixteen things to take, the first answers need no search."""
    level = ukemi.loads(
        """
        start: quay
        goal: mill
        items: {oak: {}, iron: {use: spent}}
        rooms: {quay: {switches: {sluice: {flips: low-water}}, items: iron}, race: {items: oak}, mill: {}}
        passages: [quay -> race: {gate: low-water}, race <-> mill: {gate: not low-water, lock: iron}]
        """
    )
    for number in range(16):
        level.item(f"bell-{number}")
        level.put("quay", f"bell-{number}")
    first: list[tuple[str, str]] = []
    report = ukemi.check(level, on_answer=lambda name, answer: first.append((name, answer.value)))
    assert first[:2] == [("finish", "no"), ("stuck", "possible")]
    assert report.answers.finish == "no" and report.answers.all_rewards == "no"
    rules = compile_level(level)
    projection = Projection(rules, Limits().begin())
    assert not projection.may_finish(rules.start())
    position = rules.start()
    for done in ("take", "act", "walk"):  # into the race, with something in hand
        moves = rules.successors(position)
        position = next(after for move, after in moves if move.what["do"] == done)
    assert rules.places[position[PLACE]] == "race" and not projection.may_finish(position)
    assert Relaxed(rules).reach(rules.start()).finishes


def test_what_is_missing_is_wanted_for_what_finishing_takes() -> None:
    """And for nothing else that the run in which all that is free is done comes by."""
    level = ukemi.loads(
        "{start: quay, goal: mill, items: {key: {}}, rooms: {quay: {items: key}, yard: {}, store: {}, mill: {}},"
        " passages: [quay -> yard, yard <-> store: {lock: key, name: store-door}, yard <-> mill: {lock: key, name: mill-door}]}"
    )
    rules = compile_level(level)
    route = replay(rules, [move for move in rules.moves if move.what["do"] == "walk"][:1])
    few = ExplicitSpace(rules, Limits(1).begin())
    reason = Reasons(Context(level, rules, few.limits, few)).explain(route)
    assert reason.why.startswith("Needs 1 key to unlock mill-door")


def seen(said: dict[str, Any]) -> set[tuple[str, ...]]:
    """Findings without routes; keys to spare are told only where a run is proven shortest."""
    return {one[:3] for one in said["findings"] if one[0] != "spare-keys"}


@given(ANY, st.integers(1, 60), st.one_of(st.integers(0, 40), st.integers(0, 400)))
@few
def test_what_is_cut_short_contradicts_nothing(
    plain: dict[str, Any], most: int, ticks: int
) -> None:
    compare_cut_short(readable(plain), most, ticks)


def test_what_is_cut_short_anywhere_contradicts_nothing() -> None:
    level = ukemi.loads(
        "{start: quay, goal: grain, items: {grain: {}, key: {use: spent}}, passages: [quay <-> pit, quay <-> loft:"
        " {lock: key}], rooms: {quay: {items: key}, pit: {items: grain}, loft: {items: grain}}}"
    )
    for ticks in range(0, 400, 9):
        compare_cut_short(level, ticks // 9 + 1, ticks)


def compare_cut_short(level: ukemi.Level, most: int, ticks: int) -> None:
    """Compare reports that time or a limit cuts short with the whole report."""
    whole = told(explicit(level))
    rules = compile_level(level)
    space = symbolic_space(rules, Limits(memory=1 << 26, deadline=Ticks(ticks)))
    few = ExplicitSpace(rules, Limits(most).begin())
    reports = [report_on(Context(level, rules, few.limits, few))]
    reports += [] if space is None else [report_on(Context(level, rules, space.limits, space))]
    free = free_context(level, Limits(deadline=Ticks(ticks)))
    reports += [] if free is None else [report_on(free)]
    for report in reports:
        cut = report_dict(report)
        agrees(cut["answers"], whole["answers"])
        for name, route in cut["routes"].items():
            least = whole["routes"][name][0]
            assert route["steps"] >= least >= route.get("at-least", 0)
            assert not route["shortest"] or route["steps"] == least
        for mistake, (steps, shortest) in mistakes(cut).items():
            least = whole["mistakes"][mistake][0]
            assert steps >= least
            assert not shortest or steps == least


def agrees(cut: Any, whole: Any) -> None:
    """Whatever is not unknown is as it is when all is known."""
    for name, value in cut.items():
        if isinstance(value, dict) and name != "measures":
            agrees(value, whole[name])
        elif name == "order" and value != "unknown":
            assert closure({(a, b) for a, b in value}) == whole[name]
        elif name not in ("order", "measures") and value != "unknown":
            assert value == whole[name], name


class Ticks(Deadline):
    """A deadline that comes after it has been looked at so often."""

    def __init__(self, looks: int) -> None:
        super().__init__()
        self.looks = looks

    @property
    def over(self) -> bool:
        self.looks -= 1
        return self.looks < 0


@pytest.mark.parametrize("file", sorted(DEMO.glob("*.yaml")), ids=lambda file: file.stem)
def test_demo_levels_are_answered_alike(file: Path) -> None:
    level = ukemi.load(file)
    assert told(symbolic(level)) == told(explicit(level))


@pytest.mark.parametrize("seed", range(3))
def test_levels_as_designers_build_them_are_settled(seed: int) -> None:
    from benchmarks.families import designed

    report = ukemi.check(designed(20, seed))
    assert report.search.complete
    assert report.routes["finish"].shortest


def test_hundreds_of_things_of_which_nothing_is_lost_are_settled() -> None:
    from benchmarks.families import chain, hall

    for level in (hall(60), chain(300)):
        report = ukemi.check(level, max_seconds=60)
        assert report.search.complete
        assert (report.answers.finish, report.answers.stuck) == ("yes", "never")
        assert {one.missable for one in report.answers.rewards.values()} <= {"no"}
    assert report.routes["finish"].shortest
    assert len(report.answers.order or ()) == 897  # key, door and room, one after another


def test_numbers_too_large_for_diagrams_are_settled_position_by_position() -> None:
    level = ukemi.loads(
        "{start: quay, goal: mill, items: {coin: {kind: supply, max: 300}}, flags: [a, b, c, d], rooms: {mill: {},"
        " quay: {acts: {mint: {gives: coin, repeat: true}}, switches: {sa: {flips: a}, sb: {flips: b}, sc: {flips: c}, sd: {flips: d}}}},"
        " passages: [quay <-> mill: {lock: 300 coin, name: door}]}"
    )
    report = ukemi.check(level)
    assert report.search.complete and report.search.positions > FIRST
    assert (report.answers.finish, report.answers.stuck) == ("yes", "never")
    assert report.routes["finish"].steps == 302


def test_free_ways_in_a_row_are_walked_in_order() -> None:
    level = ukemi.loads(
        "{start: a, goal: e, rooms: [a, b, c, d, e, pit], passages: [a -> b: {steps: 0}, b -> c: {steps: 0},"
        " c -> d: {steps: 0}, d -> a: {steps: 0}, d -> e, d -> pit]}"
    )
    assert symbolic(level).routes["finish"].steps == 1
    assert told(symbolic(level)) == told(explicit(level))


def test_switches_on_a_ring_and_doors_on_a_hub() -> None:
    from benchmarks.families import hub, ring

    report = ukemi.check(ring(12))
    assert (report.search.complete, report.answers.stuck) == (True, "never")
    report = ukemi.check(hub(12))
    assert report.search.complete
    assert len(mistakes(report_dict(report))) == 7


def test_the_time_is_kept_whatever_is_asked() -> None:
    from benchmarks.families import designed

    for ticks in (0, 5, 50, 500, 5_000):
        limits = Limits(deadline=Ticks(ticks))
        report = report_on(gather(designed(20, 2), limits))
        assert report.answers.finish in ("yes", "unknown")
        assert report.answers.stuck in ("possible", "unknown")


def test_a_route_is_called_shortest_only_where_that_is_proven() -> None:
    random = Random(3)
    for _ in range(20):
        level = ukemi.load(DEMO / random.choice(["wasted-key.yaml", "one-way-drop.yaml"]))
        report = ukemi.check(level, max_positions=random.randint(1, 20))
        for finding in report.findings:
            if finding.route is not None and finding.mistake is not None:
                assert not finding.route.shortest or report.search.complete


def test_without_a_run_at_hand_nothing_is_guessed(monkeypatch: pytest.MonkeyPatch) -> None:
    level = ukemi.load(DEMO / "wasted-key.yaml")
    expected = explicit(level).answers
    monkeypatch.setattr(Sets, "finishing", None)
    found = explicit(level).answers  # as where the memory was over just then
    assert found.rooms == expected.rooms
    assert "required" in found.rooms.values()
    assert found.order is None


def test_what_happens_before_the_first_move_is_done_on_every_run() -> None:
    level = ukemi.loads(
        "{start: quay, goal: mill, items: {iron: {}}, inventory: {start: iron}, flags: [shut], rooms: [quay, mill],"
        " passages: [quay <-> mill: {lock: shut, name: door}], events: {flood: {when: iron, opens: door}}}"
    )
    free = free_context(level)
    assert free is not None
    for report in (explicit(level), report_on(free)):
        assert report.answers.doors == {"door": "required"}
        assert report.answers.events == {"flood": "required"}


DROPPED = """
start: quay
goal: loft
items: {{oak: {{{kind}}}}}
inventory: {{start: oak, drop: true}}
rooms: {{quay: {{{thing}}}, loft: {{}}}}
passages: [quay <-> loft: {{lock: {lock}}}]
"""


@pytest.mark.parametrize(
    ("kind", "lock"), [("max: 1", "oak"), ("", "2 oak"), ("kind: supply, max: 2", "2 oak")]
)
def test_what_was_put_down_is_counted_too(kind: str, lock: str) -> None:
    # who puts the oak down before the chest takes it has two of them in the end
    thing = "chests: {bin: {loses: oak, holds: oak}}"
    level = ukemi.loads(DROPPED.format(kind=kind, thing=thing, lock=lock))
    expected, found = explicit(level), symbolic(level)
    assert found.search.positions == expected.search.positions
    assert told(found) == told(expected)
    assert str(found.answers.finish) == "yes"


def test_a_bound_on_what_is_carried_counts_more_than_a_thousand_kinds() -> None:
    kinds, slots = 1_100, 3
    items = ", ".join(f"oar-{number}: {{}}" for number in range(kinds))
    lying = ", ".join(f"oar-{number}" for number in range(kinds))
    rules = compile_level(
        ukemi.loads(
            f"{{start: quay, goal: at quay, inventory: {{slots: {slots}}}, items: {{{items}}},"
            f" rooms: {{quay: {{items: [{lying}]}}}}}}"
        )
    )
    actions = list(actions_of(rules))
    encoding = Encoding(rules, actions, 1 << 20, Limits().begin())
    take = actions[0]
    assert take.move.what["do"] == "take"
    may = encoding.guard(all_of(*take.branch.conditions), take.source)
    assert may.sat_count(encoding.count) == sum(comb(kinds - 1, taken) for taken in range(slots))
