"""``ukemi schema``: the JSON Schema of level files and of reports."""

from __future__ import annotations

import json
from enum import StrEnum
from typing import Annotated

import typer

from ..files.schema import campaign_schema, level_schema


class Which(StrEnum):
    """What the schema is of."""

    LEVEL = "level"
    CAMPAIGN = "campaign"
    REPORT = "report"


def schema(
    which: Annotated[
        Which, typer.Argument(help="A level file, a campaign file, or a report as JSON.")
    ] = Which.LEVEL,
) -> None:
    """Print the JSON Schema of a level or campaign file, for text editors, or of a report."""
    if which != Which.REPORT:
        said = level_schema() if which == Which.LEVEL else campaign_schema()
        print(json.dumps(said, indent=2))
    else:
        from ..report.report_schema import report_schema

        print(json.dumps(report_schema(), indent=2))
