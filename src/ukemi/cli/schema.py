"""``ukemi schema``: the JSON Schema of level files and of reports."""

from __future__ import annotations

import json
from enum import StrEnum
from typing import Annotated

import typer

from ..files.schema import level_schema


class Which(StrEnum):
    """What the schema is of."""

    LEVEL = "level"
    REPORT = "report"


def schema(
    which: Annotated[
        Which, typer.Argument(help="A level file, or a report as JSON.")
    ] = Which.LEVEL,
) -> None:
    """Print the JSON Schema of a level file, for text editors, or of a report."""
    if which == Which.LEVEL:
        print(json.dumps(level_schema(), indent=2))
    else:
        from ..report.report_schema import report_schema

        print(json.dumps(report_schema(), indent=2))
