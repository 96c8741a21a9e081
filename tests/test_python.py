"""From Python and in notebooks: building and changing by name, values that compare, what is shown."""

from __future__ import annotations

import importlib
import json
import re
from itertools import pairwise
from pathlib import Path
from random import Random
from typing import Any
from xml.etree import ElementTree

import networkx
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.bits import bits_of, numbers_of
from ukemi.graph import on_every_way, strong_parts
from ukemi.level.maps.cell_sets import regions, runs

from .helpers import DEMO, ROOT
from .levels import ANY, plain_levels
from .test_against_naive import LEVELS
from .test_campaigns import campaigns, loaded


def readable(plain: dict[str, Any]) -> ukemi.Level:
    try:
        return ukemi.loads(json.dumps(plain))
    except ukemi.LevelError:
        assume(False)
        raise


# -- by name --------------------------------------------------------------------------------------


@given(plain_levels(), st.randoms(use_true_random=False))
@settings(max_examples=LEVELS, deadline=None)
def test_what_is_taken_out_leaves_a_level_or_is_refused(
    plain: dict[str, Any], random: Random
) -> None:
    """Whatever is taken out by name: the rest is a level that can be written and read, or nothing changed."""
    level = readable(plain)
    placed = [f"{room.name}/{item}" for room in level.rooms.values() for item in room.items]
    names = [
        *level.things,
        *level.rooms,
        *level.items,
        *level.locks,
        *level.flags,
        *level.areas,
        *placed,
    ]
    for name in random.sample(names, min(6, len(names))):
        before = ukemi.loads(ukemi.dumps(level))
        try:
            level.remove(name)
        except ukemi.LevelError as error:
            assert level == before, error
            continue
        again = ukemi.loads(ukemi.dumps(level))
        assert again == level and again != before
        ukemi.check(again, max_positions=200, quick=True)


def test_things_are_moved_and_locked_by_name() -> None:
    level = ukemi.load(DEMO / "tide-mill.yaml")
    level.move("oak-key", "quay")
    assert (
        "oak-key" in level.rooms["quay"].items and "oak-key" not in level.rooms["wheel-pit"].items
    )
    assert ukemi.compare(DEMO / "tide-mill.yaml", level).changes == (
        "oak-key moved from wheel-pit to quay",
    )
    level.lock("loft-door", "iron-key")
    assert str(level.lock_of(level.things["loft-door"].what).needs) == "iron-key"
    level.lock("loft-door", {"needs": "iron-key", "spends": "nothing"})
    assert ukemi.loads(ukemi.dumps(level)) == level
    for call, says in (
        (lambda: level.remove("loft-dor"), "did you mean 'loft-door'?"),
        (lambda: level.move("oak-key", "quai"), "did you mean 'quay'?"),
        (lambda: level.move("loft-door", "quay"), "nothing that can be moved"),
        (lambda: level.move("quay/oak-key", "granary", 3), "there are 1"),
        (lambda: level.lock("loft-dor", "iron-key"), "did you mean 'loft-door'?"),
        (lambda: level.lock("loft-door", "irn-key"), "did you mean 'iron-key'?"),
        (lambda: level.remove("quay"), "the start would still use it"),
    ):
        before = ukemi.dumps(level)
        with pytest.raises(ukemi.LevelError, match=re.escape(says)):
            call()
        assert ukemi.dumps(level) == before


# -- campaigns ------------------------------------------------------------------------------------


