"""Levels in the forms of other programs: out and in again the same, and read by others."""

from __future__ import annotations

import csv
import html
import json
import os
import re
import shutil
import subprocess
from collections.abc import Callable
from pathlib import Path
from random import Random
from typing import Any

import networkx
import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.exchange.csv_folder import read_tables, write_tables
from ukemi.exchange.graphs import dot, from_graphml, graphml
from ukemi.exchange.petri import Net, petri_net
from ukemi.exchange.planning import pddl
from ukemi.exchange.sayable import CannotBeSaidError
from ukemi.exchange.tables import TableError, Tables, level_of, tables_of
from ukemi.language.fields.plain import level_dict
from ukemi.rules import DEAD, END, FINISHED, PLACE, PLAYING, compile_level
from ukemi.spaces import explore

from .helpers import DEMO, readable, run
from .levels import (
    ChoiceDrawer,
    Drawer,
    alike_levels,
    choice_levels,
    map_levels,
    plain_levels,
)

#: How many random levels are played as nets, and how many a planner is asked for.
NETS = int(os.environ.get("UKEMI_NETS", "30"))
PLANS = int(os.environ.get("UKEMI_PLANS", "6"))


def again(tables: Tables) -> Any:
    """The level that tables say, as plain data."""
    return level_dict(ukemi.loads(json.dumps(level_of(tables))))


@given(st.one_of(plain_levels(), choice_levels(), alike_levels(), map_levels()))
@settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
def test_out_and_in_again_is_the_same_level(
    tmp_path_factory: pytest.TempPathFactory, plain: dict[str, Any]
) -> None:
    level = readable(plain)
    said = level_dict(level)
    tables = tables_of(level)
    assert again(tables) == said
    drawn = from_graphml(graphml(tables))
    assert again(drawn) == said and not drawn.assumed
    folder = tmp_path_factory.mktemp("tables")
    write_tables(tables, folder)
    assert again(read_tables(folder)) == said


@pytest.mark.parametrize("file", sorted(DEMO.glob("*.yaml")), ids=lambda one: one.stem)
def test_the_demo_levels_go_out_and_in_by_the_command(file: Path, tmp_path: Path) -> None:
    before = level_dict(ukemi.load(file))
    for form in ("level.graphml", "level"):
        out = run("convert", file, tmp_path / form)
        assert out.returncode == 0, out.stderr
        back = run("convert", tmp_path / form, tmp_path / f"{form}.yaml")
        assert back.returncode == 0 and "assumed" not in back.stdout, back.stderr
        assert level_dict(ukemi.load(tmp_path / f"{form}.yaml")) == before
        kept = run("convert", tmp_path / form, tmp_path / f"{form}.yaml")
        assert kept.returncode == 2 and "--over replaces it" in kept.stderr


def test_what_a_check_finds_becomes_tables(tmp_path: Path) -> None:
    mill, tables = DEMO / "wasted-key.yaml", tmp_path / "tables"
    assert run("convert", mill, tables, "--checked").returncode == 0
    doors = ukemi.check(ukemi.load(mill)).answers.doors
    with (tables / "statuses.csv").open() as opened:
        rows = list(csv.DictReader(opened))
    assert {one["name"]: one["status"] for one in rows if one["kind"] == "door"} == {
        name: str(status) for name, status in doors.items()
    }
    ledger = next(one for one in rows if one["kind"] == "reward")
    assert (ledger["name"], ledger["status"], ledger["missable"]) == (
        "store-room/ledger", "only-when-stuck", "yes",
    )  # fmt: skip
    with (tables / "measures.csv").open() as opened:
        (measures,) = csv.DictReader(opened)
    assert (measures["steps"], measures["stuck"], measures["iron-key_spare"]) == (
        "8", "possible", "0",
    )  # fmt: skip
    assert run("convert", tables, tmp_path / "again.yaml").returncode == 0
    told = run("convert", mill, tmp_path / "mill.dot", "--checked")
    assert told.returncode == 2 and "--checked makes tables" in told.stderr
    assert "several files" in run("convert", mill, tmp_path / "mill.csv").stderr


