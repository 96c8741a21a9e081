"""Several players: every answer agrees with a second player of the rules, for all of them at once."""

from __future__ import annotations

import json
from dataclasses import dataclass, replace
from pathlib import Path
from random import Random
from typing import Any

import jsonschema
import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.facts import guided
from ukemi.facts.guided import find_run
from ukemi.facts.one_each import too_few
from ukemi.facts.relaxed import Relaxed
from ukemi.facts.relaxed_plan import Planner
from ukemi.level.conditions import At, By, Carries, EveryoneAt, Has, HasAll, PlayerAt, SomeoneAt
from ukemi.playing.talk import Talk
from ukemi.report.as_json import report_schema
from ukemi.report.as_text import finding_lines
from ukemi.report.route_steps import route_steps
from ukemi.rules import compile_level
from ukemi.spaces import CutShortError

from .evidence import runs_prove_only_what_is_so
from .helpers import DEMO, readable, report_dict, run
from .levels import Drawer
from .naive import Impossible, Naive, Spot, add
from .test_against_naive import LEVELS, compare_mistakes, compare_order
from .test_campaigns import loaded as loaded_campaign
from .test_campaigns import naive_statuses
from .test_spaces import explicit, symbolic, told


@dataclass(frozen=True)
class Stand:
    """Where all stand: each player's room and what each carries, and the rest of the position."""

    rooms: tuple[str, ...]
    carried: tuple[Any, ...]
    spot: Spot

    @property
    def end(self) -> str:
        return self.spot.end


class View(Naive):
    """The rules for one player, who moves; what happens by itself is left to all of them."""

    player: str | None = None
    stand: Stand | None = None

    def settle(self, spot: Spot) -> Spot:
        return spot

    def holds(self, spot: Spot, condition: Any) -> bool:
        names = list(self.level.players)
        rooms = dict(zip(names, self.stand.rooms, strict=True)) if self.stand else {}
        if self.player is not None:
            rooms[self.player] = spot.room
        match condition:
            case At(room) | EveryoneAt(room) if self.player is None or isinstance(
                condition, EveryoneAt
            ):
                return all(one == room for one in rooms.values())
            case SomeoneAt(room):
                return room in rooms.values()
            case PlayerAt(player, room):
                return rooms[player] == room
            case Carries(player, item, count):
                return self.has(player, spot, item) >= count
            case By(player):
                return player == self.player
            case Has(item, count) if self.player is None and item in self.level.items:
                return self.all_have(item) >= count
            case HasAll(item) if self.player is None:
                return self.all_have(item) >= self.total(item)
        return super().holds(spot, condition)

    def has(self, player: str, spot: Spot, item: str) -> int:
        if player == self.player or self.level.inventory.shared:
            if self.player is not None:
                return dict(spot.carried).get(item, 0)
            return self.all_have(item)
        number = list(self.level.players).index(player)
        return dict(self.stand.carried[number]).get(item, 0)

    def all_have(self, item: str) -> int:
        return sum(dict(one).get(item, 0) for one in self.stand.carried)

    def total(self, item: str) -> int:
        rooms = self.level.rooms.values()
        return (
            sum(dict(one).get(item, 0) for one in starts(self.level))
            + sum(one.count for room in rooms for one in room.items.values() if one.item == item)
            + sum(chest.holds.get(item, 0) for room in rooms for chest in room.chests.values())
        )


def starts(level: ukemi.Level) -> list[dict[str, int]]:
    """What each player carries at first; of one inventory for all, all is in the first player's."""
    own = []
    for player in level.players.values():
        said = level.inventory.start if player.inventory is None else player.inventory
        own.append(said)
    if not level.inventory.shared:
        return own
    total = dict(level.inventory.start)
    for player in level.players.values():
        for item, count in (player.inventory or {}).items():
            total[item] = total.get(item, 0) + count
    return [total, *[{} for _ in own[1:]]]


