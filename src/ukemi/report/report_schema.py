"""The JSON Schema of what ``ukemi check --format json`` prints for one level."""

from __future__ import annotations

from typing import Any

from ..files.schema import closed

_COUNT = {"type": "integer", "minimum": 0}
_TEXT = {"type": "string"}
_YES_NO = {"enum": ["yes", "no", "unknown"]}
_STATUS = {"enum": ["required", "optional", "only-when-stuck", "never", "unknown"]}
_COUNTS = {"type": "object", "additionalProperties": {"type": "integer", "minimum": 1}}


def _move(do: str, *names: str, spends: bool | None = None) -> dict[str, Any]:
    properties: dict[str, Any] = {"do": {"const": do}, **dict.fromkeys(names, _TEXT)}
    properties["by"] = _TEXT
    if spends is not None:
        properties["with"] = _COUNTS
    return closed(properties, "by", *([] if spends else ["with"]))


_MOVE = {
    "anyOf": [
        _move("walk", "name", "to", spends=False),
        _move("unlock", "name", spends=True),
        _move("take", "item", "in"),
        _move("open", "name", spends=True),
        _move("act", "name"),
        _move("drop", "item", "in"),
        _move("give", "item", "to"),
        _move("finish"),
        _move("finish", "level", "to"),
    ]
}
_MOVE_REF = {"$ref": "#/$defs/move"}
_ROUTE = closed(
    {
        "steps": _COUNT,
        "moves": {"type": "array", "items": _MOVE_REF},
        "shortest": {"type": "boolean", "description": "Whether that is proven; only then true."},
        "at-least": {"type": "integer", "description": "What any such route costs at least."},
    },
    "at-least",
)
_ROUTE_REF = {"$ref": "#/$defs/route"}
_STATUSES = {"type": "object", "additionalProperties": _STATUS}
_RUN = {"anyOf": [closed({"steps": _COUNT, "moves": _COUNT}), {"type": "null"}]}

_MEASURES = closed(
    {
        "finish": _RUN,
        "all-rewards": _RUN,
        "walked-again": {"type": ["number", "null"], "minimum": 0, "maximum": 1},
        "choices": {"type": "array", "items": _COUNT},
        "keys": {
            "type": "object",
            "additionalProperties": closed({"placed": _COUNT, "needed": _COUNT, "spare": _COUNT}),
        },
    }
)

_RANGE = {"type": "array", "items": _COUNT, "minItems": 2, "maxItems": 2}
_PAIR = {"type": "array", "items": _TEXT, "minItems": 2, "maxItems": 2}

_ANSWERS = closed(
    {
        "finish": _YES_NO,
        "stuck": {"enum": ["never", "possible", "unknown"]},
        "all-rewards": _YES_NO,
        "deadly": _YES_NO,
        "rewards": {
            "type": "object",
            "additionalProperties": closed({"status": _STATUS, "missable": _YES_NO}),
        },
        **dict.fromkeys(("doors", "chests", "acts", "rooms", "items", "events"), _STATUSES),
        "levels": {
            "type": "object",
            "additionalProperties": closed(
                {
                    "status": _STATUS,
                    "enters": {
                        "anyOf": [
                            {"type": "object", "additionalProperties": _RANGE},
                            {"const": "unknown"},
                        ]
                    },
                }
            ),
        },
        "order": {"anyOf": [{"type": "array", "items": _PAIR}, {"const": "unknown"}]},
        "measures": _MEASURES,
    },
    "levels",
)

_EDITS = {
    "type": "array",
    "items": closed(
        {"path": {"type": "array", "items": {"type": ["string", "integer"]}}, "value": {}}
    ),
}

_MEND = closed({"say": _TEXT, "warns": {"type": "array", "items": _TEXT}, "edit": _EDITS}, "warns")

_FINDING = closed(
    {
        "code": {"type": "string", "pattern": "^[a-z]+(-[a-z]+)*$"},
        "severity": {"enum": ["error", "warning", "note"]},
        "subject": _TEXT,
        "message": _TEXT,
        "mend": _TEXT,
        "mends": {"type": "array", "items": _MEND},
        "mends-cut-short": {"const": True},
        "file": _TEXT,
        "line": {"type": "integer", "minimum": 1},
        "column": {"type": "integer", "minimum": 1},
        "route": _ROUTE_REF,
        "mistake": _MOVE_REF,
        "also": {
            "type": "array",
            "items": {
                "anyOf": [
                    closed({"mistake": _MOVE_REF, "route": _ROUTE_REF}),
                    closed({"code": _TEXT, "subject": _TEXT, "message": _TEXT}),
                ]
            },
        },
    },
    "mend",
    "mends",
    "mends-cut-short",
    "file",
    "line",
    "column",
    "route",
    "mistake",
    "also",
)


def report_schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of a report.

    Returns:
        The schema. A level that cannot be read has ``level`` null and no answers.

    Example:
        >>> report_schema()["properties"]["ukemi"]
        {'const': 1}
    """
    knowing = closed(
        {
            "flags": {"type": "array", "items": _TEXT},
            "passes-by": {"type": "array", "items": _TEXT},
            "report": {"$ref": "#"},
        }
    )
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "A Ukemi report",
        **closed(
            {
                "ukemi": {"const": 1},
                "level": {"type": ["string", "null"]},
                "file": {"type": ["string", "null"]},
                "answers": {"anyOf": [_ANSWERS, {"type": "object", "maxProperties": 0}]},
                "routes": {"type": "object", "additionalProperties": _ROUTE_REF},
                "findings": {"type": "array", "items": _FINDING},
                "search": closed(
                    {
                        "positions": _COUNT,
                        "complete": {"type": "boolean"},
                        "seconds": {"type": "number", "minimum": 0},
                    }
                ),
                "accepted": {"type": "array", "items": _FINDING},
                "knowing": knowing,
                "campaigns": {
                    "type": "array",
                    "items": _TEXT,
                    "description": "The campaigns that name the level. If there are no answers, it "
                    "was checked as a part of them.",
                },
            },
            "accepted",
            "campaigns",
            "knowing",
        ),
        "$defs": {"move": _MOVE, "route": _ROUTE},
    }
