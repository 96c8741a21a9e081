"""The levels that ship with Ukemi: the old tide mill, sound and with mistakes."""

from __future__ import annotations

from typing import NamedTuple


class DemoLevel(NamedTuple):
    """A level that ships, with a line on what it shows."""

    file: str
    shows: str

    def text(self) -> str:
        """The level file."""
        return _read("levels", self.file)


#: The demo levels, in the order to read them.
DEMO_LEVELS = (
    DemoLevel("tide-mill.yaml", "a sound level: players never get stuck"),
    DemoLevel("wasted-key.yaml", "one key, two doors: the wrong one wastes it"),
    DemoLevel("one-way-drop.yaml", "a drop into the water with no way out in the dark"),
    DemoLevel("ground-floor.yaml", "two floors drawn as tile maps, joined by stairs"),
    DemoLevel("flooded-cellar.yaml", "a slide on a tile map, and a tool that was left behind"),
    DemoLevel(
        "barge-race.yaml", "a map seen from the side: jumps, falls, and a dock with no way out"
    ),
    DemoLevel("jumbled-keys.yaml", "keys to place again for each round, with ukemi scatter"),
    DemoLevel(
        "millers-closet.yaml", "what the player reads, hidden things, and a key that does not fit"
    ),
    DemoLevel("two-at-the-gate.yaml", "two players: one holds the plate while the other passes"),
    DemoLevel("stranded.yaml", "two players: one can strand the other"),
)


#: A campaign, and the levels it names: its first file is the campaign.
DEMO_CAMPAIGN = ("mill-year.yaml", "year-landing.yaml", "year-cellar.yaml", "year-loft.yaml")


def campaign_text(file: str) -> str:
    """The text of a file of the campaign that ships."""
    return _read("campaign", file)


def starter(kind: str) -> str:
    """A small commented level to start from.

    Args:
        kind: ``rooms``, ``map``, ``campaign``, or one of its levels: ``first-level``, ``second-level``.

    Returns:
        The text of a level file.
    """
    return _read("starters", f"{kind}.yaml")


def _read(folder: str, file: str) -> str:
    from importlib.resources import files  # slow to load, and needed by few commands

    return (files(__name__) / folder / file).read_text(encoding="utf-8")
