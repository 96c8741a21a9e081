"""How searches grow with the size of a level: ours, the plain one, and SPIN, side by side.

Run ``python benchmarks/search.py`` (Debian's ``spin`` and ``gcc`` for the last columns). Each family
is checked at growing sizes, every question asked. The plain search is cut short at 300,000
positions, SPIN after 20 seconds; what was cut short is marked ``>``. Where all three see every
position, they must agree on how many there are and on whether the level can be finished.
"""

from __future__ import annotations

import gc
import shutil
import subprocess
import sys
from collections.abc import Callable
from time import perf_counter

import numpy as np
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import breadth_first_order

import ukemi
from families import chain, drops, hall, hands, hub, late_choice, switches, tower
from promela import run_spin
from ukemi.checks.case import Case
from ukemi.checks.check import QUICK
from ukemi.checks.parts import PartCases
from ukemi.rules import compile_level
from ukemi.search import MAX_POSITIONS, Limits, explore
from ukemi.search.fast import explore_fast
from ukemi.search.packed.explore import PackedSearch

PLAIN, SPIN = 300_000, 20.0

FAMILIES: list[tuple[Callable[[int], ukemi.Level], tuple[int, ...]]] = [
    (hall, (5, 20, 60, 200)),
    (chain, (30, 100, 300, 1_000)),
    (late_choice, (30, 100, 400)),
    (hub, (6, 12, 24, 60)),
    (drops, (3, 10, 30, 100)),
    (switches, (6, 8, 10)),
]


def timed(work: Callable[[], object]) -> tuple[float, object]:
    """How long some work takes, in seconds, and what it gives."""
    began = perf_counter()
    result = work()
    return perf_counter() - began, result


def first_answers(level: ukemi.Level) -> tuple[object, object]:
    """Whether a level can be finished, and whether anyone can get stuck, and nothing else."""
    case = Case(level, Limits(1))
    parts = PartCases(case, Limits().begin())
    if not parts.free.plainly:
        found = explore_fast(case.rules, Limits().begin(), QUICK)
        if found is not None and found.complete:
            whole = Case(level, rules=case.rules, found=found)
            return whole.finish, whole.stuck
    assert parts.settled
    if parts.free.all_is_free == "yes":
        return bool(parts.free.regions.finished), "never"
    return parts.goal.finish, parts.goal.stuck


def compare(level: ukemi.Level, with_spin: bool) -> None:
    """Print one line of the table."""
    rules = compile_level(level)
    plain_time, plain = timed(lambda: explore(rules, Limits(PLAIN)))
    ours, report = timed(lambda: ukemi.check(level))
    first, _ = timed(lambda: first_answers(level))
    answers = report.answers  # type: ignore[attr-defined]
    cut = "" if plain.complete else ">"  # type: ignore[attr-defined]
    known = "all" if report.search.complete else "not all"  # type: ignore[attr-defined]
    line = (
        f"{level.name:<14} {cut + format(len(plain.positions), ','):>10} {plain_time:>8.2f} "  # type: ignore[attr-defined]
        f"{first:>8.2f} {ours:>8.2f}  {answers.finish}/{answers.stuck:<9} {known:<8}"
    )
    if with_spin:
        spin = run_spin(rules, SPIN, everything=True)
        one = run_spin(rules, SPIN, everything=False)
        if spin is None:
            line += "  > 20 s or memory"
        else:
            line += f" {spin.states:>10,} {spin.building:>6.1f} {spin.running:>6.1f}"
        if one is not None:
            assert one.finishes == (answers.finish == "yes")
    print(line, flush=True)


def rates() -> None:
    """Positions a second and memory of the packed search, beside the plain one, best of three."""
    print("\nPositions a second: the packed search beside the plain one")
    # As many positions as a check looks at if not told otherwise; and five times as many, of which
    # a processor has a smaller part close by.
    every = (switches(14), hands(1), hands(3))
    for level, most in (*((level, MAX_POSITIONS) for level in every), (every[0], 5_000_000)):
        rules = compile_level(level)
        plain_rate = rate = 0.0
        for _ in range(3):  # in turn, so that what else the machine does slows down both
            time, plain = timed(lambda rules=rules: explore(rules, Limits(100_000)))  # type: ignore[misc]
            plain_rate = max(plain_rate, len(plain.positions) / time)  # type: ignore[attr-defined]
            search = PackedSearch(rules, keep_moves=False)
            time, _none = timed(lambda search=search, most=most: search.go(Limits(most)))  # type: ignore[misc]
            rate = max(rate, search.table.count / time)
        print(
            f"{level.name:<14} {search.table.count:>9,} positions: plain {plain_rate:>9,.0f}/s   packed {rate:>10,.0f}/s   "
            f"{rate / plain_rate:>5.1f} times   {search.bytes / search.table.count:.0f} bytes a position"
        )


def start_up() -> float:
    """How long the command takes to do nothing, in seconds; the best of five."""
    command = [sys.executable, "-m", "ukemi", "--version"]
    return min(
        timed(lambda: subprocess.run(command, check=True, capture_output=True))[0] for _ in range(5)
    )


def against_graph_search(n: int, starting: float) -> None:
    """Finish and stuck of a chain, beside twenty breadth-first searches of as large a graph."""
    level = chain(n)
    first = float("inf")
    for _ in range(3):  # each time with new rules, of which nothing is known
        rules = compile_level(level)
        parts = PartCases(Case(level, Limits(1), rules), Limits(positions=1).begin())
        first = min(first, timed(lambda parts=parts: parts.settled)[0])  # type: ignore[misc]
    ends = np.arange(n - 1)
    graph = csr_matrix((np.ones(n - 1), (ends, ends + 1)), shape=(n, n))
    bare = min(timed(lambda: breadth_first_order(graph, 0, directed=False))[0] for _ in range(3))
    print(
        f"chain of {n:>6,}: {first:.3f} s, {first / (20 * bare + starting):.2f} times twenty graph "
        f"searches ({bare:.5f} s each) and our start-up ({starting:.2f} s)"
    )


def main() -> None:
    """Print the tables."""
    gc.set_threshold(200_000, 20, 20)  # as the command does
    with_spin = shutil.which("spin") is not None and shutil.which("gcc") is not None
    head = f"{'level':<14} {'positions':>10} {'plain s':>8} {'first s':>8} {'all s':>8}  finish/stuck    proven  "
    print(head + ("SPIN states  build    run" if with_spin else ""))
    for family, sizes in FAMILIES:
        for size in sizes:
            compare(family(size), with_spin)
    level = tower()
    seconds, report = timed(lambda: ukemi.check(level))
    print(f"{level.name}: {seconds:.2f} s, proven: {report.search.complete}")  # type: ignore[attr-defined]
    rates()
    print()
    starting = start_up()
    for n in (100, 1_000, 5_000):
        against_graph_search(n, starting)


if __name__ == "__main__":
    sys.exit(main())
