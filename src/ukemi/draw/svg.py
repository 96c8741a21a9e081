"""Draw the map of a level as SVG; a page can change its parts: the player's room, open doors,
items.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from html import escape

from ..level import ALWAYS, Level, Lock, Room
from ..level.maps.grid import WALL, Grid
from ..level.maps.tilemap import BUILT_IN, TileMap
from ..level.visible import visible
from .box_positions import MOST_ROOMS, Box, place_rooms, too_many
from .labels import (
    act_text,
    goal_text,
    label_sizes,
    letters_of,
    lock_letters,
    passage_lines,
    size_of,
)
from .style import item_colors, lock_color, text_width
from .tile_map import ways_between
from .ways import Way, place_label, ways

_CELL, _LINE, _PAD, _GAP = 22.0, 15.0, 9.0, 30.0


def svg_map(level: Level) -> str:
    """A level's map as an ``svg`` element.

    Rooms carry ``data-room``, items on the floor ``data-lying`` (``ROOM/ITEM``), doors and chests
    ``data-opens``, other ways ``data-way``, and acts ``data-does``. Floors carry ``data-floor``, and the size of a cell is
    in ``data-cell``. With these, a page can show a position and a way. Colours come from the page's
    style sheet, but for those of items and locks.

    Args:
        level: The level.

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


def _swatch(x: float, y: float, color: str) -> str:
    return f'<circle cx="{x:.1f}" cy="{y:.1f}" r="4.5" fill="{escape(color, quote=True)}" class="swatch"/>'


# -- rooms ----------------------------------------------------------------------------------------


def _rooms(
    level: Level, rooms: dict[str, Room], top: float
) -> tuple[list[str], tuple[float, float]]:
    part = level.copy()
    part.maps, part.rooms = {}, rooms
    part.passages = [one for one in level.passages if one.a in rooms and one.b in rooms]
    if level.start not in rooms:
        part.start = next(iter(rooms))
    sizes = {name: _room_size(level, room) for name, room in rooms.items()}
    labels = {one.name: passage_lines(level, one) for one in part.passages}
    boxes = place_rooms(part, sizes, label_sizes(part, labels))
    lines = ways(part, boxes)
    placed: dict[str, Box] = {}
    for way in lines:
        if labels[way.passage.name]:
            size = size_of(labels[way.passage.name])
            placed[way.passage.name] = place_label(way, size, [*boxes.values(), *placed.values()])
    middles = [Box(*way.at(0.5), 20, 20) for way in lines]
    every = [*boxes.values(), *placed.values(), *middles]
    left = min(box.x - box.width / 2 for box in every) - 6
    high = max(box.y + box.height / 2 for box in every) + 6
    right = max(box.x + box.width / 2 for box in every) + 6
    low = min(box.y - box.height / 2 for box in every) - 6

    def at(x: float, y: float) -> tuple[float, float]:
        return x - left, top + high - y

    parts = [_way(way, at) for way in lines]
    for name, box in boxes.items():
        parts += _room(level, rooms[name], box, at(box.x, box.y))
    for way in lines:
        if way.passage.name in placed:
            box = placed[way.passage.name]
            parts += _label(level, way, box, at(box.x, box.y))
    return parts, (right - left, high - low)


def _contents(level: Level, room: Room) -> list[tuple[str, str, str]]:
    """A mark in a room: its words, its colour, and the attribute that a page finds it by."""
    colors = item_colors(level)
    found = []
    for item, one in room.items.items():
        needs = f", needs {one.needs}" if one.needs != ALWAYS else ""
        count = f"{one.count} " if one.count > 1 else ""
        key = f'data-lying="{escape(f"{room.name}/{item}", quote=True)}"'
        found.append((f"{count}{item} ({level.items[item].kind}){needs}", colors[item], key))
    for chest in room.chests.values():
        key = f'data-opens="{escape(chest.name, quote=True)}"'
        found.append((f"chest {chest.name}: {', '.join(chest.holds) or 'nothing'}", "", key))
    for act in room.all_acts():
        found.append((act_text(act), "", f'data-does="{escape(act.name, quote=True)}"'))
    return found


def _heads(level: Level, room: Room) -> list[str]:
    heads = [room.label or room.name]
    heads += ["START"] if room.name == level.start else []
    goal = goal_text(level, room.name)
    return heads + ([goal] if goal else [])


def _room_size(level: Level, room: Room) -> tuple[float, float]:
    lines = _heads(level, room) + [words for words, _, _ in _contents(level, room)]
    width = max(text_width(line, 11) for line in lines) + 2 * _PAD + 16
    return max(width, 90.0), len(lines) * _LINE + 2 * _PAD


