"""Findings in detail: what is told, what is not, in which words, and where."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given, settings

import ukemi
from ukemi.checks import Answer
from ukemi.report.as_text import area_words, finding_lines, plain_text

from .helpers import check, readable, report_dict
from .levels import plain_levels
from .test_against_naive import LEVELS

BASE = """start: quay
goal: mill
items: {iron: {use: spent}, oak: {}, gem: {kind: reward}, air: {kind: supply, max: 5}}
"""


def of(text: str, code: str) -> list[ukemi.Finding]:
    return check(text).with_code(code)


def subjects(text: str, code: str) -> list[str]:
    return [finding.subject for finding in of(text, code)]


# -- the layout -------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("rooms", "passages", "told"),
    [
        ("{quay: {}, mill: {}}", "[quay <-> mill: {lock: iron}]", ["iron"]),
        ("{quay: {items: iron}, mill: {}}", "[quay <-> mill: {lock: iron}]", []),
        ("{quay: {chests: {c: {holds: iron}}}, mill: {}}", "[quay <-> mill: {lock: iron}]", []),
        ("{quay: {acts: {a: {gives: iron}}}, mill: {}}", "[quay <-> mill: {lock: iron}]", []),
        ("{quay: {chests: {c: {gives: iron}}}, mill: {}}", "[quay <-> mill: {lock: iron}]", []),
        ("{quay: {}, mill: {}}", "[quay <-> mill: {gate: not iron}]", []),
        ("{quay: {}, mill: {}}", "[quay <-> mill: {gate: all iron}]", ["iron"]),
        ("{quay: {}, mill: {}}", "[quay <-> mill: {spends: [oak, iron]}]", ["oak", "iron"]),
        ("{quay: {acts: {a: {spends: oak}}}, mill: {}}", "[quay <-> mill]", ["oak"]),
        ("{quay: {}, mill: {}}", "[quay <-> mill: {lock: iron or oak}]", ["iron", "oak"]),
        ("{quay: {items: {oak: {needs: iron}}}, mill: {}}", "[quay <-> mill]", ["iron"]),
    ],
)  # fmt: skip
def test_nothing_gives(rooms: str, passages: str, told: list[str]) -> None:
    assert subjects(f"{BASE}rooms: {rooms}\npassages: {passages}", "nothing-gives") == told


@pytest.mark.parametrize(
    ("extra", "never", "unused"),
    [
        ("flags: [lit]", ["lit"], []),
        ("flags: {lit: true}", [], ["lit"]),
        ("flags: [lit]\nexpect: {possible: lit}", ["lit"], []),
        ("flags: {lit: true}\nexpect: {possible: lit}", [], []),
        ("locks: {k: {needs: lit}}\nflags: {lit: true}", [], []),
    ],
)
def test_flags_that_lead_nowhere(extra: str, never: list[str], unused: list[str]) -> None:
    text = f"{BASE}rooms: [quay, mill]\npassages: [quay <-> mill]\n{extra}"
    assert subjects(text, "never-set") == never
    assert subjects(text, "unused-flag") == unused


def test_a_misspelt_flag_is_told_with_the_nearest() -> None:
    text = BASE + "rooms: {quay: {switches: {s: {sets: low-watr}}}, mill: {}}\nflags: [low-water]\n"
    text += "passages: [quay -> mill: {gate: low-water}]"
    assert "write low-watr" in of(text, "never-set")[0].mend
    assert "write low-water" in of(text, "does-nothing")[0].mend


@pytest.mark.parametrize(
    ("lock", "told"),
    [
        ("{needs: oak, color: red}", True), ("{needs: oak, color: peru}", False), ("{needs: oak}", False),
        ("{needs: oak or iron, color: red}", False), ("{needs: 2 oak, color: red}", True), ("{needs: iron, color: red}", False),
        ("{needs: not oak, color: red}", True), ("{color: red}", False),
    ],
)  # fmt: skip
def test_colours_that_disagree(lock: str, told: bool) -> None:
    text = BASE.replace("oak: {}", "oak: {color: peru}") + "rooms: [quay, mill]\n"
    assert (
        bool(
            of(text + f"passages: [quay <-> mill: {{lock: {lock}, name: door}}]", "color-mismatch")
        )
        == told
    )


def test_what_is_declared_and_not_used() -> None:
    text = BASE + "locks: {used: {needs: oak}, spare: {needs: oak}}\n"
    text += "rooms: {quay: {items: [oak, iron]}, mill: {}}\npassages: [quay <-> mill: {lock: used}]"
    assert subjects(text, "unused-lock") == ["spare"]
    assert subjects(text, "unused-item") == ["iron", "gem", "air"]
    messages = [finding.message for finding in of(text, "unused-item")]
    assert "Nothing asks for iron" in messages[0]
    assert "nothing gives it and nothing asks" in messages[1]


# -- the reasons ------------------------------------------------------------------------------


def test_every_unit_of_what_is_missing_is_accounted_for() -> None:
    text = """start: quay
