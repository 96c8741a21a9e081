"""What a check answers, on levels made to show one thing each, and in every format."""

from __future__ import annotations

import json
import re
import subprocess
import sys
from itertools import pairwise
from pathlib import Path
from xml.etree import ElementTree

import jsonschema
import pytest
import yaml

import ukemi
from ukemi.checks.route_words import route_words
from ukemi.demo import DEMO_CAMPAIGN, campaign_text
from ukemi.report.as_json import report_schema
from ukemi.report.as_text import verdict_lines
from ukemi.report.route_steps import named_routes

from .helpers import DEMO, check, check_json, report_dict, run

TILL = "items: {key: {use: spent}, gem: {kind: reward}}\n"


def codes(report: ukemi.Report) -> list[str]:
    return [finding.code for finding in report.findings]


def test_start_is_goal() -> None:
    report = check("{start: quay, goal: quay, rooms: [quay]}")
    assert report.answers.finish == "yes"
    assert report.routes["finish"].steps == 0
    assert codes(report) == []
    touch = check("{start: quay, goal: quay, rooms: [quay], rules: {finish: touch}}")
    assert touch.routes["finish"].whats == []


def test_what_cannot_be_finished_still_gets_everything_else() -> None:
    report = check(
        "start: quay\ngoal: loft\n"
        + TILL
        + "rooms: {quay: {items: [key, gem]}, mill: {}, loft: {}}\n"
        "passages: [quay <-> mill: {lock: key, name: door}]"
    )
    assert (report.answers.finish, report.answers.stuck) == ("no", "possible")
    assert report.answers.doors == {"door": "only-when-stuck"}
    assert report.answers.rooms["loft"] == "never"
    assert codes(report) == ["cannot-finish"]
    assert report.findings[0].why == "No passage leads to loft, were every door open"
    assert [one.subject for one in report.with_code("never-entered")] == ["loft"]


def test_everything_dead_at_once() -> None:
    report = check(
        "start: quay\ngoal: mill\nitems: {air: {kind: supply, vital: true}}\n"
        "inventory: {start: air}\nrooms: [quay, mill]\npassages: [quay -> mill: {loses: air}]"
    )
    assert (report.answers.finish, report.answers.deadly) == ("no", "yes")
    (found,) = report.with_code("cannot-finish")
    assert found.why == "Needs 1 more air to survive `walk to mill`; the only air is carried"


@pytest.mark.parametrize(
    ("level", "why"),
    [
        (  # a full inventory
            "start: quay\ngoal: 2 key\nitems: {key: {}, junk: {}}\ninventory: {slots: 2}\n"
            "rooms: {quay: {items: {key: 2, junk: 1}}}",
            "Not enough fits in the inventory: 2 slots, carrying junk",
        ),
        (  # a flag that cannot be turned back
            "start: quay\ngoal: loft\nrooms: {quay: {acts: {flood: {sets: wet}}}, loft: {}}\n"
            "passages: [quay -> loft: {gate: not wet}]",
            "wet is on, and nothing within reach turns it off",
        ),
        (  # a lock that wants two things
            "start: quay\ngoal: loft\nitems: {iron: {use: spent}, oak: {use: spent}}\n"
            "rooms: {quay: {items: [iron, oak]}, shed: {}, loft: {}}\npassages:\n"
            "  - quay <-> shed: {lock: iron and oak, name: shed-door}\n"
            "  - quay <-> loft: {lock: iron and oak, name: loft-door}",
            "loft-door stays shut: it needs iron and oak (the only iron was spent on shed-door",
        ),
        (  # only death remains
            "start: quay\ngoal: loft\nitems: {air: {kind: supply, vital: true}}\ninventory: {start: {air: 3}}\n"
            "rooms: [quay, loft, well]\npassages: [quay -> well: {loses: air}, well <-> well: {loses: air},\n"
            "  quay -> loft]",
            "There is no way back from well to quay",
        ),
    ],
)  # fmt: skip
def test_reasons(level: str, why: str) -> None:
    findings = check(level).with_code("can-get-stuck")
    assert any(why in finding.why for finding in findings), findings[0].why


