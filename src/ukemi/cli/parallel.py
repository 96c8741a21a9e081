"""Checking several levels at a time, in processes of their own."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from functools import partial

from ..checks import Report
from ..level import LevelError
from ..search import Limits

#: Levels handed to a process in one go: enough that handing over costs little.
MOST_AT_ONCE = 20

Checked = Report | LevelError


def check_parallel(
    levels: list[str],
    limits: Limits,
    knowing: bool,
    jobs: int,
    shown: Callable[[Iterable[Checked], int], Iterator[Checked]],
) -> Iterator[Checked]:
    """Check levels in several processes.

    Args:
        levels: The level files.
        limits: How far each search may go; they share the memory.
        knowing: Whether to ask again for a player who knows the codes.
        jobs: How many processes.
        shown: Goes through the results and shows how far it is.

    Yields:
        The reports and errors, in the order of the levels.
    """
    from .check import check_file

    memory = None if limits.memory is None else limits.memory // jobs
    work = partial(check_file, limits=replace(limits, memory=memory), knowing=knowing)
    at_once = max(1, min(MOST_AT_ONCE, len(levels) // (4 * jobs)))
    with ProcessPoolExecutor(jobs) as pool:
        yield from shown(pool.map(work, levels, chunksize=at_once), len(levels))
