"""How long reading and compiling a large level takes, beside parsing its YAML alone.

Run ``python benchmarks/reading.py``. The aim: well under twice the time PyYAML's C loader takes to
parse the same text into nodes.
"""

import gc
import statistics
from random import Random
from time import perf_counter

import yaml

from ukemi.language import loads
from ukemi.rules import compile_level

ROOMS, PASSAGES, ITEMS = 1_000, 2_000, 500
ROUNDS = 15


def large_level(seed: int = 1) -> str:
    """The text of a level with many rooms, passages and items."""
    random = Random(seed)
    lines = [
        "ukemi: 1",
        "name: The Great Mill",
        "start: room-0",
        f"goal: room-{ROOMS - 1}",
        "items:",
    ]
    for number in range(ITEMS):
        use = random.choice(["spent", "kept"])
        lines.append(f"  key-{number}: {{kind: key, use: {use}, color: slategray}}")
    lines += ["locks:", "  sluice: {needs: key-0}", "rooms:"]
    for number in range(ROOMS):
        held = f"key-{number % ITEMS}"
        lines.append(
            f"  room-{number}: {{items: [{held}]}}" if number % 2 else f"  room-{number}: {{}}"
        )
    lines.append("passages:")
    for number in range(PASSAGES):
        a = f"room-{number % ROOMS}"
        b = f"room-{(number + 1) % ROOMS if number < ROOMS else random.randrange(ROOMS)}"
        arrow = random.choice(["<->", "<->", "->"])
        if number % 2:
            key = "sluice" if number % 20 == 1 else f"key-{random.randrange(ITEMS)}"
            lines.append(f"  - {a} {arrow} {b}: {{lock: {key}, name: door-{number}}}")
        else:
            lines.append(f"  - {a} {arrow} {b}")
    return "\n".join(lines) + "\n"


def timed(work: object) -> float:
    """Seconds a call takes."""
    assert callable(work)
    gc.collect()
    began = perf_counter()
    work()
    return perf_counter() - began


def main() -> None:
    """Print a table of medians and ratios, each pair measured in turn."""
    text = large_level()
    parse, read, both = [], [], []
    for _ in range(ROUNDS):
        parse.append(timed(lambda: yaml.compose(text, Loader=yaml.CSafeLoader)))
        read.append(timed(lambda: loads(text)))
        both.append(timed(lambda: compile_level(loads(text))))
    print(f"{ROOMS:,} rooms, {PASSAGES:,} passages, {ITEMS} items, {len(text):,} characters")
    print(f"{'':28}{'ms':>8}{'ratio':>8}")
    base = statistics.median(parse)
    rows = (("parse into nodes (PyYAML, C)", parse), ("read", read), ("read and compile", both))
    for name, seconds in rows:
        ratios = [one / other for one, other in zip(seconds, parse, strict=True)]
        print(
            f"{name:28}{statistics.median(seconds) * 1000:>8.1f}{statistics.median(ratios):>8.2f}"
        )
    assert base > 0


if __name__ == "__main__":
    main()
