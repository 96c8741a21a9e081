"""Draw how simulated players fared: the share of each kind of end, and the rooms."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import ceil
from statistics import median

from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.patches import Rectangle

from .style import fit, plain, scale_text, sheet, text_width, theme

_MARGIN, _ROW, _BAR, _WIDE = 26.0, 34.0, 20.0, 420.0
#: The height of the bars of a kind's steps, and the most of them.
_SPREAD, _BINS = 44.0, 60

#: The hatching of each kind of end, so that colour is never needed.
_HATCHES = ("////", "xxxx", "....", "")


def draw_shares(
    title: str,
    rows: Mapping[str, Mapping[str, float]],
    sure: Mapping[str, tuple[float, float] | None],
    lost_by: Mapping[str, Mapping[str, float]],
    axes: Axes | None = None,
    steps: Mapping[str, Sequence[int]] | None = None,
) -> Figure:
    """Draw shares of runs as bars, and how many steps the runs took.

    Args:
        title: The title above them.
        rows: For each kind of player, the share of runs that ended in each way, from 0 to 1; the
            first is the share stuck. A kind that did not run has none.
        sure: For each kind of player, the least and the most that the share stuck is, with 95 % confidence;
            ``None`` if it did not run.
        lost_by: For each move that loses the level, the share of each kind's runs it lost.
        axes: Where to draw; ``None`` for a figure of its own.
        steps: For each kind of player, the steps of the runs that finished.
    """
    left = _MARGIN + max(text_width(text) for text in (*rows, "of the runs")) + 12
    if lost_by:
        left = max(left, _MARGIN + max(text_width(move, 9) for move in lost_by) + 14)
    width = max(left + _WIDE + 210, text_width(title, 15) + 2 * _MARGIN)
    lines = sum(len(shares) for shares in lost_by.values())
    below = 58 + 16 * lines + 8 * len(lost_by) if lost_by else 0.0
    finished = {name: sorted(some) for name, some in (steps or {}).items() if some}
    spread = 74 + _SPREAD * len(finished) if finished else 0.0
    height = 100 + _ROW * len(rows) + spread + below + 40
    own = axes is None
    figure, axes = sheet(width, height) if axes is None else fit(axes, (0, width, height, 0))
    axes.text(_MARGIN, 24, plain(title), size=15, weight="bold", color=theme().ink, va="center")
    ends = list(dict.fromkeys(end for shares in rows.values() for end in shares))
    _key(axes, ends, left)
    top = 86.0
    for name, shares in rows.items():
        _bar(axes, name, shares, sure[name], left, top, ends)
        top += _ROW
    if finished:
        _spread(axes, finished, left, top + 26)
        top += spread
    if lost_by:
        top += 30
        axes.text(_MARGIN, top, "Where they get stuck: the move that loses the level", size=11,
                  weight="bold", color=theme().ink, va="center")  # fmt: skip
        _lost(axes, lost_by, left, top + 24)
    axes.text(_MARGIN, height - 18, "Sampled: this shows what is likely and proves nothing; "
              "`ukemi check` proves what is possible.", size=9, color=theme().faint, va="center")  # fmt: skip
    if not own:
        scale_text(axes)
    return figure


def _spread(axes: Axes, steps: Mapping[str, Sequence[int]], left: float, top: float) -> None:
    """Draw how many runs of each kind took how many steps, with the median of each."""
    axes.text(_MARGIN, top, "Steps of the runs that finish: bars of one height for each kind, the median marked",
              size=11, weight="bold", color=theme().ink, va="center")  # fmt: skip
    least = min(some[0] for some in steps.values())
    # The longest runs of a hundred would press all others together.
    most = max(max(some[int(0.99 * (len(some) - 1))] for some in steps.values()), least + 1)
    each = max(1, ceil((most - least + 1) / _BINS))
    bins = ceil((most - least + 1) / each)
    wide = _WIDE / bins
    top += 18
    for name, some in steps.items():
        counts = [0] * bins
        for one in some:
            if one <= most:
                counts[(one - least) // each] += 1
        floor = top + _SPREAD - 8
        axes.text(left - 10, floor - 8, name, size=10, color=theme().ink, va="center", ha="right")
        for number, count in enumerate(counts):
            high = (_SPREAD - 12) * count / max(counts)
            axes.add_patch(
                Rectangle(
                    (left + number * wide, floor - high),
                    wide * 0.9,
                    high,
                    facecolor=theme().route,
                    lw=0,
                )
            )
        middle = median(some)
        x = left + ((middle - least) / each + 0.5 / each) * wide
        axes.plot([x, x], [floor - _SPREAD + 10, floor + 3], color=theme().wrong, lw=1.6)
        words = f"median {middle:g}, nine in ten within {some[int(0.9 * (len(some) - 1))]}"
        axes.text(left + _WIDE + 12, floor - 8, words, size=9, color=theme().ink, va="center")
        top += _SPREAD
    for number in range(0, bins + 1, max(1, bins // 6)):
        axes.text(left + number * wide, top + 6, f"{least + number * each}", size=8.5,
                  color=theme().ink, ha="center", va="center")  # fmt: skip
    axes.text(left + _WIDE + 12, top + 6, "steps", size=8.5, color=theme().ink, va="center")


def _fills() -> tuple[str, ...]:
    colors = theme()
    return (colors.spent, colors.faint, colors.carried, colors.gained)


def _key(axes: Axes, ends: list[str], x: float) -> None:
    for number, end in enumerate(ends):
        _box(axes, x, 50, 14, 12, number)
        axes.text(x + 19, 56, end, size=9, color=theme().ink, va="center")
        x += 19 + text_width(end, 9) + 18
    _interval(axes, x, x + 16, 56)
    words = "the share stuck, with 95 % confidence"
    axes.text(x + 21, 56, words, size=9, color=theme().ink, va="center")


def _interval(axes: Axes, least: float, most: float, y: float) -> None:
    axes.plot([least, most], [y, y], color=theme().wrong, lw=2, solid_capstyle="butt")
    for end in (least, most):
        axes.plot([end, end], [y - 3, y + 3], color=theme().wrong, lw=1)


def _box(axes: Axes, x: float, y: float, width: float, height: float, number: int) -> None:
    axes.add_patch(
        Rectangle(
            (x, y), width, height, facecolor=_fills()[number % 4], hatch=_HATCHES[number % 4],
            edgecolor=theme().ink, lw=0.7,
        )
    )  # fmt: skip


def _bar(
    axes: Axes,
    name: str,
    shares: Mapping[str, float],
    sure: tuple[float, float] | None,
    left: float,
    top: float,
    ends: list[str],
) -> None:
    middle = top + _BAR / 2
    axes.text(left - 10, middle, name, size=10, color=theme().ink, va="center", ha="right")
    if sure is None:
        axes.text(
            left, middle, "not run: the time was over", size=9, color=theme().faint, va="center"
        )
        return
    x = left
    for number, end in enumerate(ends):
        width = shares.get(end, 0.0) * _WIDE
        if width:
            _box(axes, x, top, width, _BAR, number)
        x += width
    least, most = (left + share * _WIDE for share in sure)
    _interval(axes, least, most, top + _BAR + 5)
    words = ", ".join(f"{share:.0%} {end}" for end, share in shares.items() if share >= 0.005)
    axes.text(left + _WIDE + 12, middle, words, size=9, color=theme().ink, va="center")


def _lost(axes: Axes, lost_by: Mapping[str, Mapping[str, float]], left: float, top: float) -> None:
    for move, shares in lost_by.items():
        middle = top + 8 * len(shares)
        axes.text(
            left - 10, middle, plain(move), size=9, color=theme().ink, va="center", ha="right"
        )
        for name, share in shares.items():
            _box(axes, left, top + 2, share * _WIDE, 12, 0)
            axes.text(left + share * _WIDE + 6, top + 8, f"{name} {share:.1%}", size=8.5,
                      color=theme().ink, va="center")  # fmt: skip
            top += 16
        top += 8
