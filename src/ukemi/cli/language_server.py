"""``ukemi language-server``: level files in a text editor."""

from __future__ import annotations

import sys

from .output import fail


def language_server() -> None:
    """Serve a text editor by the Language Server Protocol, on standard input and output.

    The server sends findings while you type, completes names and fields, shows for each thing its
    needs and their places, renames, and offers mends. docs/editors.md explains how to set up
    editors.
    """
    try:
        from ..editor.messages import SafeInput
        from ..editor.server import make_server
    except ImportError:
        fail("this needs more packages: pip install 'ukemi[editor]'")
    from .. import __version__

    make_server(__version__).start_io(SafeInput(sys.stdin.buffer))  # type: ignore[arg-type]
