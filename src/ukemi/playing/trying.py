"""Try things as a player does: with a wrong key, by a bare name; and read the texts of the level."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import cached_property
from typing import NamedTuple

from ..level import Level, Lock, Passage
from ..level.asked import items_in
from ..level.conditions import ALWAYS, Condition
from ..level.item import Item
from ..level.names import in_list
from ..level.room import Act, Chest, Placement, Room
from ..level.says import Says
from ..rules import Move, Position, Rules
from ..rules.variables import Names

#: What a player reads if a shut thing says nothing.
LOCKED, NOT_NOW = "It is locked.", "That does not work yet."

_with = re.compile(r"(\S.*?) (?:with|on) (\S.*)").fullmatch


class NotUnderstoodError(ValueError):
    """A line that asks for nothing, or for one of several things."""


class ThingHere(NamedTuple):
    """Something in reach of the player.

    Attributes:
        verb: The verb to try it with.
        part: The part of the level.
        lock: Its lock, if it has one that is still shut.
    """

    name: str
    verb: str
    part: Chest | Act | Passage | Placement
    lock: Lock | None = None

    @property
    def asked(self) -> str:
        """The words to type for it."""
        return f"{self.verb} {self.name}"


class Senses:
    """What the player can see and read."""

    def __init__(self, level: Level, rules: Rules) -> None:
        self.level = level
        self.rules = rules
        self._passages = {one.name: one for one in level.passages}

    @cached_property
    def _names(self) -> Names:
        return Names(self.level)

    def sees(self, position: Position, part: Chest | Act | Passage | Placement) -> bool:
        """Whether the player knows of a thing."""
        return part.seen == ALWAYS or self._holds(part.seen, position)

    def _holds(self, condition: Condition, position: Position) -> bool:
        return self._names.guard(condition).holds(position)

    def around(self, position: Position, room: str) -> Iterator[ThingHere]:
        """The things in a room that the player sees and can try, items aside."""
        index = self.rules.index
        for one in self.level.rooms.values():
            if one.name != room and room not in (one.used_from or ()):
                continue
            for chest in one.chests.values():
                if self.sees(position, chest) and not position[index["opened", chest.name]]:
                    yield ThingHere(chest.name, "open", chest, self.level.lock_of(chest))
            for act in one.all_acts():
                if self.sees(position, act) and (
                    act.repeat or not position[index["done", act.name]]
                ):
                    yield ThingHere(act.name, "do", act)
        shown: set[str] = set()
        for passage in self.level.passages:
            if passage.thing in shown or not self.sees(position, passage):
                continue
            lock = self.level.lock_of(passage)
            if lock is not None and room in passage.ends:
                shown.add(passage.thing)
                if not position[index["opened", passage.thing]] and not lock.relocks:
                    yield ThingHere(passage.thing, "unlock", passage, lock)
            elif lock is None and (not passage.on_map or passage.gate != ALWAYS):
                for here, there in passage.walks():
                    if here == room and not self._collapsed(position, passage):
                        yield ThingHere(there, "go", passage)

    def _collapsed(self, position: Position, passage: Passage) -> bool:
        number = self.rules.index.get(("collapsed", passage.thing))
        return number is not None and bool(position[number])

    # -- texts --------------------------------------------------------------------------------

    def text(self, thing: ThingHere, moment: str) -> str | None:
        """The text of a thing for a moment: its own, or that of its lock."""
        parts = [thing.part, *([thing.lock] if thing.lock is not None else [])]
        found = (getattr(one.says, moment) for one in parts)
        return next((text for text in found if text is not None), None)

    def read(self, move: Move, before: Position, after: Position) -> Iterator[str]:
        """The texts that the player reads on making a move: of its thing, and of events."""
        what, level = move.what, self.level
        speakers: list[Item | Lock | Chest | Act | Passage | Room] = []
        match what["do"]:
            case "take":
                speakers = [level.items[what["item"]]]
            case "walk":
                speakers = [self._passages[what["name"]]]
            case "unlock" | "open" | "act":
                thing = level.things[what["name"]].what
                assert isinstance(thing, (Chest, Act, Passage))
                lock = level.lock_of(thing) if not isinstance(thing, Act) else None
                speakers = [thing, *([lock] if lock is not None else [])]
        for one in speakers:
            if one.says.open is not None:
                yield one.says.open
                break
        for event in level.events.values():
            number = self.rules.index["done", event.name]
            if after[number] and not before[number] and event.says.open is not None:
                yield event.says.open

    def first_seen(self, position: Position, room: str, known: set[str]) -> Iterator[str]:
        """The texts of a room and the things in it that the player meets for the first time.

        Args:
            room: The player's room.
            known: The names that were met before; those met now are added.
        """
        met: list[tuple[str, Says]] = [(room, self.level.rooms[room].says)]
        for thing in self.around(position, room):
            met.append((f"{thing.verb} {thing.name}", thing.part.says))
        for item in self.level.rooms[room].items:
            lying = position[self.rules.index["lying", room, item]]
            if lying and self.sees(position, self.level.rooms[room].items[item]):
                met.append((f"take {item}", self.level.items[item].says))
        for name, says in met:
            if name not in known:
                known.add(name)
                if says.first is not None:
                    yield says.first

    # -- attempts -----------------------------------------------------------------------------

    def fits(self, lock: Lock, item: str) -> bool:
        """Whether an item is among those that a lock needs or takes."""
        return item in items_in(lock.needs) or item in (lock.takes or {})


def with_item(name: str) -> tuple[str, str] | None:
    """Split words such as ``closet-door with tin-key`` into the thing and the item.

    Example:
        >>> with_item("closet-door with tin-key"), with_item("closet-door")
        (('closet-door', 'tin-key'), None)
    """
    found = _with(name)
    return (found[1], found[2]) if found else None


def refusal(senses: Senses, thing: ThingHere, item: str | None, carried: bool) -> str:
    """Return why an attempt fails, without saying what it needs.

    Args:
        senses: What the player can see and read.
        thing: The thing.
        item: The item that it was tried with; ``None`` for none.
        carried: Whether the player carries the item.
    """
    if item is not None and not carried:
        return f"you carry no {item}"
    if item is not None and (thing.lock is None or not senses.fits(thing.lock, item)):
        own = senses.text(thing, "wrong")
        return f"{item} does not fit {thing.name}" + (f". {own}" if own else "")
    plain = LOCKED if thing.lock is not None else NOT_NOW
    return f"{thing.name}: {senses.text(thing, 'shut') or plain}"


def choose(things: list[ThingHere], name: str) -> ThingHere | None:
    """Return the one thing of a name; ``None`` if there is none.

    Raises:
        NotUnderstoodError: Several things have the name; the message lists what to type.
    """
    folded = name.casefold()
    found = [one for one in things if one.name.casefold() == folded]
    found = found or [one for one in things if one.name.casefold().startswith(f"{folded}@")][:1]
    if len(found) > 1:
        raise NotUnderstoodError(f"{name!r} could be {in_list([one.asked for one in found], 'or')}")
    return found[0] if found else None
