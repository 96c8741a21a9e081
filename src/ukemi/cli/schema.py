"""``ukemi schema``: the JSON Schema of level files."""

from __future__ import annotations

import json

from ..files.schema import level_schema


def schema() -> None:
    """Print the JSON Schema of a level file, for text editors to complete and check by."""
    print(json.dumps(level_schema(), indent=2))
