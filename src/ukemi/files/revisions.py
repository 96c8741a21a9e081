"""Older versions of files, from the git repository they are in."""

from __future__ import annotations

import subprocess
import tarfile
from collections.abc import Iterator
from contextlib import contextmanager
from io import BytesIO
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any


class RevisionError(Exception):
    """An older version that cannot be had; the message says why."""


@contextmanager
def at_revision(path: Path, revision: str) -> Iterator[Path]:
    """A file or folder as it was at a revision, with all that was beside and below it.

    Args:
        path: The file or folder as it is now.
        revision: A commit, tag or branch of the git repository that it is in.

    Yields:
        Where it is, as long as this lasts.

    Raises:
        RevisionError: There is no git, no repository, no such revision, or it was not there then.
    """
    folder = path if path.is_dir() else path.parent
    commit = _git(
        folder, "rev-parse", "--verify", "--quiet", "--end-of-options", f"{revision}^{{commit}}"
    )
    if commit is None:
        inside = _git(folder, "rev-parse", "--is-inside-work-tree")
        if inside is None:
            raise RevisionError(f"{path} is in no git repository")
        raise RevisionError(f"the repository has no revision {revision!r}")
    name = commit.decode().strip()
    prefix = (_git(folder, "rev-parse", "--show-prefix") or b"").decode().rstrip("\n")
    archive = _git(folder, "archive", "--format=tar", name, ".")
    with TemporaryDirectory() as scratch:
        if archive is not None:
            with tarfile.open(fileobj=BytesIO(archive)) as packed:
                # Python 3.11 has the filter from 3.11.4 on
                safe: Any = {"filter": "data"} if hasattr(tarfile, "data_filter") else {}
                packed.extractall(scratch, [one for one in packed if _stays_inside(one)], **safe)
        found = Path(scratch) / (path.name if not path.is_dir() else "")
        if archive is None or not found.exists():
            raise RevisionError(f"{prefix}{path.name} was not there at {revision}")
        yield found


def _stays_inside(member: tarfile.TarInfo) -> bool:
    """Whether it is a file, a folder, or a link to something beside it or below."""
    if member.issym():
        target = Path(member.linkname)
        return not target.is_absolute() and ".." not in target.parts
    return member.isfile() or member.isdir()


def _git(folder: Path, *arguments: str) -> bytes | None:
    """What git says; ``None`` where it fails."""
    try:
        done = subprocess.run(
            ["git", "-C", str(folder), *arguments], capture_output=True, check=False
        )
    except FileNotFoundError:
        raise RevisionError("this needs git, which is not there") from None
    return done.stdout if done.returncode == 0 else None
