"""The part of a tile map around the player, as text."""

from __future__ import annotations

from ..level.room import Act, Chest, Placement
from .play import Play
from .said import Said

#: Symbols of what the player changed: an open door, something gone.
OPEN, GONE = "/", "."

#: The symbol of a hidden thing that stands in the way.
WALL = "#"


def around(play: Play, width: int = 60, height: int = 20) -> list[Said]:
    """The map around the player, in the symbols of the level's own legend.

    In a play as the player sees it, hidden things look like the floor or the wall that they are in.

    Args:
        width: The most columns to show.
        height: The most rows.

    Returns:
        The lines; one that says so where the player is on no map.
    """
    room = play.level.rooms[play.room]
    if room.cell is None:
        return [Said("", f"{play.room} is on no map")]
    floor = play.level.maps[room.cell.map]
    left = _first(room.cell.column, width - 2, floor.width)
    top = _first(room.cell.row, height, len(floor.rows))
    changed = _changed(play, floor.name)
    hidden = _hidden(play, floor.name) if play.as_player else {}
    lines = [Said("", f"{floor.name}, columns from {left}, rows from {top}; you are &")]
    for row in range(top, min(top + height, len(floor.rows) + 1)):
        cells = []
        for column in range(left, min(left + width - 2, floor.width + 1)):
            here = (column, row) == (room.cell.column, room.cell.row)
            symbol = changed.get((column, row), floor.symbol(column, row))
            symbol = hidden.get((column, row), symbol)
            cells.append("&" if here else GONE if symbol == "@" else symbol)
        lines.append(Said("", "  " + "".join(cells).rstrip(), "drawn"))
    shown = "".join(line.text for line in lines[1:])
    legend = [f"{s} {_meaning(play, s)}" for s in play.level.legend if s in shown]
    legend += [f"{OPEN} open"] if OPEN in shown and OPEN not in play.level.legend else []
    return [*lines, *([Said("", "; ".join(legend))] if legend else [])]


def _first(middle: int, shown: int, size: int) -> int:
    """The first column or row to show, so that the player is in the middle where that can be."""
    return max(1, min(middle - shown // 2, size - shown + 1))


def _changed(play: Play, floor: str) -> dict[tuple[int, int], str]:
    """The cells that look different from how they were drawn."""
    changed = {}
    values = dict(zip(play.rules.variables, play.position, strict=True))
    for room in play.level.rooms.values():
        if room.cell is None or room.cell.map != floor:
            continue
        spot = (room.cell.column, room.cell.row)
        lying = [values["lying", room.name, item] for item in room.items]
        rest = room.chests or room.all_acts()
        if lying and not any(lying) and not rest:
            changed[spot] = GONE
        if any(values["opened", chest] for chest in room.chests):
            changed[spot] = OPEN
    for passage, _ in play.level.doors():
        cell = play.level.rooms[passage.b].cell
        here = passage.on_map and cell is not None and cell.map == floor
        if cell is not None and here and values["opened", passage.thing]:
            changed[cell.column, cell.row] = OPEN
    return changed


def _hidden(play: Play, floor: str) -> dict[tuple[int, int], str]:
    """The cells with nothing in them that the player sees, each as floor or wall."""
    found = {}
    for room in play.level.rooms.values():
        if room.cell is not None and room.cell.map == floor:
            parts: list[Chest | Act | Placement] = [
                *room.items.values(),
                *room.chests.values(),
                *room.all_acts(),
            ]
            if parts and not any(play.senses.sees(play.position, part) for part in parts):
                found[room.cell.column, room.cell.row] = WALL if room.used_from else GONE
    for passage in play.level.passages:
        cell = play.level.rooms[passage.b].cell
        on_floor = passage.on_map and cell is not None and cell.map == floor
        if cell is not None and on_floor and not play.senses.sees(play.position, passage):
            found[cell.column, cell.row] = WALL
    return found


def _meaning(play: Play, symbol: str) -> str:
    tile = play.level.legend[symbol]
    names = [*tile.items]
    names += [part.name for part in (tile.chest, tile.switch, tile.act) if part is not None]
    names += [name for name in (tile.name, tile.room) if name]
    if isinstance(tile.lock, str) and not tile.name and not play.as_player:
        names += [tile.lock]
    return " ".join(dict.fromkeys(names)) or tile.one_way or tile.ground
