"""The picture of what is carried along a route, step by step."""

from __future__ import annotations

from matplotlib.axes import Axes
from matplotlib.figure import Figure

from ..checks.route_words import stops
from ..level import Level
from ..rules import END, PLAYING, Position, Rules, compile_level
from ..spaces import Route
from .style import theme
from .text_table import Entry, draw_table


def draw_inventory(level: Level, route: Route, axes: Axes | None = None) -> Figure:
    """Draw what is carried at each step of a route, and what each step changes.

    Args:
        route: A route of the level.
        axes: Where to draw; ``None`` for a figure of its own.

    Returns:
        The figure has a row for each step and a column for each kind of item. Gained items are
        marked ``+``, spent or lost items ``-``; opened doors and changed flags stand at the right.
    """
    rules = compile_level(level)
    carried = rules.carriers(level.players, level.inventory.shared)
    used = [
        item
        for item, variable in carried.items()
        if any(position[variable] for position in route.positions)
    ]
    head = [Entry(text, bold=True) for text in ("step", "", *used, "what else changed")]
    rows = [_row("0", "at the start", None, route.positions[0], used, carried, rules)]
    shown = stops(route, level)
    for number, stop in enumerate(shown, 1):
        before, after = route.positions[stop.first], route.positions[stop.last + 1]
        rows.append(_row(str(number), stop.words, before, after, used, carried, rules))
    if route.moves and route.positions[-1][END] == PLAYING:
        wrong = rows[-1]
        wrong[1] = Entry(
            f"{wrong[1].text}  × no run finishes after this", bold=True, color=theme().wrong
        )
    return draw_table(f"{level.name}: what is carried", head, rows, axes)


def _row(
    number: str,
    words: str,
    before: Position | None,
    after: Position,
    used: list[str],
    carried: dict[str, int],
    rules: Rules,
) -> list[Entry]:
    row = [Entry(number, color=theme().faint), Entry(words)]
    for item in used:
        now = after[carried[item]]
        change = now - before[carried[item]] if before is not None else 0
        text = "·" if not now else str(now)
        if change:
            text += f"  {change:+d}".replace("-", "−")
        fill = (
            theme().gained
            if change > 0
            else theme().spent
            if change < 0
            else theme().carried
            if now
            else None
        )
        row.append(
            Entry(
                text,
                fill=fill,
                bold=bool(change),
                color=theme().ink if now or change else theme().faint,
            )
        )
    row.append(Entry(_changes(before, after, rules)))
    return row


def _changes(before: Position | None, after: Position, rules: Rules) -> str:
    if before is None:
        return ""
    words = []
    for variable, number in rules.index.items():
        if before[number] == after[number]:
            continue
        match variable:
            case ("opened", name):
                words.append(f"{name} opened")
            case ("flag", name):
                words.append(f"{name} {'on' if after[number] else 'off'}")
            case ("collapsed", name):
                words.append(f"{name} collapsed")
    return ", ".join(words)
