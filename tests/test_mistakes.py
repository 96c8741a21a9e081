"""Mistakes made in good levels: the mends that are offered give back the level that was meant."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest

import ukemi

from .helpers import DEMO, report_dict, run

#: A campaign of two levels, with a way that asks for something.
TIDES = {
    "tides.yaml": """campaign: Two Tides
levels:
  ebb: ebb.yaml
  flood: {file: flood.yaml, brings: [rope]}
ways:
  - ebb -> flood: {when: rope}
""",
    "ebb.yaml": """start: quay
goal: jetty
items: {rope: {kind: tool}}
rooms: {quay: {}, shed: {items: rope}, jetty: {}}
passages: [quay <-> shed, quay <-> jetty]
""",
    "flood.yaml": """start: landing
goal: loft
items: {rope: {kind: tool}}
rooms: [landing, loft]
passages: [landing <-> loft: {gate: rope}]
""",
}

MILL, FLOOR, TWO = "tide-mill.yaml", "ground-floor.yaml", "tides.yaml"

#: Each mistake: the file, what was written, and what is written instead. Of these, the first mend gives back
#: the level.
FIRST = [
    (MILL, "items: [iron-key]", "items: [iron-ky]"),
    (MILL, "items: [iron-key]", "items: [iron key]"),
    (MILL, "lock: iron-key,", "lock: iron_key,"),
    (MILL, "granary <-> wheel-pit: {lock: iron-key, name: pit-door}",
     "granary <-> wheel pit: {lock: iron key, name: pit door}"),
    (MILL, "use: spent", "use: consumed"),
    (MILL, "kind: key, color: peru", "kind: keys, color: peru"),
    (MILL, "passages:", "pasages:"),
    (MILL, "quay <-> granary", "quay <--> granary"),
    (MILL, "quay <-> granary", "quay -- granary"),
    (MILL, "wheel-pit -> sluice-walk", "wheel-pit => sluice-walk"),
    (MILL, "goal: bell-loft", "goal bell-loft"),
    (MILL, "wheel-pit: {items: [oak-key]}", "wheel-pit: {items: [oak-key]"),
    (MILL, "  sluice-walk: {}\n", ""),
    (MILL, "  granary: {}\n", " granary: {}\n"),
    (MILL, "  granary: {}\n", "\tgranary: {}\n"),
    (MILL, "quay <-> granary", "granary -> quay"),
    (MILL, "lock: oak-key, name: loft-door", "lock: iron-key, name: loft-door"),
    (MILL, "lock: oak-key, name", "lock: 3 oak-key, name"),
    (MILL, "{lock: oak-key, name: loft-door}", "{name: loft-door}"),
    (MILL, "wheel-pit -> sluice-walk", "sluice-walk -> wheel-pit"),
    (MILL, "{lock: iron-key, name: pit-door}", "{lock: {needs: iron-key, from: wheel-pit}, name: pit-door}"),
    (FLOOR, "#@....#......#.....#", "#@....#......#....#"),
    (FLOOR, "#.....#..t...#.....#", "#.....#..?...#.....#"),
    (FLOOR, "#.....#..b.....#", "#.....#..k.....#"),
    (FLOOR, "t: {switch: {name: sluice, flips: low-water}}", "t: {switch: {name: sluice}}"),
    (TWO, "ebb -> flood: {when: rope}", "ebb -> flood"),
    (TWO, "ebb -> flood", "flood -> ebb"),
    (TWO, "ebb -> flood", "ebb -> flod"),
    (TWO, "brings: [rope]", "brings: nothing"),
    (MILL, "  - quay <-> granary\n", "  - quay <-> granary\n  - granary <-> wheel-pit: {lock: iron-key, name: pit-door}\n"),
]  # fmt: skip

#: Of these, one of the first five does.
AMONG_FIVE = [
    (
        MILL,
        "{items: [iron-key]}\n  granary: {}\n  wheel-pit: {items: [oak-key]}",
        "{}\n  granary: {}\n  wheel-pit: {items: [oak-key, iron-key]}",
    ),
    (MILL, "  - sluice-walk <-> quay\n", ""),
    (FLOOR, "B....>#", "B....##"),
    (FLOOR, "#..k..D......B....>#", "#..k..B......B....>#"),
    (FLOOR, "##.####......##.####", "##.####......##.##"),
    (
        FLOOR,
        "#@....#......#.....#\n    #..k..D......B....>#",
        "#@....#......#.....#\n    #..k..#D.....B....>#",
    ),
    (
        MILL,
        "{items: [iron-key]}\n  granary: {}\n  wheel-pit: {items: [oak-key]}",
        "{items: [oak-key]}\n  granary: {}\n  wheel-pit: {items: [iron-key]}",
    ),
]


def mistaken(folder: Path, file: str, right: str, wrong: str) -> tuple[Path, dict[str, str]]:
    """A folder with a level in which a mistake was made; the path of the file, and all texts as meant."""
    meant = TIDES if file == TWO else {file: (DEMO / file).read_text()}
    assert right in meant[file]
    for name, text in meant.items():
        (folder / name).write_text(text.replace(right, wrong, 1) if name == file else text)
    return folder / file, meant


def answers(path: Path) -> str:
    return json.dumps(report_dict(ukemi.check(path))["answers"], sort_keys=True)


@pytest.mark.parametrize(
    ("file", "right", "wrong", "among"),
    [(*one, 1) for one in FIRST] + [(*one, 5) for one in AMONG_FIVE],
)
def test_a_mistake_is_undone(tmp_path: Path, file: str, right: str, wrong: str, among: int) -> None:
    path, meant = mistaken(tmp_path, file, right, wrong)
    made = {name: (tmp_path / name).read_text() for name in meant}
    offers = ukemi.mends_of(path)
    found = False
    for offer in offers[:among]:
        assert offer.say and offer.diff
        for one, text in offer.texts.items():
            assert offer.before[one] == made[Path(one).name]
            Path(one).write_text(text)
        mended = answers(path)
        for name, text in meant.items():
            (tmp_path / name).write_text(text)
        found |= mended == answers(path)
        for name, text in made.items():
            (tmp_path / name).write_text(text)
    assert found, [one.say for one in offers]


@pytest.mark.parametrize(
    ("file", "right", "wrong", "says"),
    [
        (FLOOR, "B....>#", "B....##", "the legend has '>' for it, which is on no map"),
        (TWO, "  - ebb -> flood: {when: rope}\n", "  - flood -> ebb\n", "perhaps `ebb -> flood` is missing"),
        (MILL, "granary <-> wheel-pit: {lock", "wheel-pit -> granary: {lock",
         "pit-door and wheel-pit -> sluice-walk lead only out of wheel-pit"),
        ("stranded.yaml", "name: chute", "name: chute", "chute (granary -> race) has collapsed"),
        (MILL, "{lock: oak-key, name: loft-door}", "{name: loft-door}", "but a passage without a lock"),
    ],
)  # fmt: skip
def test_the_message_points_at_the_mistake(
    tmp_path: Path, file: str, right: str, wrong: str, says: str
) -> None:
    path, _ = mistaken(tmp_path, file, right, wrong)
    try:
        shown = " ".join(f"{one.message} {one.why}" for one in ukemi.check(path).findings)
    except ukemi.LevelError as error:
        shown = " ".join(error.lines())
    assert says in shown


def test_the_way_that_a_campaign_lacks_comes_before_what_follows_from_it(tmp_path: Path) -> None:
    path, _ = mistaken(tmp_path, TWO, "  - ebb -> flood: {when: rope}\n", "  - flood -> ebb\n")
    assert "perhaps `ebb -> flood` is missing" in ukemi.check(path).findings[0].why


def test_nothing_is_offered_where_nothing_is_wrong_and_time_is_kept(tmp_path: Path) -> None:
    assert ukemi.mends_of(DEMO / MILL) == []
    path, _ = mistaken(tmp_path, MILL, "quay <-> granary", "granary -> quay")
    assert ukemi.mends_of(path, max_seconds=0) == []
    with pytest.raises(ukemi.LevelError, match="no such file"):
        ukemi.mends_of(tmp_path / "none.yaml")


def test_a_mend_that_makes_the_puzzle_easier_comes_last(tmp_path: Path) -> None:
    path, _ = mistaken(tmp_path, MILL, "lock: oak-key, name", "lock: 3 oak-key, name")
    says = [one.say for one in ukemi.mends_of(path)]
    assert says[0] == "let loft-door ask for oak-key instead of 3 oak-key"
    says = [one.say for one in ukemi.mends_of(DEMO / "wasted-key.yaml")]
    other, more = "let store-door ask for oak-key", "put one more iron-key in granary (or quay)"
    assert says.index(other) < says.index(more)


def test_a_mistake_on_a_map_in_a_table_is_undone_in_the_table(tmp_path: Path) -> None:
    separator = ";"  # as some spreadsheets save it
    text = (DEMO / FLOOR).read_text()
    head, drawn, tail = re.split(r"  cellar: \|\n((?:    .*\n)+)", text)
    rows = [line[4:] for line in drawn.splitlines()]
    path, table = tmp_path / FLOOR, tmp_path / "cellar.csv"
    path.write_text(f"{head}  cellar: {{csv: cellar.csv}}\n{tail}")

    def save(some: list[str]) -> str:
        table.write_bytes("".join(separator.join(row) + "\r\n" for row in some).encode())
        return table.read_bytes().decode()

    meant = save(rows)
    good = answers(path)
    wrong = save([row.replace("b", "k") for row in rows])
    first = ukemi.mends_of(path)[0]
    assert first.file == str(table) and len(first.diff) == 2
    assert first.text == meant and first.before[first.file] == wrong
    report = ukemi.check(path)
    assert (
        json.dumps(report_dict(ukemi.check(first.apply(report.level)))["answers"], sort_keys=True)
        == good
    )
    assert report.mends(report.findings[0])[0].as_dict()["file"] == str(table)
    blank = ukemi.language.files.map_table.Table("", "#;;.\r\n")  # an empty cell stays empty
    assert blank.with_rows(["# k"]) == "#;;k\r\n"
    done = run("mend", path, "--apply", "1")
    assert done.returncode == 0 and table.read_bytes().decode() == meant and answers(path) == good
