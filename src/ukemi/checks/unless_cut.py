"""What a question is answered where time or memory is over before it is settled."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, ParamSpec, TypeVar

from ..spaces import CutShortError

Asked = TypeVar("Asked")
Given = ParamSpec("Given")


def unless_cut(default: Any) -> Callable[[Callable[Given, Asked]], Callable[Given, Asked]]:
    """Let a question be answered by a default, which claims nothing, if time or memory is over first."""

    def decorate(ask: Callable[Given, Asked]) -> Callable[Given, Asked]:
        @wraps(ask)
        def asked(*args: Given.args, **kwargs: Given.kwargs) -> Asked:
            try:
                return _once_more(ask, args, kwargs)
            except (CutShortError, MemoryError):
                return default  # type: ignore[no-any-return]

        return asked

    return decorate


def or_cut(ask: Callable[Given, Asked]) -> Callable[Given, Asked]:
    """Let a question that the memory ends raise the error of one that the time ends."""

    @wraps(ask)
    def asked(*args: Given.args, **kwargs: Given.kwargs) -> Asked:
        try:
            return _once_more(ask, args, kwargs)
        except MemoryError:
            raise CutShortError from None

    return asked


def _once_more(ask: Callable[..., Asked], args: Any, kwargs: Any) -> Asked:
    """Ask; if the memory is full, once more without what nobody needs any longer."""
    try:
        return ask(*args, **kwargs)
    except MemoryError:
        args[0].tidy()
        return ask(*args, **kwargs)
