"""Many levels checked, as a table."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator
from typing import TYPE_CHECKING, Any

from ..checks import Report
from ..findings.finding import flat
from ..level import Level, LevelError
from ..report.table import measures_row
from ..spaces import Limits
from .checking import Asking, Checked, Given, check_file
from .processes import check_parallel

if TYPE_CHECKING:
    from pandas import DataFrame

Row = dict[str, Any]


def check_many(
    levels: Iterable[Level | str | os.PathLike[str]],
    limits: Limits,
    jobs: int = 1,
    client: Any = None,
    on_row: Callable[[Row], None] | None = None,
) -> DataFrame:
    """Check many levels.

    Args:
        levels: Levels, or the paths of level files.
        limits: How far each search may go.
        jobs: The greatest number of processes.
        client: A client of a cluster to check on instead.
        on_row: Called with each row as soon as it is there, in whatever order.

    Returns:
        A table, a row a level.
    """
    try:
        import pandas
    except ImportError:
        raise ImportError("this needs pandas: pip install 'ukemi[tables]'") from None

    given = [one if isinstance(one, Level) else os.fspath(one) for one in levels]

    def on_result(checked: Checked) -> None:
        if on_row is not None:
            on_row(row_of(checked))

    return pandas.DataFrame(row_of(one) for one in _checked(given, limits, jobs, client, on_result))


def _checked(
    given: list[Given], limits: Limits, jobs: int, client: Any, on_result: Callable[[Checked], None]
) -> Iterator[Checked]:
    asking = Asking()
    if client is None and jobs > 1:
        yield from check_parallel(
            given, limits, asking, jobs, lambda _, checked: on_result(checked)
        )
        return
    if client is not None:
        from .cluster import check_on_cluster  # loaded for a cluster only

        yield from check_on_cluster(given, limits, asking, client, on_result)
        return
    for one in given:
        checked = check_file(one, limits, asking)
        on_result(checked)
        yield checked


def row_of(checked: Checked) -> Row:
    """One level as a row: its measures, its findings, or why there are none."""
    if isinstance(checked, LevelError):
        first = checked.problems[0].message if checked.problems else str(checked)
        return {"file": checked.file, "error": first}
    return {**measures_row(checked), **_findings(checked), "error": None}


def _findings(report: Report) -> Row:
    return {
        "errors": sum(one.severity == "error" for one in report.findings),
        "warnings": sum(one.severity == "warning" for one in report.findings),
        "codes": " ".join(dict.fromkeys(one.code for one in flat(report.findings))),
        "positions": report.search.positions,
        "complete": report.search.complete,
        "seconds": report.search.seconds,
    }
