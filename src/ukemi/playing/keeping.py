"""Sessions in files."""

from __future__ import annotations

from pathlib import Path

from ..files.json_text import json_text
from ..files.read import read_text
from ..files.writing import WriteError
from ..files.writing import write_file as write
from ..files.yaml_nodes import compose
from ..level import LevelError
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
        text = read_text(path)
    except LevelError as error:
        raise SessionError(f"{path}: {error.problems[0].message}") from None
    try:
        node = compose(text, str(path), as_json=True)
    except LevelError as error:
        (problem,) = error.problems
        where = ":".join(map(str, (path, *(problem.place or ())[:2])))
        raise SessionError(f"{where}: a damaged session: {problem.message}") from None
    try:
        return read_session(node, level)
    except SessionError as error:
        joined = "" if str(error)[:1].isdigit() else " "
        raise SessionError(f"{path}:{joined}{error}") from None


def write_file(path: Path, session: Session, over: bool = False) -> None:
    """Write a session.

    Args:
        path: The file.
        session: The session.
        over: Whether a file that is there may be replaced.

    Raises:
        SessionError: There is a file already, or it cannot be written.
    """
    text = json_text(session.plain(), indent=1) + "\n"
    try:
        write(path, text, over=over)
    except WriteError as error:
        raise SessionError(str(error)) from None
