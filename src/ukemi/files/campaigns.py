"""Reading a campaign file, and the level files it names."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from ..level import Level, LevelError, Problem
from ..level.joined import Joined
from ..level.language.campaigns import read_campaign


def is_campaign(node: Any) -> bool:
    """Whether a file says that it is a campaign."""
    return node.id == "mapping" and any(key.value == "campaign" for key, _ in node.value)


def campaign_from(node: Any, file: str | None, load: Any) -> Joined:
    """A campaign from raw values; its level files lie in its folder or below it.

    Args:
        node: The whole file.
        file: Its name; without one there is no folder for its levels to be in.
        load: Reads a level file.

    Raises:
        LevelError: Something is wrong with the campaign or one of its levels.
    """

    def read(name: str) -> Level:
        if file is None:
            raise _refused("a campaign from no file has no folder for its levels", name)
        folder = Path(file).parent
        path = folder / name
        if not path.resolve().is_relative_to(folder.resolve()):
            raise _refused("a level lies in the campaign's folder or below it", name)
        level: Level = load(path)
        if isinstance(level, Joined):
            raise _refused("it is a campaign itself, and no level", name)
        return level

    return read_campaign(node, file, read)


def _refused(message: str, name: str) -> LevelError:
    return LevelError([Problem("bad-value", message, None, name)], name)
