"""Claims, cut searches and key counts on random levels, against the naive player."""

from __future__ import annotations

import json
from itertools import chain, pairwise
from typing import Any

from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.level import parse_condition

from .helpers import readable, report_dict
from .levels import Drawer, choice_levels, plain_levels
from .naive import Naive
from .test_against_naive import LEVELS

randoms = st.randoms(use_true_random=False)
few = settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))


def draw_claims(random: Any, level: dict[str, Any]) -> dict[str, Any]:
    """Claims about a random level, as a designer might write them."""
    drawer = Drawer(random)
    drawer.rooms = list(level["rooms"])
    drawer.items = list(level["items"])
    placed = [
        f"{room}/{item}" for room, one in level["rooms"].items() for item in one.get("items", {})
    ]
    subjects = [*drawer.rooms, *drawer.items, *placed]
    for room in level["rooms"].values():
        subjects += [*room.get("chests", {}), *room.get("acts", {}), *room.get("switches", {})]
    return {
        "stuck": "possible",
        "rewards": "any",
        "never": [drawer.condition(), drawer.condition()],
        "possible": [drawer.condition()],
        "always-possible": [drawer.condition(), drawer.condition()],
        "required": random.sample(subjects, min(2, len(subjects))),
        "optional": random.sample(subjects, min(2, len(subjects))),
        "order": [random.sample(subjects, min(3, len(subjects)))] * (len(subjects) > 1),
        "shortest": {"at-most": random.randint(0, 8), "at-least": random.randint(0, 8)},
    }


@given(plain_levels(), randoms)
@few
def test_claims_fail_where_the_naive_player_says_so(plain: dict[str, Any], random: Any) -> None:
    plain["expect"] = claims = draw_claims(random, plain)
    level = readable(plain)
    naive = Naive(level, limit=600)
    assume(naive.complete)
    report = ukemi.check(level)
    failed = [one for one in report.findings if one.code == "expectation-failed"]
    said = sorted(one.message.split("`")[1] for one in failed)
    assert said == sorted(expected_failures(naive, claims))
    quick, whole = ukemi.check(level, quick=True), report.answers
    assert quick.exit_code() == report.exit_code()
    for answer in ("finish", "stuck", "deadly", "all_rewards", "rewards"):
        assert getattr(quick.answers, answer) == getattr(whole, answer)
    assert [one.move for one in quick.mistakes] == [one.move for one in report.mistakes]
    assert not quick.answers.doors
    for finding in failed:
        if finding.route is not None:
            ends = naive.follow(finding.route.whats)
            assert ends
            kind, _, condition = finding.message.split("`")[1].partition(": ")
            if kind == "never":
                assert any(naive.holds(spot, parse_condition(condition)) for spot in ends)
            if kind == "order":
                first, then = map(naive_done(naive), condition.split(", "))
                assert any(then(spot) and not first(spot) for spot in ends)


def expected_failures(naive: Naive, claims: dict[str, Any]) -> list[str]:
    """The claims that do not hold, by their definitions."""
    failures = []

    def holds(text: str) -> Any:
        condition = parse_condition(text)
        return lambda spot: naive.holds(spot, condition)

    for text in claims["never"]:
        if any(map(holds(text), naive.spots)):
            failures.append(f"never: {parse_condition(text)}")
    for text in claims["possible"]:
        if not any(map(holds(text), naive.spots)):
            failures.append(f"possible: {parse_condition(text)}")
    for text in claims["always-possible"]:
        able = naive.able(holds(text))
        if any(spot.end == "playing" and spot not in able for spot in naive.spots):
            failures.append(f"always-possible: {parse_condition(text)}")
    for wanted in ("required", "optional"):
        for name in claims[wanted]:
            if status_of(naive, name) != wanted:
                failures.append(f"{wanted}: {name}")
    for first, then in pairwise(chain.from_iterable(claims["order"])):
        before, after = map(naive_done(naive), (first, then))
        apart = naive.reached(naive.start, lambda spot, before=before: not before(spot))
        if any(after(spot) and not before(spot) for spot in apart):
            failures.append(f"order: {first}, {then}")
    if naive.finished():
        costs = naive.costs()
        shortest = min(costs[spot] for spot in naive.finished())
        bounds = claims["shortest"]
        if shortest > bounds["at-most"]:
            failures.append(f"shortest: at-most {bounds['at-most']}")
        if shortest < bounds["at-least"]:
            failures.append(f"shortest: at-least {bounds['at-least']}")
    return failures


