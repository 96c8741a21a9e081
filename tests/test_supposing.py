"""Suppositions: each changes what it says, is told as a comparison, and leaves the file as it is."""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Any

import jsonschema
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.comparing.changes import level_changes
from ukemi.level.joined import Joined
from ukemi.report.as_json import report_schema
from ukemi.rules import compile_level
from ukemi.supposing import suppose_all, what_of

from .helpers import DEMO, readable, report_dict, run
from .levels import alike_levels, map_levels, plain_levels
from .test_against_naive import LEVELS

LEVEL = """
start: quay
goal: at loft
items: {peg: {use: spent}, coin: {kind: reward}, rope: {}}
flags: [dry]
rooms:
  quay: {items: peg}
  hall: {chests: {bin: {lock: peg, holds: [coin]}}, acts: {read-wall: {teaches: word}}}
  loft: {}
  nook: {items: {rope: 2}}
passages:
  - quay <-> hall: {lock: peg, name: hall-door}
  - hall <-> loft: {gate: dry and word, name: ladder}
  - hall -> nook
expect: {required: [hall-door, bin], stuck: possible, rewards: any}
accept: {bypassed: hall-door}
"""

#: What is supposed, and what that changes in the level, as a comparison tells it.
SUPPOSED = {
    "open hall-door": ["event opened-before is new"],
    "no lock hall-door": [
        "what is expected: required: hall-door and bin → bin",
        "what is accepted: bypassed: hall-door → nothing",
        "hall-door: lock: peg → nothing",
    ],
    "no lock bin": ["chest bin: lock: peg → nothing"],
    "no gate ladder": ["ladder: gate: dry and word → nothing"],
    "shut ladder": ["passage ladder (hall <-> loft) is gone"],
    "carry rope": ["the inventory: start: nothing → rope"],
    "carry 3 rope": ["the inventory: start: nothing → rope 3"],
    "rope in hall": ["one more rope in hall"],
    "2 rope in nook": ["one more rope in nook", "one more rope in nook"],
    "peg in bin": ["one more peg in bin"],
    "no rope in nook": ["one rope fewer in nook", "one rope fewer in nook"],
    "no coin in bin": ["one coin fewer in bin"],
    "dry on": ["flag dry: no → yes"],
    "word on": ["flag word is new"],
    "knows word": ["flag word is new"],
    "start nook": ["the start: quay → nook"],
    "no way quay -> hall": ["hall-door: quay <-> hall → hall -> quay"],
    "no way hall -> nook": ["passage hall -> nook is gone"],
    "way nook -> loft": ["passage nook -> loft is new"],
    "goal at nook": ["the goal: loft → nook"],
}


@pytest.mark.parametrize(("said", "changes"), SUPPOSED.items())
def test_a_supposition_changes_what_it_says(said: str, changes: list[str]) -> None:
    level = ukemi.loads(LEVEL)
    found, _ = level_changes(level, ukemi.suppose(level, said))
    assert sorted(found) == sorted(changes)


@pytest.mark.parametrize(
    ("said", "near"),
    {
        "open hall-dor": "'hall-dor' is not the name of a door (did you mean 'hall-door'?)",
        "open ladder": "'ladder' is not the name of a door",
        "no gate hall-door": "'hall-door' is not the name of a way with a gate",
        "carry ropes": "'ropes' is not the name of an item (did you mean 'rope'?)",
        "carry 0 rope": "'carry 0 rope' cannot be supposed: write `open DOOR`",
        "rope in bim": "'bim' is not the name of a room or chest (did you mean 'bin'?)",
        "no peg in nook": "there is no peg in nook",
        "knows dry": "'dry' is not the name of a code that an act teaches",
        "no way nook -> hall": "no way leads from nook to hall",
        "goal at lift": "then 'lift' is not the name of a room (did you mean 'loft'?)",
        "start lofts": "(did you mean 'loft'?)",
        "without ada": "'ada' is not the name of a player",
    }.items(),
)
def test_what_cannot_be_supposed_is_told_with_the_nearest_name(said: str, near: str) -> None:
    with pytest.raises(ukemi.LevelError, match=re.escape(near)):
        ukemi.suppose(ukemi.loads(LEVEL), said)


