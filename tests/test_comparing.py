"""Two versions of a level: what a change did, by name, with the verdict first."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path
from random import Random
from typing import Any

import jsonschema
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import ukemi
from ukemi.comparing.changes import level_changes
from ukemi.comparing.forms import comparison_dict, comparison_lines, comparison_schema
from ukemi.language.fields import campaign_fields as campaigns
from ukemi.language.fields import fields as tables
from ukemi.language.fields import map_fields as tiles
from ukemi.language.fields import passages, scattering
from ukemi.language.fields import room_fields as parts
from ukemi.language.fields import whole as whole_level
from ukemi.language.fields.campaign_fields import CAMPAIGN, STAGE, WAY
from ukemi.language.fields.fields import Fields
from ukemi.language.fields.map_fields import TILE
from ukemi.language.fields.passages import PASSAGE
from ukemi.language.fields.room_fields import CHEST, ROOM
from ukemi.language.fields.scattering import SCATTER
from ukemi.language.fields.whole import EXPECT, LEVEL

from .helpers import DEMO, readable, run
from .levels import map_levels, plain_levels
from .test_against_naive import LEVELS

WASTED = (DEMO / "wasted-key.yaml").read_text()


def changed(old: str, *edits: tuple[str, str]) -> ukemi.Level:
    for before, after in edits:
        assert before in old
        old = old.replace(before, after)
    return ukemi.loads(old)


def test_what_a_change_did_is_told_by_name() -> None:
    mended = changed(WASTED, ("use: spent, color: slategray", "color: slategray"))
    better = ukemi.compare(ukemi.loads(WASTED), mended)
    assert [one.judged for one in better.verdict][:2] == ["better", "better"]
    assert "players can no longer get stuck" in [one.says for one in better.verdict]
    assert better.changes == ("item iron-key: use: spent → nothing",)
    assert {one.code for one in better.gone} == {"can-get-stuck", "reward-only-when-stuck"}
    assert not better.worse and not better.come
    worse = ukemi.compare(mended, ukemi.loads(WASTED))
    assert worse.worse and not worse.gone
    said = "now anyone can get stuck, by this: unlock store-door with iron-key"
    assert worse.verdict[0].says == said
    assert ("run with every reward, steps", 12, None) in worse.measures


def test_a_renaming_is_told_as_one_and_its_findings_are_the_same() -> None:
    old = ukemi.loads(WASTED)
    new = ukemi.rename(ukemi.rename(old, "store-door", "grain-door"), "iron-key", "rust-key")
    new = ukemi.rename(new, "granary", "corn-loft")
    moved = ukemi.loads("# a line above\n\n" + ukemi.dumps(new), "moved.yaml")
    found = ukemi.compare(old, moved)
    assert {(one.old, one.new) for one in found.renames} == {
        ("store-door", "grain-door"), ("iron-key", "rust-key"), ("granary", "corn-loft"),
    }  # fmt: skip
    assert len(found.changes) == 3
    assert not found.gone and not found.come and not found.verdict and not found.measures


@pytest.mark.parametrize(
    ("edit", "says"),
    [
        (("quay: {items: [iron-key]}", "quay: {}"), "one iron-key fewer in quay"),
        (("items: [ledger]}", "items: [ledger, iron-key]}"), "one more iron-key in store-room"),
        (("quay: {items: [iron-key]}\n  granary: {}", "quay: {}\n  granary: {items: [iron-key]}"),
         "iron-key moved from quay to granary"),
        (("lock: iron-key, name: store-door", "lock: oak-key, name: store-door"),
         "store-door: lock: iron-key → oak-key"),
        (("name: The Wasted Key", "name: The Spent Key"),
         "the level's name: The Wasted Key → The Spent Key"),
        (("granary <-> store-room", "granary -> store-room"),
         "store-door: granary <-> store-room → granary -> store-room"),
    ],
)  # fmt: skip
def test_each_change_by_name(edit: tuple[str, str], says: str) -> None:
    assert says in ukemi.compare(ukemi.loads(WASTED), changed(WASTED, edit)).changes


def test_cells_of_a_map_that_were_drawn_anew() -> None:
    text = (DEMO / "ground-floor.yaml").read_text()
    found = ukemi.compare(ukemi.loads(text), changed(text, ("#..k..D", "#.k...D")))
    assert "iron-key moved from ground@4,3 to ground@3,3" in found.changes
    assert "map ground: 2 cells redrawn (3,3 and 4,3)" in found.changes


@given(st.one_of(plain_levels(), map_levels()), st.integers(0, 10**6))
@settings(max_examples=LEVELS, deadline=None, suppress_health_check=list(HealthCheck))
def test_nothing_is_nothing_and_a_renaming_changes_no_answer(
    plain: dict[str, Any], seed: int
) -> None:
    level = readable(plain)
    report = ukemi.check(level, max_positions=3_000)
    same = ukemi.compare(report, report)
    assert not (same.verdict or same.changes or same.gone or same.come or same.measures)
    assert not same.worse
    jsonschema.validate(comparison_dict(same), comparison_schema())
    item = Random(seed).choice(list(level.items))
    other = ukemi.check(ukemi.rename(level, item, "windlass", "item"), max_positions=3_000)
    there = ukemi.compare(report, other)
    if there.renames:
        assert [one[:3] for one in there.renames] == [("item", item, "windlass")]
        assert not there.worse and not [one for one in there.come if one.code != "undecided"]
    jsonschema.validate(comparison_dict(there), comparison_schema())


def test_the_command_against_a_file_a_folder_and_the_repository(tmp_path: Path) -> None:
    def git(*arguments: str) -> None:
        who = ["-c", "user.name=Miller", "-c", "user.email=miller@example.org"]
        subprocess.run(["git", *who, *arguments], cwd=tmp_path, check=True, capture_output=True)

    file, sound = tmp_path / "mill.yaml", (DEMO / "tide-mill.yaml").read_text()
    file.write_text(sound)
    alone = run("compare", file, "--since", "HEAD")
    assert alone.returncode == 2 and "is in no git repository" in alone.stderr
    git("init", "-q")
    (tmp_path / "notes.txt").symlink_to("/nowhere/notes.txt")  # is left out
    git("add", "mill.yaml", "notes.txt")
    git("commit", "-q", "-m", "the mill")
    assert run("compare", file, "--since", "HEAD").returncode == 0
    file.write_text(sound.replace("  - sluice-walk <-> quay\n", ""))
    found = run("compare", file, "--since", "HEAD", "--format", "json")
    told = json.loads(found.stdout)
    jsonschema.validate(told, comparison_schema())
    assert found.returncode == 1 and told["worse"]
    assert told["changes"] == ["passage sluice-walk <-> quay is gone"]
    assert told["old"] == f"{file} at HEAD" and told["new"] == str(file)
    text = run("compare", file, "--since", "HEAD").stdout
    assert text.index("now anyone can get stuck") < text.index(
        "passage sluice-walk <-> quay is gone"
    )
    assert "no revision 'sluice'" in run("compare", file, "--since", "sluice").stderr
    late = tmp_path / "late.yaml"
    late.write_text(WASTED)
    missing = run("compare", late, "--since", "HEAD")
    assert missing.returncode == 2 and "late.yaml was not there at HEAD" in missing.stderr
    assert "git" in run("compare", file, "--since", "HEAD", PATH="/nowhere").stderr
    folder = run("compare", tmp_path, "--since", "HEAD")
    assert f"{late} is new" in folder.stdout and folder.returncode == 1
    assert run("compare", file).returncode == 2
    review = run("compare", DEMO / "tide-mill.yaml", file, "--format", "markdown").stdout
    assert (
        review.startswith("### The Tide Mill") and "- worse: **now anyone can get stuck" in review
    )
    year = DEMO.parent / "campaign" / "mill-year.yaml"
    assert "The answers are the same." in run("compare", year, year).stdout


def kinds(findings: Any) -> list[tuple[str, str]]:
    return sorted((one.code, one.subject) for one in findings)


@given(plain_levels(), st.integers(0, 10**6))
@settings(max_examples=max(LEVELS // 2, 8), deadline=None, suppress_health_check=list(HealthCheck))
def test_back_and_forth_are_each_others_mirror(plain: dict[str, Any], seed: int) -> None:
    level = readable(plain)
    random = Random(seed)
    other = json.loads(json.dumps(plain))
    if other.get("passages") and random.random() < 0.5:
        other["passages"].pop(random.randrange(len(other["passages"])))
    else:
        other["name"] = "The Other Mill"
    changed_level = readable(other)
    reports = [ukemi.check(one, max_positions=3_000) for one in (level, changed_level)]
    there, back = ukemi.compare(*reports), ukemi.compare(*reversed(reports))
    assert kinds(there.gone) == kinds(back.come) and kinds(there.come) == kinds(back.gone)
    assert bool(there.changes) == bool(back.changes) == (level != changed_level)
    assert {name: (a, b) for name, a, b in there.measures} == {
        name: (b, a) for name, a, b in back.measures
    }
    flipped = {"worse": "better", "better": "worse", "different": "different"}
    proven = reports[0].search.complete and reports[1].search.complete
    if proven and not there.renames:
        mirrored = sorted(flipped[one.judged] for one in back.verdict)
        assert sorted(one.judged for one in there.verdict) == mirrored


def test_worse_is_also_what_is_not_settled_any_more() -> None:
    level = ukemi.loads((DEMO / "jumbled-keys.yaml").read_text())
    whole, cut = ukemi.check(level), ukemi.check(level, max_positions=3, max_seconds=0)
    assert str(cut.answers.stuck) == "unknown"
    lost = ukemi.compare(whole, cut)
    assert lost.worse and any("is now undecided" in one.says for one in lost.verdict)
    found = ukemi.compare(cut, whole)
    assert not found.worse and found.verdict[0].judged == "better"
    assert "The proven answers are the same" in "\n".join(comparison_lines(ukemi.compare(cut, cut)))
    safe = ukemi.loads(
        "{start: quay, goal: mill, items: {ledger: {kind: reward}}, rooms: {quay: {items: ledger}, mill: {}, yard: {}, loft: {}},"
        " passages: [quay <-> mill, quay <-> yard, yard <-> loft]}"
    )
    cut_short = (ukemi.check(safe, max_positions=most) for most in range(2, 12))
    verdicts = [ukemi.compare(ukemi.check(safe), cut).verdict for cut in cut_short]
    said = {one.says for verdict in verdicts for one in verdict if "missed" in one.says}
    assert said == {"the reward quay/ledger may be missed now: undecided"}


def test_chests_acts_and_all_that_holds_for_a_level() -> None:
    text = (DEMO / "jumbled-keys.yaml").read_text()
    edits = {
        "meal-chest: {holds: [iron-key]}": ("meal-chest: {holds: [iron-key], lock: oak-key}",
                                            "chest meal-chest: lock: nothing → oak-key"),
        "search-the-nets: {needs: lantern}": ("search-the-nets: {needs: oak-key}",
                                              "act search-the-nets: needs: lantern → oak-key"),
        "stuck: never, ": ("stuck: possible, ", "what is expected: stuck: nothing → possible"),
        "at-most: 1 ": ("at-most: 2 ", "group of `scatter` keys: at-most: 1 → 2"),
        "steps: 3": ("steps: 2", "weir: steps: 3 → 2"),
        "goal: bell-loft": ("goal: race", "the goal: bell-loft → race"),
        "lantern: {kind: tool}": ("lantern: {kind: tool, max: 1}", "item lantern: max: nothing → 1"),
    }  # fmt: skip
    for old, (new, says) in edits.items():
        found = ukemi.compare(ukemi.loads(text), changed(text, (old, new)))
        assert found.changes == (says,), found.changes


# -- every field of every file --------------------------------------------------------------------

EVERYTHING: dict[str, Any] = {
    "ukemi": 1, "name": "Mill", "start": "quay", "goal": "mill",
    "items": {"oak": {"max": 3}, "warmth": {"kind": "supply", "max": 5}, "bell": {}},
    "flags": {"lit": False, "wet": False, "dry": True},
    "locks": {"iron": {"needs": "oak"}},
    "inventory": {"start": {"warmth": 2}},
    "players": {"ada": {}, "ben": {"start": "mill"}}, "rules": {},
    "rooms": {
        "quay": {"items": {"oak": {"count": 1}}, "chests": {"bin": {"holds": ["oak"]}},
                 "switches": {"lever": {"sets": ["dry"]}}, "acts": {"knock": {"sets": ["dry"]}}},
        "mill": {},
    },
    "passages": [{"quay <-> mill": {"name": "door", "lock": "iron"}}, {"quay -> mill": {"name": "way"}}],
    "events": {"dusk": {"when": "bell"}}, "scatter": {"some": {"items": ["oak"]}},
    "maps": {"ground": "#####\n#Az.#\n#...#\n#####\n"},
    "legend": {"A": {"gate": "dry"}, "z": {"room": "far"}},
    "expect": {"shortest": {}}, "accept": {"unused-item": "bell"},
}  # fmt: skip
EFFECTS = {
    "spends": ["oak"], "loses": ["oak"], "gives": ["oak"], "sets": ["wet"], "clears": ["wet"],
    "flips": ["wet"], "opens": ["door"],
}  # fmt: skip
TEXTS = {"label": "A name", "note": "A remark"}
SAID = {**TEXTS, "says": {"shut": "Hm."}, "mentions": ["oak"]}
SEEN = {"seen": "bell"}
COLOR = {"color": "navy"}
DOING = {"needs": "oak", "steps": 4, "teaches": "wet"}

#: For each table of fields: where the sample has such a part, and another value for each field.
OTHER: list[tuple[Fields, tuple[str | int, ...], dict[str, Any]]] = [
    (tables.ITEM, ("items", "warmth"), {
        "kind": "key", "use": "spent", "max": 4, "vital": True, "slots": 3,
        "on-pickup": {"sets": ["wet"]}, **COLOR, **SAID}),
    (tables.ON_PICKUP, ("items", "bell", "on-pickup"), EFFECTS),
    (tables.LOCK, ("locks", "iron"), {
        "needs": "bell", "from": "quay", "relocks": True, "together": True, "steps": 4,
        **EFFECTS, "spends": "nothing", **COLOR, **SAID}),
    (tables.PLACEMENT, ("rooms", "quay", "items", "oak"), {
        "count": 2, "needs": "bell", "pile": True, **SEEN, **TEXTS}),
    (tables.ACT, ("rooms", "quay", "acts", "knock"), {"repeat": True, **DOING, **SEEN, **EFFECTS, **SAID}),
    (tables.SWITCH, ("rooms", "quay", "switches", "lever"), {"once": True, **DOING, **SEEN, **EFFECTS, **SAID}),
    (tables.EVENT, ("events", "dusk"), {"when": "oak", **EFFECTS, **SAID}),
    (tables.INVENTORY, ("inventory",), {
        "start": {"warmth": 3}, "slots": 9, "drop": True, "shared": True, "hand-over": True}),
    (tables.PLAYER, ("players", "ben"), {"start": "quay", "inventory": ["oak"]}),
    (tables.RULES, ("rules",), {"pickup": "touch", "finish": "touch", "hints": "expected", "falling": "deadly"}),
    (tables.SHORTEST, ("expect", "shortest"), {"at-most": 9, "at-least": 1}),
    (CHEST, ("rooms", "quay", "chests", "bin"), {
        "lock": "bell", "holds": ["bell"], "steps": 4, **SEEN, **EFFECTS, **SAID}),
    (ROOM, ("rooms", "mill"), {
        "items": ["oak"], "chests": {"box": {}}, "switches": {"crank": {}}, "acts": {"ring": {}}, "gate": "bell",
        "drawn-at": [1, 2], **SAID}),
    (PASSAGE, ("passages", 1, "quay -> mill"), {
        "lock": "bell", "gate": "bell", "once": True, "steps": 4, "name": "stair", **SEEN, **EFFECTS, **SAID}),
    (SCATTER, ("scatter", "some"), {
        "items": ["bell"], "chests": ["bin"], "into": ["quay"], "apart": 2, "at-most": 1, "colors": "shuffled"}),
    (TILE, ("legend", "A"), {
        "item": "oak", "items": ["oak", "bell"], "lock": "bell", "gate": "bell",
        "chest": {"name": "box", "holds": ["oak"]}, "switch": {"name": "crank", "sets": ["wet"]},
        "act": {"name": "ring", "sets": ["wet"]}, "room": "near", "one-way": "up", "solid": False,
        "once": True, "steps": 4, "name": "trap", "bears": True, "climb": True, **SEEN, **EFFECTS, **SAID}),
    (EXPECT, ("expect",), {
        "finish": "impossible", "stuck": "possible", "rewards": "any", "never": "bell",
        "possible": "bell", "always-possible": "bell", "required": "quay", "optional": "mill",
        "shortest": {"at-most": 5}, "order": ["quay", "mill"]}),
    (LEVEL, (), {
        "ukemi": None, "name": "Loft", "start": "mill", "goal": "quay", "items": {**EVERYTHING["items"], "axe": {}},
        "flags": {"lit": True}, "locks": {**EVERYTHING["locks"], "brass": {}}, "inventory": {"start": ["bell"]},
        "players": {"ada": {}, "cid": {"start": "mill"}}, "rules": {"finish": "touch"},
        "maps": {"ground": "#####\n#Az##\n#...#\n#####\n"}, "legend": {**EVERYTHING["legend"], "A": {"gate": "wet"}},
        "rooms": {**EVERYTHING["rooms"], "loft": {}}, "passages": EVERYTHING["passages"][:1],
        "areas": {"shore": ["quay"]}, "events": {}, "scatter": {}, "expect": {"stuck": "possible"}, "accept": {}}),
]  # fmt: skip
#: What else a part says, where a field asks for more than the sample has.
BESIDE = {
    ("a legend entry", "solid"): {"gate": None, "act": {"name": "ring"}},
    **{("a legend entry", one): {"gate": None} for one in ("lock", "chest", "switch", "act", "one-way")},
}  # fmt: skip


def with_part(plain: Any, path: tuple[str | int, ...], fields: dict[str, Any]) -> Any:
    """Plain data with other values for some fields of a part; none for a field that is left out."""
    plain = json.loads(json.dumps(plain))
    part = plain
    for step in path:
        part = part.setdefault(step, {}) if isinstance(part, dict) else part[step]
    for name, value in fields.items():
        part.pop(name, None)
        if value is not None:
            part[name] = value
    return plain


@pytest.mark.parametrize(
    ("table", "path", "field", "value"),
    [(table, path, field, value) for table, path, values in OTHER for field, value in values.items()],
    ids=lambda one: one.what if isinstance(one, Fields) else str(one) if isinstance(one, str) else "",
)  # fmt: skip
def test_each_field_that_changes_is_told(
    table: Fields, path: tuple[str | int, ...], field: str, value: Any
) -> None:
    if value is None:
        return  # there is one version of the format only
    whole = with_part(EVERYTHING, (), {"players": None} if table is tables.EVENT else {})
    beside = with_part(whole, path, BESIDE.get((table.what, field), {}))
    texts = [json.dumps(beside), json.dumps(with_part(beside, path, {field: value}))]
    old, new = map(ukemi.loads, texts)
    assert level_changes(old, old) == ([], [])
    assert level_changes(old, new)[0], "nothing changed"
    assert level_changes(new, old)[0], "nothing changed back"


def test_each_field_of_each_table_is_among_them() -> None:
    told = {table.what: {*values} for table, _, values in OTHER} | {
        table.what: {*values} for table, _, values in OTHER_IN_CAMPAIGN
    }
    everything = {
        table.what: {*table.by_name}
        for module in (tables, parts, passages, scattering, tiles, whole_level, campaigns)
        for table in vars(module).values()
        if isinstance(table, Fields)
    }
    # What a map says is compared by the next test.
    own = {"a map": {"csv", "rows", "seen-from", "jump"}, "jump": {"up", "across"}}
    assert told | own == everything


def test_a_map_that_is_read_from_another_file_is_told(tmp_path: Path) -> None:
    for name in ("a.csv", "b.csv"):
        (tmp_path / name).write_text("@,.,z\n")
        level = f"goal: far\nlegend: {{z: {{room: far}}}}\nmaps: {{ground: {{csv: {name}}}}}\n"
        (tmp_path / f"{name}.yaml").write_text(level)
    old, new = (ukemi.load(tmp_path / f"{name}.csv.yaml") for name in "ab")
    assert "map ground: csv: a.csv → b.csv" in level_changes(old, new)[0]
    above, side = (
        ukemi.loads("goal: far\nlegend: {z: {room: far}}\nmaps: {ground: {rows: ['@.z', '###']}}"),
        ukemi.loads(
            "goal: far\nlegend: {z: {room: far}}\n"
            "maps: {ground: {seen-from: side, jump: {up: 3}, rows: ['@.z', '###']}}"
        ),
    )
    said = "map ground: seen from: above → side, jump 3 up and 2 across"
    assert said in level_changes(above, side)[0]


YEAR: dict[str, Any] = {
    "ukemi": 1, "campaign": "A Year", "levels": {"one": {"file": "one.yaml"}, "two": {"file": "two.yaml"}, "end": {"file": "end.yaml"}},
    "ways": [{"one -> two": {}}, {"two -> end": {}}, {"one -> end": {}}], "goal": "end", "expect": {},
}  # fmt: skip
OTHER_IN_CAMPAIGN: list[tuple[Fields, tuple[str | int, ...], dict[str, Any]]] = [
    (STAGE, ("levels", "two"), {"file": "end.yaml", "brings": ["oak"], "keeps": True}),
    (WAY, ("ways", 0, "one -> two"), {"when": "oak", "sets": ["wet"]}),
    (CAMPAIGN, (), {
        "ukemi": None, "campaign": "Two Years", "levels": {"two": "two.yaml", "one": "one.yaml", "end": "end.yaml"},
        "ways": ["one -> two", "two -> end"], "goal": "two", "shares": ["wet"], "expect": {"stuck": "possible"},
        "accept": {"unused-item": "oak"}}),
]  # fmt: skip


@pytest.mark.parametrize(
    ("path", "field", "value"),
    [(path, field, value) for _, path, values in OTHER_IN_CAMPAIGN for field, value in values.items()],
    ids=str,
)  # fmt: skip
def test_each_field_of_a_campaign_that_changes_is_told(
    path: tuple[str | int, ...], field: str, value: Any, tmp_path: Path
) -> None:
    if value is None:
        return
    level = "{start: quay, goal: mill, items: {oak: {}}, flags: [wet], rooms: {quay: {items: oak}, mill: {}}, passages: [quay -> mill]}"
    for folder, year in (("old", YEAR), ("new", with_part(YEAR, path, {field: value}))):
        (tmp_path / folder).mkdir()
        (tmp_path / folder / "year.yaml").write_text(json.dumps(year))
        for name in ("one", "two", "end"):
            (tmp_path / folder / f"{name}.yaml").write_text(level)
    old, new = (ukemi.load(tmp_path / folder / "year.yaml") for folder in ("old", "new"))
    assert level_changes(old, old) == ([], [])
    assert level_changes(old, new)[0] and level_changes(new, old)[0]
    assert (
        any(str(field) in one or field == "campaign" for one in level_changes(old, new)[0])
        or path == ()
    )


def test_what_changed_in_a_level_of_a_campaign_is_told_by_its_name(tmp_path: Path) -> None:
    level = "start: quay\ngoal: mill\nitems: {oak: {}}\nrooms: {quay: {items: oak}, mill: {}}\npassages: [quay -> mill: {name: drop}]\n"
    for folder, edit in (("old", "drop"), ("new", "chute")):
        (tmp_path / folder).mkdir()
        (tmp_path / folder / "year.yaml").write_text(
            "campaign: Year\nlevels: {one: one.yaml, two: two.yaml}\n"
        )
        (tmp_path / folder / "one.yaml").write_text(level)
        (tmp_path / folder / "two.yaml").write_text(level.replace("drop", edit))
    done = run("compare", tmp_path / "old" / "year.yaml", tmp_path / "new" / "year.yaml")
    assert "two: what was drop is called chute now" in done.stdout, done
    assert "one:" not in done.stdout and done.returncode == 0
