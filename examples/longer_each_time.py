"""Levels that a program makes, each longer than the last: barges moored along the tide race.

Planks join the barges, and a lock gate stands between every third pair. The windlass that opens all gates
lies in a chest, and a pin opens the chest. Both are scattered. What is collected goes on to the next level.

Run it as it stands: ``python examples/longer_each_time.py``; a folder after it keeps the levels.
"""

import sys
import tempfile
from pathlib import Path
from random import Random

import ukemi

LEVEL = """\
# Made by a program: {barges} barges.
ukemi: 1
name: {barges} barges
goal: windlass and at the-towpath
items:
  pin: {{kind: key, use: spent}}
  windlass: {{kind: tool}}
  toll: {{kind: supply, max: 99}}
maps:
  race: |
    {north}
    {middle}
    {south}
legend:
  p: {{item: pin}}
  C: {{chest: {{name: locker, lock: pin, holds: [windlass], solid: false}}}}
  G: {{lock: windlass}}
  t: {{item: toll}}
  T: {{room: the-towpath}}
scatter:
  finds:
    items: [pin]
    chests: [locker]
    into: floor of race from 2,1 to {last},3
    apart: {apart}
"""

CAMPAIGN = """\
ukemi: 1
campaign: Along the Tide Race
levels:
{levels}
"""


def barges(number: int, random: Random) -> str:
    """The text of a level: decks of three rows, and planks or lock gates between them."""
    rows = ["", "", ""]
    first_gate = number // 2
    for barge in range(number):
        width = random.randint(2, 4)
        deck = [["."] * width for _ in rows]
        if random.random() < 0.6:
            deck[random.randrange(3)][random.randrange(width)] = "t"
        for row, cells in enumerate(deck):
            rows[row] += "".join(cells)
        joint = "G" if barge >= first_gate and barge % 3 == 0 else "."
        plank = random.randrange(3)
        for row in range(3):
            rows[row] += joint if row == plank else " "
    rows = [row + ".." for row in rows]
    rows[0] = "pC" + rows[0][2:]
    rows[1] = "@" + rows[1][1:-1] + "T"
    drawn = dict(zip(("north", "middle", "south"), (f"#{row}#" for row in rows), strict=True))
    length = len(drawn["north"])
    return LEVEL.format(barges=number, last=length // 2, apart=length // 8, **drawn)


def main(folder: Path) -> None:
    """Make three levels, scatter, check and draw each, and join them to a campaign."""
    files = []
    for number in (6, 9, 12):
        level = ukemi.loads(barges(number, Random(number)))
        scattered = next(iter(ukemi.scatter(level, seed=number)))
        files.append(folder / f"barges-{number}.yaml")
        ukemi.save(scattered.level, files[-1])
        ukemi.draw_map(scattered.level, files[-1].with_suffix(".png"))
        where = ", ".join(f"{thing} at {spot}" for thing, spot in scattered.where)
        steps = scattered.report.answers.measures.finish.steps
        print(f"{level.name}: {steps} steps; {where} ({scattered.tried} placements tried)")
        print("\n".join(ukemi.load(files[-1]).maps["race"].rows))
    stages = "".join(
        f"  part-{n}: {{file: {file.name}, brings: [toll]}}\n" for n, file in enumerate(files, 1)
    )
    whole = folder / "along-the-tide-race.yaml"
    whole.write_text(CAMPAIGN.format(levels=stages.rstrip()), encoding="utf-8")
    print(ukemi.check(whole))


if __name__ == "__main__":
    if len(sys.argv) > 1:
        Path(sys.argv[1]).mkdir(parents=True, exist_ok=True)
        main(Path(sys.argv[1]))
    else:
        with tempfile.TemporaryDirectory() as scratch:
            main(Path(scratch))
