"""A mend: a change to the files of a level that was made on a copy and checked."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from difflib import SequenceMatcher
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
        warns: What is newly reported with it, as ``CODE SUBJECT``: warnings, and for a level that could not be
            finished, where a player can still get stuck.
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
        """The lines that go and those that come, each with ``-`` or ``+`` before it; of long lines, what changes."""
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


#: Of a line with more characters, only the part that changes is shown, with so many characters around it.
LONG_LINE, AROUND = 200, 60


def _changed_lines(old: str, new: str) -> Iterator[str]:
    before, after = old.splitlines(), new.splitlines()
    for what, begin, end, new_begin, new_end in SequenceMatcher(None, before, after).get_opcodes():
        if what != "equal":
            gone, come = before[begin:end], after[new_begin:new_end]
            if len(gone) == len(come):
                pairs = [_changed_parts(*pair) for pair in zip(gone, come, strict=True)]
                gone, come = [one for one, _ in pairs], [one for _, one in pairs]
            yield from (f"-{line}" for line in gone)
            yield from (f"+{line}" for line in come)


def _changed_parts(old: str, new: str) -> tuple[str, str]:
    """Two versions of a line; of a long line, the part in which they differ."""
    if max(len(old), len(new)) <= LONG_LINE:
        return old, new
    begin = _same_at_first(old, new)
    same = _same_at_first(old[begin:][::-1], new[begin:][::-1])
    left, right = max(begin - AROUND, 0), max(same - AROUND, 0)
    marks = "… " * (left > 0), " …" * (right > 0)
    parts = (f"{marks[0]}{line[left : len(line) - right]}{marks[1]}" for line in (old, new))
    return next(parts), next(parts)


def _same_at_first(old: str, new: str) -> int:
    """Return how many characters two texts begin with in common."""
    both = enumerate(zip(old, new, strict=False))
    return next((number for number, (a, b) in both if a != b), min(len(old), len(new)))