def test_mistakes_with_one_cause_are_one_finding() -> None:
    doors = "\n".join(f"  - quay <-> shed: {{lock: key, name: door-{n}}}" for n in range(30))
    report = check(
        "start: quay\ngoal: loft\nitems: {key: {use: spent}}\n"
        "rooms: {quay: {items: key}, shed: {}, loft: {}}\n"
        f"passages:\n{doors}\n  - quay <-> loft: {{lock: key, name: loft-door}}"
    )
    (finding,) = report.with_code("can-get-stuck")
    assert len(finding.also) == 29


def test_order_is_reduced_and_shows_what_is_free() -> None:
    report = check(
        "start: quay\ngoal: loft\nitems: {iron: {}, oak: {}}\nrooms: {quay: {items: [iron, oak]}, loft: {}}\n"
        "passages: [quay <-> loft: {lock: iron and oak, name: door}]"
    )
    assert set(report.answers.order or ()) == {
        ("quay", "quay/iron"), ("quay", "quay/oak"), ("quay/iron", "door"), ("quay/oak", "door"),
        ("door", "loft"),
    }  # fmt: skip


def test_measures(tmp_path: Path) -> None:
    report = check(
        "start: quay\ngoal: quay and key\nitems: {key: {use: spent}, gem: {kind: reward}}\n"
        "flags: [quay]\nrooms: {quay: {}, mill: {items: {key: 2, gem: 1}, acts: {ring: {sets: quay}}}}\n"
        "passages: [quay <-> mill: {steps: 4}]"
    )
    measures = report.answers.measures
    assert (measures.finish.steps, measures.finish.moves) == (6, 4)
    assert measures.all_rewards.steps == 7
    assert measures.choices == (3, 3, 3)  # key, gem, bell; key, gem, bell; key, gem, finish
    assert measures.keys["key"] == ukemi.questions.answers.KeyMeasure(2, 0, 1, ("mill/key",))
    held = check(
        "start: quay\ngoal: mill\nitems: {key: {use: spent}}\nrooms: {quay: {items: key, chests: {bin: {holds: {key: 2}}}},"
        " mill: {}}\npassages: [quay <-> mill: {lock: key}]"
    )
    assert held.answers.measures.keys["key"] == ukemi.questions.answers.KeyMeasure(
        3, 1, 2, ("quay/key", "bin")
    )
    pandas = pytest.importorskip("pandas")
    table = ukemi.measures_table([report, ukemi.check(DEMO / "tide-mill.yaml")])
    assert isinstance(table, pandas.DataFrame)
    assert list(table["steps"]) == [6, 8]
    assert table["walked_again"][1] == 0.125
    far = "passages: [a <-> b, a <-> c: {lock: key, steps: 3}]"
    third = check(
        f"start: a\ngoal: c\nitems: {{key: {{}}}}\nrooms: {{a: {{}}, b: {{items: key}}, c: {{}}}}\n{far}"
    )
    assert third.answers.measures.walked_again == 0.143  # 1 of 7 steps, to three digits


def test_claims_that_fail_have_their_route() -> None:
    text = (DEMO / "tide-mill.yaml").read_text().split("expect:")[0]
    claims = """expect:
  finish: impossible
  never: [oak-key and at granary, at race-track]
  possible: [iron-key and oak-key]
  always-possible: [iron-key]
  optional: [pit-door, quay/iron-key]
  required: [sluice-walk, oak-key, granary]
  shortest: {at-most: 7, at-least: 9}
"""
    report = check(text + claims.replace(", at race-track", ""))
    failed = report.with_code("expectation-failed")
    said = " / ".join(finding.message for finding in failed)
    for claim in ("finish: impossible", "never: oak-key", "possible: iron-key and", "always-possible: iron-key",
                  "optional: pit-door", "optional: quay/iron-key", "required: sluice-walk", "at-most 7", "at-least 9"):  # fmt: skip
        assert claim in said
    assert "required: oak-key" not in said
    with_route = [one for one in failed if one.route]
    assert len(with_route) >= 6
    cut = check(text + claims.replace(", at race-track", ""), max_positions=3)
    assert "undecided" in codes(cut)
    assert cut.exit_code() == 3


