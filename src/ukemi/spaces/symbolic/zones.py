"""Connected components of free two-way passages (*zones*): a position in one room of a zone can walk to
all others.

Where ways in both directions ask for nothing and change nothing, it does not matter in which of the
rooms the player is: a quotient by a bisimulation (R. Paige and R. E. Tarjan, "Three partition
refinement algorithms", SIAM Journal on Computing 16, 1987).
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence

from oxidd.bdd import BDDFunction

from ...rules import Move
from ...rules.actions import Key
from ...rules.reads import variables
from .diagrams import Diagrams, DiagramStep

#: A step out of a zone or within it, the zone it leads to, and what it makes of some positions.
Lead = tuple[DiagramStep, Key, Callable[[BDDFunction], BDDFunction]]

#: A zone that leads to so many others is a hall.
MANY_EXITS = 12


class Zones:
    """The zones of a level, each named after one of its rooms.

    Args:
        rooms: The rooms of each that has several.
        walks: The ways that ask for nothing, from each room.
    """

    def __init__(
        self, rooms: Mapping[Key, Sequence[Key]], walks: Mapping[Key, Mapping[Key, Move]]
    ) -> None:
        self._rooms = rooms
        self._walks = walks
        self._of = {room: zone for zone, some in rooms.items() for room in some}

    def of(self, room: Key) -> Key:
        """The zone of a room."""
        return self._of.get(room, room)

    def rooms(self, zone: Key) -> Sequence[Key]:
        """The rooms of a zone."""
        return self._rooms.get(zone, (zone,))

    def alike_in(self, positions: Diagrams) -> Zones:
        """The zones all of whose rooms are alike in a set, so that one can stand for all."""
        parts = positions.parts
        alike = {
            zone: rooms
            for zone, rooms in self._rooms.items()
            if all(parts.get(room) == parts.get(zone) for room in rooms)
        }
        return self if len(alike) == len(self._rooms) else Zones(alike, self._walks)

    def spread(self, positions: Mapping[Key, BDDFunction]) -> Diagrams:
        """Return the diagrams of zones as diagrams of each of their rooms."""
        return Diagrams({room: one for zone, one in positions.items() for room in self.rooms(zone)})

    def walk(self, source: Key, target: Key) -> list[Move]:
        """The moves of a walk from one room of a zone to another."""
        came: dict[Key, tuple[Key, Move]] = {}
        ahead = [source]
        for here in ahead:
            if here == target:
                break
            for other, move in self._walks.get(here, {}).items():
                if other not in came and self.of(other) == self.of(source):
                    came[other] = (here, move)
                    ahead.append(other)
        moves: list[Move] = []
        while target != source:
            target, move = came[target]
            moves.append(move)
        return moves[::-1]


def zones_of(steps: Iterable[DiagramStep]) -> Zones:
    """The zones of a level, by all its steps."""
    walks: dict[Key, dict[Key, Move]] = {}
    for step in steps:
        if step.free:
            walks.setdefault(step.source, {}).setdefault(step.target, step.action.move)
    rooms: dict[Key, list[Key]] = {}
    seen: set[Key] = set()
    for room in sorted(walks):
        if room in seen:
            continue
        rooms[room] = [room]
        for here in rooms[room]:
            seen.add(here)
            for other in walks[here]:
                if other not in rooms[room] and here in walks.get(other, ()):
                    rooms[room].append(other)
    return Zones({zone: some for zone, some in rooms.items() if len(some) > 1}, walks)


class ZoneExit:
    """The steps out of each zone, forward or backward.

    Args:
        zones: The zones.
        steps: The steps at each room.
        lead: Where a step leads, and what it makes of some positions.
    """

    def __init__(
        self,
        zones: Zones,
        steps: Mapping[Key, Sequence[DiagramStep]],
        lead: Callable[[DiagramStep], tuple[Key, Callable[[BDDFunction], BDDFunction]]],
    ) -> None:
        self.zones = zones
        self._steps = steps
        self.lead = lead
        self._known: dict[Key, tuple[list[Lead], list[Lead]]] = {}
        self._at: dict[Key, list[Lead]] = {}
        self._ways: dict[Key, int] = {}

    def alike_in(self, positions: Diagrams) -> ZoneExit:
        """The same for the zones whose rooms are alike in a set, and single rooms for the rest."""
        zones = self.zones.alike_in(positions)
        return self if zones is self.zones else ZoneExit(zones, self._steps, self.lead)

    def __getitem__(self, zone: Key) -> tuple[list[Lead], list[Lead]]:
        """Return the steps that stay in a zone, and those that leave it.

        The steps into zones with the fewest exits, such as dead ends, come last: their moves should be
        known here before the search goes further. In a hall, the steps whose bits stand lowest come first. Right
        before each come the steps within the hall that open the way for it.
        """
        found = self._known.get(zone)
        if found is None:
            leads = list(self._leads(zone))
            inside = [one for one in leads if one[1] == zone and not one[0].free]
            outward = [one for one in leads if one[1] != zone]
            outward.sort(key=lambda one: (-self._ways_on(one[1]), one[1]))
            if self.has_many_exits(zone):
                outward.sort(key=lambda one: -(one[0].asked.node_level() or 0))
                inside, outward = _way_by_way(inside, outward)
            found = self._known[zone] = (inside, outward)
        return found

    def at(self, room: Key) -> list[Lead]:
        """The steps at a room, with the rooms that they lead to."""
        found = self._at.get(room)
        if found is None:
            found = [(step, *self.lead(step)) for step in self._steps.get(room, ())]
            self._at[room] = found
        return found

    def _leads(self, zone: Key) -> Iterable[Lead]:
        for room in self.zones.rooms(zone):
            for step, to, lead in self.at(room):
                yield step, self.zones.of(to), lead

    def has_many_exits(self, zone: Key) -> bool:
        """Whether a zone leads to many others, as a hall does."""
        return self._ways_on(zone) >= MANY_EXITS

    def is_dead_end(self, zone: Key) -> bool:
        """Whether a zone leads to one other at most."""
        return self._ways_on(zone) < 2

    def _ways_on(self, zone: Key) -> int:
        if zone not in self._ways:
            self._ways[zone] = len({to for _, to, _ in self._leads(zone)} - {zone})
        return self._ways[zone]


def _way_by_way(inside: list[Lead], outward: list[Lead]) -> tuple[list[Lead], list[Lead]]:
    """Order the steps of a hall: before each step out of it, the steps within it that change what that one asks for."""
    first = dict.fromkeys(inside)
    in_turn: dict[Lead, None] = {}
    for lead in outward:
        asked = {one for each in lead[0].action.branch.conditions for one in variables(each)}
        for one in inside:
            if one[0].action.changed & asked:
                first.pop(one, None)
                in_turn[one] = None
        in_turn[lead] = None
    return list(first), list(in_turn)
