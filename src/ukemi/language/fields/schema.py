"""The JSON Schema of a level file, made from the same tables that read it."""

from __future__ import annotations

from typing import Any

from .campaign_fields import CAMPAIGN
from .whole import LEVEL


def level_schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of a level file.

    Returns:
        The schema, for text editors to complete and check level files with.

    Example:
        >>> sorted(level_schema()["required"])
        ['goal']
    """
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "A Ukemi level",
        **LEVEL.schema(),
        "type": "object",
        "required": ["goal"],
        "anyOf": [
            {"required": ["start", "rooms"]},
            {"required": ["players", "rooms"]},  # each may say where to start
            {"required": ["maps"]},
        ],
    }


def campaign_schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of a campaign file.

    Example:
        >>> sorted(campaign_schema()["required"])
        ['campaign', 'levels']
    """
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "A Ukemi campaign",
        **CAMPAIGN.schema(),
        "type": "object",
        "required": ["campaign", "levels"],
    }


def closed(properties: dict[str, Any], *optional: str) -> dict[str, Any]:
    """The JSON Schema of an object that has just these properties.

    Args:
        properties: Their schemas, by name.
        optional: Those that may be missing.

    Example:
        >>> closed({"name": {}, "line": {}}, "line")["required"]
        ['name']
    """
    return {
        "type": "object",
        "properties": properties,
        "required": [name for name in properties if name not in optional],
        "additionalProperties": False,
    }
