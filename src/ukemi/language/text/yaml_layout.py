"""How plain data are laid out as the text of a level file."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import yaml

from .json_text import json_text

#: Five times as fast as the other, where the parser was built with its library.
_FAST = getattr(yaml, "CSafeDumper", yaml.SafeDumper)


def flow(value: Any) -> str:
    """Return a value as YAML on one line.

    Example:
        >>> flow({"items": ["oar"], "note": "no: really"})
        "{items: [oar], note: 'no: really'}"
    """
    dumped = _dumped(value, _FAST)
    # The fast one writes `\U0001F600` for a picture letter, which is unreadable.
    if "\\" in dumped:
        dumped = _dumped(value, yaml.SafeDumper)
    return dumped.removesuffix("\n").removesuffix("...").rstrip("\n")


def _dumped(value: Any, dumper: Any) -> str:
    return str(
        yaml.dump(
            value, Dumper=dumper, default_flow_style=True, allow_unicode=True, width=1 << 20,
            sort_keys=False,
        )
    )  # fmt: skip


def whole(document: dict[str, Any], as_json: bool, comments: Sequence[str] = ()) -> str:
    """Return a whole level file: each part on a line, with its fields in braces.

    Args:
        document: The data of the file.
        as_json: Whether to write JSON.
        comments: Comments to put at the top of a YAML file.

    Example:
        >>> print(whole({"start": "quay", "rooms": {"quay": {}}}, as_json=False), end="")
        start: quay
        rooms:
          quay: {}
    """
    if as_json:
        return json_text(document) + "\n"
    lines = list(comments)
    for key, value in document.items():
        if isinstance(value, dict) and value:
            lines.append(f"{flow(key)}:")
            for name, one in value.items():
                lines += _drawing(name, one) if key == "maps" else [f"  {flow(name)}: {flow(one)}"]
        elif isinstance(value, list) and value:
            lines.append(f"{flow(key)}:")
            lines += [f"  - {entry(one)}" for one in value]
        else:
            lines.append(f"{flow(key)}: {flow(value)}")
    return "\n".join(lines) + "\n"


def entry(value: Any) -> str:
    """Return an entry of a block list: a passage with its fields needs no braces around it."""
    text = flow(value)
    return text[1:-1] if isinstance(value, dict) and len(value) == 1 else text


def _drawing(name: str, rows: Any, indent: str = "  ") -> list[str]:
    """A map that is text as a block, a row a line."""
    if isinstance(rows, dict):
        lines = [f"{indent}{flow(name)}:"]
        for key, value in rows.items():
            lines += _drawing(key, value, indent + "  ")
        return lines
    # A first row that begins with a space would be taken for deeper indentation.
    if (
        not isinstance(rows, str)
        or rows.startswith(" ")
        or not rows.endswith("\n")
        or not rows.strip()
    ):
        return [f"{indent}{flow(name)}: {flow(rows)}"]
    return [
        f"{indent}{flow(name)}: |",
        *(
            f"{indent}  {row}".rstrip(" ") if not row else f"{indent}  {row}"
            for row in rows.split("\n")[:-1]
        ),
    ]
