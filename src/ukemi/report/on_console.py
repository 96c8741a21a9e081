"""Lines of a report on standard output: coloured and wrapped on a terminal, plain elsewhere."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterable

from ..level.visible import as_line
from .as_text import Line, plain_text


def print_lines(lines: Iterable[Line]) -> None:
    """Print lines on standard output.

    On a terminal they are wrapped, and coloured unless ``NO_COLOR`` is set; elsewhere each line
    is printed whole and plain, unless ``FORCE_COLOR`` is set.
    """
    if sys.stdout.isatty() or os.environ.get("FORCE_COLOR"):
        _print_styled(lines)
    else:
        print(plain_text(lines))


def _print_styled(lines: Iterable[Line]) -> None:
    # Rich takes a third of a small check's time to load, so only a terminal pays for it.
    from rich.console import Console
    from rich.padding import Padding
    from rich.text import Text

    console = Console(highlight=False)
    for line in lines:
        label = f"{line.label}: " if line.label else ""
        styled_label = bool(label) and line.style.startswith("bold")
        text = Text()
        text.append(as_line(label), style=line.style if styled_label else "bold" if label else "")
        text.append(as_line(line.text), style="" if styled_label else line.style)
        console.print(Padding(text, (0, 0, 0, line.indent)))
