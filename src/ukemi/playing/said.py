"""The lines of a dialogue, each with a label, plain or highlighted."""

from __future__ import annotations

import textwrap
from collections.abc import Iterable
from typing import NamedTuple

from ..level.visible import as_line, visible

#: The columns a label takes.
LABEL = 10


class Said(NamedTuple):
    """A line: a label, its text, and its highlight (``good``, ``bad``, ``title`` or none).

    A line that is ``drawn`` is a row of a map, which is not wrapped.
    """

    label: str
    text: str
    style: str = ""


def as_text(said: Iterable[Said], width: int | None = None) -> str:
    """Lines as text.

    Args:
        said: The lines.
        width: The columns to wrap at; ``None`` to leave lines whole.

    Example:
        >>> print(as_text([Said("here", "oak-key, sluice"), Said("", "done")], width=18))
        here      oak-key,
                  sluice
        done
    """
    return "\n".join(as_line(line) for one in said for line in wrapped(one, width))


def wrapped(one: Said, width: int | None) -> list[str]:
    """The lines of text one line takes at a width."""
    one = one._replace(label=visible(one.label), text=visible(one.text))
    first = f"{one.label:<{LABEL - 1}} " if one.label else ""
    if width is None or one.style == "drawn":
        return [first + one.text]
    further = " " * (LABEL if one.label and width > 3 * LABEL else 2 if one.label else 0)
    return textwrap.wrap(
        first + one.text, max(width, 12), subsequent_indent=further, break_on_hyphens=False,
        drop_whitespace=True,
    ) or [""]  # fmt: skip
