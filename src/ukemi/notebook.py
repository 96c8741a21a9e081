"""Show levels, reports, comparisons and scatterings in notebooks."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from html import escape
from io import BytesIO
from typing import Any

from matplotlib.figure import Figure

from .checks import Report
from .comparing import Comparison
from .comparing.forms import comparison_parts
from .draw import draw_campaign, draw_map, draw_pace
from .draw.box_positions import MOST_ROOMS
from .language.built_campaign import Campaign
from .level import Level
from .level.joined import Joined
from .level.visible import visible
from .report.as_text import finding_lines, verdict_lines, verdict_words
from .report.route_steps import named_routes
from .scattering import Scattering

#: With more findings than this, the rest is only counted: a notebook is no place for a hundred.
_MOST_LISTED = 12


def html_of(shown: Any) -> str:
    """Return what a notebook shows of a thing.

    Args:
        shown: A level, a campaign, a report, a comparison or a scattering.

    Raises:
        TypeError: It is something else.
    """
    match shown:
        case Level():
            return _head(repr(shown)) + _level(shown)
        case Campaign():
            return _head(repr(shown)) + (_level(shown.joined()) if shown.levels else "")
        case Report():
            return _report(shown)
        case Comparison():
            return _comparison(shown)
        case Scattering():
            return _scattering(shown)
    raise TypeError(f"no way to show {shown!r}")


def _head(text: str) -> str:
    return f"<p><b>{_text(text)}</b></p>"


def _text(text: str) -> str:
    return escape(visible(text))


def _picture(figure: Figure) -> str:
    """A figure as SVG, as wide as the notebook and no wider than it is drawn."""
    drawn = BytesIO()
    figure.savefig(drawn, format="svg", metadata={"Date": None})
    text = drawn.getvalue().decode()
    svg = text[text.index("<svg ") :]
    width = figure.get_figwidth() * 96
    style = f"width:100%;max-width:{width:.0f}px;height:auto;background:#fff"
    return svg.replace("<svg ", f'<svg style="{style}" ', 1)


def _level(level: Level, report: Report | None = None) -> str:
    """The picture of a level; with a report, with the route of its first mistake or its shortest run."""
    if not level.rooms or len(level.rooms) > MOST_ROOMS:
        return ""
    if isinstance(level, Joined):
        return _picture(draw_campaign(level, report.answers.levels if report else {}))
    routes = [] if report is None else named_routes(report)
    wrong = next((one for one in routes if one[3]), None)
    chosen = wrong or next(iter(routes), None)
    unreached = frozenset() if report is None else report.unreached
    figure = draw_map(level, chosen[2] if chosen else None, unreached)
    words = f"<p>{_text(chosen[1])}:</p>" if chosen else ""
    return words + _picture(figure)


def _report(report: Report) -> str:
    code = 1 if any(one.severity == "error" for one in report.findings) else 0
    mark = "✗" if code else "✓" if report.search.complete or report.quick else "?"
    parts = [_head(f"{report.level.name}: {mark} {verdict_words(report)}")]
    parts.append(_table(((line.label, line.text) for line in verdict_lines(report)), ()))
    for finding in report.findings[:_MOST_LISTED]:
        head, *lines = list(finding_lines(finding, report.level, full=False))
        said = "".join(
            f"<p>{f'<b>{_text(one.label)}:</b> ' if one.label else ''}{_text(one.text)}</p>"
            for one in lines
        )
        opened = " open" if finding.severity == "error" else ""
        parts.append(
            f"<details{opened}><summary><b>{finding.severity} {finding.code}</b>: {_text(head.text)}</summary>{said}</details>"
        )
    if len(report.findings) > _MOST_LISTED:
        parts.append(f"<p>… and {len(report.findings) - _MOST_LISTED} more: report.findings</p>")
    parts.append(_level(report.level, report))
    if report.answers.measures.pace:
        parts.append(_picture(draw_pace(report)))
    return "".join(parts)


def _comparison(comparison: Comparison) -> str:
    parts = [_head(repr(comparison))]
    for title, lines in comparison_parts(comparison):
        parts.append(_table(((one,) for one in lines), (title,) if title else ()))
    return "".join(parts)


def _scattering(scattering: Scattering) -> str:
    rows = []
    for one in scattering.found:
        measures = one.report.answers.measures
        steps = "-" if measures.finish is None else str(measures.finish.steps)
        where = ", ".join(f"{thing} in {spot}" for thing, spot in one.where)
        order = "-" if one.order_length is None else str(one.order_length)
        spread = "-" if one.spread is None else str(one.spread)
        rows.append((str(one.number), steps, order, spread, where))
    table = _table(rows, ("level", "steps", "order", "spread", "where")) if rows else ""
    return _head(repr(scattering)) + table


def _table(rows: Iterable[Sequence[str]], heads: Sequence[str]) -> str:
    head = "".join(f'<th style="text-align:left">{_text(one)}</th>' for one in heads)
    body = "".join(
        "<tr>" + "".join(f'<td style="text-align:left">{_text(one)}</td>' for one in row) + "</tr>"
        for row in rows
    )
    return (
        f"<table>{f'<thead><tr>{head}</tr></thead>' if head else ''}<tbody>{body}</tbody></table>"
    )
