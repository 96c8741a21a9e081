"""Levels a program makes, each longer than the last, with a key and a crate scattered on solid ground.

They are seen from the side: the ground has holes, pillars stand on it, bushes grow there, and nothing
stands above a hole. What was collected is carried on from each into the next.

Run it as it stands: ``python examples/longer_each_time.py``; a folder after it keeps the levels.
"""

import sys
import tempfile
from pathlib import Path
from random import Random

import ukemi

LEVEL = """\
# Made by a program: {length} cells of the embankment, from the mill to the quay.
ukemi: 1
name: The Embankment, {length} cells
goal: crank and at the-landing
items:
  oil-can: {{kind: key, use: spent}}
  crank: {{kind: tool}}
  tally: {{kind: supply, max: 99}}
maps:
  bank: |
    {air}
    {ground}
    {below}
legend:
  o: {{item: oil-can}}
  C: {{chest: {{name: crate, lock: oil-can, holds: [crank], solid: false}}}}
  b: {{label: bush}}
  t: {{item: tally}}
  Q: {{room: the-landing}}
scatter:
  finds:
    items: [oil-can]
    chests: [crate]
    into: floor of bank from 3,2 to {last},2
    apart: {apart}
"""

CAMPAIGN = """\
ukemi: 1
campaign: Along the Embankment
levels:
{levels}
"""


def embankment(length: int, random: Random) -> str:
    """The text of a level: air to jump through, the ground's surface, and what is below it."""
    surface, below = ["."] * length, ["#"] * length
    at = 5
    while at < length - 5:
        kind = random.choice(["hole", "pillar", "bush", "tally", "nothing"])
        if kind == "hole":
            below[at] = below[at + 1] = " "
        else:
            surface[at] = {"pillar": "#", "bush": "b", "tally": "t", "nothing": "."}[kind]
        at += random.randint(3, 5)
    surface[0] = surface[-1] = "#"
    surface[1], surface[2], surface[3], surface[-2] = "@", "o", "C", "Q"
    air = "#" + "." * (length - 2) + "#"
    drawn = {"air": air, "ground": "".join(surface), "below": "".join(below)}
    return LEVEL.format(length=length, last=length - 2, apart=length // 4, **drawn)


def main(folder: Path) -> None:
    """Make three levels, scatter, join them to a campaign, check all, show them."""
    files = []
    for length in (40, 60, 80):
        level = ukemi.loads(embankment(length, Random(length)))
        scattered = next(iter(ukemi.scatter(level, seed=length)))
        files.append(folder / f"embankment-{length}.yaml")
        ukemi.save(scattered.level, files[-1])
        ukemi.draw_map(scattered.level, files[-1].with_suffix(".png"))
        where = ", ".join(f"{thing} at {spot}" for thing, spot in scattered.where)
        print(f"{level.name}: {where} ({scattered.tried} placements looked at)")
        print("\n".join(ukemi.load(files[-1]).maps["bank"].rows))
    table = ukemi.check_many(files)
    print(table[["level", "finish", "stuck", "steps"]].to_string(index=False))
    stages = "".join(
        f"  part-{n}: {{file: {file.name}, brings: [tally]}}\n" for n, file in enumerate(files, 1)
    )
    whole = folder / "along-the-embankment.yaml"
    whole.write_text(CAMPAIGN.format(levels=stages.rstrip()), encoding="utf-8")
    print(ukemi.check(whole))


if __name__ == "__main__":
    if len(sys.argv) > 1:
        Path(sys.argv[1]).mkdir(parents=True, exist_ok=True)
        main(Path(sys.argv[1]))
    else:
        with tempfile.TemporaryDirectory() as scratch:
            main(Path(scratch))
