"""A level file while it is being written: the level, as far as it can be read, and the names in it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import cached_property
from pathlib import Path
from typing import Any

from ..language.fields.notes import Notes
from ..language.fields.reading import read_level
from ..language.files.campaign_files import campaign_from, is_campaign
from ..language.files.loading import csv_reader, loads, read_text
from ..language.text.mentions import KINDS, Mention, declared, mentions
from ..language.text.yaml_nodes import compose
from ..level import Level, LevelError
from ..level.joined import Joined
from ..values import dataclass

#: The text of a file that is open in the editor; ``None`` for other files.
Opened = Callable[[Path], str | None]


def nothing_open(path: Path) -> str | None:
    """No file is open."""
    return None


@dataclass(frozen=True)
class NamedThing:
    """A name in a text, with what it stands for."""

    kind: str
    name: str
    mention: Mention


class Document:
    """The text of a level or campaign file, whatever state it is in.

    Args:
        file: The file's name.
        opened: The texts of other files that are open: they may not be saved yet.
        before: The document a moment before: its names stay known while this text cannot be read.

    Attributes:
        level: The level; ``None`` where it cannot be read.
        error: Why not.
    """

    def __init__(
        self, text: str, file: str, opened: Opened = nothing_open, before: Document | None = None
    ) -> None:
        self.text = text
        self.file = file
        self.root: Any = None
        self.notes = Notes()
        self.level: Level | None = None
        self.error: LevelError | None = None
        self._before = before
        try:
            self.root = compose(text, file)
            self.level = self._read(opened)
        except LevelError as error:
            self.error = error
        if before is not None:
            before._before = None  # one step back is enough

    def _read(self, opened: Opened) -> Level:
        if not is_campaign(self.root):
            name = Path(self.file).stem
            level = read_level(self.root, self.file, name, csv_reader(self.file), self.notes)
            level.file, level.text = self.file, self.text
            return level

        def load(path: Path) -> Level:
            text = opened(path)
            return loads(read_text(path) if text is None else text, str(path))

        joined = campaign_from(self.root, self.file, load, {self.file: self.text})
        joined.file, joined.text = self.file, self.text
        return joined

    @cached_property
    def names(self) -> dict[str, list[str]]:
        """The names that are given, by what they stand for."""
        if self.root is None and self._before is not None:
            return self._before.names
        root = self.root or _without_broken_line(self.text, self.error)
        if root is None or root.id != "mapping":
            return {kind: [] for kind in (*KINDS, "level")}
        if is_campaign(root):
            return self._names_of_levels(root)
        found = {
            kind: list(dict.fromkeys(str(node.value) for node in declared(root, kind)))
            for kind in KINDS
        }
        found["flag"] = list(dict.fromkeys([*found["flag"], *self.notes.flags]))
        if self.level is not None:
            found["room"] = list(dict.fromkeys([*found["room"], *self.level.rooms]))
            found["thing"] = list(dict.fromkeys([*found["thing"], *self.level.things]))
        return found | {"level": []}

    def _names_of_levels(self, root: Any) -> dict[str, list[str]]:
        """The names in a campaign: its levels, and what their things are called in it."""
        found: dict[str, list[str]] = {kind: [] for kind in KINDS}
        levels = (value for key, value in root.value if key.value == "levels")
        found["level"] = [
            str(key.value) for one in levels if one.id == "mapping" for key, _ in one.value
        ]
        whole = self.readable
        if isinstance(whole, Joined):
            found["item"] = list(whole.items)
            found["flag"] = sorted(whole.all_flags() & whole.campaign.shares)
            found["room"], found["thing"] = list(whole.rooms), list(whole.things)
        elif self._before is not None:
            found |= {kind: names for kind, names in self._before.names.items() if kind != "level"}
        return found

    @cached_property
    def readable(self) -> Level | None:
        """The level, or as it was when it could last be read."""
        if self.level is None and self._before is not None:
            return self._before.readable
        return self.level

    def mentions(self, name: str, kind: str) -> list[Mention]:
        """Everywhere that the text speaks of a thing; nowhere where it is no mapping yet."""
        if self.root is None or self.root.id != "mapping" or is_campaign(self.root):
            return []
        return mentions(self.root, self.notes, self.text, name, kind)

    def named_at(self, offset: int) -> NamedThing | None:
        """The name at a place in the text, with what it stands for."""
        word = self.word_at(offset)
        for kind in KINDS if word else ():
            for mention in self.mentions(word, kind):
                if mention.begin <= offset <= mention.end:
                    return NamedThing(kind, word, mention)
        return None

    def word_at(self, offset: int) -> str:
        """The letters, digits and hyphens around a place."""
        begin = end = min(offset, len(self.text))
        while begin and _in_word(self.text[begin - 1]):
            begin -= 1
        while end < len(self.text) and _in_word(self.text[end]):
            end += 1
        return self.text[begin:end]

    def declarations(self) -> Iterator[NamedThing]:
        """Every name that is given in the text."""
        if self.root is None or self.root.id != "mapping":
            return
        for kind in KINDS:
            for node in declared(self.root, kind):
                mention = Mention(node.start_mark.index, node.end_mark.index, True)
                yield NamedThing(kind, str(node.value), mention)


def _in_word(letter: str) -> bool:
    return letter.isalnum() or letter in "-_"


def _without_broken_line(text: str, error: LevelError | None) -> Any:
    """Read a broken text without the line that breaks it, or without the lines after it."""
    places = [one.place for one in error.problems if one.place] if error else []
    lines = text.split("\n")
    number = places[0].line if places else len(lines)
    for rest in ([*lines[: number - 1], *lines[number:]], lines[: number - 1], lines[: number - 2]):
        try:
            return compose("\n".join(rest))
        except LevelError:
            continue
    return None
