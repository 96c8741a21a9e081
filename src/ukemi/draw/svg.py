"""Draw the map of a level as SVG; a page can change its parts: the player's room, open doors,
items.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from html import escape

from ..bits import numbers_of
from ..level import ALWAYS, Level, Lock, Room
from ..level.maps.cell_sets import runs
from ..level.maps.grid import Grid
from ..level.maps.tilemap import BUILT_IN, TileMap
from ..level.visible import visible
from .areas import Frames
from .box_positions import MOST_ROOMS, Box, too_many
from .labels import (
    Written,
    lock_letters,
    on_its_line,
    passage_lines,
    room_lines,
)
from .layout import laid_out
from .marks import GATE, svg_mark
from .style import item_colors, lock_color, text_width, theme
from .tile_map import ways_between
from .ways import Way

_CELL, _LINE, _PAD, _GAP, _MARK = 22.0, 15.0, 9.0, 30.0, 14.0

#: How much wider bold text is; how much larger the print of labels is than in other pictures.
_BOLD, _PRINT = 1.13, 1.12


def svg_map(level: Level) -> str:
    """A level's map as an ``svg`` element.

    Rooms carry ``data-room``, items on the floor ``data-lying`` (``ROOM/ITEM``), doors and chests
    ``data-opens``, other ways ``data-way``, and acts ``data-does``. Floors carry ``data-floor``, and the size of a cell is
    in ``data-cell``. With these, a page can show a position and a way. Colours come from the page's
    style sheet, but for those of items and locks.

    Returns:
        The element; every name in it is escaped.
    """
    parts: list[str] = []
    rooms = {name: room for name, room in level.rooms.items() if room.cell is None}
    width = height = 0.0
    for floor in level.maps.values():
        parts += _floor(level, floor, height)
        width = max(width, floor.width * _CELL)
        height += len(floor.rows) * _CELL + _GAP + 16
    if level.maps:
        for words in ways_between(level):
            parts.append(_text(0, height, words))
            height += _LINE
    if len(rooms) > MOST_ROOMS:
        parts.append(_text(0, height + 12, f"The level {too_many(len(rooms))}."))
        width, height = max(width, 400.0), height + _LINE
    elif rooms:
        drawn, box = _rooms(level, rooms, height)
        parts += drawn
        width, height = max(width, box[0]), height + box[1]
    size = f"0 0 {width + 8:.0f} {height + 8:.0f}"
    label = escape(visible(f"Map of {level.name}"), quote=True)
    style = f'style="width:{width + 8:.0f}px"'
    return f'<svg viewBox="{size}" {style} role="img" aria-label="{label}">{"".join(parts)}</svg>'


def _text(x: float, y: float, text: str, kind: str = "") -> str:
    return f'<text x="{x:.1f}" y="{y:.1f}" class="{kind}">{escape(visible(text))}</text>'


# -- rooms ----------------------------------------------------------------------------------------


def _rooms(
    level: Level, rooms: dict[str, Room], top: float
) -> tuple[list[str], tuple[float, float]]:
    part = level.copy()
    part.maps, part.rooms = {}, rooms
    part.passages = [one for one in level.passages if one.a in rooms and one.b in rooms]
    inside = {
        area: tuple(one for one in some if one in rooms) for area, some in level.areas.items()
    }
    part.areas = {area: some for area, some in inside.items() if some}
    if level.start not in rooms:
        part.start = next(iter(rooms))
    written = {name: room_lines(level, room) for name, room in rooms.items()}
    labels = {one.name: passage_lines(level, one) for one in part.passages}
    drawn = laid_out(part, written, labels, _room_size, _PRINT)
    left, right, low, high = drawn.bounds(6)

    def at(x: float, y: float) -> tuple[float, float]:
        return x - left, top + high - y

    parts = [*_areas(drawn.frames, at), *(_way(way, at) for way in drawn.ways)]
    for name, box in drawn.boxes.items():
        parts += _room(rooms[name], written[name], box, at(box.x, box.y))
    for way in drawn.ways:
        if (label := drawn.labels.get(way.passage.name)) is not None:
            parts += _label(level, way, label, at(label.x, label.y))
    return parts, (right - left, high - low)


def _areas(frames: Frames, at: Callable[[float, float], tuple[float, float]]) -> Iterator[str]:
    for area, some in frames.parts.items():
        for kind in ("area-line", "area"):
            for box in some:
                x, y = at(box.x - box.width / 2, box.y + box.height / 2)
                size = f'width="{box.width:.1f}" height="{box.height:.1f}"'
                key = f'data-area="{escape(area, quote=True)}"'
                yield f'<rect x="{x:.1f}" y="{y:.1f}" {size} {key} class="{kind}"/>'
    for name, left, top in frames.names:
        x, y = at(left, top)
        yield _text(x + 10, y + 4, name, "area-name")


def _room_size(lines: Sequence[Written]) -> tuple[float, float]:
    widths = [
        text_width(line.text, _size(line)) * (_BOLD if line.bold else 1)
        + (_MARK + 3 if line.mark else 0)
        for line in lines
    ]
    return max(90.0, max(widths) + 2 * _PAD), len(lines) * _LINE + 2 * _PAD


def _size(line: Written) -> float:
    """The height of the print of a line, in pixels."""
    return 12.0 if line.bold else 11.0


def _room(
    room: Room, lines: Sequence[Written], box: Box, middle: tuple[float, float]
) -> Iterator[str]:
    x, y = middle[0] - box.width / 2, middle[1] - box.height / 2
    yield f'<g class="room" data-room="{escape(room.name, quote=True)}">'
    yield f'<rect x="{x:.1f}" y="{y:.1f}" width="{box.width:.1f}" height="{box.height:.1f}" rx="5"/>'
    y += _PAD + 10
    for line in lines:
        words = _line(x + _PAD, y, line, "head" if line.bold else "")
        yield f"<g {_key(line)}>{words}</g>" if line.thing else words
        y += _LINE
    yield "</g>"


def _key(line: Written) -> str:
    """The attribute that a page finds a thing by."""
    assert line.thing is not None
    return f'data-{line.thing[0]}="{escape(line.thing[1], quote=True)}"'


def _line(x: float, y: float, line: Written, kind: str) -> str:
    """A line of text with its mark, if it has one."""
    if not line.mark:
        return _text(x, y, line.text, kind)
    mark = svg_mark(x + _MARK / 2, y - 4, line.shape, line.mark, line.letters, _MARK)
    return mark + _text(x + _MARK + 3, y, line.text, kind)


def _way(way: Way, at: Callable[[float, float], tuple[float, float]]) -> str:
    points = [at(*point) for point in (way.begin, way.bend, way.end)]
    (ax, ay), (bx, by), (cx, cy) = points
    kind = "way" if way.passage.two_way else "way one-way"
    curve = f'<path d="M{ax:.1f} {ay:.1f} Q{bx:.1f} {by:.1f} {cx:.1f} {cy:.1f}" class="{kind}"/>'
    if way.passage.two_way:
        return curve
    dx, dy = cx - bx, cy - by
    length = (dx * dx + dy * dy) ** 0.5 or 1.0
    dx, dy = dx / length * 9, dy / length * 9
    tip = f"{cx:.1f},{cy:.1f} {cx - dx - dy / 2:.1f},{cy - dy + dx / 2:.1f} {cx - dx + dy / 2:.1f},{cy - dy - dx / 2:.1f}"
    return f'{curve}<polygon points="{tip}" class="tip"/>'


def _label(level: Level, way: Way, box: Box, middle: tuple[float, float]) -> Iterator[str]:
    x, y = middle[0] - box.width / 2, middle[1] - box.height / 2
    passage = way.passage
    kind = "opens" if passage.lock is not None else "way"
    key = f'data-{kind}="{escape(passage.thing, quote=True)}"'
    lines = passage_lines(level, passage)
    yield f'<g class="{"label mark" if on_its_line(lines) else "label"}" {key}>'
    yield f'<rect x="{x:.1f}" y="{y:.1f}" width="{box.width:.1f}" height="{box.height:.1f}"/>'
    y += 12 if on_its_line(lines) else 15
    for line in lines:
        yield _line(x + 8, y, line, "small")
        y += 12.5
    yield "</g>"


# -- tile maps ------------------------------------------------------------------------------------


def _floor(level: Level, floor: TileMap, top: float) -> Iterator[str]:
    yield _text(0, top + 12, floor.name, "small")
    top += 16
    grid = Grid(floor, {**BUILT_IN, **level.legend})
    rows = len(floor.rows)
    size = f'width="{floor.width * _CELL:.1f}" height="{rows * _CELL:.1f}"'
    key = f'data-floor="{escape(floor.name, quote=True)}" data-cell="{_CELL:.0f}"'
    yield f'<rect x="0" y="{top:.1f}" {size} {key} class="floor"/>'
    # Walls as runs, so that a large map stays a small page.
    for row, left, right in runs(grid.inside & ~(grid.standing | grid.solid), grid.width):
        x, y = (left - 1) * _CELL, top + (row - 1) * _CELL
        yield f'<rect x="{x:.1f}" y="{y:.1f}" width="{(right - left) * _CELL:.1f}" height="{_CELL}" class="wall"/>'
    bears, climbs = grid.having(lambda tile: tile.bears), grid.having(lambda tile: tile.climb)
    for number in numbers_of(bears | climbs) if floor.side is not None else ():
        tile, (column, row) = grid.tile(number), grid.column_row(number)
        x, y = (column - 1) * _CELL, top + (row - 1) * _CELL
        if tile.bears:
            yield f'<rect x="{x:.1f}" y="{y:.1f}" width="{_CELL}" height="6" class="wall"/>'
        for high in (3, 10, 17) if tile.climb else ():
            yield f'<rect x="{x + 5:.1f}" y="{y + high:.1f}" width="12" height="2" class="wall"/>'
    doors = {door.b: door for door, _ in level.doors() if door.part_of}
    for room in level.rooms.values():
        if room.cell is not None and room.cell.map == floor.name and not room.deadly:
            x, y = (room.cell.column - 1) * _CELL, top + (room.cell.row - 1) * _CELL
            door = doors.get(room.name)
            lock = level.lock_of(door) if door is not None else None
            yield from _cell(level, room, door.thing if door else "", lock, x, y)


def _cell(
    level: Level, room: Room, door: str, lock: Lock | None, x: float, y: float
) -> Iterator[str]:
    yield f'<g class="cell" data-room="{escape(room.name, quote=True)}">'
    yield f'<rect x="{x:.1f}" y="{y:.1f}" width="{_CELL}" height="{_CELL}"/>'
    middle, high = x + _CELL / 2, y + _CELL / 2
    if lock is not None:
        color, letters = lock_color(level, lock, item_colors(level)), lock_letters(level, lock)
        yield f'<g data-opens="{escape(door, quote=True)}"><title>{escape(f"{door}: needs {lock.needs}")}</title>'
        yield svg_mark(middle, high, "door", color, letters, _CELL, "door") + "</g>"
    lines = [line for line in room_lines(level, room)[1:] if line.mark]
    for line in lines:
        title = f"<title>{escape(line.text)}</title>"
        mark = svg_mark(middle, high, line.shape, str(line.mark), line.letters, _CELL)
        if line.thing:
            yield f"<g {_key(line)}>{title}{mark}</g>"
        elif not room.items and not room.chests and not room.all_acts():
            yield f"<g>{title}{mark}</g>"
    if not lines and lock is None:
        yield from _ground(level, room, middle, y)
    named = [room.name] if room.name != str(room.cell) else []
    label = door or ", ".join([*room.chests, *room.switches, *room.acts, *room.items, *named])
    if label and label != str(room.cell):
        yield _text(middle, y + _CELL + 8, label, "tiny")
    yield "</g>"


def _ground(level: Level, room: Room, middle: float, y: float) -> Iterator[str]:
    """The sign of one-way floor, a gate or a hazard."""
    assert room.cell is not None
    symbol = level.maps[room.cell.map].symbol(room.cell.column, room.cell.row)
    tile = {**BUILT_IN, **level.legend}[symbol]
    if tile.one_way is not None:
        arrows = {"up": "↑", "down": "↓", "left": "←", "right": "→"}
        yield _text(middle, y + 16, arrows[tile.one_way], "thing")
    elif tile.gate != ALWAYS:
        sign = svg_mark(middle, y + _CELL / 2, "gate", GATE, "", _CELL)
        yield f"<g><title>{escape(f'gate: {tile.gate}')}</title>{sign}</g>"
    elif tile.asks:
        yield svg_mark(middle, y + _CELL / 2, "hazard", theme().wrong, "", _CELL)
