"""Writing levels, the schema, and building in Python: all three say the same as the reader."""

from __future__ import annotations

import json
from pathlib import Path
from random import Random
from typing import Any, get_type_hints

import jsonschema
import pytest
import yaml
from hypothesis import assume, given, settings
from hypothesis import strategies as st

import ukemi
import ukemi.mends
from ukemi.language.fields import fields, passages, scattering, whole
from ukemi.language.fields import map_fields as tiles
from ukemi.language.fields import room_fields as parts
from ukemi.language.fields.plain import level_dict
from ukemi.level import keywords, parse_condition
from ukemi.playing.talk import Talk

from .helpers import DEMO, readable, run
from .levels import Drawer, map_levels, plain_levels
from .test_against_naive import LEVELS

SCHEMA = json.loads(run("schema").stdout)
VALIDATOR = jsonschema.Draft202012Validator(SCHEMA)


@given(plain_levels())
@settings(max_examples=60, deadline=None)
def test_a_level_is_written_and_read_again(plain: dict[str, Any]) -> None:
    plain["expect"] = {
        "never": ["iron", "low"],
        "required": "quay",
        "shortest": {"at-most": 9},
        "order": [["quay", "iron"]],
    }
    plain["items"]["iron"] |= {"color": "peru", "note": "two\nlines: # and 'quotes'"}
    level = readable(plain)
    level.text = None  # as if it had been built in code
    written = ukemi.dumps(level)
    assert ukemi.loads(written) == level
    VALIDATOR.validate(yaml.safe_load(written))


@given(plain_levels(), st.randoms(use_true_random=False))
@settings(max_examples=150, deadline=None)
def test_schema_and_reader_do_not_disagree(plain: dict[str, Any], random: Any) -> None:
    """What the reader takes, the schema takes; a field the reader does not know, neither does."""
    broken = spoil(plain, random)
    try:
        ukemi.loads(json.dumps(broken))
        codes: set[str] = set()
    except ukemi.LevelError as error:
        codes = {problem.code for problem in error.problems}
    valid = VALIDATOR.is_valid(broken)
    assert valid or codes
    if "unknown-field" in codes:
        assert not valid


def spoil(value: Any, random: Any) -> Any:
    """Change one thing somewhere in plain data: a key, a value's type, or nothing."""
    if isinstance(value, dict) and value and random.random() < 0.75:
        key = random.choice(list(value))
        if random.random() < 0.2:
            return {(f"{one}x" if one == key else one): inner for one, inner in value.items()}
        return {**value, key: spoil(value[key], random)}
    if isinstance(value, list) and value and random.random() < 0.75:
        number = random.randrange(len(value))
        return [*value[:number], spoil(value[number], random), *value[number + 1 :]]
    return random.choice([value, None, True, 3, -1, 1.5, "iron", [], {}, ["iron", 2], {"iron": 0}])


@given(st.randoms(use_true_random=False))
@settings(max_examples=200, deadline=None)
def test_a_condition_is_printed_and_read_again(random: Any) -> None:
    drawer = Drawer(random)
    drawer.doors, drawer.acts = ["gate-1"], ["pull"]
    text = f"{drawer.condition()} {random.choice(['and', 'or'])} not ({drawer.condition()})"
    condition = parse_condition(text)
    assert parse_condition(str(condition)) == condition


@pytest.mark.parametrize("file", sorted(DEMO.glob("*.yaml")), ids=lambda file: file.stem)
def test_demo_levels_fit_the_schema_and_are_written_as_they_are(file: Path) -> None:
    VALIDATOR.validate(yaml.safe_load(file.read_text()))
    assert ukemi.dumps(ukemi.load(file)) == file.read_text()


def test_a_changed_level_keeps_its_comments(tmp_path: Path) -> None:
    level = ukemi.load(DEMO / "tide-mill.yaml")
    level.room("race", items={"oak-key": 2})
    level.passage("sluice-walk -> race", steps=3, once=True)
    level.passages.pop(1)
    level.expect(stuck="possible")
    target = tmp_path / "changed.yaml"
    ukemi.save(level, target)
    written = target.read_text()
    assert ukemi.load(target) == level
    assert "# a slide down to the water" in written
    assert "# The tide mill, as it should be" in written
    assert "iron-key: {kind: key, use: spent, color: slategray}" in written
    assert [file.name for file in tmp_path.iterdir()] == ["changed.yaml"]
    ukemi.save(level, tmp_path / "changed.json")
    assert ukemi.load(tmp_path / "changed.json") == level