def test_knowing_the_codes(tmp_path: Path) -> None:
    file = tmp_path / "vault.yaml"
    file.write_text(
        "start: quay\ngoal: vault\nrooms: {quay: {}, cellar: {acts: {read: {teaches: code}}}, vault: {}}\n"
        "passages: [quay <-> cellar, quay <-> vault: {lock: code, name: vault-door}]"
    )
    knowing = check_json(file, "--knowing")["knowing"]
    assert knowing["flags"] == ["code"]
    assert knowing["passes-by"] == ["room cellar", "read"]
    assert knowing["report"]["routes"]["finish"]["steps"] == 2
    assert "Can pass by: room cellar and read" in run("check", file, "--knowing").stdout
    assert "nothing to know" in run("check", DEMO / "tide-mill.yaml", "--knowing").stdout


def test_a_cut_search_never_says_no_more_than_it_knows() -> None:
    """Whatever a search cut short says for certain, the whole search says too."""
    for file in DEMO.glob("*.yaml"):
        whole = report_dict(ukemi.check(file))["answers"]
        for limit in range(1, 30):
            cut = report_dict(ukemi.check(file, max_positions=limit))["answers"]
            for key in ("finish", "stuck", "all-rewards", "deadly"):
                assert cut[key] in (whole[key], "unknown")
            for kind in ("doors", "rooms", "items", "chests", "acts"):
                assert all(cut[kind][name] in (whole[kind][name], "unknown") for name in cut[kind])
            assert cut["order"] in (whole["order"], "unknown")


def test_json_fits_its_schema() -> None:
    validator = jsonschema.Draft202012Validator(report_schema())
    assert json.loads(run("schema", "report").stdout) == report_schema()
    for document in check_json(*sorted(DEMO.glob("*.yaml")), "--knowing"):
        validator.validate(document)
        assert not validator.is_valid({**document, "extra": 1})
    validator.validate(check_json("nowhere.yaml"))


def test_sarif_and_junit(tmp_path: Path) -> None:
    bad = tmp_path / "bad level.yaml"
    bad.write_text("start: quay\ngoal: mil\nrooms: [quay, mill]")
    files = [DEMO / "wasted-key.yaml", DEMO / "tide-mill.yaml", bad]
    log = json.loads(run("check", *files, "--format", "sarif").stdout)
    assert log["version"] == "2.1.0"
    results = log["runs"][0]["results"]
    rules = [rule["id"] for rule in log["runs"][0]["tool"]["driver"]["rules"]]
    stuck = next(one for one in results if one["ruleId"] == "can-get-stuck")
    assert rules[stuck["ruleIndex"]] == "can-get-stuck"
    place = stuck["locations"][0]["physicalLocation"]
    assert place["region"] == {"startLine": 21, "startColumn": 5}
    assert any("bad%20level.yaml" in json.dumps(one) for one in results)
    tree = ElementTree.fromstring(run("check", *files, "--format", "junit").stdout)
    assert (tree.get("tests"), tree.get("failures"), tree.get("errors")) == ("7", "2", "1")


def test_only_quiet_strict_and_full(tmp_path: Path) -> None:
    only = run("check", DEMO / "wasted-key.yaml", "--only", "spare-keys")
    assert only.returncode == 1  # what is not told counts all the same
    assert "can-get-stuck" not in only.stdout
    wrong = run("check", DEMO / "wasted-key.yaml", "--only", "spare-kys")
    assert wrong.returncode == 2
    assert "did you mean 'spare-keys'" in wrong.stderr
    quiet = run("check", DEMO / "tide-mill.yaml", DEMO / "wasted-key.yaml", "--quiet").stdout
    assert "Shortest run" not in quiet
    assert quiet.index("The Tide Mill") < quiet.index("The Wasted Key")
    assert quiet.rstrip().splitlines()[-3].split() == ["level", "errors", "warnings", "verdict"]
    chain = tmp_path / "chain.yaml"
    rooms = [f"room-{n}" for n in range(20)]
    ways = "".join(f"\n  - {a} <-> {b}" for a, b in pairwise(rooms))
    chain.write_text(
        f"start: room-0\ngoal: room-19\nrooms: [{', '.join(rooms)}, lost]\npassages:{ways}"
    )
    assert "8 more moves (--full)" in run("check", chain).stdout
    assert "walk to room-9," in run("check", chain, "--full").stdout
    assert (run("check", chain).returncode, run("check", chain, "--strict").returncode) == (0, 1)


