"""Write the answers of a check as tables: the status of each thing, and the measures."""

from __future__ import annotations

from typing import Any

from ..checks import Report
from ..report.as_json import report_dict
from ..report.table import measures_row

#: The fields of the answers that hold statuses, with the word for one thing of each.
_KINDS = {
    "rewards": "reward", "doors": "door", "chests": "chest", "acts": "act", "rooms": "room", "items": "item",
    "events": "event",
}  # fmt: skip
#: The columns of the table of statuses.
STATUS = ("kind", "name", "status", "missable")


def checked_tables(report: Report) -> dict[str, list[dict[str, Any]]]:
    """The tables of a check.

    Returns:
        By name, their rows: ``statuses`` with ``kind``, ``name``, ``status`` and, of rewards, ``missable``;
        ``measures`` with one row, the columns of :func:`ukemi.measures_table`.

    Example:
        >>> from ukemi.checks import check_level
        >>> from ukemi.language import loads
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [quay -> mill]}")
        >>> for row in checked_tables(check_level(level))["statuses"]:
        ...     print(row["kind"], row["name"], row["status"])
        room quay required
        room mill required
    """
    answers = report_dict(report)["answers"]
    statuses = []
    for field, kind in _KINDS.items():
        for name, said in answers[field].items():
            two = said if isinstance(said, dict) else {"status": said, "missable": ""}
            statuses.append({"kind": kind, "name": name, **two})
    return {"statuses": statuses, "measures": [measures_row(report)]}
