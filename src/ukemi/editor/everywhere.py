"""Find a name in all files that use it for the same thing: the files of a campaign belong together."""

from __future__ import annotations

from pathlib import Path

from ..language.files.campaign_files import campaigns_naming
from ..language.files.loading import read_text
from ..language.text.mentions import KINDS, Mention, mentions_in_campaign
from ..level import LevelError
from ..level.joined import Joined
from .document import Document, NamedThing, Opened


class UnreadableError(ValueError):
    """A file of a campaign that cannot be read now."""


class Everywhere:
    """The files in which a name stands for one thing.

    In a campaign, items of the same name are one item, and so are shared flags: all its levels mean it.
    Everything else is of one level, and is meant there and in the campaign's own file.

    Args:
        document: The level in which the name was chosen.
        opened: The texts of files that are open in the editor.

    Raises:
        UnreadableError: A campaign that names the level, or one of its levels, cannot be read.

    Attributes:
        found: By file: what it says, and where the name stands in it.
        campaigns: The campaigns among them.
    """

    def __init__(self, document: Document, named: NamedThing, opened: Opened) -> None:
        self.found = {document.file: (document, document.mentions(named.name, named.kind))}
        self.campaigns: dict[str, Document] = {}
        ahead = [document.file]
        for file in ahead:  # grows: a level may be in several campaigns
            for campaign in campaigns_naming(file):
                if campaign in self.campaigns:
                    continue
                whole = self.campaigns[campaign] = read_document(campaign, opened)
                if not isinstance(whole.level, Joined):
                    raise UnreadableError(f"{campaign} names {file}, but cannot be read now")
                files, shared, spans = _in_campaign(whole, file, named.name, named.kind)
                self.found[campaign] = (whole, spans)
                for other in files if shared else ():
                    if not any(same_file(other, one) for one in self.found):
                        level = read_document(other, opened)
                        self.found[other] = (level, level.mentions(named.name, named.kind))
                        ahead.append(other)


def _in_campaign(
    whole: Document, file: str, name: str, kind: str
) -> tuple[list[str], bool, list[Mention]]:
    """Return the files of a campaign's levels, whether the name stands for one thing in all of them, and where
    the campaign has it.
    """
    assert isinstance(whole.level, Joined)
    stages = whole.level.campaign.stages.values()
    files = {one.name: str(one.level.file) for one in stages}
    shared = kind == "item" or (kind == "flag" and name in whole.level.campaign.shares)
    mine = [one for one, other in files.items() if same_file(other, file)]
    spans = mentions_in_campaign(whole.root, whole.text, name, kind, mine, shared)
    return list(files.values()), shared, spans


def named_in_campaign(
    document: Document, offset: int, opened: Opened
) -> tuple[Document, NamedThing] | None:
    """Return what a name in a campaign's own file stands for: the level that has it, and the name there.

    Args:
        offset: Where the name stands, in characters from the start.
        opened: The texts of files that are open in the editor.
    """
    word = document.word_at(offset)
    if not word or not isinstance(document.level, Joined):
        return None
    for stage in document.level.campaign.stages.values():
        try:
            level = read_document(str(stage.level.file), opened)
        except UnreadableError:
            continue
        for kind in KINDS:
            if word in level.names[kind]:
                _, _, spans = _in_campaign(document, level.file, word, kind)
                here = next((one for one in spans if one.begin <= offset <= one.end), None)
                if here is not None:
                    return level, NamedThing(kind, word, here)
    return None


def same_file(one: str, other: str) -> bool:
    """Whether two paths lead to one file."""
    return Path(one).resolve() == Path(other).resolve()


def read_document(file: str, opened: Opened) -> Document:
    """Return what a file says, as it is in the editor or on the disk.

    Raises:
        UnreadableError: It cannot be read.
    """
    text = opened(Path(file))
    try:
        return Document(read_text(file) if text is None else text, file, opened)
    except LevelError as error:
        raise UnreadableError(str(error)) from None
