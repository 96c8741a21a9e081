"""Campaigns: every answer agrees with a second player of the rules, and mistakes are told clearly."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path
from random import Random
from tempfile import TemporaryDirectory
from typing import Any

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.checks.check import report_on
from ukemi.checks.over_campaign import OverCampaign
from ukemi.checks.over_sets import OverSets
from ukemi.level import ALWAYS
from ukemi.level.joined import Joined
from ukemi.report import report_dict
from ukemi.rules import compile_level
from ukemi.search import Limits
from ukemi.search.explicit import ExplicitSpace
from ukemi.search.symbolic import symbolic_space

from .helpers import run
from .levels import FLAGS, Drawer
from .naive import Impossible, Naive, Spot
from .test_against_naive import LEVELS, compare_mistakes, compare_order
from .test_spaces import told


@dataclass(frozen=True)
class Stand:
    """Where a run of a campaign stands: the level, the position in it, what is kept of others."""

    stage: str
    spot: Spot
    kept: frozenset[tuple[str, Spot]] = frozenset()
    entered: frozenset[str] = frozenset()
    last: bool = False

    @property
    def end(self) -> str:
        """How the campaign stands: a level that is over goes on to another."""
        return "playing" if self.spot.end == "finished" and not self.last else self.spot.end


@dataclass
class NaiveCampaign(Naive):
    """Every position of a campaign, and the moves between them."""

    level: Joined
    players: dict[str, Naive] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.campaign = self.level.campaign
        for name, stage in self.campaign.stages.items():
            self.players[name] = Naive(stage.level, limit=0)
        super().__post_init__()

    # -- the rules ----------------------------------------------------------------------------

    def fresh(self, name: str) -> Spot:
        """A level as nobody has entered it yet, with nothing carried."""
        level = self.campaign.stages[name].level
        lying = [
            ((room.name, one.item), one.count)
            for room in level.rooms.values()
            for one in room.items.values()
        ]
        own = {flag for flag, on in level.flags.items() if on} - self.campaign.shares
        nothing: frozenset[str] = frozenset()
        return Spot(
            level.start, (), tuple(sorted(lying)), (), frozenset(own), nothing, nothing, nothing
        )

    def begin(self) -> Stand:  # type: ignore[override]
        name = self.campaign.start.name
        shared = {
            flag
            for stage in self.campaign.stages.values()
            for flag, on in stage.level.flags.items()
            if on and flag in self.campaign.shares
        }
        start = self.campaign.start.level.inventory.start
        spot = self.fresh(name)
        spot = replace(spot, flags=spot.flags | shared, carried=tuple(sorted(start.items())))
        last = name == self.campaign.goal
        return Stand(name, self.players[name].settle(spot), entered=frozenset([name]), last=last)

    def moves(self, stand: Stand) -> list[tuple[str, int, Stand]]:  # type: ignore[override]
        player, last = self.players[stand.stage], stand.stage == self.campaign.goal
        found = []
        if stand.spot.end == "playing":
            for what, cost, after in player.moves(stand.spot):
                move = json.loads(what)
                if move["do"] == "finish" and not last:
                    continue
                for part in ("name", "in", "to"):
                    if part in move:
                        move[part] = f"{stand.stage}/{move[part]}"
                found.append((json.dumps(move, sort_keys=True), cost, replace(stand, spot=after)))
        spot = replace(stand.spot, end="playing")
        if player.holds(spot, self.campaign.stages[stand.stage].level.goal):
            for way in self.campaign.ways:
                if way.a == stand.stage and player.holds(spot, way.when):
                    try:
                        after = self.onward(replace(stand, spot=spot), way)
                    except Impossible:
                        continue
                    what = json.dumps({"do": "finish", "level": way.a, "to": way.b}, sort_keys=True)
                    found.append((what, 0, after))
        return found

    def onward(self, stand: Stand, way: Any) -> Stand:
        here, there = self.campaign.stages[way.a], self.campaign.stages[way.b]
        shares = self.campaign.shares
        kept = dict(stand.kept)
        if here.keeps:
            own = replace(stand.spot, carried=(), flags=stand.spot.flags - shares, room="")
            kept[way.a] = own
        spot = kept.pop(way.b, None) if there.keeps else None
        spot = spot or self.fresh(way.b)
        carried = tuple(one for one in stand.spot.carried if there.brings_along(one[0]))
        flags = spot.flags | (stand.spot.flags & shares)
        spot = replace(spot, room=there.level.start, carried=carried, flags=flags)
        start = there.level.inventory.start
        if there.keeps and way.b in stand.entered:
            start = {}
        spot = self.players[way.b].gain(spot, start)
        slots = there.level.inventory.slots
        if slots is not None:
            items = there.level.items
            if sum(items[item].slots * count for item, count in spot.carried) > slots:
                raise Impossible
        spot = replace(spot, flags=spot.flags | set(way.sets))
        entered = stand.entered | ({way.b} if there.keeps else set())
        last = way.b == self.campaign.goal
        spot = self.players[way.b].settle(spot)
        return Stand(way.b, spot, frozenset(kept.items()), entered, last)

    # -- the answers --------------------------------------------------------------------------

    def finished(self) -> list[Stand]:  # type: ignore[override]
        return [one for one in self.spots if self.over(one)]

    def over(self, stand: Any) -> bool:
        return stand.end == "finished" and stand.stage == self.campaign.goal

    def facts(self) -> dict[str, Any]:
        tests: dict[str, Any] = {}
        for name, player in self.players.items():
            for fact, test in player.facts().items():
                tests[f"{name}/{fact}"] = lambda stand, name=name, test=test: (
                    stand.stage == name and test(stand.spot)
                )
        return tests

    def enters(self) -> dict[str, dict[str, list[int]]]:
        entering: dict[str, list[Stand]] = {name: [] for name in self.campaign.stages}
        entering[self.start.stage].append(self.start)
        for moves in self.spots.values():
            for what, _, after in moves:
                move = json.loads(what)
                if move["do"] == "finish" and "to" in move:
                    entering[after.stage].append(after)
        counts = {
            name: {
                item: [dict(one.spot.carried).get(item, 0) for one in some]
                for item in self.level.items
            }
            for name, some in entering.items()
        }
        return {
            name: {item: [min(some), max(some)] for item, some in of.items() if some}
            for name, of in counts.items()
        }

    def missable(self, subject: str) -> str:
        done = self.facts()[subject]
        able = self.able(self.over)
        still = self.able(lambda stand: done(stand) and stand in able)
        never = self.reached(self.start, lambda stand: not done(stand))
        lost = [one for one in never if one in able and not self.over(one) and one not in still]
        return "yes" if lost else "no"

    def all_in_one(self, subjects: list[str]) -> bool:
        """Whether some finishing run does all of some things."""
        facts = self.facts()
        bits = {one: 1 << n for n, one in enumerate(subjects)}
        seen: set[tuple[Stand, int]] = set()
        ahead: list[tuple[Stand, int]] = [(self.start, 0)]
        while ahead:
            stand, had = ahead.pop()
            had |= sum(bit for one, bit in bits.items() if facts[one](stand) and not had & bit)
            if (stand, had) in seen:
                continue
            seen.add((stand, had))
            if self.over(stand) and had == (1 << len(subjects)) - 1:
                return True
            ahead += [(after, had) for _, _, after in self.spots[stand]]
        return False


def campaigns(random: Random) -> tuple[dict[str, Any], dict[str, Any]]:
    """A campaign of two or three small levels, and its levels by file."""
    names = ["landing", "mill", "cellar"][: random.randint(2, 3)]
    drawers = {name: Drawer(random) for name in names}
    for drawer in drawers.values():
        drawer.items = drawers[names[0]].items
        drawer.rooms = drawer.rooms[:3]
    files = {f"{name}.yaml": drawer.level() for name, drawer in drawers.items()}
    items = files[f"{names[0]}.yaml"]["items"]
    items[next(iter(items))].pop("on-pickup", None)
    round_and_round = random.random() < 0.4
    for item in items.values():
        if round_and_round or random.random() < 0.5:
            item["max"] = random.randint(1, 3)
    for plain in files.values():
        plain["items"] = items
        vital = [name for name, item in items.items() if item.get("vital")]
        if vital:
            plain["inventory"]["start"] = {vital[0]: 1}
    levels: dict[str, Any] = {}
    for name in names:
        said: dict[str, Any] = {"file": f"{name}.yaml"}
        if random.random() < 0.4:
            said["brings"] = random.choice(["nothing", "all", [random.choice(list(items))]])
        if random.random() < 0.3:
            said["keeps"] = True
        levels[name] = said
    plain = {"ukemi": 1, "campaign": "Random", "levels": levels}
    plain["shares"] = [flag for flag in FLAGS if random.random() < 0.3]
    if round_and_round or random.random() < 0.3:
        pairs = [*zip(names, names[1:], strict=False)]
        pairs += [(random.choice(names), random.choice(names)) for _ in range(random.randint(0, 2))]
        ways = []
        for a, b in pairs if round_and_round else pairs[: len(names) - 1]:
            fields: dict[str, Any] = {}
            if random.random() < 0.4:
                fields["when"] = drawers[a].condition()
            if random.random() < 0.3:
                fields["sets"] = random.choice(FLAGS)
            ways.append({f"{a} -> {b}": fields})
        plain["ways"] = ways
    return plain, files


def loaded(plain: dict[str, Any], files: dict[str, Any]) -> Joined:
    """The campaign; one that cannot be read is drawn again."""
    with TemporaryDirectory() as folder:
        for name, said in {**files, "year.yaml": plain}.items():
            (Path(folder) / name).write_text(json.dumps(said))
        try:
            level = ukemi.load(Path(folder) / "year.yaml")
        except ukemi.LevelError:
            assume(False)
            raise
    assert isinstance(level, Joined)
    return level


@given(st.randoms(use_true_random=False))
@settings(max_examples=LEVELS, deadline=None)
def test_campaigns_agree_with_the_second_player(random: Random) -> None:
    level = loaded(*campaigns(random))
    naive = NaiveCampaign(level, limit=1_200)
    assume(naive.complete)
    report = report_dict(ukemi.check(level, max_positions=100_000))
    answers, finished = report["answers"], naive.finished()
    assert report["search"]["complete"]
    able = naive.able(naive.over)
    stuck = [one for one in naive.spots if one.end != "dead" and one not in able]
    assert answers["finish"] == ("yes" if finished else "no")
    assert answers["stuck"] == ("possible" if stuck else "never")
    assert answers["deadly"] == ("yes" if any(one.end == "dead" for one in naive.spots) else "no")
    statuses = naive_statuses(naive, able)
    for kind in ("doors", "chests", "acts", "rooms", "items", "events"):
        for name, status in answers[kind].items():
            assert status == statuses[name], name
    for name, one in answers["levels"].items():
        inside = status_by(naive, able, lambda stand, name=name: stand.stage == name)
        assert one == {"status": inside, "enters": naive.enters()[name]}
    rewards = naive.reward_names()
    assert answers["rewards"].keys() == rewards.keys()
    for name, subject in rewards.items():
        assert answers["rewards"][name]["status"] == statuses[subject]
        assert answers["rewards"][name]["missable"] == naive.missable(subject), name
    assert answers["all-rewards"] == (
        "yes" if finished and naive.all_in_one(list(rewards.values())) else "no"
    )
    costs = naive.costs()
    assert ("finish" in report["routes"]) == bool(finished)
    if finished:
        assert report["routes"]["finish"]["steps"] == min(costs[one] for one in finished)
    for route in report["routes"].values():
        assert naive.follow(route["moves"]) & set(finished)


def naive_statuses(naive: NaiveCampaign, able: set[Any]) -> dict[str, str]:
    return {name: status_by(naive, able, done) for name, done in naive.facts().items()}


def status_by(naive: NaiveCampaign, able: set[Any], done: Any) -> str:
    without = naive.reached(naive.start, lambda stand: not done(stand))
    if any(done(one) for one in able):
        return "optional" if any(naive.over(one) for one in without) else "required"
    return "only-when-stuck" if any(done(one) for one in naive.spots) else "never"


def over(level: Joined, space_of: Any) -> ukemi.Report:
    """The report of a campaign over spaces of one kind."""

    def space(rules: Any) -> Any:
        found = space_of(rules)
        assume(found is not None and found.complete)
        return found

    rules = compile_level(level)
    return report_on(
        OverCampaign(level, rules, space(rules), lambda more: OverSets(level, more, space(more)))
    )


@given(st.randoms(use_true_random=False))
@settings(max_examples=max(LEVELS // 8, 10), deadline=None)
def test_diagrams_of_campaigns_answer_as_positions_do(random: Random) -> None:
    level = loaded(*campaigns(random))
    expected = over(level, lambda rules: ExplicitSpace(rules, Limits(20_000)))
    found = over(level, lambda rules: symbolic_space(rules, Limits(memory=1 << 26).begin()))
    assert told(found) == told(expected)
    assert found.search.positions == expected.search.positions
    left = [
        sorted(one.subject for one in report.findings if one.code == "left-behind")
        for report in (found, expected)
    ]
    assert left[0] == left[1]
