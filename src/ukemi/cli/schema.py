"""``ukemi schema``: the JSON Schema of level files, reports and comparisons."""

from __future__ import annotations

import json
from enum import StrEnum
from typing import Annotated

import typer

from ..language.fields.schema import campaign_schema, level_schema


class Which(StrEnum):
    """The subject of the schema."""

    LEVEL = "level"
    CAMPAIGN = "campaign"
    REPORT = "report"
    COMPARISON = "comparison"


def schema(
    which: Annotated[
        Which,
        typer.Argument(help="A level file, a campaign file, a report or a comparison as JSON."),
    ] = Which.LEVEL,
) -> None:
    """Print the JSON Schema of a level or campaign file, of a report, or of a comparison."""
    match which:
        case Which.LEVEL:
            said = level_schema()
        case Which.CAMPAIGN:
            said = campaign_schema()
        case Which.REPORT:
            from ..report.as_json import report_schema

            said = report_schema()
        case Which.COMPARISON:
            from ..comparing.forms import comparison_schema

            said = {
                "$schema": "https://json-schema.org/draft/2020-12/schema",
                "title": "What `ukemi compare --format json` prints for one level",
                **comparison_schema(),
            }
    print(json.dumps(said, indent=2))
