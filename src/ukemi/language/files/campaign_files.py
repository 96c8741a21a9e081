"""Reading a campaign file, and the level files it names."""

from __future__ import annotations

import os
import re
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from ...level import Level, LevelError, Problem
from ...level.joined import Joined
from ..fields.campaign_fields import read_campaign
from ..text.yaml_nodes import compose

#: The environment variable that lets levels lie outside of the campaign's folder. The user sets it, not
#: the campaign: a campaign may come from a stranger.
OUTSIDE = "UKEMI_LEVELS_OUTSIDE"


def is_campaign(node: Any) -> bool:
    """Whether a file says that it is a campaign, or names levels."""
    keys = [key.value for key, _ in node.value] if node.id == "mapping" else []
    return "campaign" in keys or "levels" in keys


#: The endings of level and campaign files; the number of folders above a level to search for campaigns.
ENDINGS, FOLDERS_ABOVE = (".yaml", ".yml", ".json"), 2

_says_campaign = re.compile(rb"^[\s{]*[\"']?campaign[\"']?\s*:", re.MULTILINE).search


def campaigns_naming(
    file: str, known: dict[Path, dict[Path, list[Path]]] | None = None
) -> list[str]:
    """Return the campaigns that name a level: those in its folder, and in the two above it.

    Args:
        known: Takes down what is found of each folder, for the next call.
    """
    here = Path(file).resolve()
    known = {} if known is None else known
    found: list[str] = []
    folder = Path(file).parent
    for _ in range(1 + FOLDERS_ABOVE):
        if folder.resolve() not in known:
            known[folder.resolve()] = _campaigns_in(folder)
        for campaign, levels in known[folder.resolve()].items():
            if here in levels:
                found.append(str(campaign))
        folder = folder / ".." if folder.name in ("", "..") else folder.parent
    return list(dict.fromkeys(found))


def _campaigns_in(folder: Path) -> dict[Path, list[Path]]:
    """The campaigns in a folder, each with the levels that it names."""
    try:
        files = sorted(one for one in folder.iterdir() if one.suffix in ENDINGS and one.is_file())
    except OSError:
        return {}
    named = {file: levels_named_in(file) for file in files}
    return {file: levels for file, levels in named.items() if levels}


def levels_named_in(path: Path) -> list[Path]:
    """Return the files that a campaign file names as its levels; none if it cannot be read.

    Args:
        path: A file; if it is not a campaign, it names none.
    """
    from .loading import read_text

    if not path.is_file():
        return []
    try:
        with path.open("rb") as opened:
            if not _says_campaign(opened.read(1 << 16)):
                return []
    except OSError:
        return []
    try:
        node: Any = compose(read_text(path), str(path))
    except LevelError:
        return []
    found: list[Path] = []
    for key, levels in node.value if is_campaign(node) else ():
        if key.value != "levels" or levels.id != "mapping":
            continue
        for _, said in levels.value:
            fields = {one.value: two for one, two in said.value} if said.id == "mapping" else {}
            file = fields.get("file", said)
            if file.id == "scalar":
                found.append((path.parent / file.value).resolve())
    return found


def campaign_from(
    node: Any, file: str | None, load: Any, texts: Mapping[str, str] | None = None
) -> Joined:
    """A campaign from raw values; its level files lie in its folder or below it.

    Args:
        node: The whole file.
        file: Its name; without one there is no folder for its levels to be in.
        load: Reads a level file.
        texts: The texts of its files, if they are known.

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

    Raises:
        LevelError: With them, something is wrong.
    """
    from .loading import loads  # which reads campaigns too

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
