"""What regions tell of large levels, against what all positions tell."""

from __future__ import annotations

from typing import Any

from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.checks.case import Case
from ukemi.checks.choices import choices
from ukemi.checks.free import Free
from ukemi.checks.without import Without
from ukemi.rules import END, FINISHED, PLACE, PLAYING, Position, Rules, compile_level
from ukemi.search import Limits, explore, replay
from ukemi.search.reduced.commuting import commutes
from ukemi.search.reduced.regions import Regions
from ukemi.search.reduced.runs import run_to

from .helpers import readable
from .levels import choice_levels, plain_levels
from .test_against_naive import LEVELS

DRAWN = st.one_of(plain_levels(), choice_levels())


def seen_whole(plain: dict[str, Any], regions_tell: bool = True) -> Case:
    """All positions of a drawn level; one with too many is drawn again."""
    whole = Case(readable(plain), Limits(1_500))
    assume(whole.complete)
    if regions_tell:
        assume(Regions(whole.rules).safety.able)
    return whole


def done_in(whole: Case, number: int) -> set[int]:
    """The things done in a position, by their variables, and the room, numbered after those."""
    position = whole.found.positions[number]
    done = {one.variable for one in whole.subjects if position[one.variable] != one.before}
    return done | {len(position) + position[PLACE]}


@given(DRAWN)
@settings(max_examples=LEVELS // 2, deadline=None, suppress_health_check=list(HealthCheck))
def test_what_can_be_done_without_a_thing(plain: dict[str, Any]) -> None:
    whole = seen_whole(plain)
    found, can = whole.found, whole.can_finish
    assume(can[0])
    free = Free(whole, whole.rules, Limits())
    things = {one.variable: one.before for one in whole.subjects}
    without = Without(free, whole.rules, things, lambda position: finishes(whole, position))
    nodes = [*things, *(without.room(place) for place in range(len(whole.rules.places)))]
    done = [done_in(whole, number) for number in range(len(found.positions))]
    for node in nodes:
        has = bytearray(node in one for one in done)
        reached = found.reached_without(has)
        if not has[0]:
            some = any(reached[number] for number in whole.finished)
            assert without.finishes(node) == ("yes" if some else "no")
        after = found.following(reached)
        after[0] = 1
        before = set().union(*(one for n, one in enumerate(done) if after[n] and can[n]))
        told = without.before(node) or 0
        assert {one for one in nodes if told >> one & 1} == before


def finishes(whole: Case, position: Position) -> bool:
    """Whether a run finishes from a position, which may have more than any that was reached."""
    found = whole.found
    if position in found.numbers:
        return bool(whole.can_finish[found.numbers[position]])
    return any(end == FINISHED for end in explore(whole.rules, Limits(20_000), position).ends)


@given(choice_levels())
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_where_choices_commute_every_position_has_its_region(plain: dict[str, Any]) -> None:
    whole = seen_whole(plain)
    finder = Regions(whole.rules)
    assume(commutes(finder))
    found = Free(whole, whole.rules, Limits()).regions
    assert found.complete
    able = found.reaching(found.finished)
    numbers = {region.position: number for number, region in enumerate(found.regions)}
    for number, position in enumerate(whole.found.positions):
        if position[END] == PLAYING:
            assert able[numbers[finder.region(position).position]] == whole.can_finish[number]


@given(DRAWN)
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_runs_to_regions_do_what_is_asked_of_them(plain: dict[str, Any]) -> None:
    whole = seen_whole(plain)
    free = Free(whole, whole.rules, Limits())
    start = whole.rules.start()
    for number in free.regions.finished[:3]:
        position = free.regions.regions[number].position
        changed = [one for one in whole.subjects if position[one.variable] != one.before]
        for asked in ([], changed[:1], changed):
            wanted = [one.variable for one in asked]
            run = run_to(free.finder, free.regions, number, start, wanted)
            last = replay(whole.rules, run).positions[-1]
            assert last[END] == FINISHED
            assert all(last[one.variable] != one.before for one in asked)
            assert len(run) <= len(run_to(free.finder, free.regions, number, start))


def test_a_run_leaves_out_what_is_of_no_use() -> None:
    level = ukemi.loads(
        "{start: quay, goal: mill, items: {oak: {}, grain: {kind: reward}, iron: {use: spent}},"
        " rooms: {quay: {items: {grain: 1, iron: 3}}, yard: {items: oak}, mill: {}, pit: {items: iron}},"
        " passages: [quay <-> yard, quay <-> mill: {lock: oak and 2 iron}, quay <-> pit]}"
    )
    rules = compile_level(level)
    case = Case(level)
    free = Free(case, rules, Limits())
    (number, *_) = free.regions.finished
    run = run_to(free.finder, free.regions, number, rules.start(), ())
    told = [f"{move.what['do']} {move.what.get('item', '')}".strip() for move in run]
    assert told == [
        "take iron",
        "take iron",
        "walk",
        "take oak",
        "walk",
        "unlock",
        "walk",
        "finish",
    ]


def slowly(rules: Rules, position: Position) -> int:
    """How many things can be done after walking at will, each walk made."""
    seen, ahead, things = {position}, [position], set()
    for here in ahead:
        for move, after in rules.successors(here):
            if move.what["do"] != "walk":
                things.add(move.number)
            elif after not in seen:
                seen.add(after)
                ahead.append(after)
    return len(things)


@given(DRAWN, st.randoms(use_true_random=False))
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_choices_along_a_run_are_those_found_by_walking(plain: dict[str, Any], random: Any) -> None:
    whole = seen_whole(plain, regions_tell=False)
    route = whole.route_to(random.randrange(len(whole.found.positions)))
    position = whole.rules.start()
    counts, positions = [], [position]
    for move in route.moves:
        if move.what["do"] != "walk":
            counts.append(slowly(whole.rules, position))
        after = whole.rules.after(position, move)
        assert after is not None
        position = after
        positions.append(position)
    assert choices(whole.rules, route) == tuple(counts)
    assert list(route.positions) == positions
    for _ in range(3):  # in any order
        number = random.randrange(-len(positions), len(positions))
        assert route.positions[number] == positions[number]
    assert route.positions[1:3] == positions[1:3]