def test_python_builds_what_a_file_says() -> None:
    level = ukemi.Level("The Tide Mill")
    level.item("iron-key", kind="key", use="spent", color="slategray")
    level.item("oak-key", on_pickup={"sets": "found"})
    level.item("warmth", kind="supply", max=5, vital=True)
    level.flag("low-water", on=True)
    level.lock("iron", needs="iron-key")
    level.set_inventory(start={"warmth": 5}, slots=20)
    level.set_rules(pickup="touch")
    level.room("quay", items=["iron-key"])
    level.room("granary")
    level.put("granary", {"oak-key": {"needs": "low-water"}})
    level.chest("granary", "meal-chest", lock="iron", holds="iron-key")
    level.switch("granary", "sluice", flips="low-water")
    level.act("granary", "read", teaches="code", needs=parse_condition("not low-water"))
    level.passage("quay <-> granary", lock={"needs": "code", "from": "quay"}, name="door")
    level.passage("granary -> quay", gate="opened door", loses="warmth")
    level.set_start("quay")
    level.set_goal("granary")
    level.expect(required="door", always_possible=["at quay"], rewards="any")
    text = """
name: The Tide Mill
start: quay
goal: at granary
items:
  iron-key: {use: spent, color: slategray}
  oak-key: {on-pickup: {sets: found}}
  warmth: {kind: supply, max: 5, vital: true}
flags: {low-water: true}
locks: {iron: {needs: iron-key}}
inventory: {start: {warmth: 5}, slots: 20}
rules: {pickup: touch}
rooms:
  quay: {items: iron-key}
  granary:
    items: {oak-key: {needs: low-water}}
    chests: {meal-chest: {lock: iron, holds: [iron-key]}}
    switches: {sluice: {flips: [low-water]}}
    acts: {read: {teaches: code, needs: not low-water}}
passages:
  - quay <-> granary: {lock: {needs: code, from: quay}, name: door}
  - granary -> quay: {gate: opened door, loses: {warmth: 1}}
expect: {required: [door], always-possible: at quay, rewards: any}
"""
    assert level == ukemi.loads(text)
    assert level_dict(level) == level_dict(ukemi.loads(text))


@pytest.mark.parametrize(
    ("build", "says"),
    [
        (lambda level: level.room("mill", items="irn-key"), "did you mean 'iron-key'"),
        (lambda level: level.room("quay"), "there is a room 'quay' already"),
        (lambda level: level.passage("quay <-> mil"), "'mil' is not the name of a room"),
        (lambda level: level.passage("quay -> quay", lok="iron-key"), "did you mean 'lock'"),
        (lambda level: level.passage("quay -> quay", gate="iron-key or"), "ends too early"),
        (lambda level: level.passage("quay -> quay", steps=1.5), "whole number"),
        (lambda level: level.set_start("kuay"), "did you mean 'quay'"),
        (lambda level: level.set_goal("at kuay"), "did you mean 'quay'"),
        (lambda level: level.flag("iron-key"), "both an item and a flag"),
        (lambda level: level.chest("quay", "chest", lock={"needs": object()}), "condition"),
        (lambda level: ukemi.check(level), "the level has no start"),
    ],
)
def test_a_mistyped_name_fails_at_once_and_adds_nothing(build: Any, says: str) -> None:
    level = ukemi.Level()
    level.item("iron-key")
    level.room("quay")
    before = level_dict_or_none(level)
    with pytest.raises(ukemi.LevelError, match=says):
        build(level)
    assert level_dict_or_none(level) == before
    assert level.all_flags() == set()


def level_dict_or_none(level: ukemi.Level) -> Any:
    return list(level.items), list(level.rooms), level.passages, list(level.things)


