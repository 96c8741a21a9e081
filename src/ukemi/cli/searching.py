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
from dataclasses import replace
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
        except (ValueError, OSError, AttributeError):  # a system that does not report it
            free = 2 * _UNITS["G"]
        return taken() + free // 2
    found = re.fullmatch(r"([0-9]{1,9}(?:\.[0-9]{1,9})?)([KMG]?)B?", text.strip().upper())
    if not found or not float(found[1]):
        raise ValueError(f"--max-memory {text}: write a size, such as 500M or 2G")
    return int(float(found[1]) * _UNITS[found[2]])


def limits_of(positions: int, seconds: float | None, memory: str | None) -> Limits:
    """The limits that the options of a command say; a malformed size ends the command with a message."""
    try:
        return Limits(positions, seconds, memory_limit(memory))
    except ValueError as error:
        fail(str(error))


#: A log gets a line about a long search at this interval, in seconds.
LOG_EVERY = 20.0


@contextmanager
def searching(limits: Limits) -> Iterator[Limits]:
    """Limits for a search that shows how far it is, and that Ctrl-C stops.

    Ctrl-C ends the search like the time limit does: the proven answers are printed. Pressed again,
    it ends the command. Memory works the same way: besides the search's own estimate, the limit
    counts the real memory of the program, if the system reports it.

    Args:
        limits: How far the search may go.

    Yields:
        The limits, with all that.
    """
    deadline = Deadline(limits.seconds)
    watch = _Watch()

    def stop(number: int, frame: FrameType | None) -> None:
        print(
            "\nstopping: the answers proven so far follow (Ctrl-C again to leave)", file=sys.stderr
        )
        deadline.stop()
        signal.signal(signal.SIGINT, signal.default_int_handler)

    before = signal.signal(signal.SIGINT, stop)
    try:
        with memory_kept(limits.memory, deadline):
            yield replace(limits, deadline=deadline, watch=watch.show, on_answer=watch.answered)
    finally:
        signal.signal(signal.SIGINT, before)
        clear_line()


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
    """Shows the progress of a long search: in one line on a terminal, now and then in a log."""

    def __init__(self) -> None:
        self._began = self._shown = perf_counter()
        self._on = sys.stderr.isatty()
        self._known: list[str] = []

    def show(self, done: int, what: str, waiting: int) -> None:
        now = perf_counter()
        few = done < 1_000 and what != "placements"
        if now - self._shown < 0.5 or (not self._on and (few or now - self._shown < LOG_EVERY)):
            return
        self._shown = now
        rate = done / (now - self._began)
        line = f"{done:,} {what}, {waiting:,} waiting, {rate:,.0f} a second"
        if not self._on:
            print(line, file=sys.stderr, flush=True)
            return
        self._print(line)

    def answered(self, name: str, answer: str) -> None:
        """Show an answer at once, before the report, while other questions are still open."""
        words = answer_words(name, answer)
        if self._on and words is not None and words not in self._known:
            self._known.append(words)
            self._shown = 0.0
            self._print("searching on")

    def _print(self, line: str) -> None:
        clear_line()
        print("; ".join([*self._known, line]), end="", file=sys.stderr, flush=True)


def answer_words(name: str, answer: str) -> str | None:
    """The first answers in words, as they are shown while the search goes on; ``None`` for others."""
    return {
        ("finish", "yes"): "can be finished", ("finish", "no"): "cannot be finished",
        ("stuck", "possible"): "can get stuck", ("stuck", "never"): "players never get stuck",
    }.get((name, str(answer)))  # fmt: skip


def clear_line() -> None:
    """Clear the line of progress, so that something else can be printed in its place."""
    if sys.stderr.isatty():
        print("\r\033[K", end="", file=sys.stderr, flush=True)
