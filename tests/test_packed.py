"""The packed search piece by piece: words, tables and moves, against the plain rules."""

from __future__ import annotations

import sys
from random import Random
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.rules import PLACE, PLAYING, Position, compile_level
from ukemi.rules.expressions import AllOf, AnyOf, AtLeast, Expression, Is, Negated, Within
from ukemi.search import Limits, explore
from ukemi.search.packed import TooLargeError, explore_packed
from ukemi.search.packed.columns import holds
from ukemi.search.packed.explore import PackedSearch
from ukemi.search.packed.layout import Layout, Words
from ukemi.search.packed.table import Table
from ukemi.search.packed.words import test as word_test
from ukemi.search.packed.words import undoing, word_move

from .helpers import ROOT, readable
from .levels import alike_levels, plain_levels
from .test_against_naive import LEVELS

sys.path.insert(0, str(ROOT / "benchmarks"))
import families


def packed(layout: Layout, positions: list[Position]) -> Words:
    """The words of several positions."""
    rows = [layout.pack(position) for position in positions]
    return [np.concatenate(word) for word in zip(*rows, strict=True)]


@given(st.lists(st.lists(st.integers(0, 40), max_size=60), max_size=8), st.integers(1, 3))
@settings(max_examples=100, deadline=None)
def test_a_table_numbers_what_is_added_once(batches: list[list[int]], words: int) -> None:
    table = Table(words)
    table._slots = np.full(4, -1, dtype=np.int32)  # small, so that it must grow
    table._bits = 2
    known: dict[int, int] = {}
    for batch in batches:
        values = np.array(batch, dtype=np.uint64)
        rows = [values, *(values * np.uint64(n) for n in range(1, words))]
        numbers, new = table.add(rows)
        told = [value for value, is_new in zip(batch, new.tolist(), strict=True) if is_new]
        assert sorted(told) == sorted(set(batch) - known.keys())  # of those alike, one is new
        for value, number in zip(batch, numbers.tolist(), strict=True):
            assert known.setdefault(value, number) == number
        assert table.count == len(known) == len(set(known.values()))
        assert table.find(rows).tolist() == numbers.tolist()
    missing = np.array([99], dtype=np.uint64)
    assert table.find([missing, *(missing * np.uint64(n) for n in range(1, words))]).tolist() == [
        -1
    ]


def drawn_guard(random: Random, variables: list[int], depth: int = 2) -> Expression:
    """A random guard over some variables."""
    variable = random.choice(variables)
    match random.randrange(6 if depth else 3):
        case 0:
            return Is(variable, random.randint(0, 2))
        case 1:
            return AtLeast(variable, random.randint(0, 3))
        case 2:
            some = random.sample(variables, min(3, len(variables)))
            return Within(tuple((one, random.randint(0, 2)) for one in some), random.randint(0, 3))
        case 3:
            return Negated(drawn_guard(random, variables, depth - 1))
        case kind:
            parts = tuple(drawn_guard(random, variables, depth - 1) for _ in range(3))
            return AllOf(parts) if kind == 4 else AnyOf(parts)


