"""Campaigns: every answer agrees with a second player of the rules, and mistakes are told clearly."""

from __future__ import annotations

import json
import subprocess
import sys
from dataclasses import dataclass, field, replace
from itertools import pairwise
from pathlib import Path
from random import Random
from tempfile import TemporaryDirectory
from typing import Any

import jsonschema
import pytest
import yaml
from hypothesis import assume, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.checks.check import report_on
from ukemi.demo import DEMO_CAMPAIGN, campaign_text
from ukemi.draw import draw_campaign
from ukemi.level.joined import Joined
from ukemi.questions import way_round
from ukemi.questions.context import Context
from ukemi.rules import compile_level
from ukemi.spaces import Limits
from ukemi.spaces.explicit import ExplicitSpace
from ukemi.spaces.symbolic import symbolic_space

from .evidence import runs_prove_only_what_is_so
from .helpers import DEMO, ROOT, check_json, report_dict, run
from .levels import FLAGS, Drawer
from .naive import Impossible, Naive, Spot
from .test_against_naive import LEVELS, compare_order
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
    carried_in: dict[str, list[dict[str, int]]] = field(default_factory=dict)

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
        self.carried_in.setdefault(name, []).append(dict(start))
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
        self.carried_in.setdefault(way.b, []).append(dict(spot.carried))
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
        """What is carried into each level, before anything is taken or happens there."""
        found: dict[str, dict[str, list[int]]] = {name: {} for name in self.campaign.stages}
        for name, entered in self.carried_in.items():
            for item in self.level.items:
                counts = [one.get(item, 0) for one in entered]
                found[name][item] = [min(counts), max(counts)]
        return found

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
        pairs = [*pairwise(names)]
        pairs += [(random.choice(names), random.choice(names)) for _ in range(random.randint(0, 2))]
        ways = []
        if not round_and_round:  # the levels in turn, and perhaps a fork past some of them
            pairs = [*pairwise(names), (names[0], names[-1])][
                : random.randint(1, 2) + len(names) - 2
            ]
        for a, b in pairs:
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
@settings(max_examples=max(LEVELS // 2, 8), deadline=None)
def test_campaigns_agree_with_the_second_player(random: Random) -> None:
    level = loaded(*campaigns(random))
    naive = NaiveCampaign(level, limit=1_200)
    assume(naive.complete)
    checked = ukemi.check(level, max_positions=100_000)
    report = report_dict(checked)
    answers, finished = report["answers"], naive.finished()
    assert report["search"]["complete"]
    runs_prove_only_what_is_so(level, checked)
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
    compare_order(answers["order"], naive.order())
    mistakes = {}
    for one in checked.with_code("can-get-stuck"):
        for move, route in [(one.mistake, one.route), *((m.move, m.route) for m in one.also)]:
            mistakes[json.dumps(move, sort_keys=True)] = route.steps
            ends = naive.follow(route.whats)
            assert any(stand.end == "playing" and stand not in able for stand in ends)
    assert mistakes == (naive.mistakes() if finished else {})


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
    return report_on(Context(level, rules, Limits().begin(), space(rules), remember=space))


@given(st.randoms(use_true_random=False))
@settings(max_examples=max(LEVELS // 16, 6), deadline=None)
def test_diagrams_of_campaigns_answer_as_positions_do(random: Random) -> None:
    level = loaded(*campaigns(random))
    expected = over(level, lambda rules: ExplicitSpace(rules, Limits(20_000)))
    found = over(level, lambda rules: symbolic_space(rules, Limits(memory=1 << 26).begin()))
    if found.answers.alternatives is None:  # asked of a campaign only where its positions are few
        others = [one for one in expected.findings if one.code != "either-or"]
        answers = replace(expected.answers, alternatives=None)
        expected = replace(expected, answers=answers, findings=others)
    assert told(found) == told(expected)
    assert found.search.positions == expected.search.positions
    left = [
        sorted(one.subject for one in report.findings if one.code == "left-behind")
        for report in (found, expected)
    ]
    assert left[0] == left[1]


def test_a_level_that_is_entered_again_does_not_show_what_was_done_before(tmp_path: Path) -> None:
    """The nook is entered only with the lantern of the second level, for which the first must be finished."""
    for name, text in {
        "year": "campaign: Year\nlevels: {first: first.yaml, second: second.yaml, last: last.yaml}\n"
        "ways: [first -> second, second -> first, second -> last]\n",
        "first": "{start: quay, goal: done pull, items: {lantern: {}}, rooms: {quay: {acts: {pull: {}}},"
        " nook: {gate: lantern}}, passages: [quay <-> nook]}",
        "second": "{start: hall, goal: hall, items: {lantern: {max: 1}}, rooms: {hall: {items: lantern}}}",
        "last": "{start: yard, goal: yard, rooms: [yard]}",
    }.items():
        (tmp_path / f"{name}.yaml").write_text(text.replace("lantern: {}", "lantern: {max: 1}"))
    rules = compile_level(level := ukemi.load(tmp_path / "year.yaml"))
    limits = Limits(3_000).begin()
    sets = Context(level, rules, limits, ExplicitSpace(rules, limits)).sets
    assert sets.at("first/nook") and not sets.some_without(["first/pull"], sets.at("first/nook"))


@given(st.randoms(use_true_random=False))
@settings(max_examples=max(LEVELS // 2, 8), deadline=None)
def test_runs_without_some_things_are_decided_as_by_searching_on(random: Random) -> None:
    """By what positions show, known runs and the relaxed level first, beside a search of all that avoids the things."""
    level = loaded(*campaigns(random))
    rules = compile_level(level)
    context = Context(level, rules, Limits().begin(), ExplicitSpace(rules, Limits(3_000).begin()))
    sets = context.sets
    assume(sets.complete)

    def without(names: list[str], there: Any) -> bool:
        return bool(sets.never_in(sets.done_any(names)) & there)

    assert sets.finishing is not None or not sets.finished  # from now on, this is a known run
    names = [one.name for one in context.subjects]
    ends = [sets.finished, *(sets.can_finish & sets.at(room) for room in level.rooms)]
    for _ in range(12):
        some, there = (
            random.sample(names, min(len(names), random.randint(1, 2))),
            random.choice(ends),
        )
        assert (
            sets.some_without(some, there)
            == without(some, there)
            == bool(sets.without(some, there))
        ), some
    for door, _ in level.doors():
        found = way_round.needed(context, door.ends, door)
        every = [sets.can_finish & sets.at(room) for room in door.ends]
        if found is None:
            assert not all(without([door.thing], there) for there in every)
            continue
        things = [one.name for one in context.subjects if one.kind != "event"]
        for needs, there in zip(found, every, strict=True):
            assert needs == {one for one in things if not without([door.thing, one], there)}


# -- as a designer meets them ------------------------------------------------------------------

LEVELS_OF_A_YEAR = {
    "landing.yaml": """
start: quay
goal: at gate
items: {lantern: {kind: tool}, coin: {kind: supply, max: 9}}
rooms: {quay: {items: {coin: 2}}, shed: {items: lantern}, gate: {}}
passages: [quay <-> shed, quay <-> gate]
""",
    "mill.yaml": """
start: hall
goal: at loft or at hatch
items: {lantern: {kind: tool}}
flags: [warned]
rooms: {hall: {}, loft: {}, hatch: {}}
passages: [hall <-> loft: {gate: lantern, name: dark-stair}, hall -> hatch]
""",
}


def year(folder: Path, campaign: str, **levels: str) -> Path:
    """A campaign file, with its levels beside it."""
    files = {f"{name}.yaml": text for name, text in levels.items()}
    for name, text in {**LEVELS_OF_A_YEAR, **files, "year.yaml": campaign}.items():
        (folder / name).write_text(text)
    return folder / "year.yaml"


YEAR = "campaign: A Year\nlevels: {landing: landing.yaml, mill: mill.yaml}\n"


@pytest.mark.parametrize(
    ("campaign", "levels", "says"),
    [
        (YEAR.replace("mill.yaml", "mil.yaml"), {}, "2:39: level 'mill': {}/mil.yaml: cannot read this"),
        (YEAR, {"mill": "start: hall\ngoal: x\nrooms: [hall]"}, "2:39: level 'mill': {}/mill.yaml:2:7: 'x'"),
        (YEAR, {"mill": YEAR}, "level 'mill': {}/mill.yaml: it is a campaign itself, and no level"),
        (YEAR.replace("mill.yaml", "../mill.yaml"), {}, "a level lies in the campaign's folder or below"),
        (YEAR + "ways: [landing -> mil]", {}, "3:8: 'mil' is not a level of the campaign (did you mean 'mill'?)"),
        (YEAR + "ways: [landing <-> mill]", {}, "is no way: write 'level -> level'"),
        (YEAR + "goal: loft", {}, "3:7: 'loft' is not a level of the campaign"),
        (YEAR.partition("\n")[2], {}, "1:1: the campaign has no name; add a line such as `campaign: "),
        (YEAR + "shares: warnd", {}, "'warnd' is shared, but it is no flag of any level (did you mean 'warned'?)"),
        (
            YEAR + "ways: [landing -> mill: {when: lantrn}]",
            {},
            "3:32: 'lantrn' is not the name of an item or a flag (did you mean 'lantern'?)",
        ),
        (YEAR + "ways: [landing -> mill: {sets: wet}]", {}, "'wet' is no flag of mill, and not under `shares`"),
        (YEAR + "expect: {required: mill/lofft}", {}, "(did you mean 'mill/loft'?)"),
        (YEAR + "expect: {never: at mill/lofft}", {}, "(did you mean 'mill/loft'?)"),
        (
            "campaign: A Year\nlevels: {landing: landing.yaml, mill: {file: mill.yaml, brings: lamp}}",
            {},
            "'lamp' is no item of any level",
        ),
        (
            YEAR,
            {"mill": LEVELS_OF_A_YEAR["mill.yaml"].replace("kind: tool", "kind: key")},
            "landing.yaml and mill.yaml do not agree about 'lantern': its `kind` is tool and key",
        ),
        (
            YEAR + "ways: [landing -> mill, mill -> landing]",
            {},
            "'lantern' could grow without end: 'landing' can be entered again and again",
        ),
        ("campaign: A Year\nlevels: {}", {}, "the campaign has no levels"),
        ("campaign: A Year\nlevels: {a: {brings: all}}", {}, "level 'a' does not say which `file` it is"),
        (
            YEAR.replace("mill: mill.yaml", "mill: mill.yaml, loft: mill.yaml") + "expect: {never: at hall}",
            {},
            "'hall' could be mill/hall or loft/hall: write which",
        ),
        (YEAR + "way: []", {}, "a campaign has no field 'way' (did you mean 'ways'?)"),
        ("campaign: A Year\nlevels: {a: landing.yaml, a: mill.yaml}", {}, "a level 'a' is given twice"),
    ],
)  # fmt: skip
def test_what_is_wrong_with_a_campaign_is_one_clear_message(
    campaign: str, levels: dict[str, str], says: str, tmp_path: Path
) -> None:
    file = year(tmp_path, campaign, **levels)
    with pytest.raises(ukemi.LevelError) as caught:
        ukemi.load(file)
    message = str(caught.value)
    assert message.startswith(f"{file}:")
    assert says.replace("{}", str(tmp_path)) in message
    assert len(message.splitlines()) == 1


def test_a_reward_can_be_had_again_in_a_level_that_is_come_to_anew(tmp_path: Path) -> None:
    landing = """
start: quay
goal: at gate and ledger
items: {ledger: {kind: reward, max: 1}}
flags: [twice]
rooms: {quay: {items: ledger}, gate: {}}
passages: [quay <-> gate]
"""
    ways = "[landing -> landing: {sets: twice}, landing -> mill: {when: twice}]"
    file = year(
        tmp_path,
        f"campaign: Round\nlevels: {{landing: {{file: landing.yaml, brings: nothing}}, mill: mill.yaml}}\n"
        f"ways: {ways}\nshares: twice\n",
        landing=landing,
        mill="start: hall\ngoal: lit\nrooms: [hall]\nflags: [lit]\n"
        "events: {dusk: {when: at hall, sets: lit}}\n",
    )
    answers = ukemi.check(file).answers
    assert (answers.finish, answers.stuck, answers.all_rewards) == ("yes", "never", "yes")
    assert (answers.rewards["landing/quay/ledger"].missable, answers.levels["mill"].status) == (
        "no", "required",
    )  # fmt: skip


def test_a_level_that_keeps_gives_what_one_starts_with_once(tmp_path: Path) -> None:
    oar = "items: {oar: {use: spent}}\n"
    report = ukemi.check(
        year(
            tmp_path,
            "campaign: Oar\nlevels: {landing: landing.yaml, mill: {file: mill.yaml, keeps: true, brings: all},"
            " bell: {file: bell.yaml, brings: all}}\n"
            "ways: [landing -> mill, mill -> landing, mill -> bell]\ngoal: bell\n",
            landing="start: quay\ngoal: at quay\nrooms: [quay]\n",
            mill=f"{oar}start: hall\ngoal: at hall\ninventory: {{start: oar}}\nrooms: [hall, store]\n"
            "passages: [hall <-> store: {lock: oar, name: store-door}]\n",
            bell=f"{oar}start: base\ngoal: at top\nrooms: [base, top]\n"
            "passages: [base <-> top: {lock: oar, name: stair-door}]\n",
        )
    )
    assert (report.answers.finish, report.answers.stuck) == ("yes", "possible")
    assert report.answers.doors == {
        "mill/store-door": "only-when-stuck", "bell/stair-door": "required",
    }  # fmt: skip
    assert report.answers.levels["bell"].enters == {"oar": (0, 1)}


def test_a_door_of_a_campaign_is_bypassed_only_where_its_lock_changes_nothing(
    tmp_path: Path,
) -> None:
    keys = "start: quay\ngoal: at mill\nitems: {key: {}, oar: {}}\n"
    door = "passages: [quay <-> mill: {lock: key, name: door}"
    report = ukemi.check(
        year(
            tmp_path,
            "campaign: Round\nlevels: {landing: {file: landing.yaml, brings: nothing}, tower: tower.yaml}\n",
            landing=f"{keys}rooms: {{quay: {{items: [key, oar]}}, mill: {{}}}}\n"
            f"{door}, quay <-> mill: {{lock: oar, name: hatch}}]\n",
            tower=f"{keys}rooms: {{quay: {{items: key}}, mill: {{}}, yard: {{}}}}\n"
            f"{door}, quay <-> yard, yard <-> mill]\n",
        )
    )
    assert [(one.subject, one.severity) for one in report.with_code("bypassed")] == [
        ("tower/door", "warning")
    ]
    (either,) = report.with_code("either-or")
    assert either.message == (
        "Finishing takes one of these: landing/door and key from landing/quay;"
        " or landing/hatch and oar from landing/quay."
    )


def test_a_reward_in_each_of_twelve_levels_is_settled(tmp_path: Path) -> None:
    names = [f"mill-{number}" for number in range(12)]
    mill = """
start: hall
goal: loft
items: {{key: {{use: spent}}, {0}: {{kind: reward}}}}
rooms: {{hall: {{items: key}}, store: {{items: {0}}}, loft: {{}}}}
passages: [hall <-> store: {{lock: key}}, hall <-> loft, loft -> hall]
"""
    listed = ", ".join(f"{name}: {name}.yaml" for name in names)
    levels = {name: mill.format(f"ledger-{name}") for name in names}
    report = ukemi.check(year(tmp_path, f"campaign: Years\nlevels: {{{listed}}}\n", **levels))
    assert report.search.complete
    assert report.answers.all_rewards == "yes"
    assert report.routes["all-rewards"].shortest
    missed = [one.missable for one in report.answers.rewards.values()]
    assert missed == [*["yes"] * 11, "no"]  # whoever finishes the last level is not playing on


def test_a_level_may_lie_elsewhere_if_the_reader_says_so(tmp_path: Path) -> None:
    (tmp_path / "inner").mkdir()
    file = year(tmp_path / "inner", YEAR.replace("mill.yaml", "../mill.yaml"))
    (tmp_path / "mill.yaml").write_text(LEVELS_OF_A_YEAR["mill.yaml"])
    assert "a level lies in the campaign's folder" in run("check", file).stderr
    assert run("check", file, UKEMI_LEVELS_OUTSIDE="1").returncode == 0


def test_what_is_left_behind_is_told_with_its_mends(tmp_path: Path) -> None:
    mill = LEVELS_OF_A_YEAR["mill.yaml"].replace("at loft or at hatch", "at loft")
    mill = mill.replace("hall -> hatch", "hall <-> hatch")
    file = year(tmp_path, YEAR + "# the end\n", mill=mill)
    found = json.loads(run("check", file, "--format", "json", "--mends").stdout)
    assert found["answers"]["levels"]["mill"] == {
        "status": "required", "enters": {"lantern": [0, 1], "coin": [0, 2]},
    }  # fmt: skip
    first = found["findings"][0]
    assert (first["code"], first["subject"], first["severity"]) == (
        "left-behind", "mill/lantern", "error",
    )  # fmt: skip
    assert first["mistake"] == {"do": "finish", "level": "landing", "to": "mill"}
    assert run("check", file).stdout.count("can-get-stuck") == 1  # told below its cause
    said = {(mend["file"], mend["say"].partition(" (or ")[0]) for mend in first["mends"]}
    assert said >= {
        (str(file), "let the way landing -> mill ask for lantern"),
        (str(tmp_path / "mill.yaml"), "in mill: put one more lantern in hall"),
    }
    assert run("check", file).returncode == 1
    assert run("mend", file, "--apply", 1).returncode == 0
    assert "when: lantern" in file.read_text()
    assert "# the end" in file.read_text()
    assert run("check", file).returncode == 0
    assert (tmp_path / "mill.yaml").read_text() == mill


def test_what_a_level_does_not_bring_along_is_left_behind_in_the_level_before(
    tmp_path: Path,
) -> None:
    plain = "start: floor\ngoal: end\nrooms: [floor, end]\npassages: [floor -> end]\n"
    report = ukemi.check(
        year(
            tmp_path,
            "campaign: A Year\nlevels: {landing: landing.yaml, mill: mill.yaml, pit: {file: pit.yaml, brings: nothing},"
            " bell: {file: bell.yaml, brings: all}}\ngoal: bell\n"
            "ways: [landing -> mill, mill -> pit, mill -> bell, pit -> bell]\n",
            landing=plain,
            mill=f"{plain}items: {{lantern: {{}}}}\ninventory: {{start: lantern}}\n",
            pit=plain,
            bell="start: floor\ngoal: end\nitems: {lantern: {}}\nrooms: [floor, end]\n"
            "passages: [floor -> end: {lock: lantern, name: stair}]\n",
        )
    )
    (found,) = report.with_code("left-behind")
    assert found.subject == "bell/lantern"
    assert found.why.startswith("It is left behind in mill (the only lantern")


def test_a_way_is_told_by_how_the_level_was_finished(tmp_path: Path) -> None:
    ways = "ways: [landing -> mill, mill -> loft: {when: at loft}, mill -> cellar: {when: hatch, sets: wet}]\n"
    last = (
        "start: floor\ngoal: at end\nflags: [wet]\nrooms: [floor, end]\npassages: [floor -> end]\n"
    )
    file = year(
        tmp_path,
        "campaign: A Year\nlevels: {landing: landing.yaml, mill: mill.yaml, loft: loft.yaml, cellar: {file:"
        " cellar.yaml, keeps: true}}\ngoal: loft\n" + ways,
        loft=last,
        cellar=last.replace("floor -> end]", "floor -> end: {gate: wet}]"),
    )
    report = ukemi.check(file)
    assert [str(one.status) for one in report.answers.levels.values()] == [
        "required", "required", "required", "only-when-stuck",
    ]  # fmt: skip
    assert report.answers.levels["loft"].enters["lantern"] == (1, 1)
    assert report.answers.acts == {}
    told = [one.subject for one in report.findings if one.severity == "error"]
    assert told
    replayed = run("replay", file, _played(file, tmp_path))
    assert "every move works" in replayed.stdout, replayed


def _played(file: Path, folder: Path) -> Path:
    moves = "go shed\ntake lantern\ngo quay\ngo gate\nfinish\ngo loft\nfinish\ngo end\n"
    saved = folder / "session.yaml"
    done = subprocess.run(
        [sys.executable, "-m", "ukemi", "play", str(file)],
        input=f"{moves}save {saved}\nfinish\n",
        capture_output=True,
        encoding="utf-8",
    )
    assert "Finished in end" in done.stdout, done
    return saved


def test_a_level_alone_is_checked_as_if_come_into(tmp_path: Path) -> None:
    year(tmp_path, YEAR)
    mill = tmp_path / "mill.yaml"
    text = mill.read_text().replace("at loft or at hatch", "at loft")
    mill.write_text(text.replace("hall -> hatch", "hall <-> hatch"))
    assert run("check", mill).returncode == 1
    assert run("check", mill, "--entered-with", "lantern").returncode == 0
    with_lantern = json.loads(
        run("check", mill, "--format", "json", "--entered-with", " 2 lantern ").stdout
    )
    assert with_lantern["answers"]["finish"] == "yes"
    wrong = run("check", mill, "--entered-with", "lantrn")
    assert wrong.returncode == 2
    assert "'lantrn' is not the name of an item (did you mean 'lantern'?)" in wrong.stderr


def test_campaigns_ship_and_every_command_takes_one(tmp_path: Path) -> None:
    made = run("new", "--campaign", tmp_path / "mine.yaml")
    assert made.returncode == 0
    assert run("check", tmp_path / "mine.yaml").returncode == 0
    assert (
        "exists already; nothing was written"
        in run("new", "--campaign", tmp_path / "other.yaml").stderr
    )
    assert not (tmp_path / "other.yaml").exists()
    schema = json.loads(run("schema", "campaign").stdout)
    validator = jsonschema.Draft202012Validator(schema)
    for name in DEMO_CAMPAIGN:
        (tmp_path / name).write_text(campaign_text(name))
    for file in (tmp_path / "mine.yaml", tmp_path / DEMO_CAMPAIGN[0]):
        validator.validate(yaml.safe_load(file.read_text()))
    file = tmp_path / DEMO_CAMPAIGN[0]
    report = ukemi.check(file)
    assert {one.subject for one in report.findings if one.severity == "error"} == {
        "cellar/lantern", "cellar/rope",
    }  # fmt: skip
    jsonschema.validate(report_dict(report), json.loads(run("schema", "report").stdout))
    for view in ("map", "order", "locks", "inventory"):
        assert run("draw", file, "--view", view, "-o", tmp_path / f"{view}.png").returncode == 0
    drawn = draw_campaign(report.level, report.answers.levels).axes[0]
    said = [text.get_text() for text in drawn.texts]
    assert {"entered with 0 to 1 rope", "brings rope", "landing -> cellar", "START", "GOAL"} <= {
        *said
    }
    maps = tmp_path / "maps.yaml"
    maps.write_text("campaign: Maps\nlevels: {up: ground-floor.yaml, down: flooded-cellar.yaml}\n")
    for name in ("ground-floor.yaml", "flooded-cellar.yaml"):
        (tmp_path / name).write_text((DEMO / name).read_text())
    for route in ("finish", "stuck"):
        drawn = run("draw", maps, "--route", route, "-o", tmp_path / "maps.png")
        assert drawn.returncode == 0, drawn
    assert "maps.yaml" in run("check", tmp_path).stdout  # it says nothing that a level says
    assert run("report", file, "-o", tmp_path / "page.html").returncode == 0
    assert run("crowd", file, "--runs", "20").returncode == 0
    assert run("check", file, "--format", "sarif").returncode == 1


# -- levels as parts of their campaigns -----------------------------------------------------------


def parts_of_a_year(folder: Path) -> Path:
    """A sound campaign whose second level needs what the first brings, and a level of its own."""
    (folder / "levels").mkdir()
    done = run("new", "--campaign", "year.yaml", cwd=folder / "levels")
    assert done.returncode == 0
    assert run("new", "--rooms", "lone.yaml", cwd=folder / "levels").returncode == 0
    return folder / "levels"


def test_a_sound_campaign_passes_its_own_build(tmp_path: Path) -> None:
    folder = parts_of_a_year(tmp_path)
    second = folder / "second-level.yaml"
    alone = run("check", second)
    assert alone.returncode == 1 and "this level is part of" in alone.stdout
    for words in (
        ["."],
        ["-j", "2", "."],
        ["--campaigns", second],
        ["--quiet", *folder.glob("*.yaml")],
    ):
        done = run("check", *words, cwd=folder)
        assert done.returncode == 0, done.stdout
        assert "part of" in done.stdout, words
    reports = {one["file"]: one for one in check_json(folder)}
    assert [*reports] == sorted(reports)
    assert reports[str(second)]["campaigns"] == [str(folder / "year.yaml")]
    assert reports[str(second)]["answers"] == {} == reports[str(second)]["routes"]
    assert "campaigns" not in reports[str(folder / "lone.yaml")]
    hook = yaml.safe_load((ROOT / ".pre-commit-hooks.yaml").read_text())[0]["entry"].split()
    assert run(*hook[1:], second, cwd=tmp_path).returncode == 0


def test_what_a_campaign_finds_stands_in_the_file_of_its_level(tmp_path: Path) -> None:
    folder = parts_of_a_year(tmp_path)
    first = folder / "first-level.yaml"
    first.write_text(first.read_text().replace("quay <-> gate", "gate -> quay"))
    done = run("check", ".", "--format", "json", cwd=folder)
    assert done.returncode == 1
    found = {one["file"]: one["findings"] for one in json.loads(done.stdout)}
    assert found["first-level.yaml"] and not found["lone.yaml"]
    for one in found["first-level.yaml"]:
        assert one["file"] == "first-level.yaml" and one["line"] > 0


@pytest.mark.parametrize("meeting", [False, True])
def test_rewards_on_two_branches_say_so(tmp_path: Path, meeting: bool) -> None:
    level = "start: quay\ngoal: mill\nitems: {ledger: {kind: reward}}\nrooms: {quay: {items: [ledger]}, mill: {}}\n"
    ways = "ways: [first -> second, first -> third, second -> fourth, third -> fourth{}]\n"
    names = ("first", "second", "third", "fourth")
    campaign = "\n".join(
        (
            f"campaign: Year\nlevels: {{{', '.join(f'{one}: {one}.yaml' for one in names)}}}",
            ways.format(", second -> third" if meeting else ""),
        )
    )
    levels = dict.fromkeys(names, level + "passages: [quay -> mill]\n")
    report = ukemi.check(year(tmp_path, campaign, **levels))
    found = report.with_code("rewards-exclude-each-other")
    assert len(found) == (not meeting)
    for one in found:
        assert one.why == "No run plays both second and third: no way leads from one to the other"


def test_a_folder_lists_what_a_campaign_finds_once_and_likes_together(tmp_path: Path) -> None:
    rooms = "rooms: {quay: {items: [ledger]}, nook: {items: [oar]}, mill: {}}"
    level = f"start: quay\ngoal: mill\n{rooms}\nitems: {{ledger: {{kind: reward}}, oar: {{kind: reward}}}}\n"
    ways = "passages: [quay <-> nook, quay -> mill]\n"
    for name in ("first", "second", "third"):
        (tmp_path / f"{name}.yaml").write_text(level + ways)
    fork = "levels: {first: first.yaml, second: second.yaml, third: third.yaml}\ngoal: third\n"
    (tmp_path / "year.yaml").write_text(
        f"campaign: Year\n{fork}ways: [first -> second, first -> third, second -> third]\n"
    )
    alone, whole, full = (
        run("check", *words, cwd=tmp_path).stdout
        for words in (["year.yaml"], ["."], ["--full", "."])
    )
    found = ukemi.check(tmp_path / "year.yaml").findings
    assert len(found) > 5 and {one.code for one in found} == {"reward-can-be-missed"}
    for one in found:
        assert one.place is not None
        where = (
            f"{one.subject}{{}}{Path(str(one.place.file)).name}:{one.place.line}:{one.place.column}"
        )
        likes = where.format(" (") + ")"
        for said in (alone, whole):
            assert said.count(where.format("  ")) + said.count(likes) == 1, one.subject
        assert full.count(where.format("  ")) == 1 and likes not in full
    assert f"{len(found)} more findings, listed with the levels of this campaign" in whole
    assert "more finding" not in alone and alone.count("Likewise: ") == alone.count("warning ") > 1


def test_a_level_that_several_campaigns_name_must_hold_in_each(tmp_path: Path) -> None:
    folder = parts_of_a_year(tmp_path)
    year = folder / "year.yaml"
    (folder / "other.yaml").write_text(year.read_text().replace("brings", "brings") + "\n")
    bare = "campaign: Bare\nlevels: {first: {file: first-level.yaml}, second: {file: second-level.yaml, brings: nothing}}\n"
    (folder / "bare.yaml").write_text(bare)
    (second,) = [
        one for one in check_json(folder) if one["file"] == str(folder / "second-level.yaml")
    ]
    assert len(second["campaigns"]) == 3
    assert second["findings"], "it cannot be finished if nothing is brought in"
    assert run("check", folder).returncode == 1


def test_a_level_of_a_campaign_that_cannot_be_read_does_not_fail_by_itself(tmp_path: Path) -> None:
    folder = parts_of_a_year(tmp_path)
    (folder / "year.yaml").write_text(
        "campaign: Year\nlevels: {first: first-level.yaml, secnd: second-level.yaml}\ngoal: third\n"
    )
    done = run("check", folder, "--format", "json")
    assert done.returncode == 2
    found = {Path(one["file"]).name: one for one in json.loads(done.stdout)}
    assert found["second-level.yaml"]["findings"] == []
    assert "is not a level of the campaign" in found["year.yaml"]["findings"][0]["message"]


def test_a_search_that_is_cut_short_says_only_what_is_left_behind_for_certain(
    tmp_path: Path,
) -> None:
    for mill in (None, LEVELS_OF_A_YEAR["mill.yaml"].replace("at loft or at hatch", "at loft")):
        file = year(tmp_path, YEAR, **({} if mill is None else {"mill": mill}))
        known = {one.subject for one in ukemi.check(file).with_code("left-behind")}
        for most in (2, 5, 9, 14, 20, 30, 45):
            cut = ukemi.check(file, max_positions=most)
            assert {one.subject for one in cut.with_code("left-behind")} <= known