def test_text_on_a_narrow_terminal() -> None:
    done = subprocess.run(
        [sys.executable, "-m", "ukemi", "check", DEMO / "wasted-key.yaml"],
        capture_output=True, text=True, env={"FORCE_COLOR": "1", "COLUMNS": "40", "TERM": "xterm", "PATH": "/usr/bin"},
    )  # fmt: skip
    import re

    lines = re.sub(r"\x1b\[[0-9;]*m", "", done.stdout).splitlines()
    assert max(len(line) for line in lines) <= 40


def test_folders_patterns_and_standard_input_stand_for_levels(tmp_path: Path) -> None:
    (tmp_path / "deep").mkdir()
    for name in ("b.yaml", "a.yaml", "deep/c.yaml"):
        (tmp_path / name).write_text((DEMO / "tide-mill.yaml").read_text())
    whole = yaml.safe_load((DEMO / "tide-mill.yaml").read_text())
    (tmp_path / "d.json").write_text(
        json.dumps({"name": whole.pop("name"), **whole})
    )  # in one line
    (tmp_path / "notes.yaml").write_text("remarks: none\n")
    (tmp_path / "play.json").write_text("{}")
    told = run("check", "--quiet", ".", cwd=tmp_path).stdout
    files = ["a.yaml", "b.yaml", "d.json", "deep/c.yaml"]
    assert [line.partition("(")[2].partition(")")[0] for line in told.splitlines()[:4]] == files
    assert run("check", "--quiet", "[ab].yaml", cwd=tmp_path).stdout.count("The Tide Mill (") == 2
    assert "no file is named so" in run("check", "x*.yaml", cwd=tmp_path).stderr
    (tmp_path / "empty").mkdir()
    assert "no level in this folder" in run("check", "empty", cwd=tmp_path).stderr
    piped = subprocess.run(
        [sys.executable, "-m", "ukemi", "check", "-", "--table"], input=(DEMO / "tide-mill.yaml").read_text(),
        capture_output=True, encoding="utf-8", check=False,
    )  # fmt: skip
    assert piped.returncode == 0
    lines = [line.split() for line in piped.stdout.splitlines()]
    assert ["door", "loft-door", "required"] in lines
    report = ukemi.check(DEMO / "tide-mill.yaml")
    things = sum(
        map(
            len,
            (
                report.answers.doors,
                report.answers.chests,
                report.answers.acts,
                report.answers.rooms,
                report.answers.items,
            ),
        )
    )
    others = [name for name in report.answers.rewards if name not in report.answers.items]
    assert len(lines) == 1 + things + len(others)


def test_steps_of_acts_chests_and_locks_count_and_piles_are_taken_whole() -> None:
    text = """
start: quay
goal: grain and at mill
items: {grain: {kind: supply, max: 5}, oar: {max: 2}, iron-key: {}, log: {}}
rooms:
  quay:
    items: {grain: {count: 4, pile: true}, oar: {count: 3, pile: true}}
    acts: {search: {steps: 3, gives: log}}
    chests:
      bin: {lock: {needs: log, steps: 7}, holds: iron-key}
      box: {lock: {needs: log, steps: 7}, steps: 2}
  mill: {}
passages:
  - quay <-> mill: {lock: {needs: iron-key, steps: 4}, name: mill-door}
"""
    report = check(text)
    route = report.routes["finish"]
    assert sorted(move.cost for move in route.moves) == [0, 1, 1, 3, 4, 7]
    assert route.steps == 16 and route.shortest
    assert report.answers.items == {"quay/grain": "required", "quay/oar": "never"}
    assert check(text.replace("max: 2", "max: 3")).answers.items["quay/oar"] == "optional"
    with pytest.raises(ukemi.LevelError, match="relocks, so unlocking it is no move"):
        check(text.replace("steps: 4", "steps: 4, relocks: true"))