goal: loft
items: {iron: {use: spent}}
inventory: {start: iron}
rooms:
  quay: {items: {iron: 2}}
  shed: {}
  yard: {items: {iron: 1}, chests: {bin: {lock: iron, holds: iron}}, acts: {dig: {needs: done beg, gives: iron}}}
  race: {acts: {beg: {}}}
  loft: {}
passages:
  - quay <-> shed: {lock: 2 iron, name: shed-door}
  - quay -> race: {loses: iron, name: chute}
  - quay <-> yard
  - race <-> loft: {lock: 2 iron, name: loft-door}
"""
    whys = [finding.why for finding in of(text, "can-get-stuck")]
    assert whys
    all_whys = " / ".join(whys)
    assert "of 6 iron in the level" in all_whys
    for part in (
        "left behind in quay",
        "out of reach in yard",
        "in bin, which is shut",
        "still to come from dig",
        "lost on `walk to race by chute`",
    ):
        assert part in all_whys, part


@pytest.mark.parametrize(
    ("text", "subject", "place"),
    [
        ("start: quay\ngoal: mill\nrooms: [quay, mill, pit]\npassages:\n- quay <-> mill\n- quay -> pit: {name: chute}",
         "chute", (6, 3)),
        ("start: quay\ngoal: mill\nrooms: [quay, mill, pit]\npassages:\n- quay <-> mill\n- quay -> pit",
         "quay -> pit", (6, 3)),
        ("goal: at far\nmaps:\n  ground: |\n    @.z\n    .>#\n    ###\nlegend: {z: {room: far}}", "ground@2,2", (5, 6)),
    ],
)  # fmt: skip
def test_a_wrong_walk_is_told_by_its_way_or_where_it_leads(
    text: str, subject: str, place: tuple[int, int]
) -> None:
    (finding,) = of(text, "can-get-stuck")
    assert (finding.subject, finding.place[:2]) == (subject, place)
    on_map = subject == "ground@2,2"
    back = f"let {subject} be left the way it came" if on_map else f"make {subject} two-way"
    assert back in finding.mend


def test_dropped_things_are_told_where_they_lie() -> None:
    text = """start: quay
goal: loft
items: {lamp: {}}
inventory: {start: lamp, drop: true}
rooms: [quay, race, loft]
passages: [quay -> race: {name: chute}, race -> loft: {gate: lamp}]
"""
    (finding,) = of(text, "can-get-stuck")
    assert "the only lamp is left behind in quay" in finding.why
    assert finding.mistake == {"do": "walk", "name": "chute", "to": "race"}
    assert "`gate: lamp`" in finding.mend


def test_findings_are_told_gravest_first_and_say_so_in_python() -> None:
    text = BASE + "rooms: {quay: {items: iron}, shed: {items: gem}, mill: {}, attic: {}}\n"
    text += "passages: [quay <-> shed: {lock: iron, name: shed-door}, quay <-> mill: {lock: iron, name: mill-door}]"
    report = check(text)
    severities = [finding.severity for finding in report.findings]
    assert severities == sorted(severities, key=("error", "warning", "note").index)
    assert report.findings[0].code == "can-get-stuck"
    assert (
        repr(report) == "<Report 'level': finish yes, stuck possible, 2 errors, 1 warning, 2 notes>"
    )
    assert repr(report.findings[0]).startswith(
        "<Finding error can-get-stuck at 5:12: After `unlock shed-door"
    )
    assert repr(report.routes["finish"]).startswith(
        "<Route of 3 steps: take iron, unlock mill-door"
    )
    assert not report.sound
    assert report.exit_code() == 1


@pytest.mark.parametrize(("claim", "severity"), [("possible", "note"), ("never", "error")])
def test_what_is_allowed_is_a_note(claim: str, severity: str) -> None:
    text = BASE + "rooms: {quay: {items: iron}, shed: {}, mill: {}}\n"
    text += "passages: [quay <-> shed: {lock: iron}, quay <-> mill: {lock: iron}]\n"
    assert {one.severity for one in of(f"{text}expect: {{stuck: {claim}}}", "can-get-stuck")} == {
        severity
    }


ODD_WATER = """
start: quay
goal: at mill
rooms: {quay: {switches: {sluice: {flips: low-water}}}, race: {}, pit: {}, mill: {}}
passages:
  - quay <-> race: {gate: not low-water, name: ferry}
  - race <-> pit: {name: bank, gate: not low-water}
