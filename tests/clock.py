"""A clock for tests: it counts the work that is done, so that it tells the same on every machine."""

from __future__ import annotations

import sys
import threading
from collections.abc import Callable
from typing import Any

from ukemi.spaces import Limits
from ukemi.spaces.limits import Deadline


class WorkClock:
    """Counts the calls of functions while it runs; a loop that calls nothing stands still in it."""

    def __init__(self) -> None:
        self.calls = 0

    def __enter__(self) -> WorkClock:
        sys.setprofile(self._count)
        return self

    def __exit__(self, *_: object) -> None:
        sys.setprofile(None)

    def _count(self, frame: Any, event: str, argument: Any) -> None:
        if event in ("call", "c_call"):
            self.calls += 1

    def limits(self, calls: int) -> Limits:
        """Limits that are over after so many calls."""
        return Limits(seconds=calls, deadline=Deadline(calls, clock=lambda: self.calls))


def wait_for(condition: Callable[[], Any], what: str = "it") -> Any:
    """Wait until a condition holds of another program, and give back what it says.

    Raises:
        AssertionError: It never came to hold.
    """
    pause = threading.Event()
    for _ in range(3_000):
        found = condition()
        if found:
            return found
        pause.wait(0.02)
    raise AssertionError(f"{what} never came")