def test_another_reader_reads_the_graphs(tmp_path: Path) -> None:
    level = ukemi.load(DEMO / "wasted-key.yaml")
    tables = tables_of(level)
    (tmp_path / "mill.graphml").write_text(graphml(tables))
    graph = networkx.read_graphml(tmp_path / "mill.graphml")
    assert set(graph.nodes) == set(level.rooms)
    locks = {data.get("name"): data.get("lock") for _, _, data in graph.edges(data=True)}
    assert locks["store-door"] == "iron-key"
    for view in ("rooms", "order"):
        run("convert", DEMO / "wasted-key.yaml", tmp_path / f"{view}.dot", "--view", view)
        assert (tmp_path / f"{view}.dot").read_text().startswith('digraph "The Wasted Key')
    if shutil.which("dot"):
        call = ["dot", "-Tsvg", str(tmp_path / "rooms.dot")]
        drawn = subprocess.run(call, capture_output=True, text=True, check=True)
        assert "store-door" in html.unescape(drawn.stdout)
    run("convert", DEMO / "wasted-key.yaml", tmp_path / "order.graphml", "--view", "order")
    order = networkx.read_graphml(tmp_path / "order.graphml")
    assert ("quay/iron-key", "pit-door") in order.edges
    nasty = ukemi.loads('{start: a, goal: a, name: "<&\\"\\\\>", rooms: {a: {label: "]]>\\"\\n"}}}')
    assert again(from_graphml(graphml(tables_of(nasty)))) == level_dict(nasty)
    assert '\\"' in dot(tables_of(nasty))


def test_a_graph_of_another_tool_becomes_a_level(tmp_path: Path) -> None:
    graph = networkx.Graph()
    graph.add_node("n0", label="The Quay", colour="red")
    graph.add_node("n1", label="granary")
    graph.add_node("n2", label="2nd floor")
    graph.add_edge("n0", "n1")
    graph.add_edge("n1", "n2", lock="iron", name="loft-door")
    networkx.write_graphml(graph, tmp_path / "plan.graphml")
    told = run("convert", tmp_path / "plan.graphml", tmp_path / "plan.yaml")
    assert told.returncode == 2 and "'iron' is not the name of an item" in told.stderr
    graph.edges["n1", "n2"].pop("lock")
    networkx.write_graphml(graph, tmp_path / "plan.graphml")
    told = run("convert", tmp_path / "plan.graphml", tmp_path / "plan.yaml")
    assert told.returncode == 0, told.stderr
    level = ukemi.load(tmp_path / "plan.yaml")
    assert list(level.rooms) == ["The-Quay", "granary", "n-2nd-floor"]
    assert level.start == "The-Quay" and all(passage.two_way for passage in level.passages)
    text = (tmp_path / "plan.yaml").read_text()
    assert "# assumed: 'The Quay' is called The-Quay: a name has no spaces" in text
    assert "# assumed: the goal is n-2nd-floor, the last room" in text
    assert "under 'colour' was left out" in told.stdout


def write_csv(folder: Path, **tables: list[list[str]]) -> Path:
    folder.mkdir(exist_ok=True)
    for name, rows in tables.items():
        with (folder / f"{name}.csv").open("w", newline="") as file:
            csv.writer(file).writerows(rows)
    return folder


def test_a_spreadsheet_becomes_a_level(tmp_path: Path) -> None:
    folder = write_csv(
        tmp_path / "sheet",
        rooms=[["room"], ["quay"], ["bell loft"]],
        passages=[["from", "to", "lock"], ["quay", "bell loft", "oak"]],
        placements=[["item", "room"], ["oak", "quay"]],
    )
    done = run("convert", folder, tmp_path / "mill.yaml")
    assert done.returncode == 0, done.stderr
    assert "'bell loft' is called bell-loft" in done.stdout
    assert ukemi.check(tmp_path / "mill.yaml").sound


