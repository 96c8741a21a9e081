"""Tables as pictures: rows of text with marks, as wide as their text."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.patches import Rectangle

from ..values import dataclass
from .style import fit, mark_text, plain, scale_text, sheet, text_width, theme

_ROW, _PAD, _MARGIN, _TITLE, _MARK = 19.0, 9.0, 26.0, 46.0, 23.0


@dataclass(frozen=True, slots=True)
class Entry:
    """A cell of a table.

    Attributes:
        text: What it says.
        fill: The colour behind it, if any.
        bold: Whether it stands out.
        color: The colour of the text, if not that of all text.
        mark: The colour of a box before the text and the letters in it, if there is one.
    """

    text: str = ""
    fill: str | None = None
    bold: bool = False
    color: str | None = None
    mark: tuple[str, str] | None = None


def draw_table(
    title: str,
    head: Sequence[Entry],
    rows: Sequence[Sequence[Entry]],
    axes: Axes | None = None,
) -> Figure:
    """Draw a table.

    Args:
        title: The title above it.
        head: The heads of its columns.
        rows: Its rows, each as long as the head.
        axes: Where to draw it; ``None`` for a figure of its own.
    """
    lines = [head, *rows]
    widths = [
        max(text_width(line[number].text, 9) * (1.2 if line[number].bold else 1) for line in lines)
        + 2 * _PAD
        + _MARK * any(line[number].mark for line in lines)
        for number in range(len(head))
    ]
    width = max(sum(widths) + 2 * _MARGIN, text_width(title, 15) + 2 * _MARGIN, 360.0)
    height = len(lines) * _ROW + _TITLE + _MARGIN
    own = axes is None
    figure, axes = sheet(width, height) if axes is None else fit(axes, (0, width, height, 0))
    axes.text(_MARGIN, 24, plain(title), size=15, weight="bold", color=theme().ink, va="center")
    for number, line in enumerate(lines):
        _draw_line(axes, line, widths, _TITLE + number * _ROW)
    below_head = _TITLE + _ROW
    axes.plot([_MARGIN, _MARGIN + sum(widths)], [below_head] * 2, color=theme().ink, lw=1.2)
    if not own:
        scale_text(axes)
    return figure


def _draw_line(axes: Any, line: Sequence[Entry], widths: Sequence[float], top: float) -> None:
    x = _MARGIN
    for entry, width in zip(line, widths, strict=True):
        if entry.fill is not None:
            axes.add_patch(
                Rectangle((x + 2, top + 1.5), width - 4, _ROW - 3, facecolor=entry.fill, lw=0)
            )
        indent = _PAD
        if entry.mark is not None:
            color, letters = entry.mark
            box = Rectangle(
                (x + _PAD, top + 4), _MARK - 5, 11, facecolor=color, edgecolor=theme().ink, lw=0.6
            )
            axes.add_patch(box)
            axes.text(
                x + _PAD + (_MARK - 5) / 2, top + _ROW / 2, plain(letters), size=6, ha="center",
                va="center_baseline", weight="bold", color=mark_text(color),
            )  # fmt: skip
            indent += _MARK
        axes.text(
            x + indent, top + _ROW / 2, plain(entry.text), size=9, color=entry.color or theme().ink,
            weight="bold" if entry.bold else "normal", va="center",
        )  # fmt: skip
        x += width
    axes.plot([_MARGIN, x], [top + _ROW] * 2, color=theme().faint, lw=0.25)