def test_keywords_are_the_fields_of_the_file() -> None:
    pairs = [
        (keywords.ItemFields, fields.ITEM), (keywords.LockFields, fields.LOCK),
        (keywords.RoomFields, parts.ROOM), (keywords.ChestFields, parts.CHEST),
        (keywords.ActFields, fields.ACT), (keywords.SwitchFields, fields.SWITCH),
        (keywords.PassageFields, passages.PASSAGE), (keywords.InventoryFields, fields.INVENTORY),
        (keywords.RulesFields, fields.RULES), (keywords.ExpectFields, whole.EXPECT),
        (keywords.TileFields, tiles.TILE), (keywords.ScatterFields, scattering.SCATTER),
    ]  # fmt: skip
    for typed, table in pairs:
        assert set(get_type_hints(typed)) == {fields.attribute(one.name) for one in table}, (
            table.what
        )


def test_random_levels_are_mostly_readable() -> None:
    """A guard on the other tests: they would pass on nothing at all."""
    readable = 0
    for seed in range(100):
        try:
            ukemi.loads(json.dumps(Drawer(Random(seed)).level()))
            readable += 1
        except ukemi.LevelError:
            pass
    assert readable > 60


def test_a_level_without_a_name_is_saved_under_any(tmp_path: Path) -> None:
    level = ukemi.loads("{start: quay, goal: quay, rooms: [quay]}")
    ukemi.save(level, tmp_path / "quay.yaml")
    again = ukemi.load(tmp_path / "quay.yaml")
    assert (again.name, ukemi.dumps(again)) == ("quay", ukemi.dumps(level))
    ukemi.save(again, tmp_path / "mill.yaml")
    assert ukemi.load(tmp_path / "mill.yaml").name == "mill"


# -- changing a level -------------------------------------------------------------------------


@given(st.one_of(plain_levels(), map_levels()), st.data())
@settings(max_examples=max(LEVELS, 20), deadline=None)
def test_a_renamed_level_is_the_same_level(drawn: dict[str, Any], data: st.DataObject) -> None:
    level = readable(drawn)
    kinds = {
        "room": [name for name, room in level.rooms.items() if name != str(room.cell)],
        "item": list(level.items),
        "flag": sorted(level.all_flags()),
        "lock": list(level.locks),
        "thing": [name for name, one in level.things.items() if one.kind != "passage"],
    }
    kind, old = data.draw(
        st.sampled_from([(kind, name) for kind, names in kinds.items() for name in names])
    )
    assume("@" not in old and " " not in old)  # what a map or a passage names is not renamed
    renamed = ukemi.rename(level, old, "quite-new", kind)
    assert renamed != level
    assert ukemi.rename(renamed, "quite-new", old, kind) == level
    before, after = (ukemi.check(one, max_positions=300).answers for one in (level, renamed))
    assert (after.finish, after.stuck, after.all_rewards) == (
        before.finish, before.stuck, before.all_rewards,
    )  # fmt: skip
    for told in ("doors", "chests", "acts", "rooms", "items", "events"):
        assert list(getattr(after, told).values()) == list(getattr(before, told).values())


def test_renaming_tells_one_name_from_another_and_keeps_comments() -> None:
    text = """start: mill  # mill: where it begins
goal: at loft and mill and done mill-wheel
items:
  mill: {kind: key, label: the mill}
rooms:
  mill: {items: mill, acts: {mill-wheel: {needs: at mill and mill}}}
  loft: {}
passages: [mill <-> loft: {lock: mill, name: mill-door}]
accept: {unused-item: mill/mill}
"""
    level = ukemi.loads(text)
    with pytest.raises(
        ukemi.LevelError, match="'mill' is the name of a room and an item: say which"
    ):
        ukemi.rename(level, "mill", "granary")
    assert ukemi.dumps(ukemi.rename(level, "mill", "key", "item")) == (
        text.replace("and mill and done", "and key and done")
        .replace("  mill: {kind", "  key: {kind")
        .replace("items: mill,", "items: key,")
        .replace("at mill and mill}", "at mill and key}")
        .replace("lock: mill,", "lock: key,")
        .replace("mill/mill", "mill/key")
    )
    for old, new, says in (
        ("mil", "key", "nothing is called 'mil'"),
        ("loft", "mill", "there is a room 'mill' already"),
        ("loft", "2nd", "'2nd' cannot be a name"),
    ):
        with pytest.raises(ukemi.LevelError, match=says):
            ukemi.rename(level, old, new)


# -- over what was read ---------------------------------------------------------------------------

STUCK = (
    "start: quay\ngoal: mill\nrooms: [quay, mill]\npassages:\n  - mill -> quay  # the tide \u00fc\n"
)