"""


@pytest.mark.parametrize(
    ("ways", "why"),
    [
        (
            "  - pit <-> mill: {gate: low-water, name: ford}\n"
            "  - quay <-> race: {gate: not low-water or hatch, name: plank}\n"  # it asks for neither
            "  - race <-> yard: {gate: low-water or hatch}\n",
            "low-water is never on in pit, where ford asks for that: ferry and bank ask for it off",
        ),
        (  # a second such gate keeps the first from being the reason
            "  - pit -> yard: {gate: low-water, name: ford}\n  - yard <-> mill: {gate: not low-water}\n",
            "From there only pit, quay and race can be reached. low-water is never on in pit, where"
            " ford asks for that: ferry and bank ask for it off. The goal asks for `at mill`",
        ),
        (  # it can be on there, after all: the hatch is what is in the way
            "  - quay -> pit: {gate: low-water}\n  - pit <-> mill: {gate: low-water and hatch, name: ford}\n",
            "hatch is off, and nothing within reach turns it on (ford asks for it)",
        ),
    ],
)
def test_a_flag_that_is_never_as_a_gate_asks_is_the_reason(ways: str, why: str) -> None:
    rooms = ODD_WATER.replace("mill: {}}", "mill: {}, yard: {}}\nflags: [hatch]")
    (finding,) = of(rooms + ways, "cannot-finish")
    assert finding.why == why


# -- rewards ----------------------------------------------------------------------------------


def reward_level(rooms: str, passages: str, expect: str = "") -> ukemi.Report:
    return check(f"{BASE}rooms: {rooms}\npassages: {passages}\n{expect}")


@pytest.mark.parametrize(
    ("keys", "names"), [(1, "quay/c0 and quay/c1"), (2, "quay/c0, quay/c1 and quay/c2")]
)
def test_rewards_that_exclude_each_other_are_a_smallest_set(keys: int, names: str) -> None:
    chests = ", ".join(f"c{n}: {{lock: iron, holds: gem}}" for n in range(4))
    report = reward_level(
        f"{{quay: {{items: {{iron: {keys}}}, chests: {{{chests}}}}}, mill: {{}}}}",
        "[quay <-> mill]",
    )
    (finding,) = report.with_code("rewards-exclude-each-other")
    assert finding.message == f"No finishing run takes {names} together."
    assert finding.subject == "quay/c0"
    assert report.answers.all_rewards == Answer.NO
    assert all(one.status == Answer.OPTIONAL for one in report.answers.rewards.values())


@pytest.mark.parametrize(
    ("expect", "codes"),
    [
        ("", {"reward-can-be-missed": "warning"}),
        ("expect: {rewards: any}", {"reward-can-be-missed": "note"}),
        (
            "expect: {rewards: never-missed}",
            {"reward-can-be-missed": "warning", "expectation-failed": "error"},
        ),
        ("expect: {rewards: together}", {"reward-can-be-missed": "warning"}),
    ],
)
def test_a_reward_that_can_be_missed(expect: str, codes: dict[str, str]) -> None:
    report = reward_level(
        "{quay: {items: gem}, yard: {}, mill: {}}", "[quay -> yard, yard <-> mill]", expect
    )
    told = {
        one.code: one.severity
        for one in report.findings
        if one.code.startswith(("reward", "expect"))
    }
    assert told == codes
    (finding,) = report.with_code("reward-can-be-missed")
    assert finding.mistake == {"do": "walk", "name": "quay -> yard", "to": "yard"}


@pytest.mark.parametrize(
    ("rooms", "passages", "why"),
    [
        (
            "{quay: {items: gem}, yard: {}, mill: {}}",
            "[quay -> yard, yard <-> mill]",
            "There is no way back from yard to quay",
        ),
        (  # it is two-way, but for a lever that stays behind
            "{quay: {items: gem}, yard: {}, shed: {switches: {lever: {sets: lit}}}, mill: {}}",
            "[yard -> quay: {gate: lit}, quay <-> shed, quay -> yard, yard <-> mill]",
            "There is no way back from yard to quay",
        ),
        (
            "{quay: {items: iron, chests: {bin: {lock: iron, holds: gem}}}, mill: {}, loft: {}}",
            "[quay <-> mill, quay <-> loft: {lock: iron, name: hatch}]",
            "The only iron was spent on hatch",
        ),
        (
            "{quay: {items: iron, chests: {bin: {lock: iron, holds: gem}}}, mill: {}}",
            "[quay <-> mill: {loses: iron}]",
            "The only iron was lost on `walk to mill`",
        ),
        ("{quay: {items: gem}, mill: {}}", "[quay <-> mill: {gate: not gem}]", None),
        (  # the reward is gone with a flag, and nothing is used up
            "{quay: {items: {gem: {needs: not dark}}, switches: {snuff: {sets: dark}}}, mill: {}}",
            "[quay <-> mill]",
            "",
        ),
    ],
)
def test_why_a_reward_is_missed(rooms: str, passages: str, why: str | None) -> None:
    found = reward_level(rooms, passages).with_code("reward-can-be-missed")
    assert [one.why for one in found] == [why] * (why is not None)


@pytest.mark.parametrize(
    ("claim", "told"), [("never-missed", {"had", "missed"}), ("together", {"had"}), ("any", set())]
)
def test_what_of_a_reward_is_not_settled(claim: str, told: set[str]) -> None:
    level = ukemi.loads(
        f"{BASE}rooms: {{quay: {{items: gem}}, mill: {{}}, yard: {{}}, loft: {{}}}}\n"
        f"passages: [quay <-> mill, quay <-> yard, yard <-> loft]\nexpect: {{rewards: {claim}}}\n"
    )
    cut = [ukemi.check(level, max_positions=most) for most in range(2, 14)]
    said = [one.message for report in cut for one in report.with_code("undecided")]
    found = {one.split(" can be ")[1].split()[0] for one in said if "gem" in one}
    assert found == told


def test_rooms_of_an_area_that_may_be_required_are_counted_as_undecided() -> None:
    level = ukemi.loads(
        f"{BASE}rooms: {{quay: {{items: {{gem: 3}}}}, race: {{}}, mill: {{}}}}\n"
        "passages: [quay <-> race, race <-> mill]\nareas: {shore: [quay, race]}\n"
    )
    words = {area_words(ukemi.check(level, max_positions=most), "shore") for most in (2, 100)}
    assert {one.split(";")[0] for one in words} == {
        "2 rooms, 0 required, 2 undecided", "2 rooms, 2 required",
    }  # fmt: skip


def test_finishing_without_a_reward_is_no_missing_it() -> None:
    report = reward_level("{quay: {}, mill: {items: gem}}", "[quay <-> mill]")
    assert report.answers.rewards["mill/gem"].status == Answer.OPTIONAL
    assert report.answers.rewards["mill/gem"].missable == Answer.NO


def test_rewards_are_named_by_what_hands_them_over() -> None:
    report = reward_level(
        "{quay: {items: gem, chests: {bin: {holds: [gem, oak]}}, acts: {ask: {gives: gem}}, switches: {pull: {gives: gem, once: true}}}, mill: {}}",
        "[quay <-> mill]",
    )
    assert list(report.answers.rewards) == ["quay/gem", "quay/bin", "quay/pull", "quay/ask"]
    assert report.answers.all_rewards == Answer.YES
    assert report.answers.measures.all_rewards.steps == 5


# -- doors ------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("passages", "told"),
    [
        ("[quay <-> mill: {lock: oak, name: door}]", []),
        ("[quay <-> mill: {lock: oak, name: door}, quay <-> mill]", ["door"]),
        ("[quay <-> mill: {lock: oak, name: door}, quay <-> yard, yard -> mill]", ["door"]),
        ("[quay <-> mill: {lock: {}, name: door}, quay <-> mill]", []),
        ("[quay <-> yard: {lock: oak, name: door}, quay <-> mill]", []),
        (
            "[quay <-> mill: {lock: oak, name: door}, quay <-> mill: {gate: oak}]",
            [],
        ),  # asks as much
    ],
)
def test_doors_with_a_way_round(passages: str, told: list[str]) -> None:
    text = f"{BASE}rooms: {{quay: {{items: oak}}, yard: {{}}, mill: {{}}}}\npassages: {passages}"
    assert subjects(text, "bypassed") == told


@pytest.mark.parametrize(
    ("passages", "told"),
    [
        ("[quay <-> mill: {lock: oak, name: door}, quay <-> mill]", {"door": "warning"}),
        (  # what is dropped from never comes back, and asks for nothing
            "[quay <-> mill: {lock: oak, name: door}, quay <-> yard, yard -> mill]",
            {"door": "warning"},
        ),
        (  # either of two
            "[quay <-> mill: {lock: oak, name: door}, quay <-> mill: {lock: ash, name: hatch}]",
            {"door": "door and oak from quay; or hatch and ash from quay"},
        ),
        (  # any of three
            "[quay <-> mill: {lock: oak, name: door}, quay <-> mill: {lock: ash, name: hatch},"
            " quay <-> mill: {lock: elm, name: gate}]",
            {
                "door": "door and oak from quay; or hatch and ash from quay; or gate and elm from quay"
            },
        ),
        (  # the way round asks for a tool
            "[quay <-> mill: {lock: oak, name: door}, quay <-> mill: {gate: ash}]",
            {"door": "ash from quay; or door and oak from quay"},
        ),
        (  # both sides lie behind another lock, and nothing else is between them
            "[quay <-> yard: {lock: ash, name: hatch}, yard <-> mill: {lock: oak, name: door},"
            " yard <-> mill]",
            {"door": "warning"},
        ),
        (  # a way in through another lock
            "[quay <-> mill: {lock: oak, name: door}, quay <-> yard: {lock: ash, name: hatch},"
            " yard -> mill]",
            {"door": "door and oak from quay; or hatch and ash from quay"},
        ),
    ],
)
def test_a_lock_is_bypassed_if_nothing_else_would_change_or_one_of_two(
    passages: str, told: dict[str, str]
) -> None:
    text = (
        "{start: quay, goal: mill, items: {oak: {}, ash: {}, elm: {}}, rooms: {quay: {items: [oak,"
        f" ash, elm]}}, yard: {{}}, mill: {{}}}}, passages: {passages}}}"
    )
    found = {one.subject: one for code in ("bypassed", "either-or") for one in of(text, code)}
    assert found.keys() == told.keys()
    for name, says in told.items():
        if found[name].code == "bypassed":
            assert found[name].severity == says
        else:
            assert found[name].severity == "note"
            assert found[name].message == f"Finishing takes one of these: {says}."


def test_statuses_tell_what_every_run_does() -> None:
    report = check(
        "start: quay\ngoal: mill\nitems: {oak: {}, iron: {}}\nrooms:\n"
        "  quay: {items: [oak, iron], acts: {sing: {}, dig: {needs: done pray}}}\n  mill: {}\n  shed: {}\n"
        "  pit: {chests: {bin: {}}}\npassages:\n  - quay <-> mill: {lock: oak, name: mill-door}\n"
        "  - quay <-> shed: {lock: iron, name: shed-door}\n  - quay -> pit\n"
        "expect: {stuck: possible}".replace("done pray", "opened bin")
    )
    answers: Any = report.answers
    assert answers.doors == {"mill-door": "required", "shed-door": "optional"}
    assert answers.items == {"quay/oak": "required", "quay/iron": "optional"}
    assert answers.acts == {"sing": "optional", "dig": "never"}
    assert answers.chests == {"bin": "only-when-stuck"}
    assert answers.rooms == {
        "quay": "required",
        "mill": "required",
        "shed": "optional",
        "pit": "only-when-stuck",
    }
    assert [one.code for one in report.findings if one.code.startswith("never")] == ["never-done"]


# -- causes first ---------------------------------------------------------------------------------


def told(text: str) -> dict[str, list[str]]:
    """The findings that are not notes, each with what follows from it."""
    return {
        f"{one.code} {one.subject}": sorted(f"{each.code} {each.subject}" for each in one.follows)
        for one in check(text).findings
        if one.severity != "note"
    }


def test_a_key_behind_its_own_door_is_one_finding() -> None:
    text = """
