"""Measure the memory that a process takes, and end a search that takes too much."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from threading import Event, Thread

from ..spaces.limits import Deadline


def taken() -> int:
    """Return the bytes of memory that this process takes; 0 if the system does not say."""
    try:
        pages = Path("/proc/self/statm").read_text(encoding="ascii").split()[1]
        return int(pages) * os.sysconf("SC_PAGE_SIZE")
    except (OSError, ValueError, AttributeError):
        return 0


@contextmanager
def memory_kept(most: int | None, deadline: Deadline) -> Iterator[None]:
    """While something is done, end its searches as soon as the process takes too much memory.

    Args:
        most: The most it may take, in bytes; ``None`` for no bound.
        deadline: The deadline that ends the searches.
    """
    over = Event()
    if most is not None:
        Thread(target=_watch, args=(most, deadline, over), daemon=True).start()
    try:
        yield
    finally:
        over.set()


def _watch(most: int, deadline: Deadline, over: Event) -> None:
    while not over.wait(0.1):
        if taken() > most:
            print("the memory limit is reached: the answers proven so far follow", file=sys.stderr)
            deadline.stop()
            return