class NaivePlayers(Naive):
    """Every position of a level that several play, and the moves between them."""

    def __init__(self, level: ukemi.Level, limit: int) -> None:
        self.names = list(level.players)
        self.shared = level.inventory.shared
        self.view = View(level, limit=0)
        super().__init__(level, limit)

    def begin(self) -> Stand:  # type: ignore[override]
        level = self.level
        bare = ukemi.Level("bare")
        bare.__dict__.update(level.__dict__)
        lying = [
            ((room.name, one.item), one.count)
            for room in level.rooms.values()
            for one in room.items.values()
        ]
        nothing: frozenset[str] = frozenset()
        on = frozenset(flag for flag, on in level.flags.items() if on)
        spot = Spot("", (), tuple(sorted(lying)), (), on, nothing, nothing, nothing)
        rooms = tuple(player.start or level.start for player in level.players.values())
        carried = tuple(
            tuple(sorted((item, n) for item, n in one.items() if n)) for one in starts(level)
        )
        return self.settled(Stand(rooms, carried, spot))

    # -- one player's eyes --------------------------------------------------------------------

    def seen(self, stand: Stand, number: int | None) -> Spot:
        """The position as one player's own."""
        self.view.stand = stand
        self.view.player = None if number is None else self.names[number]
        if number is None:
            carried = stand.carried[0] if self.shared else ()
            return replace(stand.spot, room="", carried=carried)
        own = stand.carried[0 if self.shared else number]
        return replace(stand.spot, room=stand.rooms[number], carried=own)

    def told(self, stand: Stand, number: int | None, spot: Spot) -> Stand:
        """The position of all, after one player's own has changed."""
        rooms, carried = list(stand.rooms), list(stand.carried)
        if number is not None:
            rooms[number] = spot.room
        if number is not None or self.shared:
            carried[0 if self.shared else number] = spot.carried
        return Stand(tuple(rooms), tuple(carried), replace(spot, room="", carried=()))

    def settled(self, stand: Stand) -> Stand:
        level = self.level
        if level.rules.pickup == "touch":
            for number in range(len(self.names)):
                while True:
                    before = stand
                    for one in level.rooms[stand.rooms[number]].items.values():
                        while True:
                            try:
                                spot = self.view.take(self.seen(stand, number), one.item)
                            except Impossible:
                                break
                            stand = self.told(stand, number, spot)
                    if stand == before:
                        break
        before = None
        while before != stand:
            before = stand
            for event in level.events.values():
                spot = self.seen(stand, None)
                if event.name in spot.done or not self.view.holds(spot, event.when):
                    continue
                happened = lambda s, name=event.name: replace(s, done=s.done | {name})  # noqa: E731
                try:
                    spot = self.view.effects(spot, [event.effects], happened)
                except Impossible:
                    continue
                stand = self.told(stand, None, spot)
        for item in level.items.values():
            empty = [dict(one).get(item.name, 0) == 0 for one in stand.carried]
            if item.vital and (empty[0] if self.shared else any(empty)):
                return replace(stand, spot=replace(stand.spot, end="dead"))
        if level.rules.finish == "touch" and self.goal_holds(stand):
            return replace(stand, spot=replace(stand.spot, end="finished"))
        return stand

    def goal_holds(self, stand: Stand) -> bool:
        return self.view.holds(self.seen(stand, None), self.level.goal)

    def moves(self, stand: Stand) -> list[tuple[str, int, Stand]]:  # type: ignore[override]
        found = []
        for number, name in enumerate(self.names):
            for what, cost, spot in self.view.moves(self.seen(stand, number)):
                move = json.loads(what)
                if move["do"] != "finish":
                    after = self.settled(self.told(stand, number, spot))
                    found.append((json.dumps({**move, "by": name}, sort_keys=True), cost, after))
            if self.level.inventory.hand_over:
                found += self.gifts(stand, number)
        if self.level.rules.finish == "choice" and self.goal_holds(stand):
            ended = replace(stand, spot=replace(stand.spot, end="finished"))
            found.append((json.dumps({"do": "finish"}), 0, ended))
        return found

    def gifts(self, stand: Stand, number: int) -> list[tuple[str, int, Stand]]:
        found = []
        for other, name in enumerate(self.names):
            if other == number or stand.rooms[other] != stand.rooms[number]:
                continue
            for item, _ in stand.carried[number]:
                carried = list(stand.carried)
                carried[number] = add(carried[number], item, -1)
                given = Stand(stand.rooms, tuple(carried), stand.spot)
                try:
                    spot = self.view.gain(self.seen(given, other), {item: 1})
                except Impossible:
                    continue
                what = {"do": "give", "item": item, "to": name, "by": self.names[number]}
                after = self.settled(self.told(given, other, spot))
                found.append((json.dumps(what, sort_keys=True), 1, after))
        return found

    # -- the answers --------------------------------------------------------------------------

    def nameless(self, stand: Stand) -> Any:
        """The same for positions that differ only by who is who."""
        carried = [()] * len(self.names) if self.shared else stand.carried
        shared = stand.carried[0] if self.shared else ()
        return tuple(sorted(zip(stand.rooms, carried, strict=True))), shared, stand.spot

    def over(self, stand: Any) -> bool:
        return stand.end == "finished"

    def facts(self) -> dict[str, Any]:
        tests = {
            name: (lambda stand, test=test: test(stand.spot))
            for name, test in super().facts().items()
            if name not in self.level.rooms
        }
        for room in self.level.rooms.values():
            tests[room.name] = lambda stand, name=room.name: name in stand.rooms
        return tests


