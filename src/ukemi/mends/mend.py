"""A mend: a change to a level file that has been tried."""

from __future__ import annotations

from dataclasses import dataclass
from difflib import unified_diff
from typing import Any

from ..files import change, dumps
from ..files.editing import REMOVED, Edit, edited_text
from ..level import Level


@dataclass(frozen=True, eq=False)
class Mend:
    """A change to a level with which a finding is gone, and nothing as grave is new.

    Attributes:
        say: The change, in a sentence.
        edits: The values of the level file that it sets.
        warns: Warnings that the changed level has and the level had not, as ``CODE SUBJECT``.
    """

    say: str
    edits: tuple[Edit, ...]
    warns: tuple[str, ...] = ()

    def apply(self, level: Level) -> Level:
        """The level with the change made.

        Args:
            level: The level that was checked; it stays as it is.

        Returns:
            A level of its own.

        Example:
            >>> from ukemi.files import loads
            >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [mill -> quay]}")
            >>> mend = Mend("make it two-way", (Edit(("passages", 0), "mill <-> quay"),))
            >>> mend.apply(level).passages[0].two_way
            True
        """
        return change(level, *self.edits)

    def source(self, level: Level) -> tuple[str, str]:
        """The file that it changes, and what that says."""
        return str(level.file), dumps(level)

    def new_text(self, level: Level) -> str:
        """The text of the file that it changes, with the change made."""
        file, text = self.source(level)
        return edited_text(text, list(self.edits), None if level.file is None else file)

    def diff(self, level: Level) -> list[str]:
        """Return the changes in the text of the level file.

        Args:
            level: The level that was checked.

        Returns:
            The lines that go and those that come, each with ``-`` or ``+`` before it.
        """
        return changed_lines(self.source(level)[1], self.new_text(level))

    def as_dict(self) -> dict[str, Any]:
        """The mend as plain values, as they stand in JSON; what is taken out becomes ``null``."""
        warns = {"warns": list(self.warns)} if self.warns else {}
        return {
            "say": self.say,
            **warns,
            "edit": [
                {"path": list(one.path), "value": None if one.value is REMOVED else one.value}
                for one in self.edits
            ],
        }


def changed_lines(old: str, new: str) -> list[str]:
    """The lines that differ between two texts, each with ``-`` or ``+`` before it.

    Example:
        >>> changed_lines("a\\nb\\n", "a\\nc\\n")
        ['-b', '+c']
    """
    lines = unified_diff(old.splitlines(), new.splitlines(), n=0, lineterm="")
    return [line for line in list(lines)[2:] if not line.startswith("@@")]
