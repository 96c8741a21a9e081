"""Text as the bytes of a file: UTF-8 with or without a byte-order mark, or UTF-16 with one."""

from __future__ import annotations

from codecs import BOM_UTF8, BOM_UTF16_BE, BOM_UTF16_LE

_MARKS = {BOM_UTF8: "utf-8", BOM_UTF16_LE: "utf-16-le", BOM_UTF16_BE: "utf-16-be"}


def _coding(data: bytes) -> tuple[bytes, str]:
    """The byte-order mark that data begin with, if any, and how the rest is coded."""
    found = next((mark for mark in _MARKS if data.startswith(mark)), b"")
    return found, _MARKS.get(found, "utf-8")


def decoded(data: bytes) -> str:
    """Return the text that the bytes of a file stand for, without a byte-order mark.

    Raises:
        UnicodeDecodeError: They are not text.

    Example:
        >>> decoded(b"\\xef\\xbb\\xbfquay")
        'quay'
    """
    mark, coding = _coding(data)
    return data[len(mark) :].decode(coding)


def encoded(text: str, like: bytes) -> bytes:
    """Return a text as bytes, in the coding of the file that it replaces.

    Example:
        >>> encoded("mill", like=b"\\xef\\xbb\\xbfquay")
        b'\\xef\\xbb\\xbfmill'
    """
    mark, coding = _coding(like)
    return mark + text.encode(coding, "replace")
