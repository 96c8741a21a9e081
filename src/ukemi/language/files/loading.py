"""Reading a level file."""

from __future__ import annotations

import os
import re
import stat
from codecs import BOM_UTF16_BE, BOM_UTF16_LE
from collections.abc import Callable, Mapping
from errno import EISDIR
from functools import partial
from pathlib import Path
from typing import Any

from ...level import Level, LevelError, Place, Problem
from ...level.collector import without_collector
from ..fields.nodes import plain_node
from ..fields.reading import read_level
from ..text.yaml_nodes import compose
from .campaign_files import campaign_from, is_campaign
from .coding import decoded

#: A larger level file (in bytes) was not written by hand.
LARGEST_FILE = 32 * 1024 * 1024
#: The same for a map in a CSV file.
LARGEST_MAP = 8 * 1024 * 1024


def load(path: str | os.PathLike[str]) -> Level:
    """Read a level from a file.

    Args:
        path: A YAML or JSON file.

    Returns:
        The level.

    Raises:
        LevelError: The file cannot be read, or what it says is no level; the error lists
            everything that is wrong with file, line and column.

    Example:
        >>> from pathlib import Path
        >>> from tempfile import mkdtemp
        >>> path = Path(mkdtemp()) / "quay.yaml"
        >>> _ = path.write_text("{start: quay, goal: quay, rooms: [quay]}")
        >>> load(path)
        <Level 'quay': 1 room, 0 passages, 0 kinds of item>
    """
    file = os.fspath(path)
    return loads(read_text(path), file)


@without_collector
def loads(text: str, file: str | None = None) -> Level:
    """Read a level from text.

    Args:
        text: The text of a level file.
        file: A file name for messages, if there is one.

    Returns:
        The level.

    Raises:
        LevelError: The text is not a level.

    Example:
        >>> level = loads("{ukemi: 1, start: quay, goal: mill, rooms: [quay, mill], "
        ...               "passages: [quay <-> mill]}")
        >>> list(level.rooms)
        ['quay', 'mill']
    """
    name = Path(file).stem if file else "level"
    node = compose(text, file)
    level = (
        campaign_from(node, file, _level_of_campaign, {file: text} if file else None)
        if is_campaign(node)
        else read_level(node, file, name, csv_reader(file))
    )
    level.file = file
    level.text = text
    return level


def _level_of_campaign(path: Path) -> Level:
    """Read a level that a campaign names."""
    if path.exists() and not path.is_file():  # a pipe may have no end
        raise _unreadable("cannot read this file: it is not a regular file", str(path))
    text = read_text(path)
    if is_campaign(compose(text, str(path))):  # it might name itself
        raise _unreadable("it is a campaign itself, and no level", str(path))
    return loads(text, str(path))


@without_collector
def from_plain(document: Any, like: Level, texts: Mapping[str, str] | None = None) -> Level:
    """The level that plain data describe.

    Args:
        document: The data of a level file.
        like: An older version of the level: its file says where the maps are.
        texts: What some of their CSV files are to hold, by path.

    Returns:
        The level, with no places in a file.

    Raises:
        LevelError: The data are no level.
    """
    return read_level(plain_node(document), like.file, like.name, csv_reader(like.file, texts))


def load_csv_map(path: str | os.PathLike[str]) -> list[tuple[str, ...]]:
    """Read the rows of a map from a CSV file, one symbol a cell.

    Args:
        path: The file.

    Returns:
        The rows, for :meth:`Level.map`; an empty cell is nothing to stand on.

    Raises:
        OSError: The file cannot be read.
        ValueError: It is no CSV, or too large for a map.

    Example:
        >>> from pathlib import Path
        >>> from tempfile import mkdtemp
        >>> path = Path(mkdtemp()) / "ground.csv"
        >>> _ = path.write_text("#,#,#\\n#,@,.\\n")
        >>> load_csv_map(path)
        [('#', '#', '#'), ('#', '@', '.')]
    """
    return _symbols(csv_rows(regular_bytes(Path(path), LARGEST_MAP)))


def _symbols(rows: list[list[str]]) -> list[tuple[str, ...]]:
    # A spreadsheet saves the symbol 5 as 5.0.
    return [tuple(re.sub(r"^([0-9])\.0$", r"\1", cell) or " " for cell in row) for row in rows]


