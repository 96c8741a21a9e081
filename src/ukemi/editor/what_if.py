"""Offer suppositions about a thing in the editor, and show their changes as a comparison."""

from __future__ import annotations

from lsprotocol import types as lsp

from ..checks import Report, check_level
from ..comparing import compare_reports
from ..comparing.forms import comparison_lines
from ..level import Level, LevelError
from ..level.joined import Joined
from ..spaces import Limits
from ..supposing import suppose_all, what_of
from .document import Document

#: The name of the command that supposes something of a level.
SUPPOSE = "ukemi.suppose"
#: How long a search may take, in seconds, and how many lines of a comparison are shown.
SEARCH, SHOWN = 30.0, 12


def suppositions(uri: str, document: Document, offset: int) -> list[lsp.Command]:
    """Return the suppositions about the thing at a place, each as a command that shows its changes.

    Args:
        uri: The address of the level's file.
        document: What it says.
        offset: The place, in characters from the start.
    """
    level, found = document.level, document.named_at(offset)
    if level is None or found is None or isinstance(level, Joined):
        return []
    kinds = ("door", "chest", "act") if found.kind == "thing" else (found.kind,)
    offers = what_of(level)
    return [
        lsp.Command(f"Suppose: {said}", SUPPOSE, arguments=[uri, said])
        for kind in kinds
        for said in offers.get(kind, {}).get(found.name, ())
    ]


def changes_in_words(level: Level, said: str, known: Report | None) -> str:
    """Return the changes that a supposition makes, in the words of ``ukemi compare``.

    Args:
        said: The supposition.
        known: The check of the level, if there is one.
    """
    limits = Limits(seconds=SEARCH)
    try:
        supposed = suppose_all(level, [said]).level
        before = known or check_level(level, limits)
        lines = list(comparison_lines(compare_reports(before, check_level(supposed, limits))))
    except LevelError as error:
        return str(error)
    more = len(lines) - SHOWN
    shown = [*lines[:SHOWN], *([f"and {more} more lines"] if more > 0 else [])]
    return "\n".join([f"Suppose {said}:", *shown])
