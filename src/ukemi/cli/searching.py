"""A long search at the command line: how far it may go, how far it is, and how to stop it."""

from __future__ import annotations

import os
import re
import signal
import sys
import threading
from _thread import interrupt_main
from collections.abc import Iterator
from contextlib import contextmanager
from time import perf_counter
from types import FrameType
from typing import Annotated

import typer

from ..bulk.memory import memory_kept, taken
from ..spaces import Limits
from ..spaces.limits import Deadline
from .output import fail

MaxMemory = Annotated[
    str | None,
    typer.Option(
        help="Take no more memory than this, such as 500M or 2G; half of what is free if not said.",
        metavar="SIZE",
    ),
]

_UNITS = {"": 1, "K": 1 << 10, "M": 1 << 20, "G": 1 << 30}


def memory_limit(text: str | None) -> int:
    """The bytes that a size such as ``2G`` stands for; where none is given, half of what is free.

    Raises:
        ValueError: It is no size.

    Example:
        >>> memory_limit("1.5G")
        1610612736
    """
    if text is None:
        try:
            free = os.sysconf("SC_AVPHYS_PAGES") * os.sysconf("SC_PAGE_SIZE")
        except (ValueError, OSError, AttributeError):  # a system that does not tell
            free = 2 * _UNITS["G"]
        return taken() + free // 2
    found = re.fullmatch(r"([0-9]{1,9}(?:\.[0-9]{1,9})?)([KMG]?)B?", text.strip().upper())
    if not found or not float(found[1]):
        raise ValueError(f"--max-memory {text}: write a size, such as 500M or 2G")
    return int(float(found[1]) * _UNITS[found[2]])


def limits_of(positions: int, seconds: float | None, memory: str | None) -> Limits:
    """The limits that the options of a command say; a size that is none ends it with a message."""
    try:
        return Limits(positions, seconds, memory_limit(memory))
    except ValueError as error:
        fail(str(error))


@contextmanager
def searching(limits: Limits) -> Iterator[Limits]:
    """Limits for a search that shows how far it is, and that Ctrl-C stops.

    Ctrl-C ends the search as the end of its time does: what is proven is told. Pressed again, it
    ends the command. So does memory: beside what the search reckons with, it is looked at what the
    program really takes, where the system tells.

    Args:
        limits: How far the search may go.

    Yields:
        The limits, with all that.
    """
    deadline = Deadline(limits.seconds)
    watch = _Watch()

    def stop(number: int, frame: FrameType | None) -> None:
        print("\nstopping: what is proven so far is told (Ctrl-C again to leave)", file=sys.stderr)
        deadline.stop()
        signal.signal(signal.SIGINT, signal.default_int_handler)

    before = signal.signal(signal.SIGINT, stop)
    try:
        with memory_kept(limits.memory, deadline):
            yield Limits(limits.positions, limits.seconds, limits.memory, deadline, watch.show)
    finally:
        signal.signal(signal.SIGINT, before)
        watch.clear()


@contextmanager
def within(seconds: float | None, what: str) -> Iterator[None]:
    """Do some work that is no search, and end the command with a message if it takes too long.

    Args:
        seconds: The most seconds it may take; ``None`` for any number.
        what: The work, as the message names it.
    """

    def stop(number: int, frame: FrameType | None) -> None:
        fail(f"{what} takes more than {seconds:g} s; raise --max-seconds")

    if seconds is None:
        yield
        return
    before = signal.signal(signal.SIGINT, stop)
    timer = threading.Timer(seconds, interrupt_main)
    timer.daemon = True
    timer.start()
    try:
        yield
    finally:
        timer.cancel()
        signal.signal(signal.SIGINT, before)


class _Watch:
    """Shows the progress of a long search in one line, on a terminal."""

    def __init__(self) -> None:
        self._began = self._shown = perf_counter()
        self._on = sys.stderr.isatty()
        self._wide = 0

    def show(self, done: int, what: str, waiting: int) -> None:
        now = perf_counter()
        if not self._on or now - self._shown < 0.5:
            return
        self._shown = now
        rate = done / (now - self._began)
        line = f"{done:,} {what}, {waiting:,} waiting, {rate:,.0f} a second"
        print(f"\r{line:<{self._wide}}", end="", file=sys.stderr, flush=True)
        self._wide = len(line)

    def clear(self) -> None:
        if self._wide:
            print(f"\r{'':<{self._wide}}\r", end="", file=sys.stderr, flush=True)
