"""JSON in which no character is hidden."""

from __future__ import annotations

import json
from typing import Any

from ...level.visible import HIDDEN


def json_text(document: Any, indent: int = 2) -> str:
    """A document as JSON text in which no character is hidden.

    Args:
        document: Mappings, lists, text and numbers.
        indent: The indentation of each level.

    Example:
        >>> print(json_text(["Mill\\u202e"]))
        [
          "Mill\\u202e"
        ]
    """
    text = json.dumps(document, indent=indent, ensure_ascii=False)
    return HIDDEN.sub(lambda found: "\n" if found[0] == "\n" else json.dumps(found[0])[1:-1], text)