def _room(level: Level, room: Room, box: Box, middle: tuple[float, float]) -> Iterator[str]:
    x, y = middle[0] - box.width / 2, middle[1] - box.height / 2
    yield f'<g class="room" data-room="{escape(room.name, quote=True)}">'
    yield f'<rect x="{x:.1f}" y="{y:.1f}" width="{box.width:.1f}" height="{box.height:.1f}" rx="5"/>'
    y += _PAD + 10
    for number, head in enumerate(_heads(level, room)):
        yield _text(x + _PAD, y, head, "head" if number == 0 else "part")
        y += _LINE
    for words, color, key in _contents(level, room):
        yield f"<g {key}>"
        yield _swatch(x + _PAD + 5, y - 4, color) if color else ""
        yield _text(x + _PAD + (15 if color else 0), y, words) + "</g>"
        y += _LINE
    yield "</g>"


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
    yield f'<g class="label" {key}>'
    yield f'<rect x="{x:.1f}" y="{y:.1f}" width="{box.width:.1f}" height="{box.height:.1f}"/>'
    y += 15
    for line in passage_lines(level, passage):
        yield _swatch(x + 12, y - 4, line.mark) if line.mark else ""
        yield _text(x + (20 if line.mark else 8), y, line.text, "small")
        y += 12.5
    yield "</g>"


# -- tile maps ------------------------------------------------------------------------------------


def _floor(level: Level, floor: TileMap, top: float) -> Iterator[str]:
    yield _text(0, top + 12, floor.name, "small")
    top += 16
    grid = Grid(floor, {**BUILT_IN, **level.legend})
    codes = grid.codes.reshape(-1, grid.width)[1:-1, 1:-1]
    rows = len(floor.rows)
    size = f'width="{floor.width * _CELL:.1f}" height="{rows * _CELL:.1f}"'
    key = f'data-floor="{escape(floor.name, quote=True)}" data-cell="{_CELL:.0f}"'
    yield f'<rect x="0" y="{top:.1f}" {size} {key} class="floor"/>'
    for row in range(rows):
        column = 0
        while column < floor.width:  # walls as runs, so that a large map stays a small page
            run = column
            while run < floor.width and codes[row][run] == WALL:
                run += 1
            if run > column:
                yield (
                    f'<rect x="{column * _CELL:.1f}" y="{top + row * _CELL:.1f}" '
                    f'width="{(run - column) * _CELL:.1f}" height="{_CELL}" class="wall"/>'
                )
            column = max(run, column + 1)
    tiles = {**BUILT_IN, **level.legend}
    for number in range(len(grid.codes)) if floor.side is not None else ():
        tile, (column, row) = tiles.get(str(grid.symbols[number])), grid.column_row(number)
        x, y = (column - 1) * _CELL, top + (row - 1) * _CELL
        if tile is not None and tile.bears:
            yield f'<rect x="{x:.1f}" y="{y:.1f}" width="{_CELL}" height="6" class="wall"/>'
        for high in (3, 10, 17) if tile is not None and tile.climb else ():
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
    middle = x + _CELL / 2
    if lock is not None:
        color = escape(lock_color(level, lock, item_colors(level)), quote=True)
        yield f'<g data-opens="{escape(door, quote=True)}"><title>{escape(f"{door}: needs {lock.needs}")}</title>'
        yield f'<rect x="{x + 2:.1f}" y="{y + 2:.1f}" width="18" height="18" fill="{color}" class="door"/>'
        letters = lock_letters(level, lock)
        yield _text(middle, y + 15, letters, "letter") + "</g>"
    for words, color, key in _contents(level, room):
        yield f"<g {key}><title>{escape(words)}</title>"
        if color:
            name, fill = words.split(" (")[0].split()[-1], escape(color, quote=True)
            yield f'<circle cx="{middle:.1f}" cy="{y + 11:.1f}" r="9" fill="{fill}" class="swatch"/>'
            yield _text(middle, y + 15, letters_of(level)[name], "letter") + "</g>"
        else:
            yield _text(middle, y + 16, {"c": "C", "s": "!"}.get(words[0], "?"), "thing") + "</g>"
    if not room.items and lock is None:
        yield from _ground(level, room, middle, y)
    named = [room.name] if room.name != str(room.cell) else []
    label = door or ", ".join([*room.chests, *room.switches, *room.acts, *room.items, *named])
    if label and label != str(room.cell):
        yield _text(middle, y + _CELL + 8, label, "tiny")
    if room.name == level.start or goal_text(level, room.name):
        yield _text(x + 6, y + 16, "S" if room.name == level.start else "G", "head")
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
        sign = _text(middle, y + 16, "‖", "thing")
        yield f"<g><title>{escape(f'gate: {tile.gate}')}</title>{sign}</g>"
    elif tile.asks:
        yield _text(middle, y + 16, "~", "thing")
