"""Older versions of files, from the git repository they are in.

Only objects are read: no filter, hook, attribute, pager, transport or helper program that the
repository names is run or obeyed.
"""

from __future__ import annotations

import hashlib
import os
import subprocess
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from tempfile import TemporaryDirectory
from typing import NamedTuple

#: The files that a level or a campaign is made of.
ENDINGS = (".yaml", ".yml", ".json", ".csv")
#: A file larger than this (in bytes) is left out, and so is what all together goes beyond the second.
LARGEST, LARGEST_OF_ALL = 32 << 20, 1 << 30

#: Options that restrict git, whatever the repository's own settings say. A repository without a work tree
#: that lies inside another one is refused.
_SAFE = (
    "--no-pager", "--no-replace-objects", "--no-optional-locks", "--literal-pathspecs",
    "-c", "safe.bareRepository=explicit", "-c", "core.fsmonitor=false",
    "-c", f"core.hooksPath={os.devnull}", "-c", f"core.attributesFile={os.devnull}",
)  # fmt: skip

#: An object that is missing is not fetched: this outdoes what a repository allows each protocol.
_ENVIRONMENT = {
    "GIT_ALLOW_PROTOCOL": "none", "GIT_NO_LAZY_FETCH": "1", "GIT_ATTR_NOSYSTEM": "1",
    "GIT_TERMINAL_PROMPT": "0", "LC_ALL": "C",
}  # fmt: skip


class RevisionError(Exception):
    """An older version cannot be read; the message says why."""


class _Entry(NamedTuple):
    """A file in an older version."""

    mode: str
    object: str
    size: int
    path: PurePosixPath


@contextmanager
def at_revision(path: Path, revision: str) -> Iterator[Path]:
    """A file or folder as it was at a revision, with the levels and maps beside and below it.

    Args:
        path: The file or folder as it is now.
        revision: A commit, tag or branch of the git repository that it is in.

    Yields:
        Where it is, as long as this lasts.

    Raises:
        RevisionError: There is no git, no repository, no such revision, or it was not there then.
    """
    folder = path if path.is_dir() else path.parent
    if not folder.is_dir():
        raise RevisionError(f"there is no folder {folder}")
    commit, prefix = _commit(folder, revision)
    with TemporaryDirectory() as scratch:
        entries = list(_entries(folder, commit, prefix))
        _write(folder, entries, Path(scratch))
        found = Path(scratch) / (path.name if not path.is_dir() else "")
        if not entries or not found.exists():
            raise RevisionError(f"{prefix}{path.name} was not there at {revision}")
        yield found


def changed_since(files: Iterable[Path], revision: str) -> set[Path]:
    """Return the files that are not as they were at a revision; new ones are among them.

    Args:
        files: Levels, campaigns and maps.
        revision: A commit, tag or branch of the git repository that they are in.

    Raises:
        RevisionError: There is no git, no repository or no such revision.
    """
    changed: set[Path] = set()
    then: dict[Path, dict[str, str]] = {}
    for file in files:
        folder = file.resolve().parent
        if folder not in then:
            then[folder] = {
                one.path.name: one.object if one.mode != "120000" else ""
                for one in _entries(folder, *_commit(folder, revision))
                if len(one.path.parts) == 1
            }
        known = then[folder].get(file.name, "")
        make = hashlib.sha256 if len(known) == 64 else hashlib.sha1
        content = file.read_bytes() if file.is_file() else b""
        if make(b"blob %d\0" % len(content) + content).hexdigest() != known:
            changed.add(file)
    return changed


def _commit(folder: Path, revision: str) -> tuple[str, str]:
    """A revision's commit, and where a folder is in its repository.

    Raises:
        RevisionError: There is no such repository or revision.
    """
    if _git(folder, "rev-parse", "--is-inside-work-tree") != b"true\n":
        raise RevisionError(f"{folder} is in no git repository with a work tree")
    asked = ("rev-parse", "--verify", "--quiet", "--end-of-options", f"{revision}^{{commit}}")
    commit = _git(folder, *asked)
    if commit is None:
        raise RevisionError(f"the repository has no revision {revision!r}")
    prefix = (_git(folder, "rev-parse", "--show-prefix") or b"").decode().rstrip("\n")
    return commit.decode().strip(), prefix


def _entries(folder: Path, commit: str, prefix: str) -> Iterator[_Entry]:
    """The files of levels and maps in a folder at a revision, by their paths in it."""
    below = ("--", prefix) if prefix else ()
    listed = _git(folder, "ls-tree", "-r", "-z", "-l", "--full-tree", commit, *below)
    total = 0
    for line in (listed or b"").split(b"\0"):
        about, _, name = line.partition(b"\t")
        words = about.decode("ascii", "replace").split()
        path = PurePosixPath(os.fsdecode(name)[len(prefix) :])
        if len(words) != 4 or words[1] != "blob" or path.suffix not in ENDINGS:
            continue
        if not words[3].isdigit():
            raise RevisionError(f"the repository does not hold all of {path}")
        size = int(words[3])
        total += size
        inside = not path.is_absolute() and ".." not in path.parts and ".git" not in path.parts
        if inside and size <= LARGEST and total <= LARGEST_OF_ALL:
            yield _Entry(words[0], words[2], size, path)


def _write(folder: Path, entries: list[_Entry], scratch: Path) -> None:
    """Write files with the content that the repository has of them, byte for byte."""
    asked = "".join(f"{one.object}\n" for one in entries).encode()
    said = _git(folder, "cat-file", "--batch", given=asked) or b""
    at = 0
    for one in entries:
        header = said.find(b"\n", at)
        if said[at:header].split()[1:] != [b"blob", str(one.size).encode()]:
            raise RevisionError(f"the repository does not hold all of {one.path}")
        content = said[header + 1 : header + 1 + one.size]
        at = header + 1 + one.size + 1
        file = scratch / one.path
        file.parent.mkdir(parents=True, exist_ok=True)
        if one.mode != "120000":
            file.write_bytes(content)
        elif _stays_inside(target := os.fsdecode(content)):
            file.symlink_to(target)


def _stays_inside(target: str) -> bool:
    """Whether a link leads to something beside it or below."""
    path = PurePosixPath(target)
    return not path.is_absolute() and ".." not in path.parts


def _git(folder: Path, *arguments: str, given: bytes | None = None) -> bytes | None:
    """Run git and return what it prints; ``None`` if it fails."""
    try:
        done = subprocess.run(
            ["git", *_SAFE, "-C", str(folder), *arguments],
            input=given,
            capture_output=True,
            check=False,
            env={**os.environ, **_ENVIRONMENT},
        )
    except FileNotFoundError:
        raise RevisionError("this needs git, which is not there") from None
    return done.stdout if done.returncode == 0 else None