@pytest.mark.parametrize("coding", ["utf-8", "utf-8-sig", "utf-16", "utf-16-be"])
@pytest.mark.parametrize("newline", ["\n", "\r\n"])
def test_what_a_mend_does_not_show_stays_byte_for_byte(
    coding: str, newline: str, tmp_path: Path
) -> None:
    file = tmp_path / "mill.yaml"
    text = STUCK.replace("\n", newline)
    mark = "\ufeff" if coding == "utf-16-be" else ""
    file.write_bytes((mark + text).encode(coding))
    done = run("mend", file, "cannot-finish", "--apply", 1)
    assert "make mill -> quay two-way" in done.stdout, done
    assert file.read_bytes() == (mark + text.replace("->", "<->")).encode(coding)


def test_what_somebody_saved_meanwhile_is_not_overwritten(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    from ukemi.cli.main import app

    file = tmp_path / "mill.yaml"
    file.write_text(STUCK)
    search = ukemi.mends.mends_of_report

    def saved_meanwhile(*given: Any) -> Any:
        file.write_text(STUCK + "# saved meanwhile\n")
        return search(*given)

    monkeypatch.setattr("ukemi.mends.mends_of_report", saved_meanwhile)
    with pytest.raises(SystemExit) as ended:
        app(["mend", str(file), "--apply", "1", "--max-memory", "500M"])
    assert ended.value.code == 2
    assert "another program saved this file" in capsys.readouterr().err
    assert file.read_text() == STUCK + "# saved meanwhile\n"


def test_a_level_is_not_saved_over_what_was_saved_meanwhile(tmp_path: Path) -> None:
    file = tmp_path / "mill.yaml"
    file.write_text(STUCK)
    level = ukemi.load(file)
    level.room("pit")
    ukemi.save(level, file)
    level.room("race")
    ukemi.save(level, file)  # what it wrote itself is no hindrance
    assert "race" in file.read_text() and "# the tide" in file.read_text()
    file.write_text(STUCK)
    level.room("loft")
    with pytest.raises(OSError, match="another program saved this file"):
        ukemi.save(level, file)
    assert file.read_text() == STUCK


def test_a_play_is_not_saved_over_what_was_saved_meanwhile(tmp_path: Path) -> None:
    talk = Talk(ukemi.load(DEMO / "tide-mill.yaml"))
    kept = tmp_path / "play.json"
    for line in ("take iron-key", f"save {kept}", "go granary", f"save {kept}"):
        assert not any("saved by" in one.text for one in talk.answer(line))
    kept.write_text("{}")
    assert any("another program saved this file" in one.text for one in talk.answer(f"save {kept}"))
    assert kept.read_text() == "{}"


@pytest.mark.parametrize(
    ("path", "value", "says"),
    [
        (("rooms", "quya", "items"), ["oar"], "no 'quya' in rooms (did you mean 'quay'?)"),
        (("rooms", "quay", "chests", "bin", "holds"), ["oar"], "no 'bin' in rooms/quay/chests"),
        (("passages", 7), "quay -> mill", "passages is a list of 2; it has no entry 7"),
        (("passages", -1), "quay -> mill", "passages is a list of 2; it has no entry -1"),
        (("passages", "x", "lock"), "oar", "it has no entry 'x'"),
        (("goal", "at"), "quay", "goal has no parts"),
        (("locks",), ukemi.REMOVED, "no 'locks' in the level"),
        ((), 3, "the level has no parts"),
        (("inventroy", "start"), ["oar"], "did you mean 'inventory'?"),
    ],
)
def test_an_edit_of_what_is_not_there_is_an_error(
    path: tuple[str | int, ...], value: Any, says: str
) -> None:
    level = ukemi.loads(
        "{start: quay, goal: mill, items: {oar: {}}, rooms: {quay: {}, mill: {}}, passages: [quay <-> mill, mill -> quay]}"
    )
    with pytest.raises(ukemi.LevelError) as error:
        ukemi.change(level, ukemi.Edit(path, value))
    assert says in str(error.value)
    again = ukemi.change(level, ukemi.Edit(("rooms", "quay", "chests"), {"bin": {"holds": "oar"}}))
    assert again.rooms["quay"].chests["bin"].holds == {"oar": 1}