@dataclass(frozen=True)
class YearStand:
    """Where a run of a campaign for several stands: the level, and the position of all in it."""

    stage: str
    stand: Stand
    last: bool

    @property
    def end(self) -> str:
        return "playing" if self.stand.end == "finished" and not self.last else self.stand.end

    @property
    def spot(self) -> Spot:
        return self.stand.spot


class NaiveYear(Naive):
    """Every position of a campaign for several players; its levels are fresh whenever they are entered."""

    def __init__(self, level: ukemi.Level, limit: int) -> None:
        self.campaign = level.campaign
        self.stages = {
            name: NaivePlayers(one.level, limit=0) for name, one in level.campaign.stages.items()
        }
        self.carried_in: dict[str, list[Any]] = {name: [] for name in self.stages}
        super().__init__(level, limit)

    def begin(self) -> YearStand:  # type: ignore[override]
        name = self.campaign.start.name
        self.carried_in[name].append([dict(one) for one in starts(self.campaign.start.level)])
        return YearStand(name, self.stages[name].begin(), name == self.campaign.goal)

    def moves(self, year: YearStand) -> list[tuple[str, int, YearStand]]:  # type: ignore[override]
        found, players = [], self.stages[year.stage]
        if year.stand.end == "playing":
            for what, cost, after in players.moves(year.stand):
                move = json.loads(what)
                if move["do"] == "finish" and not year.last:
                    continue
                named = move["do"] == "give"  # whom a thing is given to is of no level
                for part in ("name", "in") if named else ("name", "in", "to"):
                    if part in move:
                        move[part] = f"{year.stage}/{move[part]}"
                found.append((json.dumps(move, sort_keys=True), cost, replace(year, stand=after)))
        alive = replace(year.stand, spot=replace(year.stand.spot, end="playing"))
        if year.stand.end != "dead" and players.goal_holds(alive):
            for way in self.campaign.ways:
                if way.a == year.stage:
                    what = json.dumps({"do": "finish", "level": way.a, "to": way.b}, sort_keys=True)
                    found += [(what, 0, after) for after in self.onward(alive, way)]
        return found

    def onward(self, before: Stand, way: Any) -> list[YearStand]:
        there, players = self.campaign.stages[way.b], self.stages[way.b]
        fresh = players.begin()
        carried = []
        for number, own in enumerate(starts(there.level)):
            brought = tuple(one for one in before.carried[number] if there.brings_along(one[0]))
            spot = replace(before.spot, carried=brought, room="")
            try:
                spot = players.view.gain(spot, own)
            except Impossible:
                return []
            carried.append(spot.carried)
            weight = sum(there.level.items[item].slots * count for item, count in spot.carried)
            if there.level.inventory.slots is not None and weight > there.level.inventory.slots:
                return []
        self.carried_in[way.b].append([dict(one) for one in carried])
        rooms = tuple(player.start or there.level.start for player in there.level.players.values())
        bare = replace(
            fresh.spot,
            lying=tuple(sorted(
                ((room.name, one.item), one.count)
                for room in there.level.rooms.values()
                for one in room.items.values()
            )),
            flags=frozenset(flag for flag, on in there.level.flags.items() if on),
            done=frozenset(), opened=frozenset(), collapsed=frozenset(), end="playing",
        )  # fmt: skip
        after = players.settled(Stand(rooms, tuple(carried), bare))
        return [YearStand(way.b, after, way.b == self.campaign.goal)]

    def over(self, year: Any) -> bool:
        return year.end == "finished" and year.last


