"""Lines of a report on a console: coloured and wrapped on a terminal, plain elsewhere."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from .as_text import Line, plain_text

if TYPE_CHECKING:
    from rich.console import Console


def print_lines(console: Console, lines: Iterable[Line]) -> None:
    """Print lines.

    Args:
        console: Where to.
        lines: What to print.
    """
    for line in lines:
        if not console.is_terminal:
            print(plain_text([line]), file=console.file)
            continue
        from rich.padding import Padding
        from rich.text import Text

        label = f"{line.label}: " if line.label else ""
        styled_label = bool(label) and line.style.startswith("bold")
        text = Text(label, style=line.style if styled_label else "dim")
        text.append(line.text, style="" if styled_label else line.style)
        console.print(Padding(text, (0, 0, 0, line.indent)))