@pytest.mark.parametrize(
    ("tables", "says"),
    [
        ({"rooms": [["room"], ["a"], ["a"]]}, "rooms, row 3, column room: 'a' is in two rows"),
        ({"rooms": [["room"], ["a"]], "passages": [["from", "to"], ["a", "b"]]},
         "passages, row 2, column to: 'b' is in no row of rooms"),
        ({"rooms": [["room"], ["a"]], "passages": [["from", "way", "to"], ["a", "=>", "a"]]},
         "row 2, column way: '=>' is neither <-> nor ->"),
        ({"rooms": [["room"], ["a"]], "placements": [["item", "room", "count"], ["k", "a", "few"]]},
         "row 2, column count: 'few' is no number"),
        ({"rooms": [["room"], ["a"]], "placements": [["item", "room"], ["k", "a"], ["k", "a"]]},
         "row 3, column item: 'k' is there in two rows"),
        ({"rooms": [["rom"], ["a"]]}, "there is no column 'rom'; did you mean 'room'?"),
        ({"rooms": [["room", "more"], ["a", "{"]]}, "row 2, column more: '{' is no JSON object"),
        ({"rooms": [["room"], ["a", "b"]]}, "row 2, column 2: 'b' is below no header"),
        ({"items": [["item"], ["k"]]}, "there is no room"),
        ({}, "there is none of level.csv"),
    ],
)  # fmt: skip
def test_tables_that_contradict_themselves(
    tables: dict[str, list[list[str]]], says: str, tmp_path: Path
) -> None:
    folder = write_csv(tmp_path / "sheet", **tables)
    told = run("convert", folder, tmp_path / "mill.yaml")
    assert told.returncode == 2 and says in told.stderr, told.stderr
    assert not (tmp_path / "mill.yaml").exists()


#: What a hand that slips leaves in a cell.
SLIPS = (
    "", "-1", "0", "quay", "a b", "{", '{"items": 3}', '{"chests": [1]}', "[1]", "null", "true", "1e9",
    "<->", "->", '"', "\0", "é", "9" * 30, "iron and", "not", "@", "..", "=1+1",
)  # fmt: skip


@given(st.one_of(plain_levels(), choice_levels()), st.randoms(use_true_random=False))
@settings(max_examples=150, deadline=None, suppress_health_check=list(HealthCheck))
def test_whatever_stands_in_a_cell_or_a_graph_is_read_or_told(
    plain: dict[str, Any], random: Random
) -> None:
    tables = tables_of(readable(plain))
    text = graphml(tables)
    for _ in range(random.randint(1, 3)):
        name = random.choice([one for one, rows in tables.rows.items() if rows])
        row = random.choice(tables.rows[name])
        row[random.choice(list(row))] = random.choice(SLIPS)
        if random.random() < 0.2:
            tables.rows[name].append(dict(row))
        if random.random() < 0.2:
            row["more"] = random.choice(SLIPS)
        spot = random.randrange(len(text))
        slip = random.choice(
            [*SLIPS, "<", "&", '<node id="q"/>', '<edge source="n0" target="n1"/>']
        )
        text = text[:spot] + slip + text[spot + random.choice([1, 3, 30, 200]) :]
    for read in (lambda: level_of(tables), lambda: level_of(from_graphml(text))):
        try:
            ukemi.loads(json.dumps(read()))
        except (TableError, ukemi.LevelError) as told:
            assert str(told).strip()


def test_what_is_no_graph_is_told(tmp_path: Path) -> None:
    for text, says in (("<graphml", "this is no XML"), ("<html/>", "this is html, not graphml"),
                       ("<graphml/>", "there is no graph"),
                       ("<!DOCTYPE a [<!ENTITY b 'c'>]><graphml/>", "declares entities")):  # fmt: skip
        with pytest.raises(TableError, match=says):
            from_graphml(text)
    for text in ("{", "[1]", '[{"item": 3}]', "{}"):
        key = '<key id="k" for="graph" attr.name="items"/>'
        with pytest.raises(TableError, match="no rows of a table"):
            from_graphml(f"<graphml>{key}<graph><data key='k'>{text}</data></graph></graphml>")
    year = DEMO.parent / "campaign" / "mill-year.yaml"
    told = run("convert", year, tmp_path / "year.graphml")
    assert told.returncode == 2 and "a campaign is several levels" in told.stderr
    assert "give it with --to" in run("convert", year, tmp_path / "year.xyz").stderr
    assert "no level is read" in run("convert", tmp_path / "a.dot", tmp_path / "b.yaml").stderr


def test_reading_a_large_graph_keeps_to_the_seconds_allowed(tmp_path: Path) -> None:
    graph = tmp_path / "hall.graphml"
    nodes = "".join(f"<node id='room-{n}'/>" for n in range(20_000))
    graph.write_text(f"<graphml><graph>{nodes}</graph></graphml>")
    told = run("convert", graph, tmp_path / "hall.yaml", "--max-seconds", 0.01)
    assert told.returncode == 2 and "takes more than 0.01 s; raise --max-seconds" in told.stderr
    assert "Traceback" not in told.stderr and not (tmp_path / "hall.yaml").exists()


