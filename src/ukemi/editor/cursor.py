"""Find the field of a level file that a place of its text belongs to, even in an unfinished text."""

from __future__ import annotations

from ..values import dataclass

#: Stands in a path for an element of a list.
ELEMENT = "[]"


@dataclass(frozen=True)
class Cursor:
    """A place in a level file.

    Attributes:
        path: The fields and names that lead to it.
        key: Whether a field or a name is to be written here, not a value.
        written: The part of it before the place.
    """

    path: tuple[str, ...]
    key: bool
    written: str


def cursor_at(text: str, offset: int) -> Cursor | None:
    """Where a place in the text of a level file is.

    Reads the text as YAML is laid out, by indentation and brackets, but takes what is not finished.

    Args:
        offset: The place, in characters from the start.

    Returns:
        The place; ``None`` in a comment, in quotes, or in a drawing.

    Example:
        >>> cursor_at("rooms:\\n  quay: {items: [iro", 28)
        Cursor(path=('rooms', 'quay', 'items', '[]'), key=False, written='iro')
    """
    scan = _Scan()
    lines = text[:offset].split("\n")
    for line in lines:
        scan.line(line)
    return scan.context()


class _Scan:
    """Reads a text up to a place."""

    def __init__(self) -> None:
        self._blocks: list[tuple[int, str]] = []
        self._flow: list[tuple[str, str | None]] = []
        self._drawing: int | None = None
        self._silent = False
        self._token = ""
        self._value = False

    def line(self, line: str) -> None:
        """Read one line, or the part of it before the place."""
        indent = len(line) - len(line.lstrip(" "))
        self._silent = False
        if self._drawing is not None:
            if not line.strip() or indent > self._drawing:
                self._silent = True
                return
            self._drawing = None
        if not self._flow:
            self._token, self._value = "", False
            content = line[indent:]
            while self._blocks and self._blocks[-1][0] >= indent and content.strip():
                self._blocks.pop()
            while self._blocks and not content.strip() and self._blocks[-1][0] >= indent:
                self._blocks.pop()
            while content.startswith("- ") or content == "-":
                self._blocks.append((indent, ELEMENT))
                indent += 2
                content = content[2:]
            self._indent = indent
        else:
            content = line[indent:]
        self._content(content)

    def _content(self, content: str) -> None:
        quote = ""
        for place, letter in enumerate(content):
            after = content[place + 1 : place + 2]
            if quote:
                quote = "" if letter == quote else quote
                self._token += letter
                self._silent = bool(quote)
            elif letter in "\"'" and not self._token.strip():
                quote, self._silent = letter, True
                self._token += letter
            elif letter == "#" and (place == 0 or content[place - 1] == " "):
                self._silent = True
                return
            elif letter in "{[" and not self._token.strip():
                self._flow.append((letter, None))
                self._token, self._value = "", False
            elif letter in "}]" and self._flow:
                self._flow.pop()
                self._token = ""
            elif letter == "," and self._flow:
                kind, _ = self._flow[-1]
                self._flow[-1] = (kind, None)
                self._token = ""
            elif letter == ":" and after in ("", " "):
                self._keyed(self._token.strip().strip("\"'"))
            elif letter in "|>" and not self._flow and self._value and not self._token.strip():
                self._drawing = self._blocks[-1][0] if self._blocks else 0
                self._silent = True
                return
            else:
                self._token += letter

    def _keyed(self, key: str) -> None:
        self._token = ""
        if self._flow:
            kind, _ = self._flow[-1]
            self._flow[-1] = (kind, key)
        else:
            self._blocks.append((self._indent, key))
            self._value = True

    def context(self) -> Cursor | None:
        """Where the text ends."""
        if self._silent:
            return None
        path = [key for _, key in self._blocks]
        key = not self._value
        for kind, inside in self._flow:
            if kind == "[":
                path.append(ELEMENT)
            if inside is not None:
                path.append(inside)
            key = kind == "{" and inside is None
        return Cursor(tuple(path), key, self._token.lstrip())
