"""Mends and accepted findings: what is told helps, and nothing else in a file is touched."""

from __future__ import annotations

import json
import re
import shlex
from collections import Counter
from pathlib import Path
from random import Random
from typing import Any

import jsonschema
import pytest
import yaml
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.bulk.checking import Asking, check_and_mend
from ukemi.checks.accepting import codes_of, subjects_of
from ukemi.findings.finding import SEVERITIES, Finding
from ukemi.language.text.editing import REMOVED, Edit, edited, edited_text, plain
from ukemi.level.joined import Joined
from ukemi.mends import Mend, mends_of_finding, mends_of_report, mends_of_text
from ukemi.report.as_json import report_schema
from ukemi.report.as_sarif import sarif
from ukemi.spaces import Limits

from .helpers import DEMO, check, readable, report_dict, run
from .levels import map_levels, plain_levels
from .test_against_naive import LEVELS
from .test_answers import EVENT

#: Levels with one mistake each, and a change that mends it as its designer would.
MISTAKES = {
    "put one more iron-key in quay": """
start: quay
goal: mill
items: {iron-key: {use: spent}}  # one of them
rooms:
  quay: {items: [iron-key]}
  mill: {}
  store: {}
passages:
  - quay <-> mill: {lock: iron-key}
  - quay <-> store: {lock: iron-key}
""",
    "move iron-key from mill to quay": """
start: quay
goal: mill
items: {iron-key: {}}
rooms:
  quay: {}
  mill:
    items: iron-key  # behind its own door
passages: [quay <-> mill: {lock: iron-key, name: mill-door}]
""",
    "draw floor at ground@4,2": """
goal: at loft
maps:
  ground: |
    ######
    #@.<X#
    ######
legend: {X: {room: loft}}
""",
    "put a switch in race that turns low-water on and off": """
start: quay
goal: mill
rooms:
  quay: {switches: {sluice: {flips: low-water}}}
  race: {}
  mill: {}
passages:
  - quay -> race: {name: chute}
  - race <-> mill: {gate: low-water}
""",
    "let chute ask for low-water (a gate)": """
start: quay
goal: mill
rooms:
  quay: {switches: {sluice: {flips: low-water}}}
  race: {}
  mill: {}
passages:
  - quay -> race: {name: chute}
  - race <-> mill: {gate: low-water}
""",
    "put one more oar in quay": """
start: quay
goal: mill
items: {oar: {kind: tool}}
rooms:
- quay  # where the ferry lies
- mill
- pit
passages: [quay <-> mill: {gate: oar}, quay <-> pit]
""",
    "put one more lamp in stair-foot": """
goal: loft
items: {lamp: {}}
maps:
  ground: |
    ######
    #@.>X#
    ######
legend: {X: {room: loft, gate: lamp}, ">": {room: stair-foot}}
""",
    "put one more lamp in ground@3,2": """
goal: loft
items: {lamp: {}}
maps:
  ground: |
    #####
    #@.X#
    #####
legend: {X: {room: loft, gate: lamp}}
""",
    "take the gate off loft": """
start: quay
goal: loft
items: {lamp: {}}
rooms:
  quay: {}
  loft: {gate: lamp and flood}
flags: [flood]
passages: [quay <-> loft]
""",
    "let quay/lamp ask for peg instead of 2 peg": """
start: quay
goal: loft
items: {lamp: {}, peg: {}}
rooms:
  quay:
    items: {peg: 1, lamp: {needs: 2 peg}}
  loft: {gate: lamp}
passages: [quay <-> loft]
""",
    "let bell ask for peg instead of 3 peg": """
start: quay
goal: loft
items: {peg: {}}
rooms: {quay: {items: peg}, loft: {}}
events:
  bell: {when: 3 peg, opens: hatch}
passages: [quay <-> loft: {lock: nail, name: hatch}]
flags: [nail]
""",
    "take the gate off portcullis": """
start: hall
goal: loft
flags: {barred: true, wedged: false}
rooms:
  hall: {}
  loft: {}
passages: [hall <-> loft: {gate: wedged and not barred, name: portcullis}]
""",
    "let grate ask for low-water": """
start: quay
goal: mill
flags: {low-water: true}
rooms: [quay, mill]
passages: [quay <-> mill: {gate: not low-water, name: grate}]
""",
    "let sluice be used again and again": """
start: quay
goal: mill
flags: {low-water: true}
rooms:
  quay: {switches: {sluice: {flips: low-water, once: true}}}
  mill: {}
passages:
  - quay <-> mill: {gate: low-water}
""",
    "make race -> quay two-way": """
start: quay
goal: mill
rooms: [quay, mill, race]
passages:
  - race -> quay
  - race <-> mill
""",
    "let chute ask for oak-key (a gate)": """
start: quay
goal: mill
items:
  oak-key: {}
rooms:
  quay: {items: {oak-key: 1}}
  race: {}
  mill: {}
passages:
  - quay -> race: {name: chute}
  - race <-> mill: {lock: oak-key}
""",
    "let mill-door be unlocked from either side": """
{"start": "quay", "goal": "mill", "rooms": ["quay", "mill"],
 "passages": [{"quay <-> mill": {"name": "mill-door", "lock": {"from": "mill"}}}]}
""",
    "let mill-door ask for 2 stub instead of 3 stub": """
start: quay
goal: mill
items: {stub: {}}
rooms:
  quay:
    items: [stub, stub]
  mill:
passages:
  - quay <-> mill: {lock: 3 stub, name: mill-door}
""",
    "carry 2 at once instead of 1": """
start: quay
goal: 2 sack
inventory: {slots: 1}  # one hand
items: {sack: {}}
rooms: {quay: {items: {sack: 2}}}
passages: []
""",
    "let mill-door ask for oak-key": """
start: quay
goal: mill
items: {oak-key: {}, elm-key: {}}
rooms: {quay: {items: [oak-key]}, mill: {}}
passages: [quay <-> mill: {lock: elm-key, name: mill-door}]
""",
    "move iron-key from ground@6,2 to ground@3,2": """
goal: mill
maps:
  ground: |
    ########
    #@.D.k>#   # no comment: a drawing
    ########
legend:
  k: {item: iron-key}
  D: {lock: iron-key, name: mill-door}
  ">": {room: mill}
items: {iron-key: {}}
""".replace("   # no comment: a drawing", ""),
}