def plan(level: ukemi.Level, folder: Path) -> int | None:
    """What the cheapest plan of a general planner costs; ``None`` where it finds that there is none."""
    from unified_planning.engines import PlanGenerationResultStatus as Status
    from unified_planning.io import PDDLReader
    from unified_planning.shortcuts import OneshotPlanner, get_environment

    get_environment().credits_stream = None
    domain, problem = pddl(level)
    (folder / "domain.pddl").write_text(domain)
    (folder / "problem.pddl").write_text(problem)
    read = PDDLReader().parse_problem(str(folder / "domain.pddl"), str(folder / "problem.pddl"))
    counts = ":numeric-fluents" in domain
    if counts and not shutil.which("java"):
        pytest.skip("the planner that counts needs java")
    with OneshotPlanner(name="enhsp-opt" if counts else "fast-downward-opt") as planner:
        found = planner.solve(read)
    if found.plan is None:
        assert found.status in (Status.UNSOLVABLE_PROVEN, Status.UNSOLVABLE_INCOMPLETELY)
        return None
    action = re.compile(r"\(:action (\S+).*?\(increase \(total-cost\) ([0-9]+)\)", re.DOTALL)
    costs = {name: int(cost) for name, cost in action.findall(domain)}
    return sum(costs[one.action.name] for one in found.plan.actions)


@pytest.mark.filterwarnings("default")
@pytest.mark.parametrize(
    "file", ["tide-mill", "wasted-key", "one-way-drop", "ground-floor", "jumbled-keys"]
)
def test_a_planner_finds_the_cost_that_we_find(file: str, tmp_path: Path) -> None:
    level = ukemi.load(DEMO / f"{file}.yaml")
    assert plan(level, tmp_path) == ukemi.check(level).routes["finish"].steps


@pytest.mark.filterwarnings("default")
def test_a_planner_agrees_on_random_levels(tmp_path: Path) -> None:
    seen = {True: 0, False: 0}
    seed = 0
    while min(seen.values()) < PLANS // 4 or sum(seen.values()) < PLANS:
        seed += 1
        try:
            level = ukemi.loads(
                json.dumps((Drawer if seed % 2 else ChoiceDrawer)(Random(seed)).level())
            )
            report = ukemi.check(level, max_positions=2_000)
            if not report.search.complete:
                continue
            if len(pddl(level)[0]) > 20_000:  # planners take long over so many actions
                continue
            cost = plan(level, tmp_path)
        except (ukemi.LevelError, CannotBeSaidError):
            continue
        run_found = report.routes.get("finish")
        assert cost == (run_found.steps if run_found else None), seed
        seen[run_found is not None] += 1


def test_what_has_no_words_in_pddl_is_refused_by_name(tmp_path: Path) -> None:
    several = run("convert", DEMO / "stranded.yaml", tmp_path / "mill.pddl")
    assert several.returncode == 2 and "`players`" in several.stderr
    assert not (tmp_path / "mill.pddl").exists()
    done = run("convert", DEMO / "tide-mill.yaml", tmp_path / "mill.pddl")
    assert done.returncode == 0 and "mill-domain.pddl" in done.stdout
    assert (tmp_path / "mill-domain.pddl").read_text().startswith("; The Tide Mill: the rules")


def marks_finished(file: Path, most: int = 20_000) -> bool:
    """Whether the net in a file can come to be finished, as a general reader of such nets plays it."""
    from pm4py.objects.petri_net import semantics
    from pm4py.objects.petri_net.importer import importer

    net, first, _ = importer.apply(str(file))
    goal = next(one for one in net.places if one.properties["place_name_tag"] == "finished")
    seen, ahead = {frozenset(first.items())}, [first]
    while ahead:
        here = ahead.pop()
        if here[goal]:
            return True
        assert len(seen) < most
        for transition in semantics.enabled_transitions(net, here):
            after = semantics.execute(transition, net, here)
            if frozenset(after.items()) not in seen:
                seen.add(frozenset(after.items()))
                ahead.append(after)
    return False


@pytest.mark.filterwarnings("default")
@pytest.mark.parametrize("file", ["tide-mill", "wasted-key", "jumbled-keys"])
def test_another_reader_finishes_the_nets_of_demo_levels(file: str, tmp_path: Path) -> None:
    net = tmp_path / "mill.pnml"
    assert run("convert", DEMO / f"{file}.yaml", net).returncode == 0
    assert marks_finished(net)


