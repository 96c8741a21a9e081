"""Read the messages of an editor without headers that would end the server."""

from __future__ import annotations

import re
from typing import BinaryIO

#: The longest header line, and the longest message, in bytes.
LONGEST_HEADER, LONGEST_MESSAGE = 1 << 16, 1 << 26

_length = re.compile(rb"Content-Length: *([0-9]{1,20})\r?\n\Z")


class SafeInput:
    """Standard input without broken and huge headers.

    The text after such a header is skipped too, up to the next readable header, even if that begins in
    the middle of a line.

    Example:
        >>> from io import BytesIO
        >>> safe = SafeInput(BytesIO(b"Content-Length: x\\r\\n\\r\\n{}Content-Length: 2\\r\\n\\r\\n{}"))
        >>> [safe.readline() for _ in range(4)], safe.read(2)
        ([b'Skipped: 1\\r\\n', b'\\r\\n', b'Content-Length: 2\\r\\n', b'\\r\\n'], b'{}')
    """

    def __init__(self, stream: BinaryIO) -> None:
        self._stream = stream

    def readline(self) -> bytes:
        """The next line of a header. A broken line is replaced by one that says nothing."""
        line = self._stream.readline(LONGEST_HEADER)
        found = _length.search(line)
        if found and 0 < int(found[1]) <= LONGEST_MESSAGE:
            return b"Content-Length: %d\r\n" % int(found[1])
        return line if not line.strip() else b"Skipped: 1\r\n"

    def read(self, count: int) -> bytes:
        """So many bytes of a message."""
        return self._stream.read(count)
