"""Check one level file, and look for changes that mend it."""

from __future__ import annotations

import re
import sys
from dataclasses import replace
from typing import NamedTuple

from ..checks import Report, check_level
from ..language import load, loads
from ..level import Level, LevelError, Problem
from ..level.joined import Joined
from ..level.names import nearest
from ..spaces import Limits

#: The result for a level: its report, or the fault in its file.
Checked = Report | LevelError
#: What is checked: the name of a level file, or a level.
Given = str | Level

#: The name of the standard input on the command line.
STANDARD_INPUT = "-"


class Asking(NamedTuple):
    """The options of a check.

    Attributes:
        knowing: Whether to ask again for a player who knows its codes.
        mends: Whether to find changes that mend its errors and warnings.
        mend_seconds: The most time to look for them, in seconds, after the check; ``None`` for no bound of its own.
        entered_with: The items that the player carries into it besides, as ``lantern,3 grain``.
        quick: Whether to ask only who can finish, get stuck or die, and about rewards.
        hand: Whether to ask what can be in hand in each room of a large level, too.
        suppose: What to suppose of it, such as ``open loft-door``. The level as it is is checked as well, to
            tell what that changes.
    """

    knowing: bool = False
    mends: bool = False
    mend_seconds: float | None = None
    entered_with: str | None = None
    quick: bool = False
    hand: bool = False
    suppose: tuple[str, ...] = ()


def check_file(file: Given, limits: Limits, asking: Asking) -> Checked:
    """Check a level, or the one in a file; return an error of reading, and do not raise it."""
    try:
        return check_and_mend(file, limits, asking)
    except LevelError as error:
        return error


def check_and_mend(file: Given, limits: Limits, asking: Asking) -> Report:
    """Check a level or a file, and find changes that mend it.

    Raises:
        LevelError: It cannot be read or played.
    """
    level = _load(file)
    if asking.entered_with is not None:
        level = _entered_with(level, asking.entered_with)
    limits = limits.begin()
    if asking.suppose:
        return _supposed(level, limits, asking)
    report = check_level(level, limits, asking.knowing, quick=asking.quick, hand=asking.hand)
    which = [one for one in report.findings if one.severity in ("error", "warning")]
    if not which or not asking.mends:
        return report
    from ..mends import add_mends  # loaded where there is something to mend

    if asking.mend_seconds is not None:
        limits = limits.a_part(asking.mend_seconds)
    return add_mends(report, which, limits)


def _supposed(level: Level, limits: Limits, asking: Asking) -> Report:
    """Check a level as it is, and as the suppositions change it."""
    from ..supposing import suppose_all  # loaded where something is supposed

    supposed = suppose_all(level, asking.suppose).level
    report = check_level(supposed, limits, asking.knowing, quick=asking.quick, hand=asking.hand)
    without = check_level(level, limits, asking.knowing, quick=asking.quick, hand=asking.hand)
    return replace(report, supposed=asking.suppose, without=without)


def _load(file: Given) -> Level:
    if isinstance(file, Level):
        return file
    return loads(sys.stdin.read()) if file == STANDARD_INPUT else load(file)


def _entered_with(level: Level, said: str) -> Level:
    """Return the level for a player who enters it with the given items."""
    counts: dict[str, int] = dict(level.inventory.start)
    for part in said.split(","):
        found = re.fullmatch(r"\s*(?:([1-9][0-9]{0,5})\s+)?(\S+)\s*", part)
        if found is None:
            raise _not_entered(level, f"{part.strip()!r} is no item with a count before it", part)
        if isinstance(level, Joined):
            raise _not_entered(level, "a campaign begins with its first level's inventory", part)
        name = found[2]
        if name not in level.items:
            message = f"{name!r} is not the name of an item"
            raise _not_entered(level, message, name, nearest(name, level.items))
        counts[name] = counts.get(name, 0) + int(found[1] or 1)
        most = level.items[name].max
        if most is not None and counts[name] > most and level.items[name].kind == "supply":
            counts[name] = most
    entered = level.copy()
    entered.inventory = replace(level.inventory, start=counts)
    entered.sound = False  # what is carried now may not fit
    return entered


def _not_entered(level: Level, why: str, text: str, near: str | None = None) -> LevelError:
    message = f"--entered-with: {why}"
    return LevelError([Problem("unknown-name", message, None, text, near)], level.file)
