"""The picture of what must come before what in every finishing run."""

from __future__ import annotations

from itertools import pairwise
from typing import Any, NamedTuple

from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.patches import Circle, FancyArrowPatch, FancyBboxPatch
from matplotlib.path import Path as Curve

from ..checks import Answer, Answers, Report
from ..questions.backbone import backbone
from ..questions.transitive_reduction import Pairs
from .box_positions import Box
from .columns import place_in_layers
from .style import FONT, fit, plain, scale_text, sheet, text_width, theme

_MARGIN, _TITLE = 28.0, 62.0

#: The node for finishing; no name begins with a blank.
_END = " finish"


def draw_order(report: Report, axes: Axes | None = None) -> Figure:
    """Draw what must come before what, from left to right.

    Args:
        axes: Where to draw; ``None`` for a figure of its own.

    Returns:
        The figure. Things in one column that no arrow joins are free: they can be done in any order.
    """
    level, answers = report.level, report.answers
    pairs = backbone(answers)
    names = _required(report, pairs)
    last = {name for name in names if not any(earlier == name for earlier, _ in pairs)}
    said = {name: _words(kind, name) for name, kind in names.items()}
    forks = _forks(answers, pairs)
    ends = {name for name in said if name in last} - {a for a, _ in forks.pairs}
    said |= forks.said
    sizes = {
        name: (text_width(text, FONT) + 22, 28.0) for name, text in {**said, _END: "finish"}.items()
    }
    sizes |= dict.fromkeys(forks.meetings, (12.0, 12.0))
    drawn = place_in_layers(sizes, [*pairs, *forks.pairs, *((name, _END) for name in ends)])
    right = max(box.x + box.width / 2 for box in drawn.boxes.values())
    title = f"{level.name}: what must come before what"
    note = "Things without a path of arrows between them can be done in any order."
    if answers.order is None:
        note = "The order is undecided: the search was cut short."
    elif forks.said:
        note += " Where ways part, all of one of them is done."
    elif not names:
        note = "Nothing but walking must be done to finish."
    width = max(right, text_width(title, 15) * 1.1, text_width(note, 9)) + 2 * _MARGIN
    low, high = drawn.low - _MARGIN - 20, drawn.high + _TITLE
    own = axes is None
    if axes is None:
        figure, axes = sheet(width, high - low)
        axes.set_ylim(low, high)
    else:
        figure, axes = fit(axes, (0, width, low, high))
    axes.text(
        _MARGIN,
        drawn.high + 40,
        plain(title),
        size=15,
        weight="bold",
        color=theme().ink,
        va="center",
    )
    for line in drawn.lines:
        _arrow(axes, [(x + _MARGIN, y) for x, y in line])
    for name, box in drawn.boxes.items():
        moved = Box(box.x + _MARGIN, box.y, box.width, box.height)
        if name in forks.meetings:
            axes.add_patch(Circle((moved.x, moved.y), 4, color=theme().ink, zorder=2))
            continue
        fill = theme().goal if name == _END else theme().room
        _draw_box(axes, moved, "finish" if name == _END else said[name], fill)
    axes.text(_MARGIN, drawn.low - _MARGIN, note, size=9, color=theme().faint, va="center")
    if not own:
        scale_text(axes)
    return figure


class _Forks(NamedTuple):
    """Where ways part and meet again.

    Attributes:
        said: The words of each thing on a way, by a name of its own.
        meetings: The points where ways part, and where they meet.
        pairs: What comes before what.
    """

    said: dict[str, str]
    meetings: list[str]
    pairs: list[tuple[str, str]]


def _forks(answers: Answers, pairs: Pairs) -> _Forks:
    """The things that are needed either or, each way from one point to another."""
    kinds = {
        "door": answers.doors,
        "chest": answers.chests,
        "act": answers.acts,
        "take": answers.items,
    }
    kind_of = {name: kind for kind, some in kinds.items() for name in some}
    forks = _Forks({}, [], [])
    for number, one in enumerate(answers.alternatives or ()):
        part, meet = f" part {number}", f" meet {number}"
        forks.meetings.extend((part, meet))
        for way, names in enumerate(one.ways):
            chain = [part]
            for name in sorted(names, key=lambda name: kind_of[name] != "take"):
                node = f" {number} {way} {name}"
                forks.said[node] = _words(kind_of[name], name)
                chain.append(node)
            forks.pairs.extend(pairwise([*chain, meet]))
        # Only what is next to the fork: the rest follows.
        before = {a for a, b in pairs if b in one.before}
        after = {b for a, b in pairs if a in one.after}
        forks.pairs.extend((name, part) for name in one.before if name not in before)
        forks.pairs.extend((meet, name) for name in one.after if name not in after)
        if not one.after:
            forks.pairs.append((meet, _END))
    return forks


def _required(report: Report, pairs: Pairs) -> dict[str, str]:
    """Return everything that each finishing run does, with the kind of each thing."""
    answers = report.answers
    kinds = {
        "door": answers.doors,
        "chest": answers.chests,
        "act": answers.acts,
        "event": answers.events,
        "take": answers.items,
    }
    names = {
        name: kind
        for kind, statuses in kinds.items()
        for name, status in statuses.items()
        if status == Answer.REQUIRED
    }
    for name in dict.fromkeys(name for pair in pairs for name in pair):
        names.setdefault(name, "gate")
    return names


def _words(kind: str, name: str) -> str:
    if kind == "take":
        room, _, item = name.rpartition("/")
        return f"take {item} ({room})"
    verbs = {"door": "open", "chest": "open", "act": "do", "gate": "pass"}
    return f"{verbs[kind]} {name}" if kind in verbs else f"{name} happens"


def _arrow(axes: Any, line: list[tuple[float, float]]) -> None:
    """An arrow along some points, bent where it passes between others."""
    points, codes = [line[0]], [Curve.MOVETO]
    for (x0, y0), (x1, y1) in pairwise(line):
        middle = (x0 + x1) / 2
        points += [(middle, y0), (middle, y1), (x1, y1)]
        codes += [Curve.CURVE4] * 3
    axes.add_patch(
        FancyArrowPatch(
            path=Curve(points, codes), arrowstyle="-|>", mutation_scale=13, color=theme().ink,
            linewidth=1.3, zorder=1, shrinkA=0, shrinkB=0,
        )
    )  # fmt: skip


def _draw_box(axes: Any, box: Box, text: str, fill: str) -> None:
    axes.add_patch(
        FancyBboxPatch(
            (box.x - box.width / 2, box.y - box.height / 2), box.width, box.height,
            boxstyle="round,pad=0,rounding_size=5", facecolor=fill, edgecolor=theme().ink, linewidth=1.1, zorder=2,
        )
    )  # fmt: skip
    axes.text(
        box.x,
        box.y,
        plain(text),
        size=FONT,
        ha="center",
        va="center_baseline",
        color=theme().ink,
        zorder=3,
    )
