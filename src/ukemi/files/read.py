"""Reading a level file."""

from __future__ import annotations

import os
from pathlib import Path

from ..level import Level, LevelError, Place, Problem
from ..level.collector import without_collector
from ..level.reading import read_level
from .yaml_nodes import compose

#: A level file larger than this (in bytes) is not one that somebody wrote.
LARGEST_FILE = 32 * 1024 * 1024


def load(path: str | os.PathLike[str]) -> Level:
    """Read a level from a file.

    Args:
        path: A YAML or JSON file.

    Returns:
        The level.

    Raises:
        LevelError: The file cannot be read, or what it says is no level; the error lists
            everything that is wrong with file, line and column.
    """
    file = os.fspath(path)
    return loads(_text(Path(path), file), file)


@without_collector
def loads(text: str, file: str | None = None) -> Level:
    """Read a level from text.

    Args:
        text: What a level file would hold.
        file: A file name for messages, if there is one.

    Returns:
        The level.

    Raises:
        LevelError: What the text says is no level.

    Example:
        >>> level = loads("{ukemi: 1, start: quay, goal: mill, rooms: [quay, mill], "
        ...               "passages: [quay <-> mill]}")
        >>> list(level.rooms)
        ['quay', 'mill']
    """
    name = Path(file).stem if file else "level"
    folder = Path(file).parent if file else None
    read_csv = (lambda path: load_csv_map(folder / path)) if folder is not None else None
    level = read_level(compose(text, file), file, name, read_csv)
    level.file = file
    level.text = text
    return level


def load_csv_map(path: str | os.PathLike[str]) -> list[tuple[str, ...]]:
    """Read the rows of a map from a CSV file, one symbol a cell.

    Args:
        path: The file.

    Returns:
        The rows, for :meth:`Level.map`; an empty cell is nothing to stand on.

    Raises:
        OSError: The file cannot be read.
        ValueError: It is no CSV, or too large for a map.
    """
    path = Path(path)
    import csv

    if path.stat().st_size > LARGEST_FILE:
        raise ValueError("it is too large for a map")
    with path.open(encoding="utf-8-sig", newline="") as file:
        try:
            return [tuple(cell or " " for cell in row) for row in csv.reader(file)]
        except csv.Error as error:
            raise ValueError(str(error)) from None


def _text(path: Path, file: str) -> str:
    try:
        size = path.stat().st_size
        if size > LARGEST_FILE:
            raise _unreadable(
                f"the file has {size} bytes; a level has {LARGEST_FILE} at most", file
            )
        raw = path.read_bytes()
    except OSError as error:
        reason = error.strerror or "it cannot be read"
        raise _unreadable(f"cannot read this file: {reason.lower()}", file) from None
    if b"\0" in raw[:65536]:
        raise _unreadable("this is a binary file, not a level", file)
    try:
        return raw.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = raw.count(b"\n", 0, error.start) + 1
        column = error.start - (raw.rfind(b"\n", 0, error.start) + 1) + 1
        message = f"the byte 0x{raw[error.start]:02x} is not UTF-8 text"
        raise _unreadable(message, file, Place(line, column)) from None


def _unreadable(message: str, file: str, place: Place | None = None) -> LevelError:
    return LevelError([Problem("syntax", message, place)], file)
