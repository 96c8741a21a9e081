"""How long a large tile map takes to read, cut, compile and draw, beside labelling its floor once.

Run ``python benchmarks/maps.py``.
"""

import statistics
from collections.abc import Callable
from random import Random
from time import perf_counter

from ukemi.bits import bits_of
from ukemi.draw import draw_map
from ukemi.language import loads
from ukemi.level.maps.cell_sets import regions
from ukemi.rules import compile_level

SIDE, DOORS, KEYS, CHESTS = 300, 40, 40, 20
ROUNDS = 3


def large_map(seed: int = 1) -> tuple[str, int]:
    """A level on one square floor of walled strips, and the set of its floor's cells."""
    random = Random(seed)
    rows = [["." for _ in range(SIDE)] for _ in range(SIDE)]
    for n in range(SIDE):
        rows[0][n] = rows[-1][n] = rows[n][0] = rows[n][-1] = "#"
    symbols = [chr(0x100 + n) for n in range(DOORS)]
    keys = [chr(0x200 + n) for n in range(KEYS)]
    chests = [chr(0x300 + n) for n in range(CHESTS)]
    strip = (SIDE - 2) // (DOORS + 1)
    for n, symbol in enumerate(symbols):
        column = (n + 1) * strip
        for row in range(1, SIDE - 1):
            rows[row][column] = "#"
        rows[random.randrange(1, SIDE - 1)][column] = symbol
    for n, symbol in enumerate(keys):
        rows[random.randrange(1, SIDE - 1)][n * strip + random.randrange(1, strip)] = symbol
    placed = 0
    while placed < CHESTS:
        row, column = random.randrange(2, SIDE - 2), random.randrange(2, SIDE - 2)
        if rows[row][column] == ".":
            rows[row][column] = chests[placed]
            placed += 1
    rows[1][1], rows[-2][-2] = "@", "Z"
    lines = [
        "goal: far",
        "items:",
        *(f"  key-{n}: {{}}" for n in range(KEYS)),
        "  gem: {}",
        "legend:",
    ]
    lines += [f'  "{one}": {{lock: key-{n}, name: door-{n}}}' for n, one in enumerate(symbols)]
    lines += [f'  "{one}": {{item: key-{n}}}' for n, one in enumerate(keys)]
    lines += [
        f'  "{one}": {{chest: {{name: chest-{n}, holds: gem}}}}' for n, one in enumerate(chests)
    ]
    lines += ["  Z: {room: far}", "maps:", "  hall: |"]
    lines += ["    " + "".join(row) for row in rows]
    cells = (symbol for row in rows for symbol in row)
    floor = bits_of((n for n, symbol in enumerate(cells) if symbol != "#"), SIDE * SIDE)
    return "\n".join(lines) + "\n", floor


def median(work: Callable[[], object]) -> float:
    """The median time of a call, in seconds."""
    times = []
    for _ in range(ROUNDS):
        began = perf_counter()
        work()
        times.append(perf_counter() - began)
    return statistics.median(times)


def main() -> None:
    """Print a table of medians and ratios."""
    text, floor = large_map()
    level = loads(text)
    print(f"{SIDE} x {SIDE} cells, {DOORS} doors, {KEYS} keys, {CHESTS} chests: {level}")
    base = median(lambda: list(regions(floor, SIDE)))
    rows = (
        ("label the floor once", base),
        ("read and cut into rooms", median(lambda: loads(text))),
        ("compile", median(lambda: compile_level(level))),
        ("draw", median(lambda: draw_map(level))),
    )
    print(f"{'':30}{'ms':>10}{'ratio':>9}")
    for name, seconds in rows:
        print(f"{name:30}{seconds * 1000:>10.1f}{seconds / base:>9.1f}")


if __name__ == "__main__":
    main()
