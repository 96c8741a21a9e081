"""Ask within the limits of time and memory."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from ..spaces import CutShortError

T = TypeVar("T")


def or_cut(ask: Callable[[], T], tidy: Callable[[], None]) -> T:
    """Return what is asked; if the memory is full, tidy up and ask once more.

    Raises:
        CutShortError: Time or memory ended first.
    """
    try:
        try:
            return ask()
        except MemoryError:
            tidy()
            return ask()
    except MemoryError:
        raise CutShortError from None


def in_time(ask: Callable[[], T], otherwise: T, tidy: Callable[[], None]) -> T:
    """Return what is asked, or a value that claims nothing if time or memory ends first."""
    try:
        return or_cut(ask, tidy)
    except CutShortError:
        return otherwise