def naive_done(naive: Naive) -> Any:
    """For a name, whether a thing is done or entered, or an item was got from wherever it comes."""
    facts = naive.facts()

    def of(name: str) -> Any:
        sources = [name] if name in facts else naive_sources(naive, name)
        return lambda spot: any(facts[source](spot) for source in sources)

    return of


def naive_sources(naive: Naive, name: str) -> list[str]:
    """What an item comes from."""
    sources = []
    for room in naive.level.rooms.values():
        sources += [f"{room.name}/{name}"] if name in room.items else []
        for chest in room.chests.values():
            lock = naive.level.lock_of(chest)
            gifts = {*chest.holds, *chest.effects.gives, *(lock.effects.gives if lock else {})}
            sources += [chest.name] if name in gifts else []
        sources += [act.name for act in room.all_acts() if name in act.effects.gives]
    events = naive.level.events.values()
    return sources + [event.name for event in events if name in event.effects.gives]


def status_of(naive: Naive, name: str) -> str:
    """The status of a thing, or of getting an item from wherever it comes."""
    if name in naive.facts():
        return naive.statuses()[name]
    done = naive_done(naive)(name)
    able = naive.able(lambda spot: spot.end == "finished")
    without = naive.reached(naive.start, lambda spot: not done(spot))
    if any(done(spot) for spot in able):
        avoided = any(spot.end == "finished" for spot in without)
        return "optional" if avoided else "required"
    return "only-when-stuck" if any(done(spot) for spot in naive.spots) else "never"


@given(plain_levels(), randoms)
@few
def test_a_cut_search_claims_only_what_the_whole_one_proves(
    plain: dict[str, Any], random: Any
) -> None:
    plain["expect"] = draw_claims(random, plain)
    level = readable(plain)
    whole = ukemi.check(level, max_positions=3_000)
    assume(whole.search.complete)
    limit = random.randint(1, max(1, len(str(whole.search.positions)) * 20))
    cut = ukemi.check(level, max_positions=limit)
    full, part = report_dict(whole)["answers"], report_dict(cut)["answers"]
    for name in ("finish", "stuck", "all-rewards", "deadly"):
        assert part[name] in (full[name], "unknown")
    for kind in ("doors", "chests", "acts", "rooms", "items"):
        assert part[kind].keys() == full[kind].keys()
        assert all(part[kind][name] in (full[kind][name], "unknown") for name in part[kind])
    for name, reward in part["rewards"].items():
        assert reward["status"] in (full["rewards"][name]["status"], "unknown")
        assert reward["missable"] in (full["rewards"][name]["missable"], "unknown")
    assert part["order"] in (full["order"], "unknown")
    # A run that is too short shows it, even if there are shorter ones.
    failed, failed_here = (
        {
            one.message.split(", but")[0]
            for one in report.findings
            if one.code == "expectation-failed"
        }
        for report in (whole, cut)
    )
    assert failed_here <= failed
    for name in (n for n, route in cut.routes.items() if route.shortest):
        assert cut.routes[name].steps == whole.routes[name].steps
    for name in ("finish", "all-rewards"):
        assert part["measures"][name] in (full["measures"][name], None)
    assert part["measures"]["keys"] in (full["measures"]["keys"], {})
    if part["stuck"] == "possible":
        assert {"can-get-stuck", "cannot-finish"} & {one.code for one in cut.findings}
    assert cut.search.all_seen <= (cut.search.positions == whole.search.positions)
    assert not cut.search.complete or cut.search.positions == whole.search.positions
    if cut.exit_code() == 0:
        assert whole.exit_code() == 0


@given(plain_levels())
@few
def test_keys_are_counted_as_the_naive_player_counts_them(plain: dict[str, Any]) -> None:
    level = readable(plain)
    naive = Naive(level, limit=600)
    assume(naive.complete and naive.finished())
    measures = ukemi.check(level).answers.measures
    for item, measure in measures.keys.items():
        left = max(units(naive, item, spot) for spot in naive.finished())
        start = naive.total(item) + sum(
            act.effects.gives.get(item, 0)
            for room in level.rooms.values()
            for act in room.all_acts()
        )
        start += sum(
            chest.effects.gives.get(item, 0)
            + (lock.effects.gives.get(item, 0) if (lock := level.lock_of(chest)) else 0)
            for room in level.rooms.values()
            for chest in room.chests.values()
        )
        start += sum(event.effects.gives.get(item, 0) for event in level.events.values())
        assert (measure.placed, measure.needed) == (start, start - left)
        assert measure.spare <= left