goal: mill
items: {iron-key: {}}
legend: {k: {item: iron-key}, D: {lock: iron-key, name: mill-door}, ">": {room: mill}}
maps:
  ground: |
    #########
    #@.D.k.>#
    ###D###.#
    #...D...#
    #########
"""
    (error, follows), *others = told(text).items()
    assert error == "cannot-finish goal" and not others
    assert {"never-entered mill", "never-taken ground@6,2/iron-key"} <= set(follows)
    assert {one for one in follows if "never-opens" in one} == {
        f"never-opens mill-door@{cell}" for cell in ("4,2", "4,3", "5,4")
    }
    (finding,) = check(text).findings
    assert report_dict(check(text))["findings"][0]["also"][0].keys() == {
        "code",
        "subject",
        "message",
    }
    assert "never opens: " in plain_text(finding_lines(finding, check(text).level, full=True))


@pytest.mark.parametrize(
    ("text", "why", "also"),
    [
        (
            "{start: quay, goal: loft, items: {key: {}}, rooms: {quay: {}, mill: {items: key}, race: {},"
            " loft: {}}, passages: [quay <-> mill, race -> mill: {name: chute}, race <-> loft:"
            " {lock: key, name: loft-door}]}",
            "There is no way from mill to race: chute is one-way",
            ["loft", "loft-door", "race"],
        ),
        (
            "{goal: at loft, maps: {ground: ['#@.<X#']}, legend: {X: {room: loft}}}",
            "There is no way from ground@2,1 to ground@4,1: the tile ground@4,1 is one-way",
            ["ground@4,1", "loft"],
        ),
        (  # turned round alone, neither helps
            "{start: quay, goal: loft, rooms: [quay, mill, race, loft], passages: [mill -> quay,"
            " race -> mill, race <-> loft]}",
            "No passage leads to loft, were every door open; mill -> quay leads only out of mill",
            ["loft", "mill", "race"],
        ),
    ],
)
def test_a_one_way_passage_is_named_where_nothing_finishes(
    text: str, why: str, also: list[str]
) -> None:
    level = ukemi.loads(text)
    (found,) = ukemi.check(level).findings
    assert level == ukemi.loads(text), "looking for the reason changed the level"
    assert (found.code, found.why) == ("cannot-finish", why)
    assert sorted({one.subject for one in found.follows}) == also


RING = """
start: post
goal: vault
items: {bone: {}, dusk: {}}
inventory: {slots: 2}
rooms: {post: {items: bone}, shell: {items: dusk}, vault: {}}
passages:
  - post <-> shell: {name: first, lock: LOCK}
  - post <-> vault: {name: last, lock: dusk}
