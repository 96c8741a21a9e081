"""The condition language: what a condition means, how it splits into ways, where it goes wrong."""

from __future__ import annotations

from itertools import product
from random import Random
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.level import (
    And,
    At,
    Condition,
    ConditionError,
    Done,
    Has,
    HasAll,
    Not,
    Opened,
    Or,
    parse_condition,
)
from ukemi.level.conditions import alternatives, atoms, count_alternatives


def truth(condition: Condition, facts: dict[Condition, bool]) -> bool:
    match condition:
        case Not(part):
            return not truth(part, facts)
        case And(parts):
            return all(truth(part, facts) for part in parts)
        case Or(parts):
            return any(truth(part, facts) for part in parts)
    return facts[condition]


def draw(random: Any, depth: int = 3) -> Condition:
    roll = random.random()
    if depth == 0 or roll < 0.3:
        return random.choice(
            [Has("a"), Has("b", 2), At("quay"), Opened("c"), Done("d"), HasAll("e")]
        )
    if roll < 0.45:
        return Not(draw(random, depth - 1))
    parts = tuple(draw(random, depth - 1) for _ in range(random.randint(2, 3)))
    kind = And if roll < 0.72 else Or
    flat: list[Condition] = []
    for part in parts:
        flat += part.parts if isinstance(part, kind) else [part]
    return kind(tuple(flat))


@given(st.randoms(use_true_random=False))
@settings(max_examples=150, deadline=None)
def test_alternatives_mean_the_same_as_the_condition(random: Any) -> None:
    condition = draw(random)
    ways = alternatives(condition)
    names = list(dict.fromkeys(atoms(condition)))
    for values in product([False, True], repeat=len(names)):
        facts: dict[Condition, bool] = dict(zip(names, values, strict=True))
        assert truth(condition, facts) == any(truth(And(way), facts) for way in ways)
    assert len(ways) <= count_alternatives(condition)
    assert all(
        isinstance(part.part if isinstance(part, Not) else part, (Has, HasAll, At, Opened, Done))
        for way in ways
        for part in way
    )


@given(st.randoms(use_true_random=False))
@settings(max_examples=150, deadline=None)
def test_printing_and_reading_give_the_same_condition(random: Any) -> None:
    condition = draw(random)
    assert parse_condition(str(condition)) == condition


@pytest.mark.parametrize(
    ("text", "means"),
    [
        ("a", Has("a")),
        ("  3   grain ", Has("grain", 3)),
        ("all ledger", HasAll("ledger")),
        ("at ground@5,2", At("ground@5,2")),
        ("not a and b or c", Or((And((Not(Has("a")), Has("b"))), Has("c")))),
        ("not (a and b)", Not(And((Has("a"), Has("b"))))),
        ("not not a", Not(Not(Has("a")))),
        ("opened pit-door and done bribe-the-cat", And((Opened("pit-door"), Done("bribe-the-cat")))),
        ("android or notary or atlas", Or((Has("android"), Has("notary"), Has("atlas")))),
        ("a\n and\tb", And((Has("a"), Has("b")))),
        ("müller_2", Has("müller_2")),
    ],
)  # fmt: skip
def test_what_a_text_means(text: str, means: Condition) -> None:
    assert parse_condition(text) == means


@pytest.mark.parametrize(
    ("text", "offset", "part"),
    [
        ("a and", 5, ""), ("(a or b", 7, ""), ("a b", 0, "a b"), ("a & b", 2, "&"), ("2", 1, ""),
        ("a or 0 b", 5, "0"), ("all", 3, ""), ("at 3", 3, "3"), ("opened and", 7, "and"), ("a)", 1, ")"),
        ("1234567 a", 0, "1234567"), ("", 0, ""), ("and", 0, "and"), ("(" * 300, 0, "("),
    ],
)  # fmt: skip
def test_where_a_text_goes_wrong(text: str, offset: int, part: str) -> None:
    with pytest.raises(ConditionError) as caught:
        parse_condition(text)
    assert caught.value.offset == offset
    assert caught.value.text.startswith(part)


@pytest.mark.parametrize(
    ("goal", "needless"),
    [
        ("key or (key and lamp)", "(key and lamp)"), ("2 key or key", "2 key"), ("key and key", "key"),
        ("at quay and (at quay or lamp)", "(at quay or lamp)"), ("at quay and not at mill", "not at mill"),
        ("lamp and not 3 key", "not 3 key"), ("lamp or 3 key", "3 key"), ("key and (lamp or not lamp)", "(lamp or not lamp)"),
        ("lit or not (lit and key)", None), ("key and lamp", None), ("key or lamp", None), ("lit and key or lamp", None),
        ("2 key and lamp or key", "2 key and lamp"), ("at quay or at mill", None),
    ],
)  # fmt: skip
def test_parts_that_can_never_matter(goal: str, needless: str | None) -> None:
    level = ukemi.loads(
        f"start: quay\ngoal: {goal}\nitems: {{key: {{}}, lamp: {{}}}}\nflags: {{lit: true}}\n"
        "rooms: {quay: {items: {key: 2, lamp: 1}, switches: {s: {flips: lit}}}, mill: {}, yard: {}}\n"
        "passages: [quay <-> mill, mill <-> yard]"
    )
    found = ukemi.check(level).with_code("needless-alternative")
    if goal == "lit or not (lit and key)":
        assert found  # `lit` can be left out of the inner part
        return
    assert bool(found) == (needless is not None), found
    if needless is not None:
        assert (
            f"the part `{needless.strip('()')}`" in found[0].message
            or f"`{needless}`" in found[0].message
        )


def test_drawn_conditions_are_varied() -> None:
    """A guard on the properties above."""
    kinds = {type(atom) for seed in range(50) for atom in atoms(draw(Random(seed)))}
    assert kinds == {Has, HasAll, At, Opened, Done}


@pytest.mark.parametrize(("count", "told"), [(12, 1), (13, 0)])
def test_conditions_of_many_flags_are_left_alone(count: int, told: int) -> None:
    flags = [f"flag-{number}" for number in range(count)]
    acts = ", ".join(f"act-{number}: {{sets: flag-{number}}}" for number in range(count))
    level = ukemi.loads(
        f"{{start: quay, goal: {' or '.join(flags)} or (flag-0 and flag-1), flags: [{', '.join(flags)}],"
        f" rooms: {{quay: {{acts: {{{acts}}}}}}}}}"
    )
    assert len(ukemi.check(level, max_positions=5).with_code("needless-alternative")) == told
