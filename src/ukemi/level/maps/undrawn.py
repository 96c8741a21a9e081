"""Symbols of the legend that were left out of the maps, as a reason for what is missing."""

from __future__ import annotations

from collections.abc import Callable

from ..contents import Contents
from ..names import in_list
from .tilemap import Tile


def undrawn(level: Contents, matters: Callable[[Tile], bool], would: str = "") -> str:
    """Name the symbols that matter and stand on no map.

    Args:
        matters: Whether a symbol with some meaning is looked for.
        would: What such a symbol would do, such as ``would turn it on``.

    Returns:
        A clause; empty if there is no such symbol.
    """
    unused = level.cut.unused if level.cut is not None else ()
    symbols = [repr(one) for one in unused if matters(level.legend[one])]
    if not symbols:
        return ""
    stands = "stands" if len(symbols) == 1 else "stand"
    return f"{in_list(symbols)} in the legend {f'{would}, but ' if would else ''}{stands} on no map"
