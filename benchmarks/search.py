"""How a check grows with the size of a level: beside the plain search, and SPIN with the same rules.

Run ``python benchmarks/search.py`` (Debian's ``spin`` and ``gcc`` for the last columns); with names of
families after it, just those; ``--seed N`` draws other levels of the designed family; ``--small`` takes the
smallest of each, and fails if an answer is missing. Each level is checked with every question asked. ``finish`` is the time
to tell who can finish and who can get stuck. The plain search is cut short at 300,000 positions, SPIN
after 20 seconds; what was cut short is marked ``>``. Ratios are within one run, on one machine.
"""

from __future__ import annotations

import gc
import os
import platform
import shutil
import statistics
import sys
from collections.abc import Callable
from time import perf_counter

import ukemi
from families import (
    chain,
    designed,
    drops,
    fork,
    hall,
    hands,
    hub,
    late_choice,
    ring,
    switches,
    tower,
    year,
)
from promela import run_spin
from ukemi.checks import Answer
from ukemi.questions import can_finish, get_stuck
from ukemi.questions.evidence import gather
from ukemi.rules import compile_level
from ukemi.spaces import Limits, explore

PLAIN, SPIN, ALLOWED = 300_000, 20.0, 60.0

#: Each family with its sizes, and whether SPIN is asked for all of its positions too.
FAMILIES: dict[str, tuple[Callable[[int], ukemi.Level], tuple[int, ...]]] = {
    "hall": (hall, (5, 20, 60, 200)),
    "chain": (chain, (30, 100, 1_000, 5_000)),
    "late-choice": (late_choice, (30, 100, 400)),
    "hub": (hub, (12, 24, 60)),
    "hub-not-alike": (lambda n: hub(n, alike=False), (12, 24, 60)),
    "drops": (drops, (3, 10, 30)),
    "ring": (ring, (12, 20, 30)),
    "switches": (switches, (8, 10, 14)),
    "hands": (hands, (1, 2, 3)),
    "year": (year, (2, 4, 8, 16)),
    "fork": (fork, (6, 12)),
}

#: The realistic family: rooms and players, and how many levels of that size.
DESIGNED = {(10, 1): 10, (20, 1): 10, (40, 1): 10, (80, 1): 6, (160, 1): 2}
#: The same for several players.
DESIGNED |= {(10, 2): 10, (8, 3): 10, (40, 2): 4}


def timed(work: Callable[[], object]) -> tuple[float, object]:
    """How long some work takes, in seconds, and what it gives."""
    began = perf_counter()
    result = work()
    return perf_counter() - began, result


def first_answers(level: ukemi.Level) -> tuple[Answer, Answer]:
    """Who can finish and who can get stuck, and nothing else."""
    context = gather(level, Limits(seconds=ALLOWED).begin())
    return can_finish.possible(context), get_stuck.ask(context).answer


def compare(level: ukemi.Level, with_spin: bool) -> None:
    """Print one line of the table."""
    rules = compile_level(level)
    plain_time, plain = timed(lambda: explore(rules, Limits(PLAIN, 30)))
    first, _ = timed(lambda: first_answers(level))
    ours, report = timed(lambda: ukemi.check(level, max_seconds=ALLOWED))
    assert isinstance(report, ukemi.Report)
    cut = "" if plain.complete else ">"  # type: ignore[attr-defined]
    print(
        f"{level.name:<22} {cut + format(len(plain.positions), ','):>9} {plain_time:>7.2f} "  # type: ignore[attr-defined]
        f"{report.search.positions:>9.2g} {first:>7.2f} {ours:>7.2f} {how_settled(report):<8}"
        + (spin_words(level, report) if with_spin else ""),
        flush=True,
    )


def how_settled(report: ukemi.Report) -> str:
    """How much of a report is proven, in a word."""
    first = report.answers.finish.proven and report.answers.stuck.proven
    return "all" if report.search.complete else "first" if first else "not"


def spin_words(level: ukemi.Level, report: ukemi.Report) -> str:
    """What SPIN takes for the finish, its building counted; it must agree."""
    seconds, found = timed(lambda: run_spin(compile_level(level), SPIN, everything=False))
    if found is None:
        return "    > 20 s or memory"
    assert found.finishes == (report.answers.finish == "yes")  # type: ignore[attr-defined]
    return f" {seconds:>8.1f}"


def as_designed(with_spin: bool, sizes: dict[tuple[int, int], int], begin: int) -> None:
    """Print how levels as designers build them fare, size by size."""
    print("\nAs designers build them")
    for (rooms, players), count in sizes.items():
        allowed = ALLOWED if rooms < 80 else 180.0
        times, settled, first = [], 0, 0
        for seed in range(begin, begin + count):
            level = designed(rooms, seed, players)
            seconds, report = timed(
                lambda level=level, allowed=allowed: ukemi.check(level, max_seconds=allowed)  # type: ignore[misc]
            )
            times.append(seconds)
            word = how_settled(report)  # type: ignore[arg-type]
            settled += word == "all"
            first += word != "not"
            by_spin = with_spin and players == 1 and seed < begin + 3
            spin = spin_words(level, report) if by_spin else ""  # type: ignore[arg-type]
            print(f"  {level.name:<31} {seconds:>7.2f} s  {word}{spin}", flush=True)
        print(
            f"{rooms:>4} rooms, {players} to play: all settled in {settled} of {count}, finish and stuck in {first}; "
            f"median {statistics.median(times):.2f} s, most {max(times):.2f} s",
            flush=True,
        )


def small() -> None:
    """Check the smallest level of each family, and some as designers build them: all must be settled."""
    levels = [family(sizes[0]) for family, sizes in FAMILIES.values()]
    levels += [designed(rooms, seed) for rooms in (10, 20, 40) for seed in range(2)]
    levels += [designed(rooms, 0, players) for rooms, players in ((10, 2), (8, 3))]
    for level in levels:
        seconds, report = timed(lambda level=level: ukemi.check(level))  # type: ignore[misc]
        word = how_settled(report)  # type: ignore[arg-type]
        print(f"{level.name:<22} {seconds:>7.2f} s  {word}", flush=True)
        if word != "all":
            raise SystemExit(f"{level.name}: not every question was answered")


def main(wanted: list[str]) -> None:
    """Print the tables."""
    begin = 0
    if "--seed" in wanted:
        at = wanted.index("--seed")
        begin = int(wanted[at + 1])
        wanted = wanted[:at] + wanted[at + 2 :]
    gc.set_threshold(200_000, 20, 20)  # as the command does
    with_spin = shutil.which("spin") is not None and shutil.which("gcc") is not None
    print(f"{platform.machine()}, {os.cpu_count()} processors, Python {platform.python_version()}")
    head = (
        f"{'level':<22} {'plain':>9} {'s':>7} {'positions':>9} {'finish':>7} {'all s':>7} settled "
    )
    print(head + (" SPIN s" if with_spin else ""))
    for name, (family, sizes) in FAMILIES.items():
        if not wanted or name in wanted:
            for size in sizes:
                compare(family(size), with_spin)
    if not wanted or "map" in wanted:
        level = tower()
        seconds, report = timed(lambda: ukemi.check(level))
        print(f"{level.name}: {seconds:.2f} s, {how_settled(report)}")  # type: ignore[arg-type]
    if not wanted or "designed" in wanted:
        as_designed(with_spin, DESIGNED, begin)


if __name__ == "__main__":
    small() if "--small" in sys.argv else main(sys.argv[1:])
