"""Checking several levels at a time, in processes of their own."""

from __future__ import annotations

import os
import signal
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import replace
from functools import partial
from multiprocessing import get_context
from multiprocessing.sharedctypes import Synchronized

from ..level import LevelError, Problem
from ..search import Limits
from ..search.limits import Deadline
from .checking import Asking, Checked, check_file

Work = Callable[[str], Checked]

#: Set where Ctrl-C was pressed: every process ends its searches and tells what is proven.
_stopped: Synchronized[int] | None = None


class SharedDeadline(Deadline):
    """When a search ends at the latest, or as soon as the command is told to stop."""

    @property
    def over(self) -> bool:
        """Whether the time has come."""
        return bool(_stopped is not None and _stopped.value) or super().over


def check_parallel(
    levels: list[str],
    limits: Limits,
    asking: Asking,
    jobs: int,
    shown: Callable[[Iterable[Checked], int], Iterator[Checked]],
) -> Iterator[Checked]:
    """Check levels in several processes; one that dies costs the level it was at, and no other.

    Args:
        levels: The level files.
        limits: How far each search may go; they share the memory.
        asking: What is asked of them.
        jobs: How many processes, at the most: no more than there are levels or processors.
        shown: Goes through the results and shows how far it is.

    Yields:
        The reports and errors, in the order of the levels.
    """
    jobs = max(1, min(jobs, len(levels), os.cpu_count() or 1))
    memory = None if limits.memory is None else limits.memory // jobs
    work = partial(_check, limits=replace(limits, memory=memory), asking=asking)
    stopped = get_context().Value("b", 0)

    def stop(number: int, frame: object) -> None:
        stopped.value = 1
        signal.signal(signal.SIGINT, signal.default_int_handler)

    before = signal.signal(signal.SIGINT, stop)
    try:
        yield from shown(_in_order(levels, work, jobs, stopped), len(levels))
    finally:
        signal.signal(signal.SIGINT, before)


def _check(file: str, limits: Limits, asking: Asking) -> Checked:
    limits = replace(limits, deadline=SharedDeadline(limits.seconds))
    return check_file(file, limits, asking)


def _begin(stopped: Synchronized[int]) -> None:
    """Prepare a process: Ctrl-C goes to all of them, and the first one is told of it."""
    global _stopped
    _stopped = stopped
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGTERM, signal.SIG_DFL)


def _in_order(
    levels: list[str], work: Work, jobs: int, stopped: Synchronized[int]
) -> Iterator[Checked]:
    """The results one by one; after a process has died, by new ones from where it left off."""
    done = 0
    alone = False  # whether to find out which level it is that a process dies of
    while done < len(levels):
        pool = ProcessPoolExecutor(1 if alone else jobs, initializer=_begin, initargs=(stopped,))
        try:
            batch = levels[done : done + 1] if alone else levels[done:]
            waiting: list[Future[Checked]] = [pool.submit(work, level) for level in batch]
            for future in waiting:
                yield future.result()
                done += 1
            alone = False
        except BrokenProcessPool:
            if alone:
                message = "the process that checked this level died"
                yield LevelError([Problem("syntax", message)], levels[done])
                done += 1
            alone = not alone
        except BaseException:
            for process in list((pool._processes or {}).values()):
                process.kill()  # nobody waits for them any more
            raise
        finally:
            pool.shutdown(wait=False, cancel_futures=True)
