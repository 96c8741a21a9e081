"""Rename a thing in all files that use its name: the files of a campaign belong together."""

from __future__ import annotations

from collections.abc import Mapping

from ..language import loads
from ..language.files.campaign_files import with_texts
from ..language.text.mentions import Mention
from ..level import LevelError
from ..level.joined import Joined
from ..level.names import RESERVED, is_name
from .document import Document, NamedThing, Opened
from .everywhere import Everywhere, UnreadableError, same_file


class CannotRenameError(ValueError):
    """A name that cannot be given, with the reason."""


def renamed_everywhere(
    document: Document, named: NamedThing, new: str, opened: Opened
) -> dict[str, tuple[Document, list[Mention]]]:
    """Return where a name stands in each file that means the same thing.

    Args:
        document: The file in which the name was chosen.
        new: The new name.
        opened: The texts of files that are open in the editor.

    Returns:
        By file: what it says, and where the name stands in it.

    Raises:
        CannotRenameError: The new name is none, or taken, or a file could not be read with it.
    """
    if not is_name(new) or new in RESERVED:
        raise CannotRenameError(f"{new!r} cannot be a name")
    try:
        meant = Everywhere(document, named, opened)
    except UnreadableError as error:
        raise CannotRenameError(str(error)) from None
    for file, (one, _) in meant.found.items():
        if new in one.names.get(named.kind, ()):
            raise CannotRenameError(f"there is a {named.kind} {new!r} already, in {file}")
    _see_that_it_reads(meant.found, meant.campaigns, new)
    return meant.found


def _see_that_it_reads(
    found: Mapping[str, tuple[Document, list[Mention]]], wholes: Mapping[str, Document], new: str
) -> None:
    """Refuse a name that would make a readable file unreadable."""
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
                if same_file(own, other)
            }
            with_texts(whole.level, {**known, file: texts[file]})
    except LevelError as error:
        raise CannotRenameError(f"{new!r} would make a file unreadable: {error}") from None


def replaced(text: str, spans: list[Mention], new: str) -> str:
    """Return a text with another name at some places."""
    for begin, end, _ in reversed(spans):
        text = text[:begin] + new + text[end:]
    return text