@given(st.one_of(plain_levels(), map_levels(), alike_levels()), st.data())
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_what_is_offered_can_be_supposed(drawn: dict[str, Any], data: st.DataObject) -> None:
    level = readable(drawn)
    offered = [one for named in what_of(level).values() for some in named.values() for one in some]
    said = data.draw(st.sampled_from(offered))
    try:
        found = suppose_all(level, [said])
    except ukemi.LevelError as error:
        # What another part of the level speaks of cannot be taken away, and more may not fit.
        assert said.startswith(("shut ", "without ", "no lock ", "carry ")), said
        assert "then" in str(error) or "not drawn" in str(error)
        return
    new, words = found.level, said.split()
    if said.startswith("carry"):
        count = 2 if words[1] == "2" else 1
        had, has = ([one.get(words[-1], 0) for one in each.starts()] for each in (level, new))
        assert [one + count for one in had] == has
    elif said.startswith("no ") and " in " in said:
        assert new.placed(words[1]) < level.placed(words[1])
    elif said.startswith("start "):
        assert {new.begins(name)[0] for name in new.players or [None]} == {words[1]}
    elif words[-1] in ("on", "off") and len(words) == 2:
        assert new.flags[words[0]] is (words[1] == "on")
    elif said.startswith("without "):
        assert words[1] not in new.players
    elif said.startswith("no lock"):
        assert words[2] not in {door.thing for door, _ in new.doors()}
    elif said.startswith("open "):
        rules = compile_level(new)
        assert rules.start()[rules.index["opened", said.removeprefix("open ")]]
    elif said.startswith("shut "):
        assert said.removeprefix("shut ") not in {one.thing for one in new.passages}
    assert len(found.texts) == len(found.before) == 1


def test_the_command_tells_what_a_supposition_changes(tmp_path: Path) -> None:
    file = tmp_path / "mill.yaml"
    text = (DEMO / "wasted-key.yaml").read_text()
    file.write_text(text)
    told = run("check", file, "--suppose", "iron-key in granary", "--suppose", "carry lantern")
    assert told.returncode == 2 and "'lantern' is not the name of an item" in told.stderr
    told = run("check", file, "--suppose", "iron-key in granary", "--suppose", "start granary")
    assert told.returncode == 0 and "Supposed: iron-key in granary; start granary\n" in told.stdout
    assert "better  players can no longer get stuck" in told.stdout
    said = json.loads(
        run("check", file, "--suppose", "no lock store-door", "--format", "json").stdout
    )
    jsonschema.validate(said, report_schema())
    assert said["supposed"] == ["no lock store-door"] and not said["changes"]["worse"]
    supposed = ukemi.check(ukemi.suppose(file, "no lock store-door"))
    assert (
        said["answers"] == report_dict(supposed)["answers"] and said["answers"]["stuck"] == "never"
    )
    assert file.read_text() == text
    assert "leave out --mends" in run("check", file, "--mends", "--suppose", "start granary").stderr
    assert "name one level" in run("check", file, file, "--suppose", "start granary").stderr


def test_a_campaign_is_supposed_by_the_names_of_its_check() -> None:
    level = ukemi.load(DEMO.parent / "campaign" / "mill-year.yaml")
    assert isinstance(level, Joined)
    stage = level.campaign.stages["cellar"].level
    room = next(iter(stage.rooms))
    found = suppose_all(level, [f"start cellar/{room}"])
    assert isinstance(found.level, Joined) and [*found.texts] == [stage.file]
    assert found.level.campaign.stages["cellar"].level.start == room
    for said, why in (("start quay", "no level"), ("way cellar/a -> loft/b", "several levels")):
        with pytest.raises(ukemi.LevelError, match=f"names {why} of the campaign"):
            suppose_all(level, [said])


def test_a_cell_without_a_name_can_be_shut_alone() -> None:
    level = ukemi.loads(
        "{goal: far, items: {iron: {}}, legend: {G: {gate: iron}, z: {room: far}, k: {item: iron}},"
        " maps: {ground: ['@GzG', 'k..#']}}"
    )
    assert what_of(level)["door"] == {
        name: [f"shut {name}"] for name in ("ground@2,1", "ground@4,1")
    }
    shut = suppose_all(level, ["shut ground@2,1"]).level
    assert shut.maps["ground"].rows == ("@#zG", "k..#")
