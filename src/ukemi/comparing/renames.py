"""Which things of a level only have another name now."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from typing import Any, NamedTuple

from ..language.text.mentions import names_of
from ..level import Level

Path = tuple[str, ...]

#: How much of what is said of a thing must be the same under its new name.
ALIKE = 0.5
#: More names than this that are gone, or new, are no renaming but another level.
MOST = 30


class Renamed(NamedTuple):
    """A thing that has another name."""

    kind: str
    old: str
    new: str


def renames(old: Level, new: Level, before: Any, after: Any) -> list[Renamed]:
    """The renamed things: most of their fields are the same.

    Args:
        old, new: The two versions.
        before, after: The same as plain data.

    Returns:
        The renamings, the surest first.
    """
    found: list[Renamed] = []
    gone, come = _names(old), _names(new)
    pairs = [
        Renamed(kind, a, b)
        for kind in gone
        if len(gone[kind] - come[kind]) <= MOST and len(come[kind] - gone[kind]) <= MOST
        for a in sorted(gone[kind] - come[kind])
        for b in sorted(come[kind] - gone[kind])
    ]
    while pairs:
        said = set(_said(renamed(before, found)))
        now = set(_said(after))
        shares = {pair: _share(pair, said, now) for pair in pairs}
        best = max(pairs, key=lambda pair: shares[pair])
        if shares[best] <= ALIKE:
            break
        found.append(best)
        pairs = [
            pair for pair in pairs
            if pair.kind != best.kind or (pair.old != best.old and pair.new != best.new)
        ]  # fmt: skip
    return found


def _names(level: Level) -> dict[str, set[str]]:
    """The names of a level, but for those that maps give."""
    return {
        kind: {name for name in names if "@" not in name} for kind, names in names_of(level).items()
    }


def _share(pair: Renamed, said: set[tuple[Path, str]], now: set[tuple[Path, str]]) -> float:
    """Return which share of what the old version says of one name the new version says of the other."""
    word = _word(pair.old)
    with_it = [(path, text) for path, text in said if word.search("\0".join((*path, text)))]
    if not with_it:
        return 0.0
    kept = sum(
        (tuple(word.sub(pair.new, step) for step in path), word.sub(pair.new, text)) in now
        for path, text in with_it
    )
    return kept / len(with_it)


def _said(document: Any, path: Path = ()) -> Iterator[tuple[Path, str]]:
    """List every value of plain data with its path; the order of lists does not count."""
    match document:
        case Mapping() if document:
            for key, value in document.items():
                yield from _said(value, (*path, str(key)))
        case list() if document:
            for one in document:
                yield from _said(one, path)
        case _:
            yield path, str(document)


def renamed(document: Any, names: list[Renamed]) -> Any:
    """Plain data, or text, with names changed wherever they stand as a word."""
    if not names:
        return document
    match document:
        case Mapping():
            return {renamed(key, names): renamed(value, names) for key, value in document.items()}
        case list():
            return [renamed(one, names) for one in document]
        case str():
            for one in names:
                document = _word(one.old).sub(one.new, document)
    return document


def _word(name: str) -> re.Pattern[str]:
    return re.compile(rf"(?<![\w@-]){re.escape(name)}(?![\w-])")
