"""The levels of a campaign as one level: every name has its level's name before it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from functools import cached_property
from typing import Any, Self, TypeVar

from ..values import fields, replace
from .campaign import CampaignParts, Stage
from .conditions import (
    ALWAYS,
    And,
    At,
    Condition,
    Done,
    EveryoneAt,
    Has,
    HasAll,
    Inside,
    Not,
    Opened,
    Or,
    PlayerAt,
    SomeoneAt,
)
from .effects import NO_EFFECTS, Effects
from .event import Event
from .level import Level
from .level_part import LevelPart
from .lock import Lock
from .place import Place
from .settings import Inventory, PlayRules

P = TypeVar("P", bound=LevelPart)


class Joined(Level):
    """A campaign as one level. A thing of a level is ``LEVEL/NAME``; items are of all levels.

    Attributes:
        rooms_of: The names of the rooms of each level.
        texts: The texts of its files, by name.
    """

    def __init__(self, campaign: CampaignParts) -> None:
        super().__init__(campaign.name)
        self.campaign = campaign
        self.rooms_of: dict[str, tuple[str, ...]] = {}
        self._roomy = False
        self.texts: dict[str, str] = {}
        for stage in campaign.stages.values():
            self._take_up(_Renaming(stage, campaign))
        first, last = campaign.start, campaign.stages[campaign.goal]
        self.start = f"{first.name}/{first.level.start}"
        self.goal = And((Inside(last.name, self.rooms_of[last.name]), self.goals[last.name]))
        self.inventory, self.rules = first.level.inventory, last.level.rules
        if first.level.several:
            self.players = {
                name: replace(one, start=f"{first.name}/{one.start or first.level.start}")
                for name, one in first.level.players.items()
            }
        self.expected, self.accepted = campaign.expected, (*self.accepted, *campaign.accepted)
        self.places, self.file = campaign.places, campaign.file
        self.sound = True
        self._index()

    @cached_property
    def goals(self) -> dict[str, Condition]:
        """When each level is finished."""
        found = {}
        for stage in self.campaign.stages.values():
            assert stage.level.goal is not None
            found[stage.name] = _Renaming(stage, self.campaign).condition(stage.level.goal)
        return found

    def when(self, number: int) -> Condition:
        """When one of the ways between levels may be taken, beside its level being finished."""
        way = self.campaign.ways[number]
        return _Renaming(self.campaign.stages[way.a], self.campaign).condition(way.when)

    def stage_of(self, room: str) -> str:
        """The level that a room, or a thing, is in."""
        return room.partition("/")[0]

    def copy_of_rooms(self, rooms: Iterable[str]) -> Level:
        """Return a level of the rooms of one level alone, with the passages between them, to be drawn."""
        kept = dict.fromkeys(rooms)
        part = Level(self.name)
        part.rooms = {name: self.rooms[name] for name in kept}
        part.passages = [one for one in self.passages if one.a in kept and one.b in kept]
        starts = {f"{name}/{one.level.start}" for name, one in self.campaign.stages.items()}
        part.start = next((room for room in kept if room in starts), "")
        return part

    def inventory_at(self, room: str) -> Inventory:
        """Return the inventory of a room."""
        inventory = self.campaign.stages[self.stage_of(room)].level.inventory
        return replace(inventory, slots=None) if self._roomy else inventory

    def without_slots(self) -> Self:
        """A copy in which any number of things can be carried."""
        copy = super().without_slots()
        copy._roomy = True
        return copy

    def rules_at(self, room: str) -> PlayRules:
        """Return the rules of play in a room: how things are picked up and how a run ends."""
        return self.campaign.stages[self.stage_of(room)].level.rules

    def starts(self) -> list[dict[str, int]]:
        """The items that each level adds to the inventory."""
        return [one for stage in self.campaign.stages.values() for one in stage.level.starts()]

    def again(self) -> bool:
        """Whether a player can enter some level again."""
        return bool(self.campaign.again())

    def between(self) -> Iterator[tuple[Condition, Effects, str, Place | None]]:
        """The conditions for finishing each level and for each way, and the effects of the ways."""
        for name, goal in self.goals.items():
            yield goal, NO_EFFECTS, name, self.campaign.stages[name].place
        for number, way in enumerate(self.campaign.ways):
            flags = tuple(self.campaign.flag_in(way.b, flag) for flag in way.sets)
            yield self.when(number), Effects(sets=flags), way.name, way.place

    def connected(self, rooms: Iterable[str], around: str | None = None) -> dict[str, None]:
        """The rooms that passages and ways between levels lead to, if every one is open."""
        found = super().connected(rooms, around)
        while True:
            levels = {self.stage_of(room) for room in found}
            starts = {
                f"{way.b}/{room}"
                for way in self.campaign.ways
                if way.a in levels
                for room in self.campaign.stages[way.b].level.start_rooms()
            }
            if starts <= found.keys():
                return found
            found = super().connected([*found, *sorted(starts)], around)

    def _take_up(self, of: _Renaming) -> None:
        stage, level = of.stage, of.stage.level
        for item in level.items.values():
            named = replace(item, on_pickup=of.effects(item.on_pickup), place=of.place(item.place))
            self.items.setdefault(item.name, named)
        shares = self.campaign.shares
        self.turned |= {of.flag(flag) for flag in level.all_flags()}
        for flag, on in level.flags.items():
            if flag not in shares or on:
                self.flags[of.flag(flag)] = on
        self.locks |= {of.name(name): of.part(lock) for name, lock in level.locks.items()}
        rooms = [replace(of.part(room), cell=None) for room in level.rooms.values()]
        self.rooms_of[stage.name] = tuple(room.name for room in rooms)
        self.rooms |= {room.name: room for room in rooms}
        self.areas[stage.name] = self.rooms_of[stage.name]  # each level is an area
        self.passages += [of.part(passage) for passage in level.passages]
        inside = Inside(stage.name, self.rooms_of[stage.name])
        self.events |= {of.name(name): of.event(one, inside) for name, one in level.events.items()}
        accepted = (replace(one, name=of.name(one.name)) for one in level.accepted)
        self.accepted += tuple(accepted)


class _Renaming:
    """The parts of a level with its name before theirs."""

    def __init__(self, stage: Stage, campaign: CampaignParts) -> None:
        self.stage = stage
        self.campaign = campaign

    def name(self, name: str) -> str:
        return f"{self.stage.name}/{name}"

    def flag(self, name: str) -> str:
        return self.campaign.flag_in(self.stage.name, name)

    def place(self, place: Place | None) -> Place | None:
        return place and Place(place.line, place.column, self.stage.level.file or "")

    def condition(self, condition: Condition) -> Condition:
        match condition:
            case Has(name) if name not in self.stage.level.items:
                return Has(self.flag(name))
            case HasAll(item):
                total = self.stage.level.placed(item)
                return Has(item, total) if total else And(())
            case At() | SomeoneAt() | EveryoneAt() | PlayerAt():
                return replace(condition, room=self.name(condition.room))
            case Opened() | Done():
                return replace(condition, name=self.name(condition.name))
            case Not(part):
                return Not(self.condition(part))
            case And(parts) | Or(parts):
                return type(condition)(tuple(map(self.condition, parts)))
        return condition

    def effects(self, effects: Effects) -> Effects:
        if effects is NO_EFFECTS:
            return effects
        return replace(
            effects,
            sets=tuple(map(self.flag, effects.sets)),
            clears=tuple(map(self.flag, effects.clears)),
            flips=tuple(map(self.flag, effects.flips)),
            opens=tuple(map(self.name, effects.opens)),
        )

    def part(self, part: P) -> P:
        """A part in which every name is changed, and what is in it."""
        said = {one.name: getattr(part, one.name) for one in fields(part)}
        return replace(part, **{name: self._value(name, one) for name, one in said.items() if one})

    def _value(self, field: str, value: Any) -> Any:
        match value:
            case str() if field in _NAMES:
                return self.name(value)
            case str() if field == "teaches":
                return self.flag(value)
            case tuple() if field in _NAMES:
                return tuple(map(self.name, value))
            case dict() if field in _NAMES:
                return {self.name(name): self.part(one) for name, one in value.items()}
            case dict() if field == "items":
                return {name: self.part(one) for name, one in value.items()}
            case Place():
                return self.place(value)
            case Lock():
                return self.part(value)
            case Condition():
                return value if value is ALWAYS else self.condition(value)
            case Effects():
                return self.effects(value)
        return value

    def event(self, event: Event, inside: Inside) -> Event:
        """An event, which happens only inside its level."""
        renamed = self.part(event)
        return replace(renamed, when=And((inside, renamed.when)))


#: The fields of parts that say names of the level.
_NAMES = frozenset(
    (
        "name",
        "a",
        "b",
        "part_of",
        "sides",
        "used_from",
        "from_",
        "lock",
        "chests",
        "switches",
        "acts",
    )
)