class PlayersDrawer(Drawer):
    """Draws levels for two or three players."""

    players: tuple[str, ...] = ("ada", "ben")
    most_rooms = 3
    telling = True

    def atom(self) -> str:
        room, player = self.random.choice(self.rooms), self.random.choice(self.players)
        if self.telling and self.maybe(0.25):
            return self.random.choice(
                [
                    f"someone at {room}", f"everyone at {room}", f"{player} at {room}", f"by {player}",
                    f"{player} carries {self.random.choice(self.items)}",
                ]
            )  # fmt: skip
        return super().atom()

    def level(self) -> dict[str, Any]:
        self.rooms = self.rooms[: self.most_rooms]
        self.telling = self.maybe(0.5)
        plain = super().level()
        players: dict[str, Any] = {}
        for name in self.players:
            players[name] = {}
            if self.maybe(0.3):
                players[name]["start"] = self.random.choice(self.rooms)
            if self.maybe(0.3) and not any(one.get("vital") for one in plain["items"].values()):
                players[name]["inventory"] = [one for one in self.items if self.maybe(0.3)]
        plain["players"] = players if self.maybe(0.5) else list(self.players)
        if self.maybe(0.25):
            plain["inventory"]["shared"] = True
        elif self.maybe(0.4):
            plain["inventory"]["hand-over"] = True
        if not plain["inventory"].get("shared"):
            for event in plain.get("events", {}).values():
                for effect in ("spends", "loses", "gives"):
                    event.pop(effect, None)
        return plain


@st.composite
def for_several(draw: st.DrawFn) -> dict[str, Any]:
    return PlayersDrawer(draw(st.randoms(use_true_random=False))).level()