"""


@pytest.mark.parametrize(
    ("lock", "why"),
    [
        ("3 bone", "first stays shut: it needs 3 bone (the only bone is lying in post)"),
        (
            "{needs: bone, from: shell}",
            "first stays shut: it needs bone and it is unlocked from shell only",
        ),
        ("dusk", "Needs 1 dusk to unlock last; the only dusk is out of reach in shell"),
    ],
)
def test_the_deepest_missing_thing_is_named(lock: str, why: str) -> None:
    (found,) = of(RING.replace("LOCK", lock), "cannot-finish")
    assert found.why.startswith(why)


def test_a_room_without_a_way_comes_before_what_follows_from_it() -> None:
    text = (
        "{start: quay, goal: loft, rooms: {quay: {}, mill: {switches: {lever: {sets: lit}}}, isle: {}, loft: {}},"
        " passages: [quay <-> loft: {gate: lit}]}"
    )
    found = [(one.severity, one.code, one.subject) for one in check(text).findings]
    assert found == [
        ("error", "unconnected", "mill"),  # with a way there the level could be finished
        ("error", "cannot-finish", "goal"),
        ("warning", "unconnected", "isle"),
    ]
    several = text.replace("start: quay", "players: {ada: {start: quay}, ben: {start: quay}}")
    (found, *_) = check(several.replace("goal: loft", "goal: everyone at loft")).findings
    assert (found.severity, found.subject) == ("error", "mill")
    meant = text.replace("{start:", "{expect: {finish: impossible, stuck: possible}, start:")
    assert {one.severity for one in of(meant, "unconnected")} == {"warning"}


YARD = """
goal: mill
items: {oak: {}}
maps:
  yard: |
    #########
    #@..#...#
    #.k.D...#
    #...#...#
    #...#..X#
    #########
