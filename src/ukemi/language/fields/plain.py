"""A level as the plain values a level file would hold."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from os.path import relpath
from pathlib import Path
from typing import Any

from ...level import ALWAYS, At, Claim, Condition, Effects, InOrder, Level, Lock, Passage, Placement
from ...level.campaign import CampaignParts, Onward, Stage
from ...level.effects import EFFECT_NAMES
from ...level.maps.tilemap import Tile, TileMap
from ...level.says import MOMENTS, Says
from ...level.settings import Accepted
from . import fields as tables
from .fields import Fields
from .map_fields import TILE
from .passages import PASSAGE
from .room_fields import CHEST, ROOM
from .scattering import SCATTER
from .whole import EXPECT


def level_dict(level: Level) -> dict[str, Any]:
    """A level as mappings, lists, text and numbers, with defaults left out.

    Args:
        level: The level; it has a start and a goal.

    Returns:
        The data of a level file, in the order of the format.

    Example:
        >>> from ukemi.language import loads
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [quay -> mill]}")
        >>> level_dict(level)["passages"], level_dict(level)["goal"]
        (['quay -> mill'], 'mill')
    """
    writer = _PlainWriter(level)
    said: dict[str, Any] = {"ukemi": 1, "name": level.name}
    said["start"] = None if writer.start_is_drawn() else level.start
    said["goal"] = writer.goal()
    said["items"] = {name: writer.part(item, tables.ITEM) for name, item in level.items.items()}
    said["flags"] = dict(level.flags)
    said["locks"] = {name: writer.lock(lock) for name, lock in level.locks.items()}
    said["inventory"] = writer.part(level.inventory, tables.INVENTORY)
    said["players"] = {
        # nothing carried is not the same as nothing said
        name: writer.part(one, tables.PLAYER) | ({"inventory": []} if one.inventory == {} else {})
        for name, one in level.players.items()
    }
    said["rules"] = writer.part(level.rules, tables.RULES)
    said["maps"] = {name: writer.floor(floor) for name, floor in level.maps.items()}
    said["legend"] = {symbol: writer.tile(tile) for symbol, tile in level.legend.items()}
    own = [room for room in level.rooms.values() if room.cell is None or not level.maps]
    said["rooms"] = {room.name: writer.part(room, ROOM) for room in own}
    said["passages"] = [
        writer.passage(passage) for passage in level.passages if not (passage.on_map and level.maps)
    ]
    said["areas"] = {
        name: rooms[0] if len(rooms) == 1 else list(rooms) for name, rooms in level.areas.items()
    }
    said["events"] = {
        name: writer.part(event, tables.EVENT) for name, event in level.events.items()
    }
    said["scatter"] = {name: writer.part(group, SCATTER) for name, group in level.scattered.items()}
    said["expect"] = writer.part(level.expected, EXPECT)
    said["accept"] = _accepted(level.accepted)
    return {name: value for name, value in said.items() if value not in ({}, [], None)}


def campaign_dict(campaign: CampaignParts) -> dict[str, Any]:
    """Return what a campaign file says, as plain values with defaults left out.

    Returns:
        The fields of the campaign file. A level's file is given by its path from the campaign's
        folder, and left out if either was not read from a file.

    Example:
        >>> from ukemi.language import loads
        >>> from ukemi.level.campaign import CampaignParts, Onward, Stage
        >>> mill = loads("{start: quay, goal: quay, rooms: [quay], flags: [wet]}")
        >>> stages = {"one": Stage("one", mill), "two": Stage("two", mill, keeps=True)}
        >>> said = campaign_dict(CampaignParts("Year", stages, [Onward("one", "two")], "two"))
        >>> said["levels"], said["ways"], said["goal"]
        ({'one': {}, 'two': {'keeps': True}}, ['one -> two'], 'two')
    """
    said: dict[str, Any] = {"ukemi": 1, "campaign": campaign.name}
    said["levels"] = {name: _stage(one, campaign) for name, one in campaign.stages.items()}
    said["ways"] = [_way(way) for way in campaign.ways]
    said["goal"] = campaign.goal
    said["shares"] = sorted(campaign.shares)
    said["expect"] = _PlainWriter(Level()).part(campaign.expected, EXPECT)
    said["accept"] = _accepted(campaign.accepted)
    return {name: value for name, value in said.items() if value not in ({}, [], None)}


def _stage(stage: Stage, campaign: CampaignParts) -> dict[str, Any]:
    said: dict[str, Any] = {}
    if stage.level.file is not None and campaign.file is not None:
        said["file"] = Path(relpath(stage.level.file, Path(campaign.file).parent)).as_posix()
    if stage.brings is not None:
        said["brings"] = sorted(stage.brings) or "nothing"
    return said | ({"keeps": True} if stage.keeps else {})


def _way(way: Onward) -> Any:
    said: dict[str, Any] = {} if way.when == ALWAYS else {"when": str(way.when)}
    said |= {"sets": list(way.sets)} if way.sets else {}
    return {way.name: said} if said else way.name


def _accepted(accepted: Iterable[Accepted]) -> dict[str, str | list[str]]:
    names: dict[str, list[str]] = {}
    for one in accepted:
        names.setdefault(one.code, []).append(one.name)
    return {code: some[0] if len(some) == 1 else some for code, some in names.items()}


class _PlainWriter:
    def __init__(self, level: Level) -> None:
        self.level = level

    def goal(self) -> str:
        goal = self.level.goal
        if isinstance(goal, At):
            taken = goal.room in self.level.items or goal.room in self.level.all_flags()
            return str(goal) if taken else goal.room
        return str(goal)

    def start_is_drawn(self) -> bool:
        """Whether a map says where the player starts."""
        starts = self.level.cut.starts if self.level.maps and self.level.cut else []
        return any(room == self.level.start for room, _ in starts)

    def floor(self, floor: TileMap) -> Any:
        """A map as text, as a list of rows, or by its CSV file."""
        if floor.csv is not None or floor.side is not None:
            said: dict[str, Any] = {}
            if floor.side is not None:
                said = {
                    "seen-from": "side",
                    "jump": {"up": floor.side.up, "across": floor.side.across},
                }
            return said | ({"csv": floor.csv} if floor.csv else {"rows": self.drawn(floor)})
        return self.drawn(floor)

    def drawn(self, floor: TileMap) -> Any:
        """The rows of a map, as text or as a list."""
        if all(isinstance(row, str) for row in floor.rows):
            return "\n".join(str(row) for row in floor.rows) + "\n"
        return [row if isinstance(row, str) else list(row) for row in floor.rows]

    def tile(self, tile: Tile) -> Any:
        """The fields of a symbol of the legend."""
        fields = self.part(tile, TILE)
        for kind, table in (("chest", CHEST), ("switch", tables.SWITCH), ("act", tables.ACT)):
            thing = getattr(tile, kind)
            if thing is not None:
                fields[kind] = {"name": thing.name, **self.part(thing, table)}
        return fields or tile.ground

    def part(self, part: Any, table: Fields) -> dict[str, Any]:
        """The fields of a part that differ from their defaults."""
        said: dict[str, Any] = {}
        for field in table:
            if field.attr in EFFECT_NAMES and hasattr(part, "effects"):
                value, default = getattr(part.effects, field.attr), None
            elif field.name == "once" and table is tables.SWITCH:
                value, default = not part.repeat, False
            elif table is TILE and field.attr in ("item", "chest", "switch", "act"):
                continue
            elif field.name == "name" and table is PASSAGE:
                value, default = (part.name if part.named else None), None
            else:
                value = getattr(part, field.attr)
                default = type(part).__dataclass_fields__[field.attr].default
            if value != default and not _is_nothing(value):
                said[field.name] = self.value(value)
        return said

    def value(self, value: Any) -> Any:
        match value:
            case Condition():
                return str(value)
            case Lock():
                return self.inline_lock(value)
            case Effects():
                return {
                    name: self.value(one)
                    for name in EFFECT_NAMES
                    if not _is_nothing(one := getattr(value, name))
                }
            case Claim(says, _):
                return str(says)
            case InOrder(names, _):
                return list(names)
            case Says():
                return {one: text for one in MOMENTS if (text := getattr(value, one)) is not None}
            case tuple():
                listed = [self.value(one) for one in value]
                return listed[0] if len(listed) == 1 else listed
            case Mapping():
                return self.mapping(value)
            case str() | int():
                return value
        if value.__class__.__name__ == "Shortest":
            return self.part(value, tables.SHORTEST)
        raise TypeError(f"no way to write {value!r}")

    def mapping(self, value: Mapping[str, Any]) -> Any:
        first = next(iter(value.values()))
        if isinstance(first, int):
            return list(value) if set(value.values()) == {1} else dict(value)
        if isinstance(first, Placement):
            placed = {name: self.part(one, tables.PLACEMENT) for name, one in value.items()}
            if not any(placed.values()):
                return list(placed)
            return {
                name: fields if fields.keys() - {"count"} else fields.get("count", 1)
                for name, fields in placed.items()
            }
        named = {}
        for name, one in value.items():
            if hasattr(one, "switch"):
                named[name] = self.part(one, tables.SWITCH if one.switch else tables.ACT)
            else:
                named[name] = self.part(one, CHEST)
        return named

    def lock(self, lock: Lock) -> dict[str, Any]:
        said = self.part(lock, tables.LOCK)
        if lock.takes == {}:
            said["spends"] = "nothing"
        return said

    def inline_lock(self, lock: Lock) -> Any:
        said = self.lock(lock)
        if said.keys() == {"needs"} and said["needs"] not in self.level.locks:
            return said["needs"]
        return said

    def passage(self, passage: Passage) -> Any:
        fields = self.part(passage, PASSAGE)
        return {passage.text: fields} if fields else passage.text


def _is_nothing(value: Any) -> bool:
    """Whether a value says nothing, and so need not be written; text and numbers always say something."""
    if isinstance(value, (str, bool, int)):
        return False
    return value is None or value == ALWAYS or not value
