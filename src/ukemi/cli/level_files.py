"""Which level files a command is given: names, folders, patterns, and standard input."""

from __future__ import annotations

import os
import re
from glob import glob, has_magic
from pathlib import Path

from ..bulk.checking import STANDARD_INPUT
from ..language.files.campaign_files import levels_named_in
from .output import fail

#: The endings of level files, and what one says near its left edge.
ENDINGS = (".yaml", ".yml", ".json")
_names_csv = re.compile(rb"\bcsv[\"']?\s*:\s*[\"']?([^\s\"',}]+)").findall
_says_what_a_level_says = re.compile(
    rb"(?:^|[{,])\s*[\"']?(ukemi|goal|start|campaign)[\"']?\s*:", re.MULTILINE
)


def level_files(given: list[str]) -> list[str]:
    """The level files that are meant, in the order in which they were given.

    Args:
        given: Files, folders that stand for the levels in and below them, patterns such as
            ``levels/*.yaml``, and ``-``.

    Returns:
        The names of files, and ``-``. A folder or a pattern with no level in it ends the command.
    """
    found: list[str] = []
    for name in given:
        if name != STANDARD_INPUT and Path(name).is_dir():
            found += _in_folder(Path(name))
        elif has_magic(name) and not Path(name).exists():
            matching = sorted(filter(os.path.isfile, glob(name, recursive=True)))  # noqa: PTH207
            if not matching:
                fail(f"{name}: no file is named so")
            found += matching
        else:
            found.append(name)
    return found


def parts_of(file: str) -> list[Path]:
    """Return the files that a level is made of: its own, its maps in CSV files; of a campaign, those of its levels.

    Args:
        file: The level's file, or the campaign's.
    """
    found: list[Path] = []
    for one in (Path(file), *levels_named_in(Path(file))):
        found.append(one)
        try:
            text = one.read_bytes()
        except OSError:
            continue
        found += [one.parent / os.fsdecode(name) for name in _names_csv(text)]
    return found


def changed_levels(files: list[str], revision: str) -> list[str]:
    """Return the levels and campaigns of which some file has changed since a revision.

    Args:
        files: The files of levels and campaigns.
        revision: A commit, tag or branch of the git repository that they are in.
    """
    from ..language.files.revisions import RevisionError, changed_since

    parts = {file: parts_of(file) for file in files if file != STANDARD_INPUT}
    try:
        changed = changed_since(
            dict.fromkeys(one for some in parts.values() for one in some), revision
        )
    except RevisionError as error:
        fail(f"--changed-since {revision}: {error}")
    return [one for one in files if one not in parts or not changed.isdisjoint(parts[one])]


def _in_folder(folder: Path) -> list[str]:
    levels = in_folder(folder)
    if not levels:
        fail(f"{folder}: there is no level in this folder")
    return [str(one) for one in levels]


def in_folder(folder: Path) -> list[Path]:
    """Yield the level files in a folder and below it, by name; skip links that lead out of the
    folder.
    """
    top = folder.resolve()
    files = sorted(
        one
        for one in folder.rglob("*")
        if one.suffix in ENDINGS and one.is_file() and one.resolve().is_relative_to(top)
    )
    return [one for one in files if _is_level(one)]


def _is_level(file: Path) -> bool:
    """Return whether a file looks like a level; reading reports a file that cannot be opened."""
    try:
        with file.open("rb") as opened:
            return bool(_says_what_a_level_says.search(opened.read(1 << 16)))
    except OSError:
        return True
