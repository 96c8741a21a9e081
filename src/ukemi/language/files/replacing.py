"""Writing a file whole or not at all."""

from __future__ import annotations

import os
import stat
from collections.abc import Collection, Iterable
from pathlib import Path

from ...level.visible import visible
from .coding import decoded, encoded

#: The endings of a picture's name.
PICTURES = (".png", ".svg", ".pdf")


class WriteError(OSError, ValueError):
    """A file that cannot be written; the message names it and says why."""


def write_file(
    path: str | os.PathLike[str],
    content: str | bytes,
    *,
    endings: Collection[str] = (),
    inputs: Iterable[str | os.PathLike[str]] = (),
    over: bool = True,
) -> None:
    """Write a file: whole or not at all, where a link leads to, with the rights it has.

    An existing path that is not a regular file, such as a pipe or a device, is written to.

    Args:
        content: The new content; text is written as UTF-8.
        endings: The allowed endings of its name, in small letters; none allows any.
        inputs: Files that were read to make it, which it must not be.
        over: Whether a file that is there may be replaced.

    Raises:
        WriteError: It cannot be written; what was there is as it was.

    Example:
        >>> write_file("mill.txt", "a page", endings=[".html"])
        Traceback (most recent call last):
        ukemi.language.files.replacing.WriteError: mill.txt: the name of such a file ends in one of .html
    """
    data = content.encode("utf-8", "replace") if isinstance(content, str) else content
    target, mode = must_be_writable(path, endings=endings, inputs=inputs, over=over)
    try:
        if mode is not None and not stat.S_ISREG(mode):
            target.write_bytes(data)
        else:
            _replace(target, data, mode, over)
    except OSError as error:
        raise _error(os.fspath(path), error.strerror or str(error)) from None


def rewrite(path: str | os.PathLike[str], before: str, after: str) -> None:
    """Write a new version of a text file that was read before, unless it has changed since.

    The bytes that the change does not touch stay as they were, a byte-order mark and UTF-16 too.

    Args:
        before: The text that was read from it.
        after: The text it is to hold.

    Raises:
        WriteError: The file has changed since, or cannot be written. It stays as it is.

    Example:
        >>> rewrite("nowhere.yaml", "start: quay", "start: mill")
        Traceback (most recent call last):
        ukemi.language.files.replacing.WriteError: nowhere.yaml: cannot write this file: no such file or directory
    """
    name = os.fspath(path)
    try:
        raw = _target(name).read_bytes()
        same = decoded(raw) == before
    except UnicodeDecodeError:
        same = False
    except OSError as error:
        raise _error(name, error.strerror or str(error)) from None
    if not same:
        raise WriteError(
            f"{visible(name)}: another program saved this file after it was read, so it was "
            "left as it is; run the command again"
        )
    write_file(path, encoded(after, like=raw))


def must_be_writable(
    path: str | os.PathLike[str],
    *,
    endings: Collection[str] = (),
    inputs: Iterable[str | os.PathLike[str]] = (),
    over: bool = True,
) -> tuple[Path, int | None]:
    """Refuse a file that cannot be written, before the work that is to fill it.

    Args:
        endings: As of :func:`write_file`.
        inputs: As of :func:`write_file`.
        over: As of :func:`write_file`.

    Returns:
        The file to write in the end, after following links, and its mode; ``None`` if it does not exist.

    Raises:
        WriteError: It cannot be written, as far as a test can show.

    Example:
        >>> must_be_writable("nowhere/mill.txt")
        Traceback (most recent call last):
        ukemi.language.files.replacing.WriteError: nowhere/mill.txt: cannot write this file: there is no folder nowhere
    """
    name = os.fspath(path)
    try:
        target = _target(name)
        mode = target.stat().st_mode if target.exists() else None
        _refuse(name, target, mode, endings, inputs, over)
    except WriteError:
        raise
    except (OSError, RuntimeError, ValueError) as error:
        raise _error(name, getattr(error, "strerror", None) or str(error)) from None
    return target, mode


def _error(name: str, why: str) -> WriteError:
    return WriteError(
        f"{visible(name) or repr(name)}: cannot write this file: {why[:1].lower()}{why[1:]}"
    )


def _target(name: str) -> Path:
    if not name or not name.strip():
        raise _error(name, "it has no name")
    try:
        name.encode()
    except UnicodeEncodeError:
        raise _error(name, "its name is not UTF-8 text") from None
    return Path(name).resolve()  # where a link leads to: the link stays


def _refuse(
    name: str,
    target: Path,
    mode: int | None,
    endings: Collection[str],
    inputs: Iterable[str | os.PathLike[str]],
    over: bool,
) -> None:
    if mode is not None and stat.S_ISDIR(mode):
        raise _error(name, "it is a folder")
    for other in inputs:
        if mode is not None and Path(other).exists() and target.samefile(other):
            raise WriteError(f"{visible(name)}: this is what was read; choose another name")
    if endings and target.suffix.lower() not in endings and (mode is None or stat.S_ISREG(mode)):
        listed = ", ".join(endings)
        raise WriteError(f"{visible(name)}: the name of such a file ends in one of {listed}")
    if mode is not None and not over:
        raise WriteError(
            f"{visible(name)}: a file of that name exists and was left as it is; choose another"
        )
    if not target.parent.is_dir():
        raise _error(name, f"there is no folder {visible(str(Path(name).parent))}")


def _replace(target: Path, data: bytes, mode: int | None, over: bool) -> None:
    if mode is not None and not os.access(target, os.W_OK):
        raise PermissionError(0, "permission denied")
    scratch = target.with_name(f".ukemi-{os.urandom(8).hex()}.new")
    try:
        with os.fdopen(os.open(scratch, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o666), "wb") as file:
            if mode is not None:
                scratch.chmod(stat.S_IMODE(mode))
            file.write(data)
        if over:
            scratch.replace(target)
        else:
            _put(scratch, target)
    finally:
        scratch.unlink(missing_ok=True)


def _put(scratch: Path, target: Path) -> None:
    """Give a new file its name, unless another file appeared under it meanwhile."""
    try:
        target.hardlink_to(scratch)
    except FileExistsError:
        raise
    except OSError:  # a file system without links
        scratch.rename(target)
