"""Colours and sizes of pictures."""

from __future__ import annotations

from functools import lru_cache

from matplotlib.colors import is_color_like
from matplotlib.textpath import TextPath

from ..level import Item, Level, LevelError, Lock, Problem
from ..level.conditions import Has, atoms

INK = "#22252a"
FAINT = "#6b7178"
PAPER = "#ffffff"
ROOM_FILL = "#f3f1ec"
START_FILL = "#d9ead9"
GOAL_FILL = "#fbe6c2"
ROUTE = "#1f5fa8"
WRONG = "#b3261e"

#: Colours for items that name none; people who do not see all colours can tell them apart.
PALETTE = ("#0072b2", "#d55e00", "#009e73", "#8c4f86", "#a07800", "#4b4b4b")

FONT = 10.0
SMALL = 8.5


@lru_cache(maxsize=4096)
def text_width(text: str, size: float = FONT) -> float:
    """The width of a line of text, in points."""
    if not text.strip():
        return 0.0
    path = TextPath((0, 0), text.replace("$", "S"), size=size)
    return float(path.get_extents().width) + 1.0


def plain(text: str) -> str:
    """Text as Matplotlib shows it unchanged: a dollar sign begins no formula."""
    return text.replace("$", r"\$")


def item_colors(level: Level) -> dict[str, str]:
    """A colour for every item: its own, or one of the palette.

    Raises:
        LevelError: An item or a lock names a colour that is none.
    """
    colors: dict[str, str] = {}
    for number, item in enumerate(level.items.values()):
        _check_color(level, item)
        colors[item.name] = item.color or PALETTE[number % len(PALETTE)]
    return colors


def lock_color(level: Level, lock: Lock, colors: dict[str, str]) -> str:
    """The colour of a lock: its own, or that of the first item it needs."""
    _check_color(level, lock)
    if lock.color:
        return lock.color
    wanted = [atom.name for atom in atoms(lock.needs) if isinstance(atom, Has)]
    return next((colors[name] for name in wanted if name in colors), INK)


def _check_color(level: Level, thing: Item | Lock) -> None:
    if thing.color is None or is_color_like(thing.color):
        return
    from matplotlib.colors import CSS4_COLORS

    from ..level.names import nearest

    message = f"{thing.color!r} is not a colour"
    near = nearest(thing.color, CSS4_COLORS)
    problem = Problem("bad-value", message, thing.place, thing.color, near)
    raise LevelError([problem], level.file)
