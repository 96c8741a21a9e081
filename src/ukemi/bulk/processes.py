"""Check or scatter several levels at a time, in processes of their own."""

from __future__ import annotations

import os
import signal
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ProcessPoolExecutor, as_completed
from concurrent.futures.process import BrokenProcessPool
from contextlib import AbstractContextManager, contextmanager
from copy import copy
from dataclasses import replace
from functools import partial
from multiprocessing import get_context
from multiprocessing.sharedctypes import Synchronized
from typing import Any, TypeVar

from ..level import Level, LevelError, Problem
from ..scattering import Draw, Scatterer
from ..spaces import Limits
from ..spaces.limits import Deadline
from .checking import Asking, Checked, Given, check_file
from .memory import memory_kept, taken

Item = TypeVar("Item")
Result = TypeVar("Result")

#: Each of several processes gets at least this many bytes: enough for small levels.
LITTLE = 4 << 20

#: Set by Ctrl-C: every process then ends its searches and reports the answers proven so far.
_stopped: Synchronized[int] | None = None
#: The memory that this process took as it began, mostly shared with the one that began it.
_begun_with = 0
#: The generator that this process places levels with.
_scatterer: Scatterer | None = None


class SharedDeadline(Deadline):
    """A deadline that also passes if the command is interrupted."""

    @property
    def over(self) -> bool:
        """Whether the time has come."""
        return bool(_stopped is not None and _stopped.value) or super().over


def check_parallel(
    levels: Sequence[Given],
    limits: Limits,
    asking: Asking,
    jobs: int,
    on_result: Callable[[int, Checked], None] | None = None,
) -> Iterator[Checked]:
    """Check levels in several processes; a process that dies loses only the level that it was checking.

    Args:
        levels: The levels, or the names of their files.
        limits: How far each search may go; they share the memory.
        asking: The options of each check.
        jobs: The greatest number of processes: no more than there are levels or processors.
        on_result: Called with the number of a level and its result, as soon as that is there: a slow level holds up no
            other.

    Yields:
        The reports and errors, in the order of the levels.
    """
    jobs = _processes(jobs, len(levels))
    work = partial(_check, limits=_part(limits, jobs), asking=asking)
    with _stopping() as stopped:
        yield from _in_order(levels, work, _died, jobs, stopped, on_result)


def draw_parallel(scatterer: Scatterer, numbers: list[int], jobs: int) -> Iterator[Draw]:
    """Scatter levels in several processes; the result is the same as with one.

    Args:
        scatterer: Draws them.
        numbers: Which.
        jobs: The greatest number of processes.

    Yields:
        The result for each number, in order.
    """
    jobs = _processes(jobs, len(numbers))
    plain = copy(scatterer)
    plain.limits = replace(_part(scatterer.limits, jobs), deadline=None, watch=None)
    with _stopping(scatterer.limits.deadline) as stopped:
        yield from _in_order(numbers, partial(_draw, plain), lambda _: Draw(None, 0), jobs, stopped)


def _processes(jobs: int, items: int) -> int:
    return max(1, min(jobs, items, os.cpu_count() or 1))


def _part(limits: Limits, jobs: int) -> Limits:
    """The limits of one of several processes: they share the memory that is not taken already."""
    if limits.memory is None:
        return limits
    return replace(limits, memory=max(limits.memory - taken(), jobs * LITTLE) // jobs)


@contextmanager
def _stopping(also: Deadline | None = None) -> Iterator[Synchronized[int]]:
    """The event that Ctrl-C sets for all processes; a second Ctrl-C ends the command."""
    stopped = get_context().Value("b", 0)

    def stop(number: int, frame: object) -> None:
        stopped.value = 1
        if also is not None:
            also.stop()
        signal.signal(signal.SIGINT, signal.default_int_handler)

    before = signal.signal(signal.SIGINT, stop)
    try:
        yield stopped
    finally:
        signal.signal(signal.SIGINT, before)


def _check(file: Given, limits: Limits, asking: Asking) -> Checked:
    limits = _here(limits)
    with _memory_kept(limits):
        return check_file(file, limits, asking)


def _here(limits: Limits) -> Limits:
    """Limits that also end if the command is interrupted."""
    return replace(limits, deadline=SharedDeadline(limits.seconds))


def _memory_kept(limits: Limits) -> AbstractContextManager[None]:
    assert limits.deadline is not None
    most = None if limits.memory is None else _begun_with + limits.memory
    return memory_kept(most, limits.deadline)


def _died(given: Given) -> Checked:
    file = given.file if isinstance(given, Level) else given
    return LevelError([Problem("syntax", "the process that checked this level died")], file)


def _draw(scatterer: Scatterer, number: int) -> Draw:
    global _scatterer
    if _scatterer is None:  # what is known of the level is kept for the next number
        _scatterer = scatterer
        scatterer.limits = _here(scatterer.limits)
    with _memory_kept(_scatterer.limits):
        return _scatterer.draw(number)


def _begin(stopped: Synchronized[int]) -> None:
    """Prepare a process: Ctrl-C reaches all of them, and the first process reports it."""
    global _stopped, _begun_with
    _stopped, _begun_with = stopped, taken()
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGTERM, signal.SIG_DFL)


def _in_order(
    items: Sequence[Item],
    work: Callable[[Item], Result],
    died: Callable[[Item], Result],
    jobs: int,
    stopped: Synchronized[int],
    on_result: Callable[[int, Result], None] | None = None,
) -> Iterator[Result]:
    """Yield the results in order; report each as soon as it is there."""
    waiting: dict[int, Result] = {}
    following = 0
    for number, result in _as_they_come(items, work, died, jobs, stopped):
        if on_result is not None:
            on_result(number, result)
        waiting[number] = result
        while following in waiting:
            yield waiting.pop(following)
            following += 1


def _as_they_come(
    items: Sequence[Item],
    work: Callable[[Item], Result],
    died: Callable[[Item], Result],
    jobs: int,
    stopped: Synchronized[int],
) -> Iterator[tuple[int, Result]]:
    """Yield the results as they come, each with the number of its item; if a process dies, a new one does the
    rest.
    """
    left = dict.fromkeys(range(len(items)))
    alone: list[
        int
    ] = []  # to be done each in a process of its own, to find out which one it dies of
    while left:
        batch = alone[:1] or list(left)
        pool = ProcessPoolExecutor(1 if alone else jobs, initializer=_begin, initargs=(stopped,))
        try:
            doing: dict[Future[Result], int] = {
                pool.submit(work, items[number]): number for number in batch
            }
            for future in as_completed(doing):
                result = future.result()
                del left[doing[future]]
                yield doing[future], result
            alone = alone[1:]
        except BrokenProcessPool:
            if alone:
                del left[alone[0]]
                yield alone[0], died(items[alone[0]])
                alone = []
            else:  # it was one of those that were begun and are not done: the first of them
                alone = list(left)[: jobs + 1]
        except BaseException:
            manager: Any = pool._executor_manager_thread
            for process in list((pool._processes or {}).values()):
                process.kill()  # nothing waits for them any more
            if manager is not None:
                manager.join(timeout=2)  # at its exit, Python writes to what this thread is closing
            raise
        finally:
            # a process that is waited for has nothing to do any more; waiting for a dead process
            # never ends
            pool.shutdown(wait=not left, cancel_futures=True)
