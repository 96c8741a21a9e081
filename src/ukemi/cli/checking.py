"""Checking one level file, and looking for what mends it."""

from __future__ import annotations

import sys
from typing import NamedTuple

from ..checks import Report, check_level
from ..files import load, loads
from ..level import Level, LevelError
from ..search import Limits
from .level_files import STANDARD_INPUT

Checked = Report | LevelError


class Mending(NamedTuple):
    """How far a check looks for mends: of which findings, how many, and for how long."""

    severities: tuple[str, ...]
    tries: int
    most: int
    seconds: float


#: What a check tells on a terminal, and what it tells other programs.
TOLD = Mending(("error",), 24, 1, 1.0)
ALL = Mending(("error", "warning"), 200, 3, 10.0)


def check_file(file: str, limits: Limits, knowing: bool, mending: Mending) -> Checked:
    """Check the level in a file; what is wrong with the file is given back, not raised."""
    try:
        return check_and_mend(file, limits, knowing, mending)
    except LevelError as error:
        return error


def check_and_mend(file: str, limits: Limits, knowing: bool, mending: Mending) -> Report:
    """Check the level in a file, and look for what mends it.

    Raises:
        LevelError: It cannot be read or played.
    """
    report = check_level(_load(file), limits, knowing)
    which = [one for one in report.findings if one.severity in mending.severities]
    if not which:
        return report
    from ..mends import add_mends  # loaded where there is something to mend

    time = limits.a_part(mending.seconds)
    return add_mends(report, which, time, mending.tries, mending.most)


def _load(file: str) -> Level:
    return loads(sys.stdin.read()) if file == STANDARD_INPUT else load(file)