def test_a_start_said_twice_is_one() -> None:
    text = "goal: mill\nlegend: {m: {room: mill}}\nmaps: {ground: '@.m'}\nstart: ground@1,1\n"
    assert check(text).answers.finish == "yes"
    with pytest.raises(ukemi.LevelError, match="starts in"):
        check(text.replace("ground@1,1", "ground@2,1"))


EVENT = """
start: quay
goal: at loft
items: {ledger: {kind: reward}, oar: {max: 1}, air: {kind: supply, max: 3, vital: true}}
inventory: {start: {air: 2}}
rooms: {quay: {items: [ledger]}, mill: {items: [ledger, oar]}, loft: {}}
passages:
  - quay <-> mill
  - mill <-> loft: {name: loft-door, lock: {needs: done all-found}}
events:
  late: {when: done all-found, loses: air, sets: low}
  all-found: {when: all ledger, opens: loft-door, gives: oar}
  never-comes: {when: not at quay and at quay}
"""


def test_events_happen_by_themselves_in_order_and_once() -> None:
    report = check(EVENT)
    events = {"late": "required", "all-found": "required", "never-comes": "never"}
    assert report.answers.events == events and report_dict(report)["answers"]["events"] == events
    assert [one.subject for one in report.with_code("never-done")] == ["never-comes"]
    route = report.routes["finish"]
    assert (route.steps, [move.what["do"] for move in route.moves]) == (
        4, ["take", "walk", "take", "walk", "finish"],
    )  # fmt: skip
    assert report.answers.items["mill/oar"] == "only-when-stuck"  # a second one would not fit
    level = report.level
    assert ukemi.loads(ukemi.dumps(level)) == level
    deadly = check(EVENT.replace("air: 2", "air: 1"))
    assert (deadly.answers.finish, deadly.answers.deadly) == ("no", "yes")
    at_once = check(EVENT.replace("when: all ledger", "when: at quay"))
    assert at_once.routes["finish"].steps == 2


@pytest.mark.parametrize(
    ("old", "new", "says"),
    [
        ("when: all ledger, ", "", "event 'all-found' does not say `when` it happens"),
        ("all-found: {", "loft-door: {", "'loft-door' is the name of both a"),
        ("done all-found}", "done all-fond}", "is not the name of an act, a switch or an event"),
        ("done all-found}", "opened late}", "it is an event"),
        ("gives: oar", "gives: oat", "did you mean 'oar'"),
    ],
)
def test_events_that_cannot_be_are_told(old: str, new: str, says: str) -> None:
    with pytest.raises(ukemi.LevelError) as caught:
        check(EVENT.replace(old, new, 1 if old != "all-found: {" else -1))
    assert says in str(caught.value)


def test_events_are_built_and_played() -> None:
    level = ukemi.loads(EVENT)
    level.event("bell", when="low", flips="rung")
    with pytest.raises(ukemi.LevelError, match="does not say"):
        level.event("silent", flips="rung")
    play = ukemi.play(level)
    for words in ("take ledger", "go mill"):
        play.do(words)
    play.do("take ledger")
    assert {"all-found happened", "late happened", "bell happened"} <= set(play.last_changes)


def test_every_count_of_mistakes_is_of_one_list(tmp_path: Path) -> None:
    """The verdict, the text, the JSON, the page and the pictures number the same mistakes."""
    file = tmp_path / "three.yaml"
    file.write_text(
        "{start: quay, goal: mill, items: {iron: {use: spent}}, rooms: {quay: {items: iron}, mill: {}, a: {}, b: {}, c: {}},"
        " passages: [quay <-> mill: {lock: iron}, quay <-> a: {lock: iron}, quay <-> b: {lock: iron}, quay <-> c: {lock: iron}]}"
    )
    report = ukemi.load(file) and ukemi.check(ukemi.load(file))
    assert [one.move["name"] for one in report.mistakes] == [f"quay <-> {room}" for room in "abc"]
    text = run("check", file).stdout
    assert "by 3 mistakes" in text and text.count("Also:") == 2
    (stuck,) = [one for one in check_json(file)["findings"] if one["code"] == "can-get-stuck"]
    assert len(stuck["also"]) == 2
    assert [name for _, name, _, wrong in named_routes(report) if wrong] == [
        f"Mistake {number}: unlock quay <-> {room} with iron"
        for number, room in enumerate("abc", 1)
    ]
    drawn = run("draw", file, "--route", "stuck:3", "-o", tmp_path / "map.svg")
    assert drawn.returncode == 0 and (tmp_path / "map.svg").exists()
    none = run("draw", file, "--route", "stuck:4", "-o", tmp_path / "map.svg")
    assert none.returncode == 2 and "number 4 (of 3)" in none.stderr


