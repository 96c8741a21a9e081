"""Names as the player of a campaign uses them: without the level that the player is in."""

from __future__ import annotations

import re

from ..level import Level
from ..level.joined import Joined


def without_level(level: Level, stage: str | None, text: str) -> str:
    """Return a text in which things of the player's level have their own names.

    Args:
        level: The level; another than a campaign leaves the text as it is.
        stage: The level that the player is in.
        text: The text, with names such as ``mill/pit-door``.

    Returns:
        The text. A thing of another level is named with it: ``pit-door in mill``.
    """
    if not isinstance(level, Joined):
        return text
    for name in level.campaign.stages:
        shown = r"\1" if name == stage else rf"\1 in {name}"
        text = re.sub(rf"(?<![\w/-]){re.escape(name)}/([\w@/-]+(?:,\d+[\w/-]*)?)", shown, text)
    return text


def with_level(level: Level, stage: str | None, text: str) -> str:
    """Return a typed text in which things of the player's level have the names of the campaign.

    Args:
        level: The level; another than a campaign leaves the text as it is.
        stage: The level that the player is in.
        text: The text, without its verb.
    """
    if not isinstance(level, Joined):
        return text
    names = {*level.things, *level.rooms, *level.all_flags(), *(one.name for one in level.passages)}
    own = {one.removeprefix(f"{stage}/") for one in names if one.startswith(f"{stage}/")}
    own -= level.items.keys()
    longest = sorted(names | own, key=len, reverse=True)  # a name in full stays as it is
    some = "|".join(map(re.escape, longest))
    return re.sub(
        rf"(?<![\w/@-])({some})(?![\w/@-])",
        lambda found: found[1] if found[1] in names else f"{stage}/{found[1]}",
        text,
    )
