"""Sessions in files."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from ..language.files.loading import read_text
from ..language.files.replacing import WriteError, rewrite
from ..language.files.replacing import write_file as write
from ..language.text.json_text import json_text
from ..language.text.yaml_nodes import compose
from ..level import LevelError
from .session import Session, SessionError, read_session


def read_file(path: Path, level: str | None = None) -> Session:
    """Read a session.

    Args:
        level: The name of the level it has to be of; ``None`` for any.

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
        return replace(read_session(node, level), text=text)
    except SessionError as error:
        joined = "" if str(error)[:1].isdigit() else " "
        raise SessionError(f"{path}:{joined}{error}") from None


def write_file(path: Path, session: Session, before: str | None = None) -> str:
    """Write a session.

    Args:
        before: The content that a file to be replaced must have; ``None`` if no file may be replaced.

    Returns:
        The current content of the file.

    Raises:
        SessionError: There is a file already, it holds something else, or it cannot be written.
    """
    text = json_text(session.plain(), indent=1) + "\n"
    try:
        if before is None:
            write(path, text, over=False)
        else:
            rewrite(path, before, text)
    except WriteError as error:
        raise SessionError(str(error)) from None
    return text
