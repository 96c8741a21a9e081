"""A mend: a change to the files of a level that was made on a copy and checked."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from difflib import unified_diff
from functools import cached_property
from typing import Any

from ..language import dumps, loads
from ..language.files.campaign_files import with_texts
from ..language.files.loading import from_plain
from ..language.text.editing import REMOVED, Edit, plain
from ..level import Level
from ..level.joined import Joined
from ..values import dataclass


@dataclass(frozen=True)
class Mend:
    """A change to a level, or to a file that cannot be read, that brings no new finding as grave as the one it
    removes.

    Attributes:
        say: The change, in a sentence.
        texts: The new text of each file that it changes.
        before: The texts of those files as they are.
        edits: The values that it sets; none if it changes the text as such.
        left: The errors that the level still has with it, as ``CODE SUBJECT``.
        warns: The warnings that are new with it, as ``CODE SUBJECT``.
        names_file: Whether its file is one of a campaign's, or that of a map.

    Example:
        >>> mend = Mend("write mill", {"mill.yaml": "goal: mill\\n"}, {"mill.yaml": "goal: mil\\n"})
        >>> mend.text, mend.diff
        ('goal: mill\\n', ['-goal: mil', '+goal: mill'])
    """

    say: str
    texts: Mapping[str, str]
    before: Mapping[str, str]
    edits: tuple[Edit, ...] = ()
    left: tuple[str, ...] = ()
    warns: tuple[str, ...] = ()
    names_file: bool = False

    @property
    def file(self) -> str:
        """The file that it changes; empty for a level that is in none."""
        return next(iter(self.texts))

    @property
    def text(self) -> str:
        """The new text of the file."""
        return self.texts[self.file]

    @cached_property
    def diff(self) -> list[str]:
        """The lines that go and those that come, each with ``-`` or ``+`` before it."""
        return [*_changed_lines(self.before[self.file], self.text)]

    def apply(self, level: Level) -> Level:
        """Return the level with the change made.

        Args:
            level: The level that was checked; it stays as it is.

        Example:
            >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [mill -> quay]}")
            >>> text = "{start: quay, goal: mill, rooms: [quay, mill], passages: [quay -> mill]}"
            >>> Mend("turn it round", {"": text}, {"": level.text}).apply(level).passages[0].name
            'quay -> mill'
        """
        if isinstance(level, Joined):
            return with_texts(level, self.texts)
        if self.file != (level.file or ""):  # of a map in a CSV file
            return from_plain(plain(dumps(level), level.file), level, self.texts)
        return loads(self.text, level.file)

    def as_dict(self) -> dict[str, Any]:
        """The mend as plain values, as they stand in JSON; what is taken out becomes ``null``."""
        file = {"file": self.file} if self.names_file else {}
        warns = {"warns": list(self.warns)} if self.warns else {}
        edits = [
            {"path": list(one.path), "value": None if one.value is REMOVED else one.value}
            for one in self.edits
        ]
        return {"say": self.say, **file, **warns, "edit": edits}


def _changed_lines(old: str, new: str) -> Iterator[str]:
    lines = unified_diff(old.splitlines(), new.splitlines(), n=0, lineterm="")
    return (line for line in list(lines)[2:] if not line.startswith("@@"))