@given(st.randoms(use_true_random=False))
@settings(max_examples=max(LEVELS // 2, 8), deadline=None)
def test_a_campaign_built_in_python_is_the_one_in_a_file(random: Random) -> None:
    plain, files = campaigns(random)
    read = loaded(plain, files)
    built = ukemi.Campaign(plain["campaign"])
    try:
        for name, said in plain["levels"].items():
            level = ukemi.loads(json.dumps(files[said["file"]]))
            level.name = read.campaign.stages[name].level.name
            built.level(
                name, level, brings=said.get("brings", "all"), keeps=said.get("keeps", False)
            )
        built.share(*plain["shares"])
        for way in plain.get("ways", ()):
            ((text, fields),) = way.items()
            built.way(text, **fields)
    except ukemi.LevelError:
        assume(False)  # what is not known yet is refused at once
    found = built.joined()
    assert found == read and found.campaign.stages.keys() == read.campaign.stages.keys()
    assert (
        ukemi.check(built, max_positions=300).answers
        == ukemi.check(read, max_positions=300).answers
    )


def test_a_built_campaign_is_saved_and_goes_wherever_a_level_does(tmp_path: Path) -> None:
    year = ukemi.Campaign("A Year")
    year.level("tide", ukemi.load(DEMO / "tide-mill.yaml"))
    year.level("drop", ukemi.load(DEMO / "one-way-drop.yaml"), brings="nothing")
    with pytest.raises(ukemi.LevelError, match="there is a level 'drop' already"):
        year.level("drop", ukemi.load(DEMO / "one-way-drop.yaml"))
    with pytest.raises(ukemi.LevelError, match="is not a level of the campaign"):
        year.way("tide -> dropp")
    year.way("tide -> drop")
    year.expect(stuck="possible", required=["tide/loft-door"])
    report = ukemi.check(year)
    assert report.answers.finish == ukemi.Answer.YES and not report.with_code("expectation-failed")
    assert ukemi.play(year).moves() and ukemi.crowd(year, runs=5)
    assert [report.mends(one) for one in report.findings[:1]] in ([], [()])
    assert len(ukemi.draw_map(year).axes) > 0
    (tmp_path / "drop.yaml").write_text("mine")
    with pytest.raises(ukemi.LevelError, match="is there already"):
        ukemi.save(year, tmp_path / "year.yaml")
    assert [one.name for one in tmp_path.iterdir()] == ["drop.yaml"]
    (tmp_path / "drop.yaml").unlink()
    ukemi.save(year, tmp_path / "year.yaml")
    assert ukemi.check(tmp_path / "year.yaml").answers == report.answers
    ukemi.save(year, tmp_path / "year.yaml")  # again: what it wrote itself is replaced


# -- values ---------------------------------------------------------------------------------------


@given(ANY)
@settings(max_examples=LEVELS, deadline=None)
def test_equal_reports_are_equal_and_others_are_not(plain: dict[str, Any]) -> None:
    level = readable(plain)
    one, other = (ukemi.check(level, max_positions=500) for _ in range(2))
    assert one == other and one.to_dict()["answers"] == other.to_dict()["answers"]
    assert one.findings == other.findings and one.routes == other.routes
    assert {*one.findings} == {*other.findings} and {*one.routes.values()} == {
        *other.routes.values()
    }
    assert json.loads(one.to_json())["findings"] == one.to_dict()["findings"]
    level.flag("another-flag")
    assert ukemi.check(level, max_positions=500) != one


# -- notebooks ------------------------------------------------------------------------------------


def parts(html: str) -> ElementTree.Element:
    """HTML that is well-formed, as a tree."""
    text = re.sub(r"<(/?)svg:", r"<\1", html).replace(" open>", ' open="">').replace("&nbsp;", " ")
    return ElementTree.fromstring(f"<div>{text}</div>")


def test_a_notebook_shows_levels_reports_comparisons_and_scatterings() -> None:
    level = ukemi.load(DEMO / "wasted-key.yaml")
    report = ukemi.check(level)
    compared = ukemi.compare(level, ukemi.suppose(level, "carry iron-key"))
    scattered = ukemi.scatter(DEMO / "jumbled-keys.yaml", count=2)
    assert "0 levels found" in scattered._repr_html_()  # nothing is drawn by being shown
    laid = list(scattered)
    year = ukemi.load(ROOT / "src/ukemi/demo/campaign/mill-year.yaml")
    for shown, words in (
        (level, ["The Wasted Key"]),
        (report, ["can get stuck", "After `unlock store-door with iron-key`", "Mistake 1"]),
        (compared, ["players can no longer get stuck", "the inventory: start"]),
        (scattered, [f"{thing} in {spot}" for one in laid for thing, spot in one.where[:1]]),
        (year, ["A Year at the Tide Mill"]),
        (ukemi.check(year), ["cellar can be entered without lantern"]),
    ):
        text = " ".join(" ".join(parts(shown._repr_html_()).itertext()).split())
        assert all(word in text for word in words), (shown, words)
    pictures = [one for one in parts(report._repr_html_()).iter() if one.tag.endswith("svg")]
    assert len(pictures) == 2 and all("max-width" in one.get("style", "") for one in pictures)


def test_the_example_notebook_runs_and_shows_something_in_each_cell() -> None:
    notebook = json.loads((ROOT / "examples" / "tide_mill.ipynb").read_text())
    here: dict[str, Any] = {}
    cells = [one for one in notebook["cells"] if one["cell_type"] == "code"]
    assert len(cells) > 4
    for cell in cells:
        *before, last = "".join(cell["source"]).strip().split("\n")
        exec("\n".join(before), here)
        shown = eval(last, here)
        assert hasattr(shown, "_repr_html_") and len(shown._repr_html_()) > 100, last


# -- names ----------------------------------------------------------------------------------------


def test_every_name_of_the_page_on_python_exists() -> None:
    page = (ROOT / "docs" / "api.md").read_text()
    named = re.findall(r"^### `([A-Za-z_]+)", page, re.MULTILINE)
    assert len(named) > 30 and len(named) == len({*named})
    for name in named:
        assert getattr(ukemi, name).__doc__, name
        assert name in ukemi.__all__ and name in dir(ukemi)
    assert {*named} == {*ukemi.__all__}
    with pytest.raises(AttributeError, match="no attribute 'Levle'"):
        ukemi.Levle  # noqa: B018
    assert importlib.import_module("ukemi.notebook")


# -- graphs and cells -----------------------------------------------------------------------------


@given(st.lists(st.tuples(st.integers(0, 11), st.integers(0, 11)), max_size=30))
def test_parts_that_lead_to_each_other_are_those_of_a_graph_library(
    edges: list[tuple[int, int]],
) -> None:
    leads: list[list[int]] = [[] for _ in range(12)]
    for a, b in edges:
        leads[a].append(b)
    part = strong_parts(leads)
    graph = networkx.DiGraph(edges)
    graph.add_nodes_from(range(12))
    found: dict[int, set[int]] = {}
    for node, number in enumerate(part):
        found.setdefault(number, set()).add(node)
    expected = {frozenset(one) for one in networkx.strongly_connected_components(graph)}
    assert {frozenset(one) for one in found.values()} == expected
    assert sorted(found) == list(range(len(found))) and all(part[a] >= part[b] for a, b in edges)


@given(
    st.lists(st.integers(2, 9), unique=True),
    st.lists(st.tuples(st.integers(0, 9), st.integers(0, 9)), max_size=15),
)
def test_what_every_way_goes_through_is_as_a_graph_library_says(
    middle: list[int], edges: list[tuple[int, int]]
) -> None:
    way = [0, *middle, 1]
    graph = networkx.DiGraph([*pairwise(way), *edges])
    above, expected = networkx.immediate_dominators(graph, 0), [1]
    while expected[-1]:
        expected.append(above[expected[-1]])
    assert on_every_way(way, graph.__getitem__) == expected[::-1]


@given(st.integers(1, 9), st.integers(1, 9), st.randoms(use_true_random=False))
def test_regions_and_runs_are_those_of_a_graph_library(
    rows: int, columns: int, random: Random
) -> None:
    width = columns + 2
    whole = [row * width + column for row in range(1, rows + 1) for column in range(1, columns + 1)]
    some = [one for one in whole if random.random() < 0.6]
    cells = bits_of(some, width * (rows + 2))
    graph = networkx.Graph()
    graph.add_nodes_from(some)
    graph.add_edges_from((a, b) for a in some for b in (a + 1, a + width) if b in some)
    expected = {frozenset(one) for one in networkx.connected_components(graph)}
    assert {frozenset(numbers_of(one)) for one in regions(cells, width)} == expected
    told = [row * width + one for row, a, b in runs(cells, width) for one in range(a, b)]
    assert told == list(numbers_of(cells)) == some
    assert len(list(runs(cells, width))) == sum(one - 1 not in some for one in some)