def regular_bytes(path: Path, most: int, inside: Path | None = None) -> bytes:
    """Return the content of a file that the user did not name: another file or a folder does.

    Args:
        path: The file.
        most: The most bytes it may have.
        inside: The folder in which it must lie, or below; links are followed to see that.

    Raises:
        OSError: It cannot be read.
        ValueError: It is not a regular file, lies elsewhere or is too large.
    """
    if inside is not None and not path.resolve().is_relative_to(inside.resolve()):
        raise ValueError("it leads out of its folder")
    found = path.stat()
    if stat.S_ISDIR(found.st_mode):
        raise IsADirectoryError(EISDIR, os.strerror(EISDIR))
    if not stat.S_ISREG(found.st_mode):  # a device or a pipe may have no end
        raise ValueError("it is not a regular file")
    if found.st_size > most:
        raise ValueError(f"it has {found.st_size:,} bytes; {most:,} are the most")
    with path.open("rb") as file:
        return file.read(most)


def csv_rows(data: bytes) -> list[list[str]]:
    """Return the rows of a CSV file, as a spreadsheet saves it.

    Args:
        data: The bytes of the file: UTF-8 with or without a byte-order mark, or UTF-16 with one. The
            separator of the cells is a comma, or a semicolon or tab if the first line has more of these.

    Raises:
        ValueError: It is no CSV.

    Example:
        >>> csv_rows(b"room;count\\r\\nquay;5.0\\r\\n")
        [['room', 'count'], ['quay', '5.0']]
    """
    import csv
    from io import StringIO

    text = decoded(data)
    try:
        return list(csv.reader(StringIO(text, newline=""), delimiter=separator_of(text)))
    except csv.Error as error:
        raise ValueError(str(error)) from None


def separator_of(text: str) -> str:
    """The separator of the cells of a CSV file: the likeliest by its first line."""
    return max(",;\t", key=text.split("\n", 1)[0].count)


def csv_reader(
    file: str | None, texts: Mapping[str, str] | None = None
) -> Callable[[str], list[tuple[str, ...]]] | None:
    """Reads the maps that a level file names; ``None`` for a level in no file.

    Args:
        file: The level file.
        texts: What some of the CSV files are to hold instead, by path.
    """
    return partial(_csv_beside, Path(file).parent, texts or {}) if file else None


def _csv_beside(folder: Path, texts: Mapping[str, str], name: str) -> list[tuple[str, ...]]:
    """Read a map that a level names, from the level's own folder: no level may read other files.

    Raises:
        ValueError: It does not lie in the level's folder or below it.
    """
    path = (folder / name).resolve()
    if not path.is_relative_to(folder.resolve()):
        raise ValueError("a map lies in the level's folder or below it")
    text = texts.get(str(folder / name))
    return load_csv_map(path) if text is None else _symbols(csv_rows(text.encode()))


def read_text(path: str | os.PathLike[str]) -> str:
    """Read a text file.

    Args:
        path: The file; UTF-8, or UTF-16 with its mark.

    Returns:
        The text.

    Raises:
        LevelError: It cannot be read, is no text, or is too large.
    """
    file = os.fspath(path)
    try:
        with Path(path).open("rb") as opened:  # it may be a pipe, and need not end
            raw = opened.read(LARGEST_FILE + 1)
        if len(raw) > LARGEST_FILE:
            raise ValueError(f"it has more than {LARGEST_FILE:,} bytes, which are the most")
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise _unreadable(
            f"cannot read this file: {reason.lower()}", file, code="no-file"
        ) from None
    wide = raw[:2] in (BOM_UTF16_LE, BOM_UTF16_BE)
    if not wide and b"\0" in raw[:65536]:
        raise _unreadable("this is a binary file, not text", file)
    try:
        return decoded(raw)
    except UnicodeDecodeError as error:
        before = error.object[: error.start]
        line = before.count(b"\n") + 1
        column = error.start - (before.rfind(b"\n") + 1) + 1
        name = "UTF-16" if wide else "UTF-8"
        message = f"the byte 0x{error.object[error.start]:02x} is not {name} text"
        raise _unreadable(message, file, Place(line, column)) from None


def _unreadable(
    message: str, file: str, place: Place | None = None, code: str = "syntax"
) -> LevelError:
    return LevelError([Problem(code, message, place)], file)
