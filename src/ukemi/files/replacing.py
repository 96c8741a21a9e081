"""Writing a file whole or not at all."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


@contextmanager
def replacing(target: Path) -> Iterator[Path]:
    """A file to write in place of another, which takes its place if all goes well.

    Args:
        target: The file to be replaced, or not there yet.

    Yields:
        The file to write, beside it; it is gone afterwards.
    """
    scratch = target.with_name(f".{target.name}.{os.getpid()}.new")
    try:
        yield scratch
        scratch.replace(target)
    finally:
        scratch.unlink(missing_ok=True)
