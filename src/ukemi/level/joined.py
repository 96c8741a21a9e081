"""The levels of a campaign as one level: every name has its level's name before it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace
from functools import cached_property
from typing import Self

from .campaign import CampaignParts, Stage
from .conditions import (
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
from .lock import Lock
from .passage import Passage
from .place import Place
from .room import Act, Chest, Placement, Room
from .settings import Inventory, PlayRules


class Joined(Level):
    """A campaign as one level. A thing of a level is ``LEVEL/NAME``; items are of all levels.

    Attributes:
        campaign: The campaign.
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
        """How much fits where a room is."""
        inventory = self.campaign.stages[self.stage_of(room)].level.inventory
        return replace(inventory, slots=None) if self._roomy else inventory

    def without_slots(self) -> Self:
        """A copy in which any number of things can be carried."""
        copy = super().without_slots()
        copy._roomy = True
        return copy

    def rules_at(self, room: str) -> PlayRules:
        """How things are picked up and how a run ends where a room is."""
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
            told = replace(item, on_pickup=of.effects(item.on_pickup), place=of.place(item.place))
            self.items.setdefault(item.name, told)
        shares = self.campaign.shares
        self.turned |= {of.flag(flag) for flag in level.all_flags()}
        for flag, on in level.flags.items():
            if flag not in shares or on:
                self.flags[of.flag(flag)] = on
        self.locks |= {of.name(name): of.lock(lock) for name, lock in level.locks.items()}
        rooms = [of.room(room) for room in level.rooms.values()]
        self.rooms_of[stage.name] = tuple(room.name for room in rooms)
        self.rooms |= {room.name: room for room in rooms}
        self.areas[stage.name] = self.rooms_of[stage.name]  # each level is an area
        self.passages += [of.passage(passage) for passage in level.passages]
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
            case At(room):
                return At(self.name(room))
            case SomeoneAt(room):
                return SomeoneAt(self.name(room))
            case EveryoneAt(room):
                return EveryoneAt(self.name(room))
            case PlayerAt(player, room):
                return PlayerAt(player, self.name(room))
            case Opened(name):
                return Opened(self.name(name))
            case Done(name):
                return Done(self.name(name))
            case Not(part):
                return Not(self.condition(part))
            case And(parts):
                return And(tuple(self.condition(part) for part in parts))
            case Or(parts):
                return Or(tuple(self.condition(part) for part in parts))
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

    def lock(self, lock: Lock) -> Lock:
        return replace(
            lock,
            name=self.name(lock.name) if lock.name else lock.name,
            needs=self.condition(lock.needs),
            from_=self.name(lock.from_) if lock.from_ else None,
            effects=self.effects(lock.effects),
            place=self.place(lock.place),
        )

    def lock_said(self, lock: str | Lock | None) -> str | Lock | None:
        return self.name(lock) if isinstance(lock, str) else lock and self.lock(lock)

    def room(self, room: Room) -> Room:
        items = {name: self.placement(one) for name, one in room.items.items()}
        return replace(
            room,
            name=self.name(room.name),
            items=items,
            chests={self.name(name): self.chest(one) for name, one in room.chests.items()},
            switches={self.name(name): self.act(one) for name, one in room.switches.items()},
            acts={self.name(name): self.act(one) for name, one in room.acts.items()},
            gate=self.condition(room.gate) if room.gate != And(()) else room.gate,
            place=self.place(room.place),
            cell=None,
            used_from=None if room.used_from is None else tuple(map(self.name, room.used_from)),
        )

    def placement(self, one: Placement) -> Placement:
        return replace(
            one,
            needs=self.condition(one.needs),
            seen=self.condition(one.seen),
            place=self.place(one.place),
        )

    def chest(self, chest: Chest) -> Chest:
        return replace(
            chest,
            name=self.name(chest.name),
            lock=self.lock_said(chest.lock),
            seen=self.condition(chest.seen),
            effects=self.effects(chest.effects),
            place=self.place(chest.place),
        )

    def act(self, act: Act) -> Act:
        return replace(
            act,
            name=self.name(act.name),
            needs=self.condition(act.needs),
            seen=self.condition(act.seen),
            teaches=self.flag(act.teaches) if act.teaches else None,
            effects=self.effects(act.effects),
            place=self.place(act.place),
        )

    def passage(self, passage: Passage) -> Passage:
        return replace(
            passage,
            name=self.name(passage.name),
            a=self.name(passage.a),
            b=self.name(passage.b),
            lock=self.lock_said(passage.lock),
            gate=self.condition(passage.gate) if passage.gate != And(()) else passage.gate,
            seen=self.condition(passage.seen) if passage.seen != And(()) else passage.seen,
            effects=self.effects(passage.effects),
            part_of=self.name(passage.part_of) if passage.part_of else None,
            sides=tuple(map(self.name, passage.sides)),
            place=self.place(passage.place),
        )

    def event(self, event: Event, inside: Inside) -> Event:
        return replace(
            event,
            name=self.name(event.name),
            when=And((inside, self.condition(event.when))),
            effects=self.effects(event.effects),
            place=self.place(event.place),
        )