def mends(
    report: ukemi.Report,
    finding: Finding,
    checks: int = 400,
    enough: int = 10,
    positions: int = 20_000,
) -> list[Mend]:
    """The mends of one finding."""
    return mends_of_finding(report, finding, Limits(positions), checks, enough).mends


def each_place(mend: Mend) -> list[str]:
    """What a mend says, for each of the places that it names."""
    say, _, others = mend.say.partition(" (or ")
    start = say.rpartition(" ")[0]
    return [say, *(f"{start} {one}" for one in others[:-1].split(", ") if others)]


@pytest.mark.parametrize(("say", "text"), MISTAKES.items())
def test_each_kind_of_mistake_has_its_mend(say: str, text: str, tmp_path: Path) -> None:
    file = tmp_path / ("level.json" if text.lstrip().startswith("{") else "level.yaml")
    file.write_text(text)
    report = ukemi.check(file)
    (finding,) = [one for one in report.findings if one.severity == "error"][:1]
    found = {one: mend for mend in mends(report, finding, enough=50) for one in each_place(mend)}
    assert say in found
    mended = found[say].apply(report.level)
    assert ukemi.check(mended).exit_code() == 0
    assert mended.text is not None
    was, now = text.splitlines(), mended.text.splitlines()
    assert len([line for line in was if line not in now]) <= (5 if "rooms:\n- quay" in text else 2)
    assert len([line for line in now if line not in was]) <= (5 if "rooms:\n- quay" in text else 2)
    assert re.findall("# [a-z].*", text) == re.findall("# [a-z].*", mended.text)


