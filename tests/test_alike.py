"""Wings that are alike: which are, and that counting them leaves every answer as it is."""

from __future__ import annotations

import sys
from collections import Counter
from typing import Any

import pytest
from hypothesis import HealthCheck, assume, given, settings

import ukemi
from ukemi.checks import slices
from ukemi.checks.case import Case
from ukemi.checks.cases import Cases
from ukemi.checks.check import report_on
from ukemi.checks.parts import PartCases
from ukemi.rules import Position, compile_level
from ukemi.rules.words import move_words
from ukemi.search import Limits, explore
from ukemi.search.reduced.alike import find_alike
from ukemi.search.reduced.counting import Counting

from .helpers import ROOT, readable
from .levels import alike_levels
from .test_against_naive import LEVELS
from .test_large import answers_of, mistakes_of

sys.path.insert(0, str(ROOT / "benchmarks"))
import families

STORES = """
start: quay
goal: bell-loft
items: {iron: {use: spent}, ledger: {kind: reward}, bill: {kind: reward}}
rooms:
  quay: {items: {iron: 2}}
  store-1: {items: ledger}
  store-2: {items: ledger}
  store-3: {items: ledger}
  bell-loft: {}
passages:
  - quay <-> store-1: {lock: iron, name: door-1}
  - quay <-> store-2: {lock: iron, name: door-2}
  - quay <-> store-3: {lock: iron, name: door-3}
  - quay <-> bell-loft: {lock: iron, name: loft-door}
"""


def groups(text: str, *, rooms: tuple[str, ...] = ()) -> list[list[str]]:
    """The names of the rooms in each group of wings that are alike."""
    rules = compile_level(ukemi.loads(text))
    kept = [rules.places.index(room) for room in rooms]
    return [
        [rules.places[room] for wing in wings for room in wing.rooms]
        for wings in find_alike(rules, (), kept)
    ]


def test_side_rooms_that_differ_in_name_alone_are_alike() -> None:
    assert groups(STORES) == [["store-1", "store-2", "store-3"]]


@pytest.mark.parametrize(
    ("before", "after"),
    [
        ("store-2: {items: ledger}", "store-2: {items: bill}"),
        ("store-2: {items: ledger}", "store-2: {items: {ledger: 2}}"),
        ("store-2: {items: ledger}", "store-2: {items: ledger, chests: {bin: {}}}"),
        ("{lock: iron, name: door-2}", "{lock: 2 iron, name: door-2}"),
        ("{lock: iron, name: door-2}", "{lock: iron, name: door-2, steps: 2}"),
        ("quay <-> store-2", "quay -> store-2"),
        ("goal: bell-loft", "goal: at bell-loft or at store-2"),
        ("goal: bell-loft", "goal: at bell-loft and not opened door-2"),
        ("bell-loft: {}", "bell-loft: {acts: {ring: {opens: door-2}}}"),
    ],
)
def test_what_tells_a_room_apart_takes_it_out(before: str, after: str) -> None:
    assert before in STORES
    assert groups(STORES.replace(before, after, 1)) == [["store-1", "store-3"]]


def test_a_room_that_is_asked_for_is_not_counted_with_others() -> None:
    assert groups(STORES, rooms=("store-1",)) == [["store-2", "store-3"]]


def test_rooms_in_a_ring_are_told_apart_by_their_neighbours() -> None:
    ring = "\n".join(f"  - store-{n} <-> store-{n % 3 + 1}" for n in (1, 2, 3))
    assert groups(STORES + ring) == []  # what holds them together makes them one


def test_chests_in_a_room_and_kept_keys_of_their_own_are_wings_too() -> None:
    level = """
    start: quay
    goal: mill
    items: {k-1: {}, k-2: {}, k-3: {}, coin: {max: 5}}
    rooms:
      quay: {items: [k-1, k-2, k-3], chests: {a: {lock: k-1, holds: coin}, b: {lock: k-2, holds: coin},
        c: {lock: k-3, holds: coin}}}
      mill: {}
    passages: [quay <-> mill: {lock: 3 coin, name: gate}]
    """
    rules = compile_level(ukemi.loads(level))
    (wings,) = find_alike(rules)
    names = [[rules.variables[v] for v in wing.variables] for wing in wings]
    assert [sorted(map(str, one)) for one in names] == [
        sorted(map(str, [("carried", f"k-{n}"), ("opened", chest), ("lying", "quay", f"k-{n}")]))
        for n, chest in ((1, "a"), (2, "b"), (3, "c"))
    ]
    counting = Counting(rules, [wings])
    assert len(explore(counting.rules).positions) < len(explore(rules).positions) / 2


def test_counted_positions_are_the_positions_but_for_exchanging_wings() -> None:
    rules = compile_level(families.hub(6))
    counting = Counting(rules, find_alike(rules))
    plain, counted = explore(rules), explore(counting.rules)
    assert len(counted.positions) < len(plain.positions) / 2
    folded: dict[Position, int] = {}
    for position, cost in zip(plain.positions, plain.costs, strict=True):
        image = counting.counted(position)
        assert image is not None
        folded[image] = min(cost, folded.get(image, cost))
    assert folded == dict(zip(counted.positions, counted.costs, strict=True))
    moves = Counter(
        (counting.counted(plain.positions[n]), counting.counted(plain.positions[after]))
        for n, made in enumerate(plain.moves)
        for _, after in made
    )
    assert moves.keys() == {
        (counted.positions[n], counted.positions[after])
        for n, made in enumerate(counted.moves)
        for _, after in made
    }


