"""Keeping Python's garbage collector out of work that makes many objects and no garbage."""

from __future__ import annotations

import gc
from collections.abc import Callable
from functools import wraps
from typing import ParamSpec, TypeVar

_Given = ParamSpec("_Given")
_Made = TypeVar("_Made")


def without_collector(make: Callable[_Given, _Made]) -> Callable[_Given, _Made]:
    """Let a function run without the garbage collector, which would find nothing to free.

    A large level is a hundred thousand objects that all stay: looking through them again and
    again takes a third of the time of reading it.

    Returns:
        The same function, which leaves the collector as it found it.
    """

    @wraps(make)
    def wrapped(*args: _Given.args, **kwargs: _Given.kwargs) -> _Made:
        was_on = gc.isenabled()
        gc.disable()
        try:
            return make(*args, **kwargs)
        finally:
            if was_on:
                gc.enable()

    return wrapped
