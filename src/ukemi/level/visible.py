"""Write out hidden characters, so that no name or label can control a terminal or a log."""

from __future__ import annotations

import re

#: Control characters, characters that change the direction of writing, and invisible characters; but not
#: joiners and variant selectors, which the scripts of several languages need.
HIDDEN = re.compile(
    "[\x00-\x1f\x7f-\x9f\u00ad\u061c\u180e\u200b\u200e\u200f\u2028-\u202e\u2060-\u206f\ud800-\udfff"
    "\ufeff\ufff0-\ufffb\ufffe\uffff\U0001d173-\U0001d17a\U000e0000-\U000e00ff\U000e01f0-\U000e0fff]"
)
# A line that begins so, or holds this, is taken for an instruction by servers that run builds.
_steers_a_build = re.compile(r"^(\s*)(::)|(##)(?=\w*\[)")


def visible(text: str) -> str:
    """Text with what cannot be seen written out, as in Python's own strings.

    Returns:
        The text on one line; it holds no control character.

    Example:
        >>> visible("Mill\\x1b[2J")
        'Mill\\\\x1b[2J'
    """
    if text.isascii() and text.isprintable():
        return text
    return HIDDEN.sub(_written_out, text)


def _written_out(found: re.Match[str]) -> str:
    short = {"\n": "\\n", "\r": "\\r", "\t": "\\t"}
    code = ord(found[0])
    return short.get(found[0]) or (
        f"\\x{code:02x}" if code < 256 else f"\\u{code:04x}" if code < 65536 else f"\\U{code:08x}"
    )


def quoted(text: str, most: int) -> str:
    """Text in quotes; of a long text, only the first characters.

    Example:
        >>> quoted("tide-mill", 4)
        "'tide'..."
    """
    return repr(text[:most]) + ("..." if len(text) > most else "")


def as_line(text: str) -> str:
    """Text as a line of output: visible, and no instruction to a server that runs builds.

    Returns:
        The line; a backslash stands in what would have been an instruction.

    Example:
        >>> print(as_line("::error file=mill.yaml::all is lost"))
        \\::error file=mill.yaml::all is lost
    """
    line = visible(text)
    if ":" not in line and "#" not in line:
        return line
    return _steers_a_build.sub(lambda found: f"{found[1]}\\::" if found[2] else "#\\#", line)