@given(st.one_of(choice_levels(), plain_levels()))
@few
def test_each_spare_unit_can_go_and_no_other_can(plain: dict[str, Any]) -> None:
    """The level without the spare units keeps its promises; without one more it does not."""
    level = readable(plain)
    before = promises(level)
    assume(before is not None)
    assert before is not None
    for item, measure in ukemi.check(level).answers.measures.keys.items():
        assert measure.spare == len(measure.spare_in)
        rest = json.loads(json.dumps(plain))
        for where in measure.spare_in:
            remove(rest, item, where)
        after = promises(ukemi.loads(json.dumps(rest)))
        assume(after is not None)  # with less in hand, there may be more positions
        assert after is not None and keeps(before, after)
        if not measure.all_tried or measure.spare == measure.placed - measure.needed:
            continue
        for where in places_of(rest, item):
            fewer = json.loads(json.dumps(rest))
            remove(fewer, item, where)
            less = promises(ukemi.loads(json.dumps(fewer)))
            assert less is None or not keeps(before, less), where


def promises(level: ukemi.Level) -> dict[str, Any] | None:
    """What a naive player finds of finishing, getting stuck and rewards; none of large levels."""
    naive = Naive(level, limit=500)
    if not naive.complete:
        return None
    able, finished = naive.able(lambda spot: spot.end == "finished"), naive.finished()
    statuses, facts, rewards = naive.statuses(), naive.facts(), naive.reward_names()
    found: dict[str, Any] = {
        "finish": bool(finished),
        "no one stuck": not any(one.end == "playing" and one not in able for one in naive.spots),
        "together": any(all(facts[one](spot) for one in rewards.values()) for spot in finished),
    }
    for name, subject in rewards.items():
        found[f"{name} kept"] = naive.missable(subject) == "no"
        found[f"{name} status"] = statuses[subject]
    return found


def keeps(before: dict[str, Any], after: dict[str, Any]) -> bool:
    """Whether no promise that held before is broken, and the statuses are the same."""
    return all(
        after.get(name, "never") == value  # a reward that no run takes can itself be spared
        if name.endswith("status")
        else after.get(name) or not value
        for name, value in before.items()
    )


def places_of(plain: dict[str, Any], item: str) -> list[str]:
    """Where the units of an item are in a level given as plain data."""
    found = [
        f"{name}/{item}" for name, one in plain["rooms"].items() if item in one.get("items", {})
    ]
    for room in plain["rooms"].values():
        for chest, what in room.get("chests", {}).items():
            found += [chest] if item in what["holds"] else []
        for acts in (room.get("acts", {}), room.get("switches", {})):
            found += [name for name, what in acts.items() if item in what.get("gives", [])]
    found += [name for name, one in plain.get("events", {}).items() if item in one.get("gives", [])]
    return found + ["start"] * (item in plain.get("inventory", {}).get("start", []))


def remove(plain: dict[str, Any], item: str, where: str) -> None:
    """Take one unit of an item out of a level given as plain data."""
    for name, room in plain["rooms"].items():
        if where == f"{name}/{item}":
            room["items"][item]["count"] -= 1
            if not room["items"][item]["count"]:
                del room["items"][item]
        for things, field in (("chests", "holds"), ("acts", "gives"), ("switches", "gives")):
            if where in room.get(things, {}):
                room[things][where][field].remove(item)
    if where in plain.get("events", {}):
        plain["events"][where]["gives"].remove(item)
    if where == "start":
        plain["inventory"]["start"].remove(item)


def units(naive: Naive, item: str, spot: Any) -> int:
    """The units of an item that are still somewhere in the level."""
    count = dict(spot.carried).get(item, 0)
    for heap in (spot.lying, spot.put_down):
        count += sum(number for (_, lying), number in heap if lying == item)
    for room in naive.level.rooms.values():
        for chest in room.chests.values():
            if chest.name not in spot.opened:
                lock = naive.level.lock_of(chest)
                count += chest.holds.get(item, 0) + chest.effects.gives.get(item, 0)
                count += lock.effects.gives.get(item, 0) if lock else 0
        for act in room.all_acts():
            if act.name not in spot.done:
                count += act.effects.gives.get(item, 0)
    for event in naive.level.events.values():
        if event.name not in spot.done:
            count += event.effects.gives.get(item, 0)
    return count
