"""The valid names, and the known name nearest to a mistyped one."""

from __future__ import annotations

import re
from collections.abc import Iterable

NAME_PATTERN = r"[^\W\d_][\w-]*"
#: The name of a room: a name, or a cell of a tile map such as ``ground@5,2``.
ROOM_PATTERN = rf"{NAME_PATTERN}(?:@[0-9]{{1,6}},[0-9]{{1,6}})?"
#: The same for JSON Schema, whose patterns know letters beyond ASCII only by their code.
NAME_SCHEMA = r"[A-Za-z\u0080-\uffff][A-Za-z0-9_\-\u0080-\uffff]*"
is_name = re.compile(NAME_PATTERN).fullmatch

#: Words of the condition language, which no item, flag, room or thing may take as its name.
RESERVED = frozenset(
    {"and", "or", "not", "all", "at", "opened", "done", "nothing"}
    | {"someone", "everyone", "carries", "by"}
)


#: The number of characters that distinguishes longer names.
LONGEST_NAME = 80


def nearest(name: str, known: Iterable[str]) -> str | None:
    """Return the known name most like a mistyped one; of names as near, the first by the alphabet.

    Args:
        name: What was written.
        known: The names that would have been right.

    Returns:
        The nearest name, or ``None`` if none is near.

    Example:
        >>> nearest("irn-key", ["oak-key", "iron-key", "lantern"])
        'iron-key'
        >>> nearest("windmill", ["oak-key"]) is None
        True
    """
    from difflib import SequenceMatcher

    matcher = SequenceMatcher(None, "", name[:LONGEST_NAME].casefold())
    found, best = None, 0.6
    for one in sorted({*known}):
        matcher.set_seq1(one[:LONGEST_NAME].casefold())
        if matcher.real_quick_ratio() >= best and matcher.quick_ratio() >= best:
            ratio = matcher.ratio()
            if ratio > best or (found is None and ratio == best):
                found, best = one, ratio
    return found


def nearest_few(name: str, known: Iterable[str], most: int = 3) -> list[str]:
    """The known names that are like a word: those that hold it, else the nearest ones.

    Example:
        >>> nearest_few("stuck", ["can-die", "can-get-stuck", "never-set"])
        ['can-get-stuck']
    """
    from difflib import get_close_matches

    names = sorted({*known})
    holding = [one for one in names if name.casefold() in one] if name else []
    return holding[:most] or get_close_matches(name[:LONGEST_NAME], names, most)


def in_list(names: Iterable[str], word: str = "and") -> str:
    """Names in a sentence, separated by commas and a last "and", or another word.

    Example:
        >>> in_list(["quay", "granary", "race"])
        'quay, granary and race'
    """
    *most, last = list(names) or [""]
    return f"{', '.join(most)} {word} {last}" if most else last
