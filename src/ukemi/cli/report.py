"""``ukemi report``: a page a team can open."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from ..bulk.checking import Asking, check_file
from ..checks import Report
from ..language.files.replacing import must_be_writable, write_file
from ..level import LevelError
from ..spaces import MAX_POSITIONS
from .check import Levels, MaxPositions, MaxSeconds
from .level_files import level_files
from .output import fail_reading, print_line
from .searching import MaxMemory, limits_of, searching

#: The endings of a page's file name.
PAGES = (".html", ".htm")
#: The seconds in which mends of each level are looked for, unless the time of it all is given.
MENDING = 20.0


def report(
    levels: Levels,
    output: Annotated[Path, typer.Option("-o", "--output", help="The page: an .html file.")],
    max_positions: MaxPositions = MAX_POSITIONS,
    max_seconds: MaxSeconds = None,
    max_memory: MaxMemory = None,
) -> None:
    """Write a page with the verdict, the findings and every route to step through.

    The page needs nothing but itself: it can be sent, kept and opened without a network. Mends of each level are
    looked for during 20 seconds at most, or as long as --max-seconds allows.
    """
    limits = limits_of(max_positions, max_seconds, max_memory)
    asking = Asking(mends=True, mend_seconds=MENDING if max_seconds is None else None, hand=True)
    levels = level_files(levels)
    must_be_writable(output, endings=PAGES, inputs=levels)
    from ..draw.svg import svg_map
    from ..report.page import html_page

    with searching(limits) as watched:
        checked = [check_file(file, watched, asking) for file in levels]
    reports = [one for one in checked if isinstance(one, Report)]
    errors = [one for one in checked if isinstance(one, LevelError)]
    if not reports:
        fail_reading(*errors)
    maps = {n: svg_map(one.level) for n, one in enumerate(reports)}
    page = html_page(reports, maps, notices=[str(one) for one in errors])
    write_file(output, page, endings=PAGES, inputs=levels)
    print_line(f"wrote {output}")
    if errors:
        fail_reading(*errors)