legend: {k: {item: oak}, D: {lock: oak, name: mill-door}, X: {room: mill}, L: {switch: {name: lever, sets: lit}},
  W: {gate: lit}}
"""


@pytest.mark.parametrize("row", [2, 4, 5])
@pytest.mark.parametrize("beside", ["#", "W"])  # a gate is no gap
def test_the_gap_in_a_wall_round_a_door_is_named(row: int, beside: str) -> None:
    lines = YARD.splitlines()
    if row == 2:
        lines[lines.index("  yard: |") + 5] = f"    #...{beside}..X#"
    at = lines.index("  yard: |") + row
    lines[at] = lines[at][:8] + "." + lines[at][9:]
    (found,) = of("\n".join(lines), "bypassed")
    assert f"(by the gap at yard@5,{row})" in found.message


def test_a_symbol_that_no_map_has_is_named_by_what_it_would_turn_on() -> None:
    (found,) = of(YARD.replace("..X#", "WWX#"), "never-set")
    assert found.why == "'L' in the legend would turn it on, but stands on no map"
    assert not of(YARD.replace("..X#", "WWX#").replace("#...#...#", "#..L#...#"), "never-set")
    (found,) = of(YARD.replace(".k.", "..."), "nothing-gives")
    assert found.why == "'k' in the legend would give one, but stands on no map"
    (found,) = of(YARD.replace(".k.D", "...#"), "cannot-finish")
    assert found.why.startswith("No passage leads to mill (yard@8,5), were every door open; 'k'")
    assert found.why.endswith("'k' and 'D' in the legend stand on no map")


def test_a_passage_that_collapses_is_why_nothing_finishes() -> None:
    text = (
        "{start: quay, goal: quay and oak, items: {oak: {}}, rooms: {quay: {}, mill: {items: oak}},"
        " passages: [quay <-> mill: {once: true, name: plank}]}"
    )
    (found,) = of(text.replace("quay and oak", "at quay and oak"), "cannot-finish")
    assert found.why.startswith("plank (quay <-> mill) collapses after one walk")


def test_parts_that_wait_for_each_other_are_one_and_others_are_their_own() -> None:
    text = """
start: quay
goal: quay
items: {iron-key: {}, oak-key: {}, oar: {}}
rooms: {quay: {}, mill: {items: oak-key}, store: {items: iron-key}, race: {items: oar}, isle: {items: oar}}
passages:
  - quay <-> mill: {lock: iron-key, name: mill-door}
  - quay <-> store: {lock: oak-key, name: store-door}
  - quay <-> race: {lock: 2 oar, name: race-door}
