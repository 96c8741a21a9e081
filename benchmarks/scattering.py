"""How long it takes to place keys anew so that the level holds, beside drawing until one does.

Run ``python benchmarks/scattering.py``. Each row is a level of 24 rooms whose ten spent keys are
scattered over all of them, some ways one-way: of 10, 3 or 1 kinds. Drawing whole placements until one
holds is timed on the same levels; where it takes too long, the share that holds is an estimate of how
long it would.
"""

import statistics
from random import Random
from time import perf_counter

import ukemi
from ukemi.scattering import Scatterer

ROOMS, KEYS, LEVELS, PATIENCE = 24, 10, 5, 20.0


def cave(kinds: int, seed: int) -> ukemi.Level:
    """24 rooms, ten of them behind doors that spend keys of some kinds, a few drops back."""
    random = Random(seed)
    level = ukemi.Level(f"{kinds} kinds, seed {seed}")
    for kind in range(kinds):
        level.item(f"key-{kind}", use="spent")
    for room in range(ROOMS):
        level.room(f"room-{room}")
    locked = sorted(random.sample(range(1, ROOMS), KEYS))
    for room in range(1, ROOMS):
        way = f"room-{max(0, room - 1 - int(random.expovariate(0.4)))} <-> room-{room}"
        if room in locked:
            key = f"key-{locked.index(room) % kinds}"
            level.passage(way, lock=key, name=f"door-{room}")
            level.put("room-0", key)
        else:
            level.passage(way)
        if room > 3 and random.random() < 0.25:
            level.passage(f"room-{room} -> room-{random.randrange(max(0, room - 8), room)}")
    level.set_start("room-0")
    level.set_goal(f"room-{ROOMS - 1}")
    level.scatter("keys", items=[f"key-{kind}" for kind in range(kinds)])
    return level


def until_it_holds(level: ukemi.Level) -> tuple[int, int, float]:
    """Whole placements drawn, those that held, and the seconds it took: until one does, or for long."""
    scatterer = Scatterer(level)
    draws, random = scatterer.draws, Random(1)
    began, drawn = perf_counter(), 0
    while perf_counter() - began < PATIENCE:
        drawn += 1
        placed = draws.drawn_whole(random)
        if placed is not None and scatterer.check(placed).exit_code() == 0:
            return drawn, 1, perf_counter() - began
    return drawn, 0, perf_counter() - began


def main() -> None:
    """Print a row for each level."""
    print(f"{ROOMS} rooms, {KEYS} spent keys, {LEVELS} levels written from each; seconds for one")
    print(f"{'':20}{'median':>8}{'most':>8}{'tried':>8}{'  until one holds'}")
    for kinds in (10, 3, 1):
        for seed in range(1, 6):
            level = cave(kinds, seed)
            seconds, tried = [], 0
            began = perf_counter()
            for one in ukemi.scatter(level, count=LEVELS, seed=1):
                seconds.append(perf_counter() - began)
                tried += one.tried
                began = perf_counter()
            drawn, held, whole = until_it_holds(level)
            luck = f"{whole:>6.1f} s" if held else f"none in {drawn:,} of {whole:.0f} s"
            row = f"{statistics.median(seconds):>8.2f}{max(seconds):>8.2f}{tried / LEVELS:>8.1f}"
            print(f"{level.name:20}{row}  {luck}")


if __name__ == "__main__":
    main()
