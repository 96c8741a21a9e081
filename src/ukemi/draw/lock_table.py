"""The picture of keys against locks: which key serves which, where its units are, which are spare."""

from __future__ import annotations

from collections.abc import Iterator

from matplotlib.axes import Axes
from matplotlib.figure import Figure

from ..checks import Report
from ..level import ALWAYS, Has, HasAll, Level, Lock
from ..level.conditions import Condition, Not, atoms
from ..level.sources import sources
from ..questions.answers import KeyMeasure
from ..rules.variables import Names
from .labels import letters_of
from .style import item_colors, theme
from .text_table import Entry, draw_table


def draw_locks(report: Report, axes: Axes | None = None) -> Figure:
    """Draw which key serves which lock.

    Args:
        axes: Where to draw; ``None`` for a figure of its own.

    Returns:
        The figure: a row a lock, a column a key, even one that opens nothing; below, for each key, where its units lie, how many
        there are, how many finishing takes at least, and which can be spared.
    """
    level = report.level
    locks = list(_locks(report))
    used = {item for _, _, lock, _ in locks for item in _needed(lock.needs)}
    # A key that opens nothing is a column without an entry.
    keys = [name for name, item in level.items.items() if name in used or item.kind == "key"]
    colors, letters = item_colors(level), letters_of(level)
    head = [Entry("lock", bold=True), Entry("needs", bold=True)]
    head += [Entry(key, bold=True, mark=(colors[key], letters[key])) for key in keys]
    head.append(Entry("in finishing runs", bold=True))
    rows = []
    for kind, name, lock, status in locks:
        needs = "nothing" if lock.needs == ALWAYS else str(lock.needs)
        row = [Entry(f"{kind} {name}"), Entry(needs)]
        for key in keys:
            count = _needed(lock.needs).get(key, 0)
            takes = level.items[key].use == "spent" and lock.takes is None
            text = "" if not count else f"{count} {'taken' if takes else 'kept'}"
            row.append(Entry(text, fill=theme().serves if count else None))
        rows.append([*row, Entry(status)])
    rows.append(_line("", "", ["" if key in used else "opens nothing" for key in keys]))
    rows.append(_line("units", "where they are", [_where(level, key) for key in keys]))
    names = Names(level)
    rows.append(_line("", "placed", [str(names.placed(key)) for key in keys]))
    measures = report.answers.measures.keys
    known = [measures.get(key) for key in keys]
    rows.append(
        _line("", "needed at least", ["–" if one is None else str(one.needed) for one in known])
    )
    rows.append(_line("", "spare", ["–" if one is None else _spare(one) for one in known]))
    return draw_table(f"{level.name}: keys and locks", head, rows, axes)


def _line(first: str, second: str, texts: list[str]) -> list[Entry]:
    return [
        Entry(first, bold=True),
        Entry(second, color=theme().faint),
        *(Entry(text) for text in texts),
        Entry(),
    ]


def _spare(measure: KeyMeasure) -> str:
    """Return how many units can be spared, and where they are."""
    least = "" if measure.all_tried else "at least "
    where = f" ({', '.join(dict.fromkeys(measure.spare_in))})" if measure.spare else ""
    return f"{least}{measure.spare}{where}"


def _locks(report: Report) -> Iterator[tuple[str, str, Lock, str]]:
    """Each lock: what kind of thing it is on, the thing's name, the lock, the thing's status."""
    level, answers = report.level, report.answers
    for passage, lock in level.doors():
        yield "door", passage.thing, lock, str(answers.doors[passage.thing])
    for room in level.rooms.values():
        for chest in room.chests.values():
            own = level.lock_of(chest)
            if own is not None:
                yield "chest", chest.name, own, str(answers.chests[chest.name])


def _needed(condition: Condition) -> dict[str, int]:
    """The items a condition asks for, and how many; not those it wants absent."""
    if isinstance(condition, Not):
        return {}
    needed: dict[str, int] = {}
    for atom in atoms(condition):
        match atom:
            case Has(name, count):
                needed[name] = max(count, needed.get(name, 0))
            case HasAll(name):
                needed.setdefault(name, 1)
    return needed


def _where(level: Level, key: str) -> str:
    found = []
    for one in sources(level):
        if key in one.gives and one.kind != "way":
            where = {"start": "at the start", "item": f"in {one.room}", "chest": f"in {one.name}"}
            found.append(f"{one.gives[key]} {where.get(one.kind, f'from {one.name}')}")
    return ", ".join(found) or "nowhere"