def markings(net: Net) -> set[tuple[int, ...]]:
    """Every marking of a net, of the places that count something and not what it lacks."""
    numbers = {place: number for number, place in enumerate(net.places)}
    first = tuple(net.places.values())
    seen, ahead = {first}, [first]
    while ahead:
        here = ahead.pop()
        for one in net.transitions:
            if all(here[numbers[place]] >= tokens for place, tokens in one.takes.items()):
                after = [*here]
                for place, tokens in one.gives.items():
                    after[numbers[place]] += tokens
                for place, tokens in one.takes.items():
                    after[numbers[place]] -= tokens
                if tuple(after) not in seen:
                    seen.add(tuple(after))
                    ahead.append(tuple(after))
    shown = [numbers[place] for place in net.places if not place.startswith("not ")]
    return {tuple(one[number] for number in shown) for one in seen}


def positions(level: ukemi.Level, places: list[str]) -> set[tuple[int, ...]]:
    """Every position of a level as such a marking."""
    rules = compile_level(level)
    ends = {PLAYING: "playing", FINISHED: "finished", DEAD: "dead"}
    found = set()
    for one in explore(rules).positions:
        tokens = {f"at {rules.places[one[PLACE]]}": 1, ends[one[END]]: 1}
        counts = zip(rules.variables, one, strict=True)
        tokens |= {" ".join(map(str, name)): count for name, count in [*counts][END + 1 :]}
        found.add(tuple(tokens.get(place, 0) for place in places))
    return found


@given(st.one_of(plain_levels(), choice_levels(), alike_levels()))
@settings(max_examples=NETS, deadline=None, suppress_health_check=list(HealthCheck))
def test_a_net_is_marked_as_the_level_is_played(plain: dict[str, Any]) -> None:
    level = readable(plain)
    assume(ukemi.check(level, max_positions=400).search.complete)
    try:
        compare_net(level)
    except CannotBeSaidError:
        assume(False)


def compare_net(level: ukemi.Level) -> None:
    net = petri_net(level)
    moved = [
        one for step in net.transitions for one in (*step.takes.values(), *step.gives.values())
    ]
    assert min(moved, default=0) >= 0
    shown = [place for place in net.places if not place.startswith("not ")]
    assert markings(net) == positions(level, shown)


def test_a_net_that_would_be_too_large_is_refused() -> None:
    pairs = [f"(key-{n} or tool-{n})" for n in range(16)]
    names = [f"{kind}-{n}" for n in range(16) for kind in ("key", "tool")]
    level = ukemi.loads(
        json.dumps(
            {
                "start": "quay",
                "goal": "mill",
                "items": {name: {} for name in names},
                "rooms": {"quay": {"items": names}, "mill": {}},
                "passages": [{"quay <-> mill": {"gate": " and ".join(pairs)}}],
            }
        )
    )
    with pytest.raises(CannotBeSaidError, match="more than 20,000 transitions"):
        petri_net(level)
    few = {"gate": " and ".join(pairs[:5]), "name": "arch"}
    level.passages[0].gate = ukemi.level.parse_condition(few["gate"])
    walks = [one for one in petri_net(level).transitions if one.name.startswith("walk to mill")]
    assert len(walks) == 2**5  # a transition for each way in which the gate can stand open


@pytest.mark.parametrize(
    "gate",
    ["not 5 iron", "not 2 iron and not 4 iron", "not 4 iron and not 2 iron", "2 iron and 4 iron",
     "4 iron and 2 iron", "2 iron and not 4 iron", "not (2 iron and not 4 iron)", "iron or not 3 iron",
     "not 7 iron and not 9 iron"],
)  # fmt: skip
def test_a_gate_that_counts_is_the_same_gate_in_a_net(gate: str) -> None:
    compare_net(
        ukemi.loads(
            "{start: quay, goal: mill, items: {iron: {}}, rooms: {quay: {items: {iron: 5}}, yard: {}, mill: {}}, "
            f"passages: [quay -> yard: {{gate: {gate}}}, yard -> mill: {{gate: 2 iron}}]}}"
        )
    )


# -- as spreadsheets save tables, and as nobody should ---------------------------------------------

