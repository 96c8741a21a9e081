"""Moves and counts in plain words."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from ..level.names import in_list


def counted(counts: Mapping[str, int]) -> str:
    """Items with their counts, in a sentence.

    Example:
        >>> counted({"iron-key": 1, "grain": 3})
        'iron-key and 3 grain'
    """
    return in_list(item if count == 1 else f"{count} {item}" for item, count in counts.items())


def move_words(what: Mapping[str, Any]) -> str:
    """A move as a player would say it.

    Args:
        what: The move as reports write it.

    Returns:
        A few words, beginning with a verb.

    Example:
        >>> move_words({"do": "unlock", "name": "pit-door", "with": {"iron-key": 1}})
        'unlock pit-door with iron-key'
        >>> move_words({"do": "walk", "name": "quay <-> granary", "to": "granary"})
        'walk to granary'
    """
    if "by" in what:
        return f"{what['by']}: {move_words({key: one for key, one in what.items() if key != 'by'})}"
    spent = f" with {counted(what['with'])}" if what.get("with") else ""
    match what.get("do"):
        case "walk":
            by = "" if "->" in what["name"] else f" by {what['name']}"
            return f"walk to {what['to']}{by}{spent}"
        case "take":
            return f"take {what['item']}"
        case "drop":
            return f"put down {what['item']}"
        case "act":
            return f"do {what['name']}"
        case "give":
            return f"give {what['item']} to {what['to']}"
        case "finish":
            return f"finish {what['level']} and go on to {what['to']}" if "to" in what else "finish"
        case None:
            return ""
    return f"{what['do']} {what['name']}{spent}"


def subject_of(what: Mapping[str, Any]) -> str:
    """The name of the thing a move is about."""
    return str(what.get("name") or what.get("item") or what.get("level") or what["do"])


def some(names: Iterable[str], most: int = 5) -> str:
    """Names in a sentence; of many, the first few and how many more.

    Example:
        >>> some(["a", "b", "c", "d"], most=2)
        'a, b and 2 more'
    """
    listed = list(names)
    if len(listed) <= most:
        return in_list(listed)
    return f"{', '.join(listed[:most])} and {len(listed) - most} more"