def test_one_of_the_positions_a_counted_one_stands_for_can_be_reached() -> None:
    rules = compile_level(families.hub(6))
    counting = Counting(rules, find_alike(rules))
    reached = set(explore(rules).positions)
    for position in explore(counting.rules).positions:
        values = counting.some_values(position)
        assert values in reached
        assert counting.counted(values) == position


def test_a_counted_run_can_be_played_in_each_wing() -> None:
    case = Case(ukemi.loads(STORES))
    counting = Counting(case.rules, find_alike(case.rules))
    counted = Case(case.level, rules=counting.rules, original=case.rules, counting=counting)
    slip = next(
        n
        for n, came in enumerate(counted.found.came)
        if came is not None and came[1].what["do"] == "unlock" and "door-1" in str(came[1].what)
    )
    routes = counted.replay_all(counted.found.route_to(slip))
    assert [move_words(route.moves[-1].what) for route in routes] == [
        f"unlock door-{n} with iron" for n in (1, 2, 3)
    ]
    assert len({route.steps for route in routes}) == 1
    for route in routes:  # replayed by the rules, and the same but for which store it is
        assert counting.counted(route.positions[-1]) == counting.counted(routes[0].positions[-1])


def test_units_are_counted_in_all_wings_or_not_at_all() -> None:
    rules = compile_level(ukemi.loads(STORES))
    counting = Counting(rules, find_alike(rules))
    lying = [n for n, name in enumerate(rules.variables) if name[:1] == ("lying",)]
    one = rules.index["lying", "store-1", "ledger"]
    assert counting.same_in_all(lambda values: sum(values[n] for n in lying))
    assert not counting.same_in_all(lambda values: values[one])
    assert counting.closed(set(lying))
    assert not counting.closed({one})
    assert counting.tells(rules.index["carried", "iron"])
    assert not counting.tells(one)
    stores = [rules.places.index(f"store-{n}") for n in (1, 2, 3)]
    assert counting.like_rooms(stores[0]) == stores
    assert [counting.tells_room(room) for room in (0, *stores)] == [True, False, False, False]


@given(alike_levels())
@settings(max_examples=LEVELS // 2, deadline=None, suppress_health_check=list(HealthCheck))
def test_counting_keeps_costs_and_moves(plain: dict[str, Any]) -> None:
    rules = compile_level(readable(plain))
    wings = find_alike(rules)
    assume(wings)
    found = explore(rules, Limits(3_000))
    assume(found.complete)
    counting = Counting(rules, wings)
    counted = explore(counting.rules)
    costs: dict[Position, int] = {}
    for position, cost in zip(found.positions, found.costs, strict=True):
        image = counting.counted(position)
        assert image is not None
        costs[image] = min(cost, costs.get(image, cost))
    assert costs == dict(zip(counted.positions, counted.costs, strict=True))


@pytest.mark.parametrize("size", [24, 60])
def test_a_hub_of_many_doors_is_answered_in_full(size: int) -> None:
    report = ukemi.check(families.hub(size))
    answers = report.answers
    assert report.search.complete
    assert (answers.finish, answers.stuck) == ("yes", "possible")
    assert {answers.doors[f"door-{n}"] for n in range(size - 1)} == {"optional"}
    assert answers.doors[f"door-{size - 1}"] == "required"
    last = f"side-{size - 1}"
    order = (
        ("hub", "hub/iron-key"),
        ("hub/iron-key", f"door-{size - 1}"),
        (f"door-{size - 1}", last),
    )
    assert set(answers.order or ()) == set(order)
    keys = answers.measures.keys["iron-key"]
    assert (keys.placed, keys.needed) == (3 + size // 3, 1)
    # Each door but those to keys and the last can waste the last key: after two others.
    wasted = {f"door-{n}" for n in range(size - 1) if n % 3}
    mistakes = mistakes_of(report)
    assert {name for name in wasted if any(f'"{name}"' in one for one in mistakes)} == wasted
    assert set(mistakes.values()) == {6}


def test_rewards_in_rooms_that_are_alike_are_told_one_by_one(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    level = families.hub(9, alike=False)
    whole = report_on(Cases(Case(level)))
    monkeypatch.setattr(slices, "EACH", 50)  # so that wings are counted
    cases = PartCases(Case(level, Limits(1)), Limits().begin())
    told = report_on(cases)
    assert cases.goal.counting is not None
    assert answers_of(told) == answers_of(whole)
    assert mistakes_of(told) == mistakes_of(whole)
    missed = [
        {
            one.subject: one.route.steps
            for one in report.with_code("reward-can-be-missed")
            if one.route
        }
        for report in (whole, told)
    ]
    assert len(missed[0]) == 5
    assert missed[0] == missed[1]
