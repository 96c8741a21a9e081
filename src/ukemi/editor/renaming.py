"""Giving a thing another name in every file that means it: those of a campaign belong together."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from ..files import loads
from ..files.campaign_files import campaigns_naming, with_texts
from ..files.loading import read_text
from ..files.mentions import Mention, mentions_in_campaign
from ..level import LevelError
from ..level.joined import Joined
from ..level.names import RESERVED, is_name
from .document import Document, NamedThing, Opened


class CannotRenameError(ValueError):
    """A name that cannot be given, with the reason."""


def renamed_everywhere(
    document: Document, named: NamedThing, new: str, opened: Opened
) -> dict[str, tuple[Document, list[Mention]]]:
    """Return where a name stands in each file that means the same thing.

    In a campaign, items of the same name are one item, and so are shared flags: all its levels are
    changed. Everything else is of one level, and is changed there and in the campaign's own file.

    Args:
        document: The file in which the name was chosen.
        named: The name.
        new: The new name.
        opened: The texts of files that are open in the editor.

    Returns:
        By file: what it says, and where the name stands in it.

    Raises:
        CannotRenameError: The new name is none, or taken, or a file could not be read with it.
    """
    if not is_name(new) or new in RESERVED:
        raise CannotRenameError(f"{new!r} cannot be a name")
    found = {document.file: (document, document.mentions(named.name, named.kind))}
    wholes: dict[str, Document] = {}
    ahead = [document.file]
    for file in ahead:  # grows: a level may be in several campaigns
        for campaign in campaigns_naming(file):
            if campaign in wholes:
                continue
            whole = wholes[campaign] = _document(campaign, opened)
            if not isinstance(whole.level, Joined):
                raise CannotRenameError(f"{campaign} names {file}, but cannot be read now")
            stages = whole.level.campaign.stages.values()
            files = {one.name: str(one.level.file) for one in stages}
            shared = named.kind == "item" or (
                named.kind == "flag" and named.name in whole.level.campaign.shares
            )
            mine = [one for one, other in files.items() if _same(other, file)]
            spans = mentions_in_campaign(
                whole.root, whole.text, named.name, named.kind, mine, shared
            )
            found[campaign] = (whole, spans)
            for other in files.values() if shared else ():
                if not any(_same(other, one) for one in found):
                    level = _document(other, opened)
                    found[other] = (level, level.mentions(named.name, named.kind))
                    ahead.append(other)
    for file, (one, _) in found.items():
        if new in one.names.get(named.kind, ()):
            raise CannotRenameError(f"there is a {named.kind} {new!r} already, in {file}")
    _see_that_it_reads(found, wholes, new)
    return found


def _same(one: str, other: str) -> bool:
    return Path(one).resolve() == Path(other).resolve()


def _document(file: str, opened: Opened) -> Document:
    text = opened(Path(file))
    try:
        return Document(read_text(file) if text is None else text, file, opened)
    except LevelError as error:
        raise CannotRenameError(str(error)) from None


def _see_that_it_reads(
    found: Mapping[str, tuple[Document, list[Mention]]], wholes: Mapping[str, Document], new: str
) -> None:
    """Refuse a name with which a file could no longer be read that could be before."""
    texts = {file: replaced(one.text, spans, new) for file, (one, spans) in found.items()}
    try:
        for file, (one, _) in found.items():
            if file not in wholes and one.level is not None:
                loads(texts[file], file)
        for file, whole in wholes.items():
            assert isinstance(whole.level, Joined)
            known = {
                own: text
                for own in whole.level.texts
                for other, text in texts.items()
                if _same(own, other)
            }
            with_texts(whole.level, {**known, file: texts[file]})
    except LevelError as error:
        raise CannotRenameError(f"{new!r} would make a file unreadable: {error}") from None


def replaced(text: str, spans: list[Mention], new: str) -> str:
    """Return a text with another name at some places."""
    for begin, end, _ in reversed(spans):
        text = text[:begin] + new + text[end:]
    return text
