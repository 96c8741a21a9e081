"""The measures of several levels as a table."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING, Any

from ..checks import Report

if TYPE_CHECKING:
    from pandas import DataFrame


def measures_table(reports: Iterable[Report]) -> DataFrame:
    """A table of measures, a row a level, to compare versions by.

    Args:
        reports: Checked levels.

    Returns:
        A pandas table. Its columns: ``level``, ``file``, ``finish``, ``stuck``; ``steps`` and
        ``moves`` of the shortest finishing run; ``all_rewards_steps``; ``walked_again`` (a share);
        ``mean_choices``; and ``NAME_spare`` for each kind of spent key. Unknown values are missing.

    Raises:
        ImportError: pandas is not installed.

    Example:
        >>> from ukemi.checks import check_level
        >>> from ukemi.language import loads
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [quay -> mill]}")
        >>> table = measures_table([check_level(level)])
        >>> list(table["finish"]), list(table["steps"])
        (['yes'], [1])
    """
    import pandas

    return pandas.DataFrame([measures_row(report) for report in reports])


def measures_row(report: Report) -> dict[str, Any]:
    """The measures of one level, as a row of :func:`measures_table`."""
    measures = report.answers.measures
    row: dict[str, Any] = {
        "level": report.level.name,
        "file": report.level.file,
        "finish": str(report.answers.finish),
        "stuck": str(report.answers.stuck),
        "steps": measures.finish.steps if measures.finish else None,
        "moves": measures.finish.moves if measures.finish else None,
        "all_rewards_steps": measures.all_rewards.steps if measures.all_rewards else None,
        "walked_again": measures.walked_again,
    }
    if measures.choices:
        row["mean_choices"] = sum(measures.choices) / len(measures.choices)
    return row | {f"{item}_spare": one.spare for item, one in measures.keys.items()}
