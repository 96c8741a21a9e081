"""Reading a campaign file, and the level files it names."""

from __future__ import annotations

import os
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from ..level import Level, LevelError, Problem
from ..level.joined import Joined
from ..level.language.campaigns import read_campaign
from .yaml_nodes import compose

#: The environment variable with which levels may lie outside of the campaign's folder: whoever reads
#: the campaign says so, and not the campaign, which may be somebody else's.
OUTSIDE = "UKEMI_LEVELS_OUTSIDE"


def is_campaign(node: Any) -> bool:
    """Whether a file says that it is a campaign."""
    return node.id == "mapping" and any(key.value == "campaign" for key, _ in node.value)


def campaign_from(
    node: Any, file: str | None, load: Any, texts: Mapping[str, str] | None = None
) -> Joined:
    """A campaign from raw values; its level files lie in its folder or below it.

    Args:
        node: The whole file.
        file: Its name; without one there is no folder for its levels to be in.
        load: Reads a level file.
        texts: What its files say, where that is known.

    Raises:
        LevelError: Something is wrong with the campaign or one of its levels.
    """

    def read(name: str) -> Level:
        if file is None:
            raise _refused("a campaign from no file has no folder for its levels", name)
        folder = Path(file).parent
        path = folder / name
        inside = path.resolve().is_relative_to(folder.resolve())
        if not inside and not os.environ.get(OUTSIDE):
            message = (
                f"a level lies in the campaign's folder or below it (unless {OUTSIDE}=1 is set)"
            )
            raise _refused(message, name)
        level: Level = load(path)
        return level

    joined = read_campaign(node, file, read)
    joined.texts = dict(texts or {})
    for stage in joined.campaign.stages.values():
        if stage.level.file is not None and stage.level.text is not None:
            joined.texts.setdefault(stage.level.file, stage.level.text)
    return joined


def with_texts(level: Joined, texts: Mapping[str, str]) -> Joined:
    """A campaign read again, with other texts for some of its files.

    Args:
        level: The campaign.
        texts: The texts, by file.

    Raises:
        LevelError: With them, something is wrong.
    """
    from .read import loads  # which reads campaigns too

    known = {**level.texts, **texts}
    file = str(level.file)
    return campaign_from(
        compose(known[file], file),
        file,
        lambda path: loads(known[str(path)], str(path)),
        known,
    )


def _refused(message: str, name: str) -> LevelError:
    return LevelError([Problem("bad-value", message, None, name)], name)