def test_no_mistake_is_counted_where_it_is_open_whether_anything_finishes() -> None:
    level = ukemi.loads(
        "{start: quay, goal: key, items: {key: {}}, rooms: [quay, mill, pit, race, loft], passages:"
        " [quay -> pit, quay <-> mill, mill <-> race, race <-> loft, loft -> quay: {once: true}]}"
    )
    for most in range(1, 12):
        cut = ukemi.check(level, max_positions=most)
        if cut.answers.finish == "unknown" and cut.answers.stuck == "possible":
            assert not cut.mistakes
            assert [one.text for one in verdict_lines(cut) if one.label == "Can get stuck"] == [
                "yes"
            ]
            break
    else:
        raise AssertionError("no such search")


def test_the_schema_describes_what_is_printed_of_every_kind_of_file(tmp_path: Path) -> None:
    """One level, several, levels that cannot be read, a campaign and its parts, searches cut short."""
    validator = jsonschema.Draft202012Validator(report_schema())
    bad = tmp_path / "bad.yaml"
    bad.write_text("start: quay\ngoal: mil\nrooms: [quay, mill]\n")
    missing = tmp_path / "missing.yaml"
    demos = sorted(DEMO.glob("*.yaml"))
    campaign = tmp_path / "demo"
    campaign.mkdir()
    for name in DEMO_CAMPAIGN:
        (campaign / name).write_text(campaign_text(name))
    for words in ([demos[0]], demos, [bad], [bad, missing, demos[1]], [campaign], [campaign / DEMO_CAMPAIGN[0]],
                  [*demos, "--max-positions", 5], [*demos[:2], "--mends"], [*demos[:3], "--knowing"]):  # fmt: skip
        said = check_json(*words)
        validator.validate(said)
        assert isinstance(said, list) == (
            len([one for one in words if isinstance(one, Path)]) > 1 or words == [campaign]
        )
    with pytest.raises(jsonschema.ValidationError):
        validator.validate({**check_json(demos[0]), "more": 1})


@pytest.mark.parametrize(("walks", "left_out"), [(12, 0), (13, 2)])
def test_a_route_is_shortened_where_that_leaves_out_two_moves(walks: int, left_out: int) -> None:
    rooms = [f"room-{n}" for n in range(walks + 1)]
    ways = ", ".join(f"{a} -> {b}" for a, b in pairwise(rooms))
    report = check(
        f"{{start: room-0, goal: {rooms[-1]}, rooms: [{', '.join(rooms)}], passages: [{ways}]}}"
    )
    words = route_words(report.routes["finish"], report.level)
    assert words.startswith("walk to room-1, walk to room-2") and words.endswith("finish")
    assert re.findall(r"(\d+) more moves", words) == ([str(left_out)] if left_out else [])


@pytest.mark.parametrize("demo", ["tide-mill.yaml", "wasted-key.yaml", "stranded.yaml"])
def test_the_first_answers_come_before_the_report_and_are_those_of_it(demo: str) -> None:
    heard: dict[str, str] = {}
    report = ukemi.check(DEMO / demo, on_answer=lambda name, answer: heard.update({name: answer}))
    assert list(heard) == ["finish", "stuck", "deadly", "all_rewards"]
    assert heard == {name: getattr(report.answers, name) for name in heard}


def test_of_a_large_level_the_first_answer_comes_without_all_positions() -> None:
    from benchmarks.families import designed

    class EnoughError(Exception):
        pass

    def stop(name: str, answer: ukemi.Answer) -> None:
        raise EnoughError(f"{name} {answer}")

    level = designed(30, 3)
    with pytest.raises(EnoughError, match="finish yes"):
        ukemi.check(level, max_positions=20_000, on_answer=stop)
    assert not ukemi.check(level, max_positions=2_000, max_seconds=0).search.all_seen
