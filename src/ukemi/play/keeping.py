"""Sessions in files."""

from __future__ import annotations

import json
from pathlib import Path

from ..files.replacing import replacing
from .session import Session, SessionError, read_session


def read_file(path: Path, level: str | None = None) -> Session:
    """Read a session.

    Args:
        path: The file.
        level: The name of the level it has to be of; ``None`` for any.

    Returns:
        The session.

    Raises:
        SessionError: There is no such file, it is damaged, or it is of another level.
    """
    try:
        plain = json.loads(path.read_text(encoding="utf-8"))
    except json.JSONDecodeError as error:
        where = f"{path}:{error.lineno}:{error.colno}"
        raise SessionError(f"{where}: a damaged session: {error.msg.lower()}") from error
    except UnicodeDecodeError as error:
        raise SessionError(f"{path}: not a session: it is not text") from error
    except OSError as error:
        raise SessionError(f"{path}: cannot be read: {(error.strerror or '').lower()}") from error
    except RecursionError as error:
        raise SessionError(f"{path}: a damaged session: too deeply nested") from error
    try:
        return read_session(plain, level)
    except SessionError as error:
        raise SessionError(f"{path}: {error}") from None


def write_file(path: Path, session: Session, over: bool = False) -> None:
    """Write a session.

    Args:
        path: The file.
        session: The session.
        over: Whether a file that is there may be replaced.

    Raises:
        SessionError: There is a file already, or it cannot be written.
    """
    if path.exists() and not over:
        raise SessionError(f"{path}: there is a file of that name; choose another")
    try:
        with replacing(path) as scratch:
            text = json.dumps(session.plain(), indent=1, ensure_ascii=False)
            scratch.write_text(text + "\n", encoding="utf-8")
    except OSError as error:
        raise SessionError(
            f"{path}: cannot be written: {(error.strerror or '').lower()}"
        ) from error
