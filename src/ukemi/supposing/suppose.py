"""The level that some suppositions describe, and what its files would say."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from typing import NamedTuple

from ..language import dumps, loads
from ..language.files.campaign_files import with_texts
from ..language.text.editing import edited_text, plain
from ..level import Level, LevelError, Problem
from ..level.joined import Joined
from ..level.names import in_list
from .suppositions import Suppositions, refused


class Supposed(NamedTuple):
    """A level of which something is supposed.

    Attributes:
        level: The level as it would be.
        texts: What each file that would change would hold, by its name.
        before: What these files hold.
    """

    level: Level
    texts: Mapping[str, str]
    before: Mapping[str, str]


def suppose_all(level: Level, suppositions: Iterable[str]) -> Supposed:
    """Suppose several things of a level, one after another.

    In a campaign, the things of a level are named as a check names them: ``open flood/loft-door``.

    Args:
        level: The level; it stays as it is.
        suppositions: The suppositions, such as ``open loft-door`` or ``carry 2 iron-key``.

    Raises:
        LevelError: Something cannot be supposed, or the level cannot be read then.

    Example:
        >>> level = loads("{start: quay, goal: mill, items: {peg: {}}, rooms: [quay, mill],"
        ...               " passages: [quay <-> mill: {lock: peg, name: door}]}")
        >>> print(suppose_all(level, ["carry peg", "no lock door"]).texts[""])
        {start: quay, goal: mill, items: {peg: {}}, rooms: [quay, mill], passages: [quay <-> mill: {name: door}], inventory: {start: [peg]}}
    """
    own = level.texts if isinstance(level, Joined) else {level.file or "": dumps(level)}
    texts = dict(own)
    changed: dict[str, None] = {}
    for said in suppositions:
        one, file, words = _part(level, said)
        name = file or None
        edits = Suppositions(one, plain(texts[file], name)).edits(words)
        try:
            texts[file] = edited_text(texts[file], edits, name)
            if isinstance(level, Joined):
                level = with_texts(level, texts)
            else:
                level = loads(texts[file], name)
        except LevelError as error:
            raise _unreadable(said, error) from None
        changed[file] = None
    return Supposed(level, {one: texts[one] for one in changed}, {one: own[one] for one in changed})


def _part(level: Level, said: str) -> tuple[Level, str, str]:
    """The level that a supposition is about, its file, and the supposition in that level's own names."""
    if not isinstance(level, Joined):
        return level, level.file or "", said
    stages = level.campaign.stages
    named = {one for one in stages if re.search(rf"(?<!\S){re.escape(one)}/", said)}
    if len(named) != 1:
        wrong = "several levels" if named else "no level"
        message = f"{said!r} names {wrong} of the campaign: write {in_list([f'{one}/…' for one in stages], 'or')}"
        raise refused(message, said)
    (name,) = named
    stage = stages[name].level
    if stage.file is None or stage.file not in level.texts:
        raise refused(f"the level {name} has no file of its own", said)
    return stage, stage.file, re.sub(rf"(?<!\S){re.escape(name)}/", "", said)


def _unreadable(said: str, error: LevelError) -> LevelError:
    """The error of a level that cannot be read if something is supposed."""
    problems = [
        Problem(one.code, f"suppose {said!r}: then {one.message}", None, one.text, one.near)
        for one in error.problems
    ]
    return LevelError(problems, error.file)
