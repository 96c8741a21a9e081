"""Draw a level on tile maps: the floors, the things on them, and a route as a line."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from math import ceil
from typing import Any

from matplotlib.axes import Axes
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.collections import LineCollection
from matplotlib.figure import Figure
from matplotlib.patches import PathPatch
from matplotlib.path import Path

from ..bits import bits_of, numbers_of
from ..checks.route_words import stops
from ..level import ALWAYS, Level, Passage, Room
from ..level.maps.cell_sets import runs, spread
from ..level.maps.grid import Grid
from ..level.maps.paths import Paths
from ..level.maps.tilemap import BUILT_IN, Tile, TileMap
from ..spaces import Route
from ..values import dataclass
from .labels import (
    CHEST_LETTER,
    act_text,
    event_text,
    goal_text,
    letters_of,
    lock_letters,
    note_lines,
    room_lines,
)
from .marks import draw_mark
from .route import PlayerLine, ends_wrong, list_height, list_moves
from .style import fit, item_colors, lock_color, plain, text_width, theme

#: The side of a cell in points: as large as fits a page, but never so small that marks merge.
_LARGEST_CELL, _SMALLEST_CELL, _PAGE = 30.0, 5.0, 1000.0
_GAP, _MARGIN, _TITLE, _LABELLED = 40.0, 26.0, 52.0, 13.0


@dataclass(frozen=True, slots=True)
class _Mark:
    """The mark of a cell: a shape, its colour, a letter in it, and a line for the legend."""

    shape: str
    color: str
    letter: str
    says: str


def draw_tiles(
    level: Level,
    route: Route | None = None,
    unreached: Collection[str] = frozenset(),
    axes: Axes | None = None,
    notes: bool = False,
) -> Figure:
    """Draw a level's floors, side by side.

    Args:
        level: A level with maps.
        route: A route to lay on them.
        unreached: Rooms that no run enters; the floor around them is hatched.
        axes: Where to draw the floor alone; ``None`` for a figure of its own.
        notes: Whether to list the notes of the level below the floors.

    Raises:
        LevelError: An item or a lock names a colour that is none.
        ValueError: Axes are given for a level with several floors.
    """
    floors = list(level.maps.values())
    if axes is not None and len(floors) > 1:
        raise ValueError(f"{level.name!r} has {len(floors)} floors; one Axes shows one floor")
    cells_wide = sum(floor.width for floor in floors)
    side = min(_LARGEST_CELL, max(_SMALLEST_CELL, _PAGE / max(cells_wide, 1)))
    if axes is not None:
        draw_floor(axes, level, floors[0], unreached)
        figure, _ = fit(axes, (0.5, floors[0].width + 0.5, len(floors[0].rows) + 0.5, 0.5))
        draw_contents({floors[0].name: axes}, level, side, route)
        return figure
    legend = _legend(level)
    ways = ways_between(level)
    entered = [room for room in level.rooms.values() if room.cell and room.used_from is None]
    if any(room.name in unreached for room in entered):
        ways.append("hatched: no run gets there")
    if route is not None and level.several:
        lines = [PlayerLine(number, len(level.players)) for number in range(len(level.players))]
        whose = [f"{name} {line.words}" for name, line in zip(level.players, lines, strict=True)]
        ways.append(f"lines of the route: {', '.join(whose)}")
    for floor in floors:
        if floor.side is not None:
            ways.append(
                f"{floor.name} is seen from the side: bars bear weight, rungs are climbed, a jump "
                f"rises {floor.side.up} and crosses {floor.side.across}"
            )
    ways += note_lines(level) if notes else []

    columns = max(1, int((cells_wide * side + _GAP * len(floors)) // 250))
    legend_height = 15.0 * ceil(len(legend) / columns) + 15.0 * len(ways) + 16
    tall = max(len(floor.rows) for floor in floors) * side
    foot = legend_height + (list_height(route, level) if route is not None else 0.0)
    width = max(
        cells_wide * side + _GAP * (len(floors) - 1) + 2 * _MARGIN,
        260.0 * columns,
        text_width(level.name, 15) + 2 * _MARGIN,
        *(text_width(way, 9) + 2 * _MARGIN for way in ways),
        420.0,
    )
    height = tall + _TITLE + foot + 24
    figure = Figure(figsize=(width / 72, height / 72), dpi=110, facecolor=theme().paper)
    FigureCanvasAgg(figure)
    figure.text(
        _MARGIN / width, 1 - 20 / height, plain(level.name), size=15, weight="bold", color=theme().ink,
        va="center",
    )  # fmt: skip
    on_floor: dict[str, Axes] = {}
    x = _MARGIN
    for floor in floors:
        own = len(floor.rows) * side
        box = (
            x / width,
            (foot + 12 + tall - own) / height,
            floor.width * side / width,
            own / height,
        )
        on_floor[floor.name] = figure.add_axes(box)
        draw_floor(on_floor[floor.name], level, floor, unreached)
        x += floor.width * side + _GAP
    draw_contents(on_floor, level, side, route)
    _draw_legend(figure, legend, ways, columns, foot, legend_height)
    if route is not None:
        list_moves(figure, route, level)
    return figure


def draw_contents(
    on_floor: Mapping[str, Any], level: Level, side: float, route: Route | None = None
) -> None:
    """Draw what stands on floors, and a route over them.

    Args:
        on_floor: The axes of each floor.
        side: The side of a cell, in points.
    """
    doors = _doors(level)
    for name, mark in _marks(level).items():
        cell = level.rooms[name].cell
        if cell is not None:
            _draw_mark(on_floor[cell.map], cell.column, cell.row, mark, side)
            if side >= _LABELLED:
                _draw_label(on_floor[cell.map], level.rooms[name], doors.get(name), side)
    if route is not None:
        _draw_route(on_floor, level, route, side)


def _doors(level: Level) -> dict[str, Passage]:
    return {door.b: door for door, _ in level.doors() if door.part_of}


def _marks(level: Level) -> dict[str, _Mark]:
    """The marks on cells, by room."""
    doors = _doors(level)
    rooms = [room for room in level.rooms.values() if room.cell is not None]
    return {room.name: mark for room in rooms if (mark := _mark(level, room, doors))}


def draw_floor(axes: Any, level: Level, floor: TileMap, unreached: Collection[str]) -> None:
    """Draw a floor: its walls, where one can stand, and the numbers of its columns and rows."""
    grid = Grid(floor, {**BUILT_IN, **level.legend})
    void = grid.inside & grid.having(lambda tile: tile.ground == "void")
    walls = grid.having(lambda tile: tile.ground == "wall")
    axes.set_facecolor(theme().room)
    for cells, color in ((void, theme().paper), (walls, theme().wall)):
        if cells:
            outline = _outline(cells, grid.width)
            axes.add_patch(PathPatch(outline, facecolor=color, lw=0, antialiased=False, zorder=0.5))
    if floor.side is not None:
        _draw_holds(axes, grid)
    _hatch(axes, level, grid, unreached)
    axes.set_xlim(0.5, floor.width + 0.5)
    axes.set_ylim(len(floor.rows) + 0.5, 0.5)
    axes.set_title(plain(floor.name), size=10, color=theme().faint, loc="left", pad=4)
    for spine in axes.spines.values():
        spine.set_visible(False)
    every = max(1, ceil(floor.width / 20))
    axes.set_xticks(range(1, floor.width + 1, every))
    axes.set_yticks(range(1, len(floor.rows) + 1, every))
    axes.tick_params(
        length=0, labelsize=6, colors=theme().faint, pad=1, labeltop=False, labelbottom=True
    )


def _draw_holds(axes: Any, grid: Grid) -> None:
    """Draw what a player stands on and climbs along, on a map seen from the side: bars and rungs."""
    bars, rungs = [], []
    for number in numbers_of(grid.having(lambda tile: tile.bears)):
        column, row = grid.column_row(number)
        bars.append([(column - 0.5, row - 0.38), (column + 0.5, row - 0.38)])
    for number in numbers_of(grid.having(lambda tile: tile.climb)):
        column, row = grid.column_row(number)
        for high in (-0.33, 0.0, 0.33):
            rungs.append([(column - 0.28, row + high), (column + 0.28, row + high)])
    axes.add_collection(LineCollection(bars, colors=theme().wall, linewidths=5, zorder=0.7))
    axes.add_collection(LineCollection(rungs, colors=theme().wall, linewidths=1.4, zorder=0.7))


def _outline(cells: int, width: int) -> Path:
    """Return a path around the cells of a set, one rectangle for each stretch in a row.

    Rectangles take a tenth of the memory of an image, and stay sharp at every size.
    """
    points: list[tuple[float, float]] = []
    for row, first, after in runs(cells, width):
        left, right, top, bottom = first - 0.5, after - 0.5, row - 0.5, row + 0.5
        points += [(left, top), (left, bottom), (right, bottom), (right, top), (left, top)]
    codes = [Path.MOVETO, Path.LINETO, Path.LINETO, Path.LINETO, Path.CLOSEPOLY]
    return Path(points, codes * (len(points) // 5))


def _hatch(axes: Any, level: Level, grid: Grid, unreached: Collection[str]) -> None:
    """Hatch the cells that no run gets to: rooms that are never entered, and the floor beside such rooms alone."""
    entered: dict[bool, list[int]] = {False: [], True: []}
    for room in level.rooms.values():
        if room.cell is not None and room.cell.map == grid.floor.name and room.used_from is None:
            number = grid.number(room.cell.column, room.cell.row)
            entered[room.name not in unreached].append(number)
    if not entered[False]:
        return
    never, ever = (bits_of(entered[one], len(grid.symbols)) for one in (False, True))
    plain_floor = grid.plain & ~ever & ~never
    beside = (cell for number in entered[True] for cell in grid.ways_out(number))
    reached = spread(bits_of(beside, len(grid.symbols)), plain_floor, grid.width)
    strokes = [
        [(column - 0.4, row + 0.4), (column + 0.4, row - 0.4)]
        for column, row in map(grid.column_row, numbers_of(never | plain_floor & ~reached))
    ]
    axes.add_collection(LineCollection(strokes, color=theme().faint, lw=0.7, zorder=1.5))


# -- what stands on cells -------------------------------------------------------------------------


def _mark(level: Level, room: Room, doors: Mapping[str, Passage]) -> _Mark | None:
    """Return the mark of a cell, if it has one."""
    colors = item_colors(level)
    door = doors.get(room.name)
    if door is not None:
        lock = level.lock_of(door)
        assert lock is not None
        needs = "always" if lock.needs == ALWAYS else str(lock.needs)
        color = lock_color(level, lock, colors)
        return _Mark("door", color, lock_letters(level, lock), f"door {door.thing}: needs {needs}")
    for chest in room.chests.values():
        holds = ", ".join(chest.holds) or "nothing"
        return _Mark("chest", "#7a5c2e", CHEST_LETTER, f"chest {chest.name}: {holds}")
    for act in room.all_acts():
        return _Mark("act", "#4b4b4b", "!" if act.switch else "?", act_text(act))
    for item in room.items:
        kind = level.items[item].kind
        shape = {"reward": "reward", "supply": "supply"}.get(kind, "item")
        return _Mark(shape, colors[item], letters_of(level)[item], f"{kind} {item}")
    if room.name in level.start_rooms():
        return _Mark("start", "#2e7d32", "S", "start")
    goal = goal_text(level, room.name)
    if goal:
        return _Mark("goal", "#b26a00", "G", goal.replace("GOAL", "goal"))
    tile = _tile_of(level, room)
    if tile.one_way is not None:
        return _Mark(f"one-way {tile.one_way}", theme().faint, "", "one-way floor")
    if tile.gate != ALWAYS:
        return _Mark("gate", "#8c4f86", "", f"gate: {tile.gate}")
    if tile.asks:
        return _Mark("hazard", theme().wrong, "", f"hazard {tile.name or ''}".strip())
    if tile.room is not None:
        return _Mark("named", theme().faint, "", f"named cell {room.name}")
    return None


def _tile_of(level: Level, room: Room) -> Tile:
    assert room.cell is not None
    symbol = level.maps[room.cell.map].symbol(room.cell.column, room.cell.row)
    return {**BUILT_IN, **level.legend}[symbol]


def _draw_mark(axes: Any, column: float, row: float, mark: _Mark, side: float) -> None:
    grow = max(1.0, 9.0 / side)  # on small cells marks are larger than their cell
    letter = mark.letter if side * grow >= 9 and mark.shape not in ("start", "goal") else ""
    draw_mark(
        axes, (column, row), mark.shape, mark.color, letter, grow, min(0.36 * side * grow, 10)
    )


def _draw_label(axes: Any, room: Room, door: Passage | None, side: float) -> None:
    """The name of a door, chest or named cell, just under it."""
    cell = room.cell
    assert cell is not None
    names = [door.thing if door else None, *room.chests, *room.switches, *room.acts, *room.items]
    names.append(room.name if room.name != str(cell) else None)
    name = next((one for one in names if one), None)
    if name is None or name == str(cell):
        return
    axes.text(
        cell.column, cell.row + 0.52, plain(name), size=min(7.0, 0.36 * side + 1), ha="center", va="top",
        color=theme().ink, zorder=6,
        bbox={"boxstyle": "round,pad=0.12", "facecolor": theme().paper, "edgecolor": "none", "alpha": 0.8},
    )  # fmt: skip


# -- around the maps ------------------------------------------------------------------------------


def _legend(level: Level) -> list[_Mark]:
    """Each kind of mark once, in the order of the level; of many doors and keys, all."""
    seen: dict[str, _Mark] = {}
    for mark in _marks(level).values():
        seen.setdefault(mark.says, mark)
    return list(seen.values())[:60]


def ways_between(level: Level) -> list[str]:
    """List the things that are on no map: rooms with their contents, passages and events."""
    found = []
    for room in level.rooms.values():
        if room.cell is None:
            inside = ", ".join(line.text for line in room_lines(level, room)[1:])
            found.append(f"room {room.name}" + (f": {inside}" if inside else ""))
    for passage in level.passages:
        if passage.on_map:
            continue
        lock = level.lock_of(passage)
        more = [passage.name] if passage.named else []
        more += [f"needs {lock.needs}"] if lock is not None and lock.needs != ALWAYS else []
        more += [f"gate: {passage.gate}"] if passage.gate != ALWAYS else []
        found.append(f"way {passage.text}" + (f" ({', '.join(more)})" if more else ""))
    return found + [event_text(event) for event in level.events.values()]


def _draw_legend(
    figure: Any, legend: list[_Mark], ways: list[str], columns: int, foot: float, height: float
) -> None:
    total = figure.get_figheight() * 72
    width = figure.get_figwidth() * 72
    axes = figure.add_axes((0, (foot - height) / total, 1, height / total))
    axes.set_xlim(0, width / 12)
    axes.set_ylim(height / 12, 0)
    axes.set_axis_off()
    rows = ceil(len(legend) / columns)
    for number, mark in enumerate(legend):
        column, row = divmod(number, rows)
        x, y = _MARGIN / 12 + 0.5 + column * 250 / 12, 1.0 + row * 1.25
        _draw_mark(axes, x, y, mark, 12)
        axes.text(x + 1, y, plain(mark.says), size=8.5, va="center", color=theme().ink)
    for number, way in enumerate(ways):
        y = 1.0 + (rows + number) * 1.25
        axes.text(_MARGIN / 12, y, plain(way), size=8.5, va="center", color=theme().ink)


# -- the route ------------------------------------------------------------------------------------


def _draw_route(axes: Mapping[str, Any], level: Level, route: Route, side: float) -> None:
    paths = Paths(level)
    listed = stops(route, level)
    players: list[str | None] = [*level.players] or [None]
    rooms = {player: level.begins(player)[0] for player in players}
    spots: dict[str, list[int]] = {}
    ends = {stop.last: number for number, stop in enumerate(listed, 1)}
    for number, move in enumerate(route.moves):
        by = move.what.get("by", players[0])
        if move.what["do"] == "walk":
            line = PlayerLine(players.index(by), len(players))
            for map_name, cells in _lines(paths, rooms[by], move.what["to"]):
                _draw_walk(axes[map_name], cells, line, side)
            rooms[by] = move.what["to"]
        if number in ends:
            spots.setdefault(rooms[by], []).append(ends[number])
    last = len(listed) if ends_wrong(route) else None
    for name, numbers in spots.items():
        cell = level.rooms[name].cell
        if cell is None:
            continue
        wrong = last in numbers
        shown = [str(number) for number in numbers]
        text = " ".join(shown if len(shown) <= 4 else [*shown[:3], "..."])
        axes[cell.map].text(
            cell.column + 0.34, cell.row - 0.34, f"{text} ×" if wrong else text,
            size=9 if wrong else 6.5, weight="bold", color=theme().paper, ha="center", va="center", zorder=8,
            bbox={"boxstyle": "round,pad=0.2", "facecolor": theme().wrong if wrong else theme().route,
                  "edgecolor": theme().paper, "lw": 0.7},
        )  # fmt: skip


def _draw_walk(axes: Any, cells: list[tuple[int, int]], line: PlayerLine, side: float) -> None:
    """A walk from cell to cell, with an arrow in its middle; the players' lines beside each other."""
    aside = line.aside / 8 * 0.16
    xs, ys = ([place + aside for place in places] for places in zip(*cells, strict=True))
    wide = max(1.5, side / 9)
    axes.plot(
        xs, ys, color=theme().route, lw=wide, ls=line.style, alpha=0.75, zorder=2,
        solid_capstyle="round",
    )  # fmt: skip
    middle = (len(xs) - 1) // 2
    (x, y), (to_x, to_y) = ((xs[n], ys[n]) for n in (middle, middle + 1))
    axes.annotate(
        "", (x + 0.72 * (to_x - x), y + 0.72 * (to_y - y)), (x, y), zorder=2.2,
        arrowprops={"arrowstyle": "-|>", "color": theme().route, "lw": 0, "mutation_scale": 6.5 * wide, "shrinkA": 0, "shrinkB": 0},
    )  # fmt: skip


def _lines(paths: Paths, here: str, there: str) -> Iterator[tuple[str, list[tuple[int, int]]]]:
    cells = paths.cells(here, there)
    if len(cells) > 1 and cells[0].map == cells[-1].map:
        yield cells[0].map, [(cell.column, cell.row) for cell in cells]
