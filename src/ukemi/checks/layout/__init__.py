"""What the layout alone tells, before any search."""

from __future__ import annotations

from collections.abc import Iterator

from ...level import Level
from ..result import Finding
from .color_mismatch import color_mismatch
from .maps import door_without_sides, thing_in_wall, unused_symbol
from .needless_branch import needless_branch
from .never_set import never_set
from .nothing_gives import nothing_gives
from .unconnected import unconnected
from .unused import unused_item, unused_lock

LAYOUT_CHECKS = (
    nothing_gives,
    never_set,
    color_mismatch,
    unconnected,
    unused_item,
    unused_lock,
    needless_branch,
    thing_in_wall,
    door_without_sides,
    unused_symbol,
)


def check_layout(level: Level) -> Iterator[Finding]:
    """Everything the layout of a level tells.

    Args:
        level: The level.

    Yields:
        The findings of every layout check.
    """
    for check in LAYOUT_CHECKS:
        yield from check(level)