TABLES = {
    "rooms": "room,note\nquay,\nmill,=1+1\n",
    "passages": "from,way,to,steps\nquay,<->,mill,5\n",
    "placements": "item,count,room\noar,2,quay\n",
    "items": "item,kind,vital\noar,key,false\n",
    "level": "field,value\nstart,quay\ngoal,mill\n",
}


def saved(folder: Path, change: Callable[[str], bytes]) -> Path:
    folder.mkdir()
    for name, text in TABLES.items():
        (folder / f"{name}.csv").write_bytes(change(text))
    return folder


@pytest.mark.parametrize(
    "change",
    [
        lambda text: text.encode("utf-8-sig"),
        lambda text: text.encode("utf-16"),
        lambda text: text.replace(",", ";").encode(),
        lambda text: text.replace(",", "\t").replace("\n", "\r\n").encode("utf-8-sig"),
        lambda text: text.replace("5", "5.0").replace(",2,", ",2.00,").replace("false", "FALSE").encode(),
        lambda text: text.replace("5", "5,0").replace(",", ";", 0).encode()
        if "steps" not in text else text.replace(",", ";").replace("5", "5,0").encode(),
        lambda text: text.replace("\n", ",,,\n").encode() + b",,,\n,,,\n",
    ],
)  # fmt: skip
def test_tables_are_read_as_a_spreadsheet_saves_them(
    change: Callable[[str], bytes], tmp_path: Path
) -> None:
    plain = level_of(read_tables(saved(tmp_path / "plain", str.encode)))
    found = level_of(read_tables(saved(tmp_path / "sheet", change)))
    assert found == plain
    assert plain["passages"] == [{"quay <-> mill": {"steps": 5}}]
    assert plain["items"]["oar"] == {"kind": "key", "vital": False}


def test_no_cell_of_a_table_is_a_formula(tmp_path: Path) -> None:
    notes = ["=1+1", "+1", "@sum", "'tis", "'=1", "-1 is fine", "plain"]
    level = ukemi.Level("notes")
    for number, note in enumerate(notes):
        level.room(f"room-{number}", note=note)
    level.set_start("room-0")
    level.set_goal("room-0")
    ukemi.save(level, tmp_path / "notes.yaml")
    assert (
        run("convert", tmp_path / "notes.yaml", tmp_path / "tables", "--to", "csv").returncode == 0
    )
    with (tmp_path / "tables" / "rooms.csv").open(newline="") as file:
        cells = [row["note"] for row in csv.DictReader(file)]
    assert not any(cell[:1] in "=+@" for cell in cells)
    back = run("convert", tmp_path / "tables", tmp_path / "back.yaml", "--from", "csv")
    assert back.returncode == 0, back
    again = ukemi.load(tmp_path / "back.yaml")
    assert [room.note for room in again.rooms.values()] == notes


@pytest.mark.parametrize("odd", ["link", "pipe", "folder", "nested", "latin"])
def test_odd_tables_are_refused_by_table_and_row(odd: str, tmp_path: Path) -> None:
    folder = saved(tmp_path / "tables", str.encode)
    secret = tmp_path / "secret.csv"
    secret.write_text("password,room\nhunter2,quay\n")
    rooms = folder / "rooms.csv"
    rooms.unlink()
    says = {"link": "it leads out of its folder", "pipe": "it is not a regular file", "folder": "directory",
            "nested": "is no JSON object", "latin": "rooms, row 2: the byte 0xfc is not UTF-8 text"}  # fmt: skip
    match odd:
        case "link":
            rooms.symlink_to(secret)
        case "pipe":
            os.mkfifo(rooms)
        case "folder":
            rooms.mkdir()
        case "nested":
            rooms.write_text(f"room,more\nquay,{'[' * 100_000}\n")
        case "latin":
            rooms.write_bytes("room\nmühle\n".encode("latin-1"))
    done = run("convert", folder, tmp_path / "level.yaml", "--from", "csv")
    assert done.returncode == 2 and "Traceback" not in done.stderr
    assert says[odd] in done.stderr and "hunter2" not in done.stderr + done.stdout
    assert len(done.stderr) < 2_000


def test_a_campaign_names_regular_files_only(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "mill.yaml")
    (tmp_path / "year.yaml").write_text("campaign: Year\nlevels: {mill: mill.yaml}\n")
    for words in (["check", tmp_path / "year.yaml"], ["check", tmp_path]):
        done = run(*words)
        assert done.returncode == 2 and "it is not a regular file" in done.stderr
