"""Level files with mistakes in them: one clear message each, and its place."""

from __future__ import annotations

from pathlib import Path

import pytest

import ukemi

HEAD = "start: quay\ngoal: mill\nitems: {iron-key: {}, grain: {kind: supply, max: 9}}\n"
TAIL = "rooms: {quay: {}, mill: {}}\npassages: [quay <-> mill]\n"


def problems(text: str, file: str | None = None) -> list[str]:
    with pytest.raises(ukemi.LevelError) as caught:
        ukemi.loads(text, file)
    return caught.value.lines()


@pytest.mark.parametrize(
    ("text", "says"),
    [
        # names
        (HEAD + "rooms: {quay: {items: irn-key}, mill: {}}", "4:23: 'irn-key' is not the name of an item (did you mean 'iron-key'?)"),
        (HEAD + TAIL.replace("<-> mill", "<-> mil"), "5:21: 'mil' is not the name of a room (did you mean 'mill'?)"),
        (HEAD + TAIL + "inventory: {start: {grian: 2}}", "6:21: 'grian' is not"),
        (TAIL + "start: quey\ngoal: mill", "3:8: 'quey' is not the name of a room (did you mean 'quay'?)"),
        (TAIL + "start: quay\ngoal: at mil", "4:10: 'mil' is not the name of a room"),
        (HEAD + "rooms: {quay: {items: [iron-key]}, quay: {}, mill: {}}", "a room 'quay' is given twice"),
        (HEAD + "rooms: {1st: {}, quay: {}, mill: {}}", "4:9: '1st' cannot be the name of a room"),
        (HEAD + "rooms: {quay: {chests: {bin: {}}}, mill: {acts: {bin: {}}}}", "[duplicate-name]"),
        # fields
        (HEAD.replace("{}", "{usee: spent}", 1) + TAIL, "3:20: an item has no field 'usee' (did you mean 'use'?)"),
        (HEAD + TAIL + "colour: red", "a level has no field 'colour'"),
        (HEAD.replace("{}", "{use: spend}", 1) + TAIL, "'spend' must be kept or spent (did you mean 'spent'?)"),
        (HEAD.replace("max: 9", "max: many") + TAIL, "a whole number from 1 to 999999, not 'many'"),
        (HEAD.replace("max: 9", "max: 0") + TAIL, "a whole number from 1 to 999999, not '0'"),
        (HEAD + TAIL.replace("{}", "[1]"), "this is a list"),
        (HEAD + "rooms: 3", "must map the name of a room"),
        ("ukemi: 2\n" + HEAD + TAIL, "1:8: this reads levels of format 1, not '2'"),
        ("rooms: [a]", "the level has no start"),
        (HEAD + TAIL + "flags: {&a wet: *a}", "6:9: this must be true or false, not 'wet'"),
        (HEAD + TAIL + "expect: {[1, 2]: 3}", "expect has no such field: a list"),
        (HEAD + TAIL + "? [a]\n: 3", "a level has no such field: a list"),
        # passages and conditions
        (HEAD + TAIL.replace("<->", "<-"), "is no passage: write 'room <-> room'"),
        (HEAD + TAIL.replace("quay <-> mill", "{quay <-> mill: {lock: 2 iron-key or}}"), "5:48: the condition ends too early"),
        (HEAD + TAIL.replace("quay <-> mill", "{quay <-> mill: {gate: 0 grain}}"), "a count goes from 1"),
        (HEAD + TAIL.replace("quay <-> mill", "{quay <-> mill: {gate: mill}}"), "for the room, write `at mill`"),
        (HEAD + TAIL.replace("quay <-> mill", "quay <-> old mill"), "(did you mean 'quay <-> old-mill'?)"),
        (HEAD + TAIL.replace("quay <-> mill", "{quay <-> mill: {gate: not oak key}}"),
         "'oak key' cannot stand in a condition: a name has no blanks, or `and` is missing, in 'not oak key'"),
        (HEAD + TAIL.replace("quay <-> mill", "{quay <-> mill: {name: mill door}}"), "(did you mean 'mill-door'?)"),
        # syntax
        ("start: [quay\ngoal: mill", "1:8: the `[` is not closed: a `]` is missing"),
        ("rooms:\n  quay: {items: [a, b}\n  mill: {}", "2:17: the `[` is not closed: a `]` is missing"),
        ("rooms: {quay: {} mill: {}}", "1:18: a comma or `}` is missing"),
        ("passages:\n  - quay <-> mill: {lock: iron: oak}", "2:31: a second colon"),
        ("goal: at: mill", "1:9: a second colon in one line: put quotes round the text"),
        ("rooms: {quay: {}}}", "1:18: the `}` closes nothing"),
        ("rooms:\n  quay {}\n\n  mill: {}", "2:3: a colon is missing in this line"),
        ("start quay\ngoal: mill", "1:1: a colon is missing in this line"),
        ("passages:\n  - a <-> b\n  b <-> c", "3:3: a `-` is missing before this line, or a colon in it"),
        ("rooms:\n  quay: {}\n mill: {}", "3:2: this line is indented by 1 blank; indent it by 2, like 'quay: {}' in"
         " line 2 or by 0, like 'rooms:' in line 1, at 'mill: {}' [syntax]"),
        ("start: quay\n   goal: mill", "2:4: this line is indented by 3 blanks; indent it by 0, like 'start: quay'"),
        ("maps:\n  a: |\n    ###\n  ..#\n    ###", "4:3: this row is indented less than the rows of the map above it"),
        ("maps:\n  a: | 4\n", "2:8: nothing follows `|` in its line"),
        ('start: "quay\ngoal: mill', "1:8: the quote is not closed"),
        ("start: @quay", "1:8: a text cannot begin with `@`"),
        ("goal: *mill", "1:7: a text cannot begin with `*`"),
        ("rooms: - quay", "1:8: a `-` begins a line of its own"),
        ("goal: mill\nrooms: {  # [", "2:8: the `{` is not closed"),
        ("goal: mill\nrooms: {quay: {items: [, oar]}}", "2:24: a value is missing"),
        ("start:\n\tquay", "2:1: a tab cannot indent"),
        ("", "1:1: there is no level here"),
        ("# only a remark", "there is no level here"),
        ("[" * 5000, "nested too deeply"),
        ("- " * 5000, "nested too deeply"),
        ("just words", "a level takes fields such as"),
        ("a: 1\n---\nb: 2", "another document"),
        ("start: \x07", "U+0007 cannot stand in a level file"),
    ],
)  # fmt: skip
def test_each_mistake_is_told_with_its_place(text: str, says: str) -> None:
    lines = problems(text, "mill.yaml")
    assert any(says in line for line in lines), lines
    assert all(line.startswith("mill.yaml:") for line in lines)