@given(plain_levels(), st.randoms(use_true_random=False))
@settings(max_examples=LEVELS // 2, deadline=None, suppress_health_check=list(HealthCheck))
def test_guards_hold_of_words_where_they_hold_of_values(plain: dict[str, Any], random: Any) -> None:
    rules = compile_level(readable(plain))
    positions = explore(rules, Limits(300)).positions
    try:
        layout = Layout(rules)
        words = packed(layout, positions)
    except TooLargeError:
        assume(False)
    for _ in range(10):
        guard = drawn_guard(random, list(range(len(rules.variables))))
        expected = [guard.holds(position) for position in positions]
        assert word_test(layout, guard)(words).tolist() == expected
        by_columns = np.broadcast_to(holds(guard, layout.columns(words)), len(positions))
        assert by_columns.tolist() == expected


@given(st.one_of(plain_levels(), alike_levels()))
@settings(max_examples=LEVELS // 2, deadline=None, suppress_health_check=list(HealthCheck))
def test_moves_on_words_do_what_they_do_to_values(plain: dict[str, Any]) -> None:
    rules = compile_level(readable(plain))
    found = explore(rules, Limits(300))
    try:
        layout = Layout(rules)
    except TooLargeError:
        assume(False)
    for move in rules.moves:
        quick = word_move(layout, move)
        here = [
            position
            for position in found.positions
            if position[PLACE] in move.places and position[1] == PLAYING
        ]
        if quick is None or not here:
            continue
        try:
            words = packed(layout, here)
        except TooLargeError:
            assume(False)
        can = np.ones(len(here), dtype=bool) if quick.test is None else quick.test(words)
        for change in quick.changes:
            words[change.word] = change(words[change.word])
        for before, after, made in zip(here, layout.unpack(words), can.tolist(), strict=True):
            values = list(before)
            expected = move.guard.holds(before) and all(step.apply(values) for step in move.steps)
            assert made == expected
            assert not made or after == tuple(values)


@given(st.one_of(plain_levels(), alike_levels()), st.randoms(use_true_random=False))
@settings(max_examples=LEVELS // 2, deadline=None, suppress_health_check=list(HealthCheck))
def test_questions_of_many_positions_at_once_are_answered_alike(
    plain: dict[str, Any], random: Random
) -> None:
    rules = compile_level(readable(plain))
    one = explore(rules, Limits(800))
    assume(one.complete)
    try:
        other = explore_packed(rules)
    except TooLargeError:
        assume(False)
    same = [other.numbers[position] for position in one.positions]  # numbered otherwise

    def both(share: float) -> tuple[bytearray, bytearray]:
        mine = bytearray(random.random() < share for _ in same)
        theirs = bytearray(len(same))
        for number, there in enumerate(same):
            theirs[there] = mine[number]
        return mine, theirs

    def alike(mine: bytearray, theirs: bytearray) -> bool:
        return all(mine[number] == theirs[there] for number, there in enumerate(same))

    few, many = both(0.1), both(0.7)
    targets = [[n for n, marked in enumerate(mask) if marked] for mask in few]
    assert alike(one.reaching(targets[0]), other.reaching(targets[1]))
    assert alike(one.reached_without(few[0]), other.reached_without(few[1]))
    assert alike(one.following(few[0]), other.following(few[1]))
    ways = [
        {(found.positions[n], move.number, found.positions[after]) for n, move, after in between}
        for found, between in (
            (one, one.between(few[0], many[0])),
            (other, other.between(few[1], many[1])),
        )
    ]
    assert ways[0] == ways[1]
    asked = [(variable, value) for variable, value in enumerate(rules.initial)] * 5  # many bits
    mine, theirs = one.changed(asked), other.changed(asked)
    assert all(mine[number] == theirs[there] for number, there in enumerate(same))


def test_what_takes_back_another_move_is_found() -> None:
    rules = compile_level(families.switches(5))
    by_number = {move.number: move.what for move in rules.moves}
    undoes = undoing(rules)
    assert (
        len(undoes) == 2 * 6
    )  # the passages, both ways; a switch is done for good when first turned
    for number, undone in undoes.items():
        assert number != undone
        assert by_number[number]["name"] == by_number[undone]["name"]


@pytest.mark.parametrize("level", [families.switches(6), families.hands(2), families.hub(5)])
def test_the_moves_of_common_levels_are_moves_on_words(level: ukemi.Level) -> None:
    rules = compile_level(level)
    layout = Layout(rules)
    assert all(word_move(layout, move) is not None for move in rules.moves)


@pytest.mark.parametrize(
    ("act", "item"),
    [
        ("{gives: {grain: 3}, repeat: true}", "{kind: supply, max: 9}"),  # it saturates
        ("{gives: grain, needs: not 4 grain, repeat: true}", "{max: 7}"),
        ("{gives: {grain: 2}}", "{}"),
        ("{gives: grain, flips: lit, repeat: true}", "{max: 3}"),
    ],
)
def test_what_is_given_in_any_number_fits_its_bits(act: str, item: str) -> None:
    level = ukemi.loads(
        f"start: quay\ngoal: mill\nitems: {{grain: {item}}}\nflags: {{lit: false}}\n"
        f"rooms: {{quay: {{acts: {{mill-race: {act}}}}}, mill: {{}}}}\npassages: [quay <-> mill]\n"
    )
    rules = compile_level(level)
    search = PackedSearch(rules)
    search.go(Limits())
    one = explore(rules)
    count = search.table.count
    assert count == len(one.positions)
    rows = search.layout.unpack([row[:count] for row in search.table.rows])
    assert set(rows) == set(one.positions)


def test_what_has_no_room_in_the_words_is_told() -> None:
    level = ukemi.loads(
        "start: quay\ngoal: mill\nitems: {grain: {max: 40000}}\n"
        "rooms: {quay: {acts: {reap: {gives: {grain: 30000}}, mow: {gives: {grain: 9000}}}}, mill: {}}\n"
        "passages: [quay <-> mill]\n"
    )
    with pytest.raises(TooLargeError):
        PackedSearch(compile_level(level))
    assert ukemi.check(level).search.complete  # the plain search has no such bound


def test_memory_is_counted_and_bounded() -> None:
    rules = compile_level(families.switches(8))
    search = PackedSearch(rules, keep_moves=False)
    search.go(Limits())
    assert search.table.count > 10_000
    assert search.bytes / search.table.count < 64
    bounded = PackedSearch(rules)
    bounded.go(Limits(memory=4_000_000))
    assert 0 < bounded.table.count < search.table.count
    assert bounded.bytes < 4_000_000