@given(for_several())
@settings(max_examples=max(LEVELS // 2, 8), deadline=None)
def test_levels_for_several_agree_with_the_second_player(plain: dict[str, Any]) -> None:
    level = readable(plain)
    compare(level, 120)
    runs_prove_only_what_is_so(level, ukemi.check(level))


def compare(level: ukemi.Level, limit: int = 700) -> None:
    naive = NaivePlayers(level, limit)
    assume(naive.complete)
    checked = ukemi.check(level, max_positions=100_000)
    report = report_dict(checked)
    answers, finished = report["answers"], naive.finished()
    able = naive.able(naive.over)
    playing = [one for one in naive.spots if one.end == "playing"]
    alike = bool(
        compile_level(level).alike
    )  # then one position stands for all that differ by names
    assert report["search"]["positions"] == len(
        {naive.nameless(one) if alike else one for one in naive.spots}
    )
    assert answers["finish"] == ("yes" if finished else "no")
    assert answers["stuck"] == ("possible" if any(one not in able for one in playing) else "never")
    assert answers["deadly"] == ("yes" if any(one.end == "dead" for one in naive.spots) else "no")
    statuses = naive_statuses(naive, able)  # type: ignore[arg-type]
    for kind in ("doors", "chests", "acts", "rooms", "items", "events"):
        for name, status in answers[kind].items():
            assert status == statuses[name], name
    assert checked.unreached == {one for one in answers["rooms"] if statuses[one] == "never"}
    assert {one.subject for one in checked.with_code("unconnected")} <= checked.unreached
    rewards = naive.reward_names()
    assert answers["rewards"].keys() == rewards.keys()
    for name, subject in rewards.items():
        assert answers["rewards"][name]["missable"] == naive.missable(subject), name
    costs = naive.costs()
    if finished:
        assert report["routes"]["finish"]["steps"] == min(costs[one] for one in finished)
        assert naive.follow(report["routes"]["finish"]["moves"]) & set(finished)
    compare_order(answers["order"], naive.order())
    compare_mistakes(report["findings"], naive)


@given(st.randoms(use_true_random=False))
@settings(max_examples=max(LEVELS // 3, 6), deadline=None, suppress_health_check=list(HealthCheck))
def test_campaigns_for_several_agree_with_the_second_player(random: Random) -> None:
    names = ["landing", "mill"]
    drawers = [FewRooms(random) for _ in names]
    drawers[1].items = drawers[0].items
    files = {f"{name}.yaml": drawer.level() for name, drawer in zip(names, drawers, strict=True)}
    first = files["landing.yaml"]
    for item in first["items"].values():
        item.pop("on-pickup", None)
    vital = [name for name, item in first["items"].items() if item.get("vital")]
    for said in files.values():
        said["items"] = first["items"]
        said["inventory"]["shared"] = first["inventory"].get("shared", False)
        players = said["players"] if isinstance(said["players"], dict) else {}
        for player in players.values() if vital else ():
            player["inventory"] = {vital[0]: 1}
        if vital:
            said["inventory"]["start"] = {vital[0]: 1}
    mill: dict[str, Any] = {"file": "mill.yaml"}
    if random.random() < 0.5:
        mill["brings"] = random.choice(["nothing", [random.choice(list(first["items"]))]])
    campaign = {"ukemi": 1, "campaign": "Two", "levels": {"landing": "landing.yaml", "mill": mill}}
    level = loaded_campaign(campaign, files)
    assume(level.several)
    naive = NaiveYear(level, limit=300)
    assume(naive.complete)
    checked = ukemi.check(level, max_positions=100_000)
    answers = report_dict(checked)["answers"]
    finished = [one for one in naive.spots if naive.over(one)]
    able = naive.able(naive.over)
    assert answers["finish"] == ("yes" if finished else "no")
    stuck = any(one.end == "playing" and one not in able for one in naive.spots)
    assert answers["stuck"] == ("possible" if stuck else "never")
    assert answers["deadly"] == ("yes" if any(one.end == "dead" for one in naive.spots) else "no")
    if finished:
        route = report_dict(checked)["routes"]["finish"]
        assert route["steps"] == min(naive.costs()[one] for one in finished)
        assert naive.follow(route["moves"]) & {*finished}
    for finding in checked.findings:
        if finding.route is not None:
            assert naive.follow(finding.route.whats), finding
    shared = level.inventory.shared
    for name, one in answers["levels"].items():
        entered = naive.carried_in[name]
        for key, (least, most) in one["enters"].items():
            player, _, item = key.rpartition(": ")
            number = 0 if shared else list(level.players).index(player)
            counts = [carried[number].get(item, 0) for carried in entered]
            assert (least, most) == (min(counts), max(counts)), key
        assert bool(one["enters"]) == bool(entered)


class FewRooms(PlayersDrawer):
    """Draws levels with few rooms: diagrams have each move for each room of the others."""

    most_rooms = 2


@given(st.randoms(use_true_random=False))
@settings(max_examples=max(LEVELS // 16, 6), deadline=None)
def test_diagrams_for_several_answer_as_positions_do(random: Random) -> None:
    level = readable(FewRooms(random).level())
    expected, found = explicit(level), symbolic(level)
    assert told(found) == told(expected)
    if not compile_level(level).alike:
        assert found.search.positions == expected.search.positions
    assert found.unreached == expected.unreached


# -- as a designer meets them ------------------------------------------------------------------

PLATE = """
players: [ada, ben]
start: hall
goal: at vault
items: {rope: {kind: tool}, coin: {kind: supply, max: 9}}
rooms: {hall: {items: rope}, plate: {}, vault: {switches: {lever: {sets: wedged}}}}
passages:
  - hall <-> plate
  - hall <-> vault: {gate: someone at plate or wedged, name: portcullis}
"""


@pytest.mark.parametrize(
    ("old", "new", "says"),
    [
        ("[ada, ben]", "[ada]", "one player needs no `players`: name two at least"),
        ("[ada, ben]", "[rope, ben]", "'rope' is both a player and an item; rename one of them"),
        ("[ada, ben]", "[wedged, ben]", "'wedged' is both a player and a flag"),
        ("[ada, ben]", "[ada, ben, ada]", "a player 'ada' is given twice"),
        ("[ada, ben]", "{ada: {start: hal}, ben: {}}", "'hal' is not the name of a room (did you mean 'hall'?)"),
        ("[ada, ben]", "{ada: {carries: rope}, ben: {}}", "a player has no field 'carries'"),
        ("someone at plate", "someone at plat", "'plat' is not the name of a room (did you mean 'plate'?)"),
        ("someone at plate", "bem at plate", "'bem' is not the name of a player (did you mean 'ben'?)"),
        ("someone at plate", "by bem", "'bem' is not the name of a player (did you mean 'ben'?)"),
        ("someone at plate", "ben carries 2 ropes", "'ropes' is not the name of an item (did you mean 'rope'?)"),
        ("goal: at vault", "goal: at vault\ninventory: {shared: true, hand-over: true}", "nothing can be handed over"),
        (
            "goal: at vault",
            "goal: at vault\nevents: {pay: {when: wedged, gives: coin}}",
            "'pay' takes or gives items, but no player moves when an event happens",
        ),
        ("players: [ada, ben]\n", "inventory: {hand-over: true}\n", "`hand-over` needs several `players`"),
    ],
)  # fmt: skip
def test_what_cannot_be_with_several_is_one_clear_message(old: str, new: str, says: str) -> None:
    with pytest.raises(ukemi.LevelError) as caught:
        ukemi.loads(PLATE.replace(old, new))
    assert says in str(caught.value)
    assert len(str(caught.value).splitlines()) == 1


def test_one_holds_the_plate_while_the_other_passes(tmp_path: Path) -> None:
    level = ukemi.loads(PLATE)
    report = ukemi.check(level)
    assert (report.answers.finish, report.answers.stuck) == ("yes", "never")
    moves = report.routes["finish"].whats
    assert moves[0] == {"do": "walk", "name": "hall <-> plate", "to": "plate", "by": "ada"}
    assert {move.get("by") for move in moves} == {"ada", "ben", None}
    assert report.answers.order is not None
    assert ("portcullis", "lever") in report.answers.order
    alone = ukemi.loads(PLATE.replace("players: [ada, ben]\n", ""))
    assert ukemi.check(alone).answers.finish == "no"
    assert ukemi.loads(ukemi.dumps(level)) == level
    jsonschema.validate(report_dict(report), report_schema())
    built = ukemi.Level("level")
    for name in ("ada", "ben"):
        built.player(name)
    assert list(built.players) == list(level.players)
    file = tmp_path / "plate.yaml"
    file.write_text(PLATE)
    for view in ("map", "inventory"):
        done = run(
            "draw", file, "--route", "finish", "--view", view, "-o", tmp_path / f"{view}.png"
        )
        assert done.returncode == 0, done
    drawn = ukemi.draw_map(level, route=report.routes["finish"])
    said = [text.get_text() for axes in drawn.axes for text in axes.texts]
    assert {"START ada", "START ben", "1a", "2b", "4b 6"} <= {*said}
    page = tmp_path / "page.html"
    assert run("report", file, "-o", page).returncode == 0
    assert "ben: walk to vault by portcullis" in page.read_text()


def test_a_mistake_says_whose_it_was() -> None:
    (found,) = ukemi.check(ukemi.load(DEMO / "stranded.yaml")).with_code("can-get-stuck")
    assert found.mistake == {"do": "walk", "name": "chute", "to": "race", "by": "ada"}
    assert found.message.startswith("After `ada: walk to race by chute`")
    assert found.why.startswith("Needs 1 more lantern for ben to walk to bell-loft")
    assert run("crowd", DEMO / "stranded.yaml", "--runs", "50").returncode == 0
    (other,) = found.also
    steps = route_steps(ukemi.load(DEMO / "stranded.yaml"), other.route)
    assert steps[0]["carried"] == {"ada: lantern": 1} and steps[2]["carried"] == {"ben: lantern": 1}
    assert [move.what["do"] for move in other.route.moves] == ["walk", "give", "walk"]


def test_several_take_turns_in_a_play(tmp_path: Path) -> None:
    talk = Talk(ukemi.loads(PLATE))
    for line in ("go plate", "ben: go vault", "as ben", "do lever"):
        said = [one.text for one in talk.answer(line)]
        assert not talk.failed, (line, said)
    assert (talk.play.player, talk.play.room, talk.play.room_of("ada")) == ("ben", "vault", "plate")
    assert any("ben: vault; ada: plate" in line for line in said)
    assert [option.asked for option in talk.play.moves()] == ["do lever", "go hall"]
    (hint,) = talk.answer("hint")
    assert hint.text.startswith("ada: go hall")
    assert talk.play.player == "ben"
    talk.answer("as bem")
    assert talk.failed
    assert talk.play.player == "ben"
    for line in ("ada: go hall", "ada: take rope", "ada: go vault", "finish"):
        talk.answer(line)
    assert talk.play.ends == "finished"
    assert talk.play.inventory_of("ada") == {"rope": 1}
    again = ukemi.play(talk.play.level)
    for what in talk.play.session().moves:
        again.do(what)
    assert again.position == talk.play.position


def test_what_is_handed_over_or_shared() -> None:
    text = PLATE.replace("goal: at vault", "goal: at vault and ben carries rope\nshape")
    text = text.replace("shape", "inventory: {hand-over: true}").replace(
        "items: rope}", "items: rope, acts: {knot: {needs: by ada and rope, sets: tied}}}"
    )
    report = ukemi.check(ukemi.loads(text.replace("goal: at vault", "goal: tied and at vault")))
    gives = [move for move in report.routes["finish"].whats if move["do"] == "give"]
    assert gives == [{"do": "give", "item": "rope", "to": "ben", "by": "ada"}]
    shared = text.replace("hand-over", "shared").replace("ben carries rope", "rope and tied")
    level = ukemi.loads(shared)
    assert ukemi.check(level).answers.finish == "yes"
    assert sum(one[0] == "carried" for one in compile_level(level).variables) == len(level.items)


def test_plans_end_by_the_actions_that_they_go_through(monkeypatch: pytest.MonkeyPatch) -> None:
    """With several players a plan has so many actions that a budget of plans alone is none."""
    sheds = [f"shed-{n}" for n in range(8)]
    level = ukemi.loads(
        "{start: quay, goal: opened mill-door and opened loft-door, players: [ada, ben],"
        " items: {key: {use: spent}, peg: {}}, rooms: {quay: {items: key}, mill: {}, loft: {},"
        f" {', '.join(f'{shed}: {{items: peg}}' for shed in sheds)}}}, passages:"
        " [quay <-> mill: {lock: key, name: mill-door}, quay <-> loft: {lock: key, name: loft-door},"
        f" {', '.join(f'quay <-> {shed}' for shed in sheds)}]}}"
    )
    worked = []
    for allowed in (guided.ACTIONS_A_PLAN, 1):
        monkeypatch.setattr(guided, "ACTIONS_A_PLAN", allowed)
        planner = Planner(Relaxed(compile_level(level)))
        with pytest.raises(CutShortError):
            find_run(planner, planner.rules.start(), 20)
        worked.append((planner.work, len(planner.actions)))
    assert worked[0][0] > 20 + 4 * worked[0][1]
    assert worked[1][0] <= 20 + 4 * worked[1][1]  # the plan that is under way is ended first


def test_rooms_are_connected_with_the_start_of_any_player(tmp_path: Path) -> None:
    level = (
        "goal: ada at mill and ben at yard\nplayers: {ada: {start: quay}, ben: {start: loft}}\n"
        "rooms: [quay, mill, loft, yard, pit]\npassages: [quay <-> mill, loft -> yard]\n"
    )
    (found,) = ukemi.check(ukemi.loads(level)).with_code("unconnected")
    assert found.message == "No passage leads from quay or loft to pit, by whatever way."
    for name in ("low", "high"):
        (tmp_path / f"{name}.yaml").write_text(level)
    campaign = tmp_path / "mills.yaml"
    campaign.write_text("campaign: Mills\nlevels: {low: low.yaml, high: high.yaml}\n")
    told = ukemi.check(campaign).with_code("unconnected")
    assert {one.subject for one in told} == {"low/pit", "high/pit"}


EACH = """
start: quay
goal: at mill
players: [ada, ben]
items: {lamp: {kind: tool}, oar: {kind: tool}}
rooms: {quay: {items: [lamp]}, cave: {items: [oar]}, mill: {}}
passages: [quay <-> cave: {gate: lamp}, cave <-> mill: {gate: oar}]
"""


def test_what_each_player_must_carry_is_told_and_placed_for_each(tmp_path: Path) -> None:
    level = tmp_path / "two.yaml"
    level.write_text(EACH)
    (finding,) = ukemi.check(level).with_code("cannot-finish")
    assert finding.why == (
        "ada and ben must each carry lamp (1 in the level) and oar (1 in the level) at some time"
    )
    said = "put 1 more lamp in quay and 1 more oar in cave, so that each player can have one"
    mend = next(one for one in ukemi.mends_of(level) if one.say == said)
    assert ukemi.check(ukemi.loads(mend.text)).answers.finish == "yes"


@pytest.mark.parametrize(
    ("change", "told"),
    [
        (("", ""), {"lamp": 1, "oar": 1}),
        (("[oar]", "[oar, oar]"), {"lamp": 1}),
        (("[ada, ben]", "[ada, ben, cy]"), {"lamp": 1, "oar": 1}),
        (("cave: {items: [oar]}", "cave: {}"), {}),  # there is none at all
        (("at mill", "ada at mill"), {}),
        (("cave <-> mill", "mill -> cave"), {}),  # no way leads to the goal, whatever they carry
        (("kind: tool}, oar", "max: 1}, oar"), {"lamp": 1, "oar": 1}),
        (("quay: {items: [lamp]}", "quay: {items: [lamp, lamp]}"), {"oar": 1}),
        (("quay: {items: [lamp]}", "quay: {acts: {ask: {gives: lamp, repeat: true}}}"), {"oar": 1}),
        (("[ada, ben]", "{ada: {inventory: [lamp]}, ben: {}}"), {"oar": 1}),
        (("players", "inventory: {shared: true}\nplayers"), {}),
        (("players", "inventory: {hand-over: true}\nplayers"), {}),
        (("players", "inventory: {drop: true}\nplayers"), {}),
    ],
)
def test_where_units_cannot_pass_on_each_player_needs_one(
    change: tuple[str, str], told: dict[str, int]
) -> None:
    text = EACH.replace(*change).replace("lamp: {kind: tool}", "lamp: {max: 3}")
    level = ukemi.loads(text)
    rules = compile_level(level)
    found = too_few(level, Relaxed(rules))
    assert {one.item: one.units for one in found} == told
    assert all(len(one.players) > one.units for one in found)
    if found:
        assert ukemi.check(level).answers.finish == "no"


def test_players_that_are_alike_miss_a_reward_by_a_run_that_can_be_played() -> None:
    level = ukemi.loads(
        "{start: quay, goal: everyone at quay, players: [ada, ben], items: {peg: {use: spent}, gem: {kind: reward}},"
        " rooms: {quay: {}, shed: {items: peg}, closet: {items: gem}, loft: {}},"
        " passages: [quay <-> shed, quay <-> closet: {lock: peg, name: closet-door},"
        " quay <-> loft: {lock: peg, name: loft-door}]}"
    )
    report = ukemi.check(level)
    assert report.answers.rewards["closet/gem"].missable == "yes"
    route = report.with_code("reward-can-be-missed")[0].route
    assert route.shortest and route.moves[-1].what["name"] == "loft-door"


def test_the_same_mistake_of_players_that_are_alike_is_listed_once() -> None:
    level = ukemi.loads(
        "{start: quay, goal: everyone at mill, players: [ada, ben, cy], items: {oak-key: {}},"
        " rooms: {quay: {items: oak-key}, mill: {}, pit: {}, moor: {}},"
        " passages: [quay <-> mill: {lock: oak-key}, quay -> pit, pit <-> moor]}"
    )
    report = ukemi.check(level)
    (finding,) = report.with_code("can-get-stuck")
    assert [one.move["by"] for one in finding.also] == ["ben", "cy"]  # other programs get each
    lines = [str(one.text) for one in finding_lines(finding, level, full=False)]
    assert "the same move by ben and cy" in lines and str(lines).count("walk to pit") == 2