def test_all_mistakes_of_a_file_are_told_in_order() -> None:
    text = "start: quey\ngoal: mil\nrooms: {quay: {itms: x}, mill: {}}\npassages: [quay -> mll]\n"
    lines = problems(text, "mill.yaml")
    assert [line.split(":")[1] for line in lines] == ["1", "2", "3", "4"]


def test_files_that_are_no_text(tmp_path: Path) -> None:
    cases = {
        "binary.yaml": (b"\x00\x01\x02", "binary file"),
        "latin.yaml": (b"name: caf\xe9", "1:10: the byte 0xe9 is not UTF-8"),
        "bad.json": (b'{"start": "quay",}', "1:1[78]: broken JSON"),
    }
    for name, (content, says) in cases.items():
        file = tmp_path / name
        file.write_bytes(content)
        with pytest.raises(ukemi.LevelError, match=says):
            ukemi.load(file)
    with (tmp_path / "huge.yaml").open("wb") as huge:
        huge.truncate(64 * 1024 * 1024)
    with pytest.raises(ukemi.LevelError, match="more than 33,554,432 bytes"):
        ukemi.load(tmp_path / "huge.yaml")
    with pytest.raises(ukemi.LevelError, match="is a directory"):
        ukemi.load(tmp_path)


def test_json_is_read_like_yaml(tmp_path: Path) -> None:
    file = tmp_path / "mill.json"
    file.write_text(
        '{"start": "quay", "goal": "mill", "rooms": {"quay": {"note": "\\ud83d\\udddd"},\n'
        '\t"mill": {}}, "passages": [{"quay -> mill": {"steps": 3}}]}'
    )
    level = ukemi.load(file)
    assert level.rooms["quay"].note == "\N{OLD KEY}"
    assert ukemi.check(level).routes["finish"].steps == 3


def test_words_that_yaml_might_take_for_others_are_names() -> None:
    level = ukemi.loads("{start: on, goal: no, rooms: [on, no], passages: [on -> no]}")
    assert list(level.rooms) == ["on", "no"]