@given(st.one_of(plain_levels(), map_levels()))
@settings(max_examples=max(LEVELS // 8, 8), deadline=None)
def test_what_is_told_helps(drawn: dict[str, Any]) -> None:
    level = readable(drawn)
    report = ukemi.check(level, max_positions=3_000)
    assume(report.search.complete)
    for finding in report.findings[:3]:
        for mend in mends(report, finding, checks=12, enough=2, positions=3_000):
            after = ukemi.check(mend.apply(report.level), max_positions=3_000)
            before = {key for one in report.findings for key in codes_of(one)}
            assert not subjects_of(finding) & {
                key for one in after.findings for key in codes_of(one)
            }
            new = [one for one in after.findings if not subjects_of(one) <= before]
            stuck = [one for one in new if one.code == "can-get-stuck"]  # it was so from the start
            stuck = stuck if finding.code == "cannot-finish" else []
            rest = [one for one in new if one not in stuck]
            severities = SEVERITIES[SEVERITIES.index(finding.severity) + 1 :]
            assert all(one.severity in severities and one.code != "undecided" for one in rest)
            warned = [one for one in rest if one.severity == "warning"]
            assert {f"{one.code} {one.subject}" for one in stuck + warned} == {*mend.warns}


# -- edits ----------------------------------------------------------------------------------------


def written(document: Any, random: Random) -> tuple[str, str | None]:
    """A document as a file: JSON, blocks, braces, or some of each, with comments."""
    if random.random() < 0.3:
        return json.dumps(document, indent=random.choice([None, 2])), "level.json"
    flow = random.choice([None, True, False])
    if random.random() < 0.3:
        document = with_shared_parts(document, random, {})  # written once, with an anchor
    text = yaml.safe_dump(document, default_flow_style=flow, sort_keys=False, width=200)
    lines = text.splitlines()
    if flow is not True:
        lines = [
            line + random.choice(["", "", f"  # remark {number}"])
            for number, line in enumerate(lines)
        ]
    newline = random.choice(["\n", "\n", "\r\n"])
    return newline.join(lines) + random.choice(["", newline, f"{newline}# the end{newline}"]), None


def with_shared_parts(document: Any, random: Random, known: dict[str, Any]) -> Any:
    """The same data, in which some parts that are equal are one object."""
    if isinstance(document, dict):
        document = {key: with_shared_parts(one, random, known) for key, one in document.items()}
    elif isinstance(document, list):
        document = [with_shared_parts(one, random, known) for one in document]
    else:
        return document
    if not document or random.random() < 0.3:
        return document
    return known.setdefault(json.dumps(document), document)


def somewhere(document: Any, random: Random) -> tuple[str | int, ...]:
    """A path to a value, or to where one can be added."""
    path: list[str | int] = []
    inside = document
    while isinstance(inside, (dict, list)):
        steps: list[str | int] = (
            list(inside) if isinstance(inside, dict) else list(range(len(inside)))
        )
        new = "added" if isinstance(inside, dict) else len(inside)
        step = random.choice([*steps, new])
        path.append(step)
        if step == new or random.random() < 0.3:
            break
        inside = inside[step]  # type: ignore[index]
    return tuple(path)


@given(plain_levels(), st.randoms(use_true_random=False))
@settings(max_examples=max(LEVELS, 20), deadline=None)
def test_an_edited_file_says_what_the_edits_say(drawn: dict[str, Any], random: Random) -> None:
    text, file = written(json.loads(json.dumps(drawn)), random)
    document = plain(text, file)
    path = somewhere(document, random)
    value = random.choice(["oak-key", 3, True, {"gate": "not low-water"}, ["a", "b"], REMOVED])
    if value is REMOVED and path[-1] in ("added", *range(99)):
        value = "no"
    edit = Edit(path, value)
    new = edited_text(text, [edit], file)
    assert plain(new, file) == edited(document, [edit])
    for remark in re.findall("# remark [0-9]+|# the end", text):
        assert re.search(f"{remark}\r?(\n|$)", new), f"{remark} is lost"
    assert "\r\n" not in text or not re.search("(?<!\r)\n", new), "line breaks differ"


@pytest.mark.parametrize(
    ("text", "path"),
    [
        ("locks:  # a remark\n  shared: {needs: iron}\nstart: quay\n", ("locks", "shared")),
        ("passages:  # a remark\n- quay <-> mill\nstart: quay\n", ("passages", 0)),
    ],
)
def test_what_is_emptied_keeps_the_remark_beside_it(text: str, path: tuple[str | int, ...]) -> None:
    new = edited_text(text, [Edit(path, REMOVED)])
    assert plain(new) == {path[0]: {} if path[1] == "shared" else [], "start": "quay"}
    assert "# a remark" in new


# -- the command, and other programs --------------------------------------------------------------


def test_the_command_lists_mends_and_makes_one(tmp_path: Path) -> None:
    file = tmp_path / "mill.yaml"
    file.write_text((DEMO / "wasted-key.yaml").read_text())
    told = run("mend", file, "can-get-stuck", "store-door")
    assert told.returncode == 0 and "  1. let iron-key be kept when" in told.stdout
    assert run("mend", file, "--apply", "99").returncode == 2
    assert run("mend", file, "can-get-stick").stderr.count("did you mean 'can-get-stuck'?") == 1
    assert "there is store-door" in run("mend", file, "can-get-stuck", "x").stderr
    assert file.read_text() == (DEMO / "wasted-key.yaml").read_text()
    others = run("mend", file, "reward-only-when-stuck").stdout
    again = shlex.split(others.splitlines()[-1].partition("ukemi ")[2].replace("NUMBER", "1"))
    first = re.findall(r"  1\. (.*)", others)[0]
    copy = file.read_text()
    assert run(*again).stdout.startswith(first)
    file.write_text(copy)
    made = run("mend", file, "can-get-stuck", "--apply", "1")
    assert made.returncode == 0 and made.stdout.endswith(f"wrote {file}\n")
    assert not ukemi.check(file).with_code("can-get-stuck")
    old, new = ((path.read_text().splitlines()) for path in (DEMO / "wasted-key.yaml", file))
    assert [one for one in old if one not in new] and len(old) == len(new)
    assert "nothing to mend" in run("mend", DEMO / "tide-mill.yaml").stdout


def test_what_is_not_settled_is_not_told_as_fine() -> None:
    cut = run("mend", DEMO / "tide-mill.yaml", "--max-positions", "3")
    assert "nothing was found" in cut.stdout and "undecided: the search was cut short" in cut.stdout
    assert cut.returncode == 3
    named = run("mend", DEMO / "tide-mill.yaml", "can-get-stuck", "--max-positions", "3")
    assert "some questions are undecided" in named.stderr and named.returncode == 2


def test_a_file_that_cannot_be_read_is_mended_by_the_nearest_names(tmp_path: Path) -> None:
    file = tmp_path / "mill.yaml"
    text = "start: quya  # here\ngoal: mil\nrooms: [quay, mill]\npassages:\n  - quay <-> mill\n"
    file.write_text(text)
    told = run("mend", file)
    assert (
        told.returncode == 2
        and "1. write 'quay' for 'quya' and write 'mill' for 'mil'" in told.stdout
    )
    file.write_text(MISTAKES["make race -> quay two-way"].replace("goal: mill", "goal: done serch"))
    assert run("mend", file).returncode == 2
    file.write_text(EVENT.replace("done all-found}", "done all-fund}"))
    assert "1. write 'all-found' for 'all-fund'" in run("mend", file).stdout
    file.write_text(text.replace("quay <-> mill", "mill -> quay"))
    assert (
        "it can then be read; a check then finds: cannot-finish goal)" in run("mend", file).stdout
    )
    file.write_text(text)
    assert run("mend", file, "--apply", "1").returncode == 0
    assert file.read_text() == text.replace("quya", "quay").replace("mil\n", "mill\n", 1)


@pytest.mark.parametrize(
    ("wrong", "say", "right"),
    [
        ("items: [lamp]\n", "write each of `items` with its fields", "items: {lamp: {}}\n"),
        ("items:\n- lamp  # lit\n", "write each of `items` with its fields", "items:\n  lamp: {}  # lit\n"),
        (
            "items: {lamp: {}}\nlocks: {iron: lamp}\n",
            "write 'iron' as a lock that needs lamp",
            "items: {lamp: {}}\nlocks: {iron: {needs: lamp}}\n",
        ),
        (
            "items: [lamp]\nlocks: {irn: {needs: lmp}}\n",
            "write each of `items` with its fields, and write 'irn' for 'iron' and write 'lamp' for 'lmp'",
            None,
        ),
    ],
)  # fmt: skip
def test_names_that_are_listed_are_written_in_full(wrong: str, say: str, right: str | None) -> None:
    lock = "iron" if "locks" in wrong else "lamp"
    level = f"start: quay\ngoal: loft\nrooms: [quay, loft]\npassages: [quay <-> loft: {{lock: {lock}}}]\n"
    with pytest.raises(ukemi.LevelError) as raised:
        ukemi.loads(level + wrong)
    first = mends_of_text(level + wrong, raised.value).mends[0]
    assert first.say == say and (right is None or first.text == level + right)
    assert ukemi.loads(first.text)


def test_the_name_of_a_lock_is_near_where_a_lock_is_meant() -> None:
    text = (
        "start: quay\ngoal: loft\nitems: {lamp: {}}\nlocks: {iron: {needs: lamp}}\nrooms: [quay, loft]\n"
        "passages: [quay <-> loft: {lock: irn}]\n"
    )
    with pytest.raises(ukemi.LevelError, match=r"a lock, an item or a flag \(did you mean 'iron'"):
        ukemi.loads(text)
    with pytest.raises(ukemi.LevelError, match="is not the name of an item or a flag"):
        ukemi.loads(text.replace("lock: irn", "gate: irn"))


def test_a_symbol_in_no_legend_is_mended_by_floor(tmp_path: Path) -> None:
    path = tmp_path / "ground.yaml"
    path.write_text(
        "goal: at loft\nmaps:\n  ground: |\n    @?X\n    .?.\nlegend: {X: {room: loft}}\n"
    )
    assert "1. draw floor ('.') for '?'" in run("mend", path).stdout
    assert run("mend", path, "--apply", 1).returncode == 0
    assert "    @.X\n    ...\n" in path.read_text()


def test_other_programs_get_the_mends_too(tmp_path: Path) -> None:
    file = tmp_path / "mill.yaml"
    file.write_text(MISTAKES["make race -> quay two-way"])
    unasked = json.loads(run("check", file, "--format", "json").stdout)
    assert not any("mends" in one for one in unasked["findings"])
    document = json.loads(run("check", file, "--format", "json", "--mends").stdout)
    jsonschema.validate(document, report_schema())
    finding = document["findings"][0]
    assert {
        "say": "make race -> quay two-way",
        "edit": [{"path": ["passages", 0], "value": "race <-> quay"}],
    } in finding["mends"]
    (result,) = json.loads(run("check", file, "--format", "sarif").stdout)["runs"][0]["results"][:1]
    lines = file.read_text().splitlines(keepends=True)
    for fix in result["fixes"]:
        for one in reversed(fix["artifactChanges"][0]["replacements"]):
            begin, end = one["deletedRegion"]["startLine"] - 1, one["deletedRegion"]["endLine"] - 1
            new = [*lines[:begin], one["insertedContent"]["text"], *lines[end:]]
        assert not ukemi.check(ukemi.loads("".join(new))).with_code("cannot-finish")
    report = ukemi.check(file)
    assert report.mends(report.findings[0])[0].apply(report.level) != report.level


def test_the_budget_is_kept_and_told() -> None:
    report = check(MISTAKES["put one more iron-key in quay"])
    none = mends_of_finding(report, report.findings[0], Limits(), checks=0)
    assert none.mends == [] and not none.all_tried


# -- accepted findings ----------------------------------------------------------------------------

DECOY = """
start: quay
goal: mill
items: {decoy-key: {}, old-key: {}}
rooms: {quay: {items: [decoy-key]}, mill: {}}
passages: [quay <-> mill]
"""


def test_what_is_accepted_is_not_listed() -> None:
    before = check(DECOY)
    subjects = {one.subject for one in before.with_code("unused-item")}
    assert subjects == {"decoy-key", "old-key"}
    report = check(DECOY + "accept: {unused-item: [decoy-key, old-key]}")
    assert report.findings == () and report.exit_code(strict=True) == 0
    assert {one.subject for one in report.accepted} == subjects
    document = report_dict(report)
    jsonschema.validate(document, report_schema())
    assert len(document["accepted"]) == 2
    suppressed = sarif([report], "1")["runs"][0]["results"]
    assert [one["suppressions"] for one in suppressed] == [[{"kind": "inSource"}]] * 2
    level = report.level
    assert ukemi.loads(ukemi.dumps(level)) == level
    level.accept("unused-lock", "none")
    assert "unused-lock: none" in ukemi.dumps(level)


def test_what_is_accepted_for_nothing_is_told() -> None:
    report = check(DECOY + "accept: {unused-item: decoy-key, never-set: low-water}")
    (told,) = report.with_code("accepted-nothing")
    assert (told.subject, told.severity) == ("low-water", "warning") and told.place
    assert report.exit_code() == 0 and report.exit_code(strict=True) == 1


@pytest.mark.parametrize(
    ("said", "says"),
    [
        ("{undecided: x}", "'undecided' is not the code of a finding that can be accepted"),
        ("{syntax: x}", "'syntax' is not the code"),
        ("{bypased: x}", "did you mean 'bypassed'?"),
        ("{bypassed: [x, x]}", "accepted for 'x' twice"),
        ("[bypassed]", "maps codes of findings to names"),
    ],
)
def test_what_cannot_be_accepted_is_told(said: str, says: str) -> None:
    with pytest.raises(ukemi.LevelError, match="accept") as caught:
        check(DECOY + f"accept: {said}")
    assert says in str(caught.value)


def test_a_mistake_with_others_is_accepted_with_all_of_them() -> None:
    text = MISTAKES["put one more iron-key in quay"].replace("store: {}", "store: {}\n  loft: {}")
    text += "  - quay <-> loft: {lock: iron-key, name: loft-door}\naccept: {can-get-stuck: quay <-> store}\n"
    assert check(text).with_code("can-get-stuck")
    text = text.replace("quay <-> store}", "[quay <-> store, loft-door]}")
    assert not check(text).with_code("can-get-stuck") and check(text).exit_code() == 0


def test_every_code_that_is_told_can_be_accepted_or_is_about_reading() -> None:
    from ukemi.language.fields.accepted import CODES
    from ukemi.report.pages import codes

    reading = {
        "syntax",
        "unknown-field",
        "unknown-name",
        "duplicate-name",
        "bad-value",
        "contradicting-effects",
        "no-file",
    }
    never = {"undecided", "accepted-nothing", "start-blocked", "thing-in-wall"}
    assert set(CODES) | reading | never == set(codes())


def test_a_change_that_could_not_be_checked_to_the_end_is_no_mend() -> None:
    text = MISTAKES["put one more iron-key in quay"].replace("use: spent", "use: kept")
    report = check(text + "  - quay <-> mill\n")
    (finding,) = [one for one in report.with_code("bypassed") if "mill" in one.subject]
    assert mends(report, finding)
    assert not mends(report, finding, positions=2)


# -- nothing is lost ------------------------------------------------------------------------------


def everything(level: ukemi.Level) -> Counter[tuple[str, ...]]:
    """Everything that is placed in a level: units of items, chests, acts, ways and drawn cells."""
    found: Counter[tuple[str, ...]] = Counter()
    for room in level.rooms.values():
        found["room", room.name] = 1
        for one in room.items.values():
            found["item", one.item, room.name] += one.count
        for chest in room.chests.values():
            found["chest", chest.name, room.name] = 1
            for item, count in chest.holds.items():
                found["held", item, chest.name] += count
        for act in room.all_acts():
            found["act", act.name, room.name] = 1
    for passage in level.passages:
        found["passage", passage.thing] += 1
    for item in level.items:
        found["kind", item] = 1
    return found


_SENTENCES = (
    (r"put one more (\S+) in (\S+)", lambda a, b: ([], [("item", a, b)])),
    (r"move (\S+) from (\S+) to (\S+)", lambda a, b, c: ([("item", a, b)], [("item", a, c)])),
    (r"swap (\S+) in (\S+) and (\S+) in (\S+)",
     lambda a, b, c, d: ([("item", a, b), ("item", c, d)], [("item", a, d), ("item", c, b)])),
    (r"put a switch in (\S+) that turns (\S+) on and off", lambda a, b: ([], [("act", f"{b}-switch", a)])),
    (r"let (\S+) hold (\S+)", lambda a, b: ([], [("held", b, a)])),
)  # fmt: skip


def compare_placed(before: ukemi.Level, after: ukemi.Level, say: str) -> None:
    """What is placed differs by exactly what a mend says."""
    old, new = everything(before), everything(after)
    gone, come = Counter[tuple[str, ...]](), Counter[tuple[str, ...]]()
    for pattern, tells in _SENTENCES:
        if told := re.fullmatch(pattern, say):
            out, into = tells(*told.groups())
            gone, come = Counter(out), Counter(into)
    kinds = ("item", "held", "chest", "act", "room", "kind")
    lost = {one: n for one, n in (old - new).items() if one[0] in kinds}
    added = {one: n for one, n in (new - old).items() if one[0] in kinds}
    drawn = {one for one in {*lost, *added} if one[0] == "room" and "@" in one[1]}
    assert {k: n for k, n in lost.items() if k not in drawn} == gone - come, say
    assert {k: n for k, n in added.items() if k not in drawn} == come - gone, say
    assert abs(sum(old.values()) - sum(new.values())) <= 3 + len(drawn), say


def drawn_cells(level: ukemi.Level) -> dict[tuple[str, int, int], str]:
    return {
        (name, x, y): symbol
        for name, floor in level.maps.items()
        for y, row in enumerate(floor.rows, 1)
        for x, symbol in enumerate(row, 1)
    }


def compare_said(level: ukemi.Level, after: ukemi.Level, say: str) -> None:
    """A level and its maps differ by exactly what a mend says."""
    say = say.partition(" (or ")[0]
    if not re.match(r"(draw|turn the arrow|move '.'|move \S+ from \S+@)", say):
        compare_placed(level, after, say)
        assert drawn_cells(level) == drawn_cells(after) or "@" in say, say
        return
    old, new = drawn_cells(level), drawn_cells(after)
    named = {(name, int(x), int(y)) for name, x, y in re.findall(r"(\w+)@(\d+),(\d+)", say)}
    row = re.search(r" row (\d+) of (\w+)", say)
    for name, x, y in {one for one in old | new if old.get(one) != new.get(one)}:
        beside = any(a == name and abs(b - x) + abs(c - y) <= 1 for a, b, c in named)
        here = (name, x, y) in named or (beside and "floor beside" in say)
        assert here or (row and (row[2], int(row[1])) == (name, y)), say


@pytest.mark.parametrize("most", [1, 2, 6])
def test_no_more_mends_are_looked_for_than_are_wanted(most: int) -> None:
    report = ukemi.check(DEMO / "wasted-key.yaml")
    told: list[Mend] = []
    assert mends_of_report(report, Limits(1_000), most, told.append).mends == told
    assert [one.say for one in told] == [one.say for one in ukemi.mends_of(report.level)][:most]
    assert len(told) == most


@given(st.one_of(plain_levels(), map_levels()), st.randoms(use_true_random=False))
@settings(max_examples=LEVELS // 4, deadline=None, suppress_health_check=list(HealthCheck))
def test_a_mend_changes_what_it_says_and_nothing_else(
    plain: dict[str, Any], random: Random
) -> None:
    level = readable(plain)
    report = ukemi.check(level, max_positions=1_000)
    assume(report.search.complete)
    told: list[Mend] = []
    whole = mends_of_report(report, Limits(1_000), on_mend=told.append).mends
    assert told == whole
    assert mends_of_report(report, Limits(1_000), most=2).mends == whole[:2]
    for mend in whole:
        compare_said(level, mend.apply(level), mend.say)
    findings = [one for one in report.findings if one.code != "undecided"]
    for finding in random.sample(findings, min(1, len(findings))):
        for mend in mends(report, finding, checks=20, enough=4, positions=1_000):
            compare_said(level, mend.apply(level), mend.say)


MAP = """
goal: at far
items: {{coin: {{kind: reward}}, key: {{}}}}
maps:
  ground: |
    #######
    #@{cells}#
    #######
legend:
  c: {{item: coin}}
  k: {{item: key}}
  z: {{room: far}}
  D: {{lock: key, name: door}}
"""


@pytest.mark.parametrize("cells", ["cDzk", "cD.z", "<cDz", "c>zc", "kcDc"])
def test_no_mend_of_a_map_draws_over_what_it_does_not_name(cells: str) -> None:
    text = (
        MAP.format(cells=cells)
        if "z" in cells
        else MAP.format(cells=cells)
        .replace("at far", "at ground@6,2")
        .replace("  z: {room: far}\n", "")
    )
    level = ukemi.loads(text)
    report = ukemi.check(level)
    for finding in report.findings:
        for mend in mends(report, finding, checks=60, enough=20, positions=3_000):
            compare_said(level, mend.apply(level), mend.say)


def test_what_is_accepted_keeps_nothing_else_from_being_mended() -> None:
    text = """
start: quay
goal: mill
items: {iron-key: {use: spent}, ledger: {kind: reward}}
rooms: {quay: {items: iron-key}, mill: {}, store: {}, nook: {items: ledger}}
passages:
  - quay <-> mill: {lock: iron-key, name: mill-door}
  - quay <-> store: {lock: iron-key, name: store-door}
accept: {can-get-stuck: store-door}
"""
    report = check(text)
    assert [one.code for one in report.accepted] == ["can-get-stuck"]
    says = [one.say for one in mends_of_report(report, Limits()).mends]
    assert "add quay <-> nook" in says
    # And of a mistake, no mend leaves the very move.
    stuck = check(
        text.replace("accept: {can-get-stuck: store-door}", "").replace(
            ", nook: {items: ledger}", ""
        )
    )
    for mend in mends_of_report(stuck, Limits()).mends:
        assert not ukemi.check(mend.apply(stuck.level)).with_code("can-get-stuck")


def test_a_flag_that_nothing_tests_is_asked_for_by_a_gate() -> None:
    report = check(
        "{start: quay, goal: mill, rooms: {quay: {switches: {sluice: {flips: low-water}}}, mill: {}},"
        " passages: [quay <-> mill: {name: culvert}]}"
    )
    (first, *_) = mends_of_report(report, Limits()).mends
    assert first.say == "let culvert ask for low-water (a gate)"
    assert "gate: low-water" in first.text


def test_where_nothing_finishes_a_player_may_be_stuck_after_a_mend() -> None:
    text = """
start: quay
goal: everyone at mill
players: [ada, ben]
items: {lantern: {kind: tool}}
rooms: {quay: {items: [lantern]}, mill: {}, pit: {}}
passages:
  - quay <-> mill: {gate: lantern}
  - quay -> pit
"""
    report = check(text)
    found = mends_of_report(report, Limits()).mends
    says = [one.say for one in found]
    assert "put one more lantern in quay" in says
    stuck = [bool(one.left) for one in found]
    assert stuck == sorted(stuck) and True in stuck  # they come last
    for mend in found:
        after = ukemi.check(mend.apply(report.level))
        errors = {f"{one.code} {one.subject}" for one in after.findings if one.severity == "error"}
        assert not after.with_code("cannot-finish") and {*mend.left} == errors <= {*mend.warns}
    # Where it can be finished, getting stuck elsewhere is as grave as before.
    stuck_too = check(text.replace("[lantern]", "{lantern: 2}"))
    known = {f"{one.code} {one.subject}" for one in stuck_too.findings}
    assert all({*one.left} <= known for one in mends(stuck_too, stuck_too.findings[0]))


DROPS = """
start: quay
goal: mill
items: {oar: {}, peg: {}, lamp: {}}
rooms: {quay: {items: [oar, peg, lamp]}, yard: {}, pit: {}, mill: {}}
passages:
  - quay -> pit: {name: drop}
  - quay -> yard: {name: slide}
  - pit -> mill: {gate: oar}
  - yard -> mill: {gate: peg}
"""


def test_every_mistake_that_is_a_walk_gets_its_gate(tmp_path: Path) -> None:
    says = [one.say for one in mends_of_report(check(DROPS), Limits()).mends]
    assert {"let drop ask for oar (a gate)", "let slide ask for peg (a gate)"} <= {*says}
    # So it is in a campaign, where things are called after their levels, too.
    (tmp_path / "first.yaml").write_text(DROPS)
    (tmp_path / "last.yaml").write_text("{start: quay, goal: quay, rooms: [quay]}")
    (tmp_path / "year.yaml").write_text(
        "campaign: Year\nlevels: {first: first.yaml, last: last.yaml}\n"
    )
    says = [one.say for one in ukemi.mends_of(tmp_path / "year.yaml")]
    assert "in first: let drop ask for oar (a gate)" in says
    assert "in first: let slide ask for peg (a gate)" in says


def test_what_was_put_down_and_lost_is_not_put_down() -> None:
    report = check("""
start: quay
goal: mill
items: {oar: {}}
inventory: {drop: true}
rooms: {quay: {items: oar}, pit: {}, yard: {}, mill: {}}
passages: [quay -> pit: {gate: oar}, pit -> yard, yard -> mill: {gate: oar}]
""")
    says = [one.say for one in mends_of_report(report, Limits()).mends]
    assert report.with_code("can-get-stuck") and "let nothing be put down" in says


def test_one_more_of_a_thing_is_drawn_on_the_floor_of_its_map() -> None:
    text = MAP.format(cells="k.DDz").replace("key: {}", "key: {use: spent}")
    level = ukemi.loads(text.replace("#######", "########"))
    report = ukemi.check(level)
    (mend,) = [one for one in mends(report, report.findings[0]) if one.say.startswith("put")]
    old, new = drawn_cells(level), drawn_cells(mend.apply(level))
    assert mend.say == "put one more key in ground@4,2"
    assert {*new.items()} - {*old.items()} == {(("ground", 4, 2), "k")}


@pytest.mark.parametrize(
    "ways", ["", "ways: [landing -> mill]\n", "ways: [landing -> mill: {when: at gate}]\n"]
)
@pytest.mark.parametrize("lying", [1, 3])
def test_a_mend_of_a_campaign_changes_one_file_by_what_it_says(
    tmp_path: Path, ways: str, lying: int
) -> None:
    landing = f"""
start: quay
goal: at gate
items: {{lantern: {{}}}}
rooms: {{quay: {{}}, shed: {{items: {{lantern: {lying}}}}}, gate: {{}}}}
passages: [quay <-> shed, quay <-> gate]
"""
    mill = """
start: hall
goal: at loft
items: {lantern: {}}
rooms: {hall: {}, nook: {}, loft: {}}
passages: [hall <-> nook, hall <-> loft: {gate: lantern}]
"""
    texts = {"landing": landing, "mill": mill}
    for name, text in texts.items():
        (tmp_path / f"{name}.yaml").write_text(text)
    file = tmp_path / "year.yaml"
    file.write_text(f"campaign: A Year\nlevels: {{landing: landing.yaml, mill: mill.yaml}}\n{ways}")
    report = ukemi.check(file)
    old = report.level
    assert isinstance(old, Joined)
    (finding,) = report.with_code("left-behind")
    found = mends(report, finding, checks=400, enough=60, positions=3_000)
    assert {say for one in found for say in each_place(one)} >= {
        "let the way landing -> mill ask for lantern",
        "in mill: put one more lantern in hall",
        "in mill: put one more lantern in nook",
    }
    for mend in found:
        new = mend.apply(old)
        assert isinstance(new, Joined)
        assert [one for one in old.texts if old.texts[one] != new.texts[one]] == [mend.file]
        before, after = old.campaign.stages, new.campaign.stages
        stage, _, change = mend.say.rpartition(": ")
        if not stage:
            assert mend.file == str(file) and all(
                before[one].level == after[one].level for one in before
            )
            continue
        assert old.campaign.ways == new.campaign.ways
        named = stage.removeprefix("in ")
        compare_placed(before[named].level, after[named].level, change.partition(" (or ")[0])
    for number in range(1, lying + 1):
        wanted = "lantern" if number == 1 else f"{number} lantern"
        (mend,) = [
            one for one in found if one.say == f"let the way landing -> mill ask for {wanted}"
        ]
        (was,), (now,) = old.campaign.ways, mend.apply(old).campaign.ways  # type: ignore[attr-defined]
        asked = wanted if was.when == ukemi.level.ALWAYS else f"{was.when} and {wanted}"
        assert str(now.when) == asked
        assert (was.a, was.b, was.sets) == (now.a, now.b, now.sets)


def test_what_may_be_meant_is_accepted_beside_what_was() -> None:
    level = ukemi.loads(
        "{start: quay, goal: mill, items: {oar: {}, peg: {}}, rooms: {quay: {items: [oar, peg]}, mill: {}},"
        " passages: [quay <-> mill], accept: {unused-item: oar}}"
    )
    report = ukemi.check(level)
    (finding,) = report.with_code("unused-item")
    (last,) = [one for one in mends(report, finding, enough=50) if "accept" in one.say]
    assert last.say == "if it is meant, accept unused-item for oar and peg"
    after = ukemi.check(last.apply(level))
    assert not after.with_code("unused-item") and not after.with_code("accepted-nothing")


def test_a_symbol_that_is_drawn_nowhere_is_the_likeliest_for_one_of_no_legend() -> None:
    text = MAP.format(cells="cDzx").replace("k: {item: key}", "q: {item: key}\n  k: {item: coin}")
    text = text.replace("    #######\n    #@", "    ###k###\n    #@", 1)
    with pytest.raises(ukemi.LevelError) as error:
        ukemi.loads(text)
    says = [one.say for one in mends_of_text(text, error.value).mends]
    assert says[0] == "draw 'q' for 'x'" and "draw 'k' for 'x'" in says


def test_a_goal_in_another_room_than_was_meant_is_mended() -> None:
    level = ukemi.loads(
        "{start: quay, goal: at shed and lamp, items: {lamp: {}}, rooms: {quay: {items: lamp}, shed: {}, loft: {}},"
        " passages: [quay <-> loft]}"
    )
    said = {one.say: one for one in mends_of_report(ukemi.check(level), Limits()).mends}
    assert (
        ukemi.check(said["let the goal be at loft and lamp"].apply(level)).answers.finish == "yes"
    )


@pytest.mark.parametrize(
    ("order", "say"),
    {
        "[ring, hall-door]": "let hall-door ask for done ring",
        "[ring, hall]": "let hall ask for done ring",
        "[ring, ladder-hatch]": "let ladder-hatch ask for done ring",
        "[ring, pull]": "let pull ask for done ring",
        "[rope, bin]": "let bin ask for rope",
    }.items(),
)
def test_an_order_that_does_not_hold_is_mended_by_a_condition(order: str, say: str) -> None:
    level = ukemi.loads(
        "{start: quay, goal: at loft, items: {peg: {}, rope: {}, coin: {kind: reward}}, rooms: {quay: {items: peg,"
        " acts: {ring: {}}}, hall: {items: rope, acts: {pull: {needs: peg}}, chests: {bin: {lock: {needs: peg},"
        " holds: coin}}}, loft: {}}, passages: [quay <-> hall: {lock: peg, name: hall-door},"
        f" hall <-> loft: {{lock: {{needs: rope}}, name: ladder-hatch}}], expect: {{order: [{order}]}}}}"
    )
    report = ukemi.check(level)
    (finding,) = report.with_code("expectation-failed")
    found = {one.say: one for one in mends_of_report(report, Limits()).mends}
    after = ukemi.check(found[say].apply(level))
    assert finding.route and not after.with_code("expectation-failed") and after.exit_code() == 0


@pytest.mark.parametrize(
    ("text", "gone"),
    [
        (
            "start: quay\ngoal: mill\nitems: {iron: {use: spent}, coin: {kind: reward}}\ninventory: {start: {iron: 2}}\n"
            "rooms:\n  quay:\n    items: {iron: 3}  # three\n    chests: {box: {holds: [iron, coin]}}\n"
            "    acts: {beg: {gives: [iron, coin]}}\n  loft: {items: [iron, iron]}\n  mill: {}\n"
            "passages: [quay <-> mill: {lock: iron, name: door}, quay <-> loft]\n",
            8,
        ),
        (
            "goal: far\nitems: {k: {use: spent}}\nmaps:\n  g: |\n    #########\n    #@kk.D.G#\n    #.k.#...#\n"
            "    #########\nlegend: {k: {item: k}, D: {lock: k, name: door}, G: {room: far}}\n",
            2,
        ),
    ],
)  # fmt: skip
def test_spare_keys_are_taken_out_and_nothing_else(text: str, gone: int) -> None:
    level = ukemi.loads(text)
    report = ukemi.check(level)
    (finding,) = report.with_code("spare-keys")
    first = report.mends(finding)[0]
    assert first.say.startswith(f"take out {gone} ")
    mended = ukemi.loads(first.text)
    item = finding.subject
    left = ukemi.check(mended).answers.measures.keys[item]
    assert (left.placed, left.spare) == (report.answers.measures.keys[item].placed - gone, 0)
    fewer = [one for one in ukemi.compare(level, mended).changes if "redrawn" not in one]
    assert all(item in one for one in fewer) and first.text.count("#") >= text.count("# three")


def test_the_time_for_mends_takes_nothing_from_the_check() -> None:
    file = str(DEMO / "wasted-key.yaml")
    plain = check_and_mend(file, Limits(), Asking())
    none = check_and_mend(file, Limits(), Asking(mends=True, mend_seconds=0.0))
    some = check_and_mend(file, Limits(), Asking(mends=True, mend_seconds=600.0))
    assert plain.answers == none.answers == some.answers
    assert plain.search.complete and none.search.complete
    assert {(one.mends, one.mends_cut_short) for one in none.findings} == {((), True)}
    assert all(one.mends for one in some.findings)


def test_of_a_long_line_only_what_changes_is_shown() -> None:
    sheds = ", ".join(f"shed-{number}" for number in range(40))
    text = f"{{start: quay, goal: mill, rooms: [quay, mill, {sheds}], passages: [mill -> quay, quay -> shed-1], areas: {{yard: [{sheds}]}}}}"
    first = ukemi.mends_of(ukemi.loads(text))[0]
    gone, come = first.diff
    assert (gone[0], come[0]) == ("-", "+") and max(len(gone), len(come)) < 200
    for line, whole in ((gone, text), (come, first.text)):
        assert line[1:3] == "… " and line[-2:] == " …" and line[3:-2] in whole
    assert "mill -> quay" in gone and text.replace(gone[3:-2], come[3:-2]) == first.text.rstrip(
        "\n"
    )
    at_end = Mend("", {"": text + " # so"}, {"": text})
    assert at_end.diff[1].endswith(" # so") and at_end.diff[1].startswith("+… ")