"""
    assert told(text) == {
        "never-opens mill-door": [
            "never-entered mill", "never-entered store", "never-opens store-door",
            "never-taken mill/oak-key", "never-taken store/iron-key",
        ],
        "unconnected isle": [
            "never-entered isle", "never-entered race", "never-opens race-door",
            "never-taken isle/oar", "never-taken race/oar",
        ],
    }  # fmt: skip


@given(plain_levels())
@settings(max_examples=max(LEVELS // 4, 10), deadline=None)
def test_nothing_that_follows_is_lost(plain: dict[str, Any]) -> None:
    report = ukemi.check(readable(plain), max_positions=3_000)
    answers = report.answers
    never = {
        "never-opens": {**answers.doors, **answers.chests}, "never-done": {**answers.acts, **answers.events},
        "never-taken": answers.items, "never-entered": answers.rooms,
    }  # fmt: skip
    rewards = {name.partition("/")[2] for name in answers.rewards} | set(answers.rewards)
    for code, statuses in never.items():
        names = {name for name, status in statuses.items() if status == "never"}
        found = [one.subject for one in report.with_code(code)]
        assert len(found) == len(set(found)) and names - rewards <= set(found) <= names


def test_what_is_needed_instead_of_a_door_is_told_only_if_every_position_was_seen() -> None:
    """A search cut short may not have come to the third way in yet."""
    level = ukemi.loads(
        "{start: quay, goal: mill, items: {oak: {}, ash: {}, elm: {}}, rooms: {quay: {items: [oak, ash,"
        " elm]}, mill: {}}, passages: [quay <-> mill: {lock: oak, name: door}, quay <-> mill: {lock:"
        " ash, name: hatch}, quay <-> mill: {lock: elm, name: gate, steps: 9}]}"
    )
    whole = {one.message for one in ukemi.check(level).with_code("bypassed")}
    unsettled = 0
    for most in range(2, 70):
        report = ukemi.check(level, max_positions=most)
        for one in report.with_code("bypassed"):
            unsettled += "undecided" in one.why
            assert one.message in whole or one.severity == "warning"
            assert (
                one.message in whole or "whether it asks for anything else is undecided" in one.why
            )
    assert unsettled


# -- forgotten wiring -------------------------------------------------------------------------


def ten_doors(use: str, names: str, wrong: int, asks: int) -> str:
    """Ten doors of a quay, each with a key of its own, but one copied and not changed."""
    keys = {n: names.format(n, "key") for n in range(10)}
    items = ", ".join(f"{key}: {{use: {use}}}" for key in keys.values())
    doors = "".join(
        f"\n  - quay <-> room-{n}: {{lock: {keys[asks if n == wrong else n]}, name: {names.format(n, 'door')}}}"
        for n in keys
    )
    rooms = ", ".join(f"room-{n}: {{}}" for n in keys)
    goal = "done bell" if use == "spent" else "at room-9"
    bell = "" if use == "kept" else ", bell-room: {acts: {bell: {}}}"
    way = "" if use == "kept" else f"\n  - room-{wrong} <-> bell-room"
    return (
        f"start: quay\ngoal: {goal}\nitems: {{{items}}}\n"
        f"rooms: {{quay: {{items: [{', '.join(keys.values())}]}}, {rooms}{bell}}}\npassages:{doors}{way}\n"
    )


@pytest.mark.parametrize("use", ["kept", "spent"])
@pytest.mark.parametrize("names", ["{1}-{0}", "n{0}-{1}", "{1}{0}"])
@pytest.mark.parametrize(("wrong", "asks"), [(7, 0), (1, 9)])
def test_a_lock_copied_with_its_key_is_one_finding(
    use: str, names: str, wrong: int, asks: int
) -> None:
    level = ukemi.loads(ten_doors(use, names, wrong, asks))
    report = ukemi.check(level, max_seconds=20)
    (found,) = (one for one in report.findings if one.code not in ("undecided", "spare-keys"))
    door, key = (names.format(wrong, what) for what in ("door", "key"))
    assert (found.code, found.subject) == ("copied-key", door)
    assert f", as {names.format(asks, 'door')} does, " in found.message
    assert found.severity == ("error" if report.mistakes else "warning")
    assert "unused-item" in {one.code for one in found.follows}
    if use == "kept" and (wrong, names) == (7, "{1}{0}"):
        first, *_, last = ukemi.check(level).mends(found)
        assert first.say == f"let {door} ask for {key}"
        assert last.say == f"if it is meant, accept copied-key for {door}"


@pytest.mark.parametrize(
    ("level", "codes"),
    [
        # A decoy key, and two doors that share a key: names say nothing.
        ("items: {iron: {}, oak: {}}\nrooms: {quay: {items: [iron, oak]}, a: {}, mill: {}}\n"
         "passages: [quay <-> a: {lock: iron}, a <-> mill: {lock: iron}]", {"unused-item"}),
        ("items: {iron: {}}\nrooms: {quay: {items: iron}, a: {}, mill: {}}\n"
         "passages: [quay <-> a: {lock: {from: a}}, quay <-> mill: {lock: iron}, mill <-> a]", set()),
        ("rooms: [quay, mill]\npassages: [quay <-> mill: {lock: {}, name: door}]", {"open-lock"}),
        ("rooms: {quay: {acts: {sing: {}}, chests: {bin: {}}, switches: {lever: {sets: wet}}}, mill: {}}\n"
         "passages: [quay <-> mill]\nevents: {dusk: {when: done sing}}", {"does-nothing"}),
        ("items: {a-key: {color: '#aa0000'}, b-key: {color: '#AA0000'}}\nrooms: {quay: {items: [a-key, b-key]}, a: {}, mill: {}}\n"
         "passages: [quay <-> a: {lock: a-key}, a <-> mill: {lock: b-key}]", {"same-color"}),
        # Tools may look alike; and a key that no other lock asks for was not copied.
        ("items: {saw: {kind: tool, color: red}, axe: {kind: tool, color: red}}\nrooms: {quay: {items: [saw, axe]}, a: {},"
         " mill: {}}\npassages: [quay <-> a: {lock: saw}, a <-> mill: {lock: axe}]", set()),
        ("items: {iron: {}, oak: {}}\nrooms: {quay: {items: [iron, oak]}, mill: {}}\n"
         "passages: [quay <-> mill: {lock: iron, name: oak-door}]", {"unused-item"}),
        ("items: {iron: {}}\nrooms: {quay: {items: {iron: 2}}, a: {}, mill: {}}\n"
         "passages: [quay <-> a: {lock: iron}, a <-> mill: {lock: iron}]", {"same-kind"}),
        ("items: {iron: {use: spent}}\nrooms: {quay: {items: {iron: 2}}, a: {}, mill: {}}\n"
         "passages: [quay <-> a: {lock: iron}, a <-> mill: {lock: iron}]", set()),
        # What an act gives again and again is enough for any count, and each key of a lock is spent by itself.
        ("items: {grain: {kind: supply, max: 9}}\nrooms: {quay: {acts: {thresh: {gives: grain, repeat: true}}}, mill: {}}\n"
         "passages: [quay <-> mill: {lock: 5 grain}]", set()),
        ("items: {iron: {use: spent}, oak: {use: spent}}\nrooms: {quay: {items: [iron, oak]}, mill: {}}\n"
         "passages: [quay <-> mill: {lock: iron or iron and oak}]", {"spare-keys"}),
        ("items: {iron: {}, oak: {}}\nrooms: {quay: {items: [iron, oak]}, mill: {}}\n"
         "passages: [quay <-> mill: {lock: iron or iron and oak}]", {"needless-alternative"}),
    ],
)  # fmt: skip
def test_what_a_designer_forgets_is_found_before_any_search(level: str, codes: set[str]) -> None:
    report = check(f"start: quay\ngoal: mill\n{level}")
    assert {one.code for one in report.findings} == codes
    nothing = [one.subject for one in report.with_code("does-nothing")]
    assert nothing in ([], ["wet", "dusk", "bin"])


HINTED = """start: quay
goal: mill
rules: {{hints: expected}}
items: {{iron: {{}}}}
rooms: {{quay: {{items: iron{quay}}}, mill: {{{mill}}}}}
passages: [quay <-> mill: {{name: door, lock: {{needs: iron{lock}}}}}]
"""


@pytest.mark.parametrize(
    ("quay", "mill", "lock", "says"),
    [
        ("", "", "", "says nothing"),
        ("", "", ", says: Shut.", "no text before it mentions iron"),
        ("", "", ", says: Shut., mentions: iron", None),
        (", says: Look below., mentions: iron", "", ", says: Shut.", None),
        # A text beyond the door comes too late.
        ("", "says: Look below., mentions: iron", ", says: Shut.", "no text before it mentions iron"),
    ],
)  # fmt: skip
def test_a_required_lock_must_be_hinted_at(
    quay: str, mill: str, lock: str, says: str | None
) -> None:
    text = HINTED.format(quay=quay, mill=mill, lock=lock)
    found = check(text).with_code("nothing-hints")
    assert [says in one.message for one in found] == ([True] if says else [])
    assert not check(text.replace("rules: {hints: expected}\n", "")).with_code("nothing-hints")


def test_a_plate_behind_its_own_grille_is_the_cause() -> None:
    text = """
start: yard
goal: everyone at loft
players: [ada, ben]
rooms: [yard, nook, loft]
passages:
  - yard <-> nook: {gate: someone at nook, name: grille}
  - yard <-> loft: {gate: someone at nook, name: portcullis}
"""
    (error,) = check(text).with_code("cannot-finish")
    assert error.why == "grille asks for somebody at nook, and leads there itself"
    (other,) = check(text.replace("nook: {gate: someone at nook, name", "nook: {gate: not someone at nook, name")
                     ).with_code("cannot-finish")  # fmt: skip
    assert "leads there itself" not in other.why


def test_a_chest_with_effects_of_any_kind_does_something() -> None:
    chests = "{empty: {}, own: {sets: dry}, locked: {lock: {sets: dry}}, both: {lock: {sets: dry}, sets: dry}}"
    report = ukemi.check(
        ukemi.loads(f"{{start: quay, goal: dry, rooms: {{quay: {{chests: {chests}}}}}}}")
    )
    assert [one.subject for one in report.with_code("does-nothing")] == ["empty"]
