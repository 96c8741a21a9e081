"""``ukemi language-server``: level files in a text editor."""

from __future__ import annotations

import sys

from .output import fail


def language_server() -> None:
    """Serve a text editor by the Language Server Protocol, on standard input and output.

    Findings as one types, names and fields completed, what a thing needs and where that lies, renaming,
    and mends. docs/editors.md tells how to set editors up.
    """
    try:
        from ..editor.messages import SafeInput
        from ..editor.server import make_server
    except ImportError:
        fail("this needs more packages: pip install 'ukemi[editor]'")
    from .. import __version__

    make_server(__version__).start_io(SafeInput(sys.stdin.buffer))  # type: ignore[arg-type]
