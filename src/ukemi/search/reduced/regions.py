"""Positions that differ only by what is free to do, as one: regions.

From a position, the player may walk wherever a walk can be walked back at once, and make every safe
move there (:mod:`ukemi.search.reduced.safe`). All of that is done, until nothing is left to do: what
remains is a region, the rooms that lie open and all that is to be had in them. Only moves that are
neither safe nor such walks lead from one region to another, so that a search over regions grows with
the real choices of a level.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import repeat

from ...rules import END, PLACE, PLAYING, Move, Position, Rules
from ...rules.steps import Set, run
from .safe import Safety

#: A move and the room it was made in.
Done = tuple[Move, int]


@dataclass(eq=False, slots=True)
class Region:
    """All that lies open from a position.

    Attributes:
        position: The position after everything free has been done, in the first of its rooms.
        rooms: The rooms that lie open, in the order they were come to.
        done: What was done, in order: a move and the room it was made in. Of walks that give nothing,
            just those by which a room was first entered.
    """

    position: Position
    rooms: list[int]
    done: list[Done]

    @property
    def over(self) -> bool:
        """Whether the run has ended."""
        return self.position[END] != PLAYING


class Regions:
    """Finds regions.

    Args:
        rules: The rules.
    """

    def __init__(self, rules: Rules) -> None:
        self.rules = rules
        self.safety = Safety(rules)
        self._leads: dict[int, int] = {}
        self._plain: set[int] = set()
        self._back: dict[tuple[int, int], list[Move]] = {}
        self._watching: list[list[Move]] = [[] for _ in rules.variables]
        for move in rules.moves:
            for variable in move.reads:
                self._watching[variable].append(move)
            if PLACE not in move.changes:
                continue
            number = move.number
            for step in move.steps:
                if isinstance(step, Set) and step.variable == PLACE:
                    self._leads[number] = step.value
                    for place in move.places:
                        self._back.setdefault((place, step.value), []).append(move)
            if len(move.steps) == 1:
                self._plain.add(number)

    def region(self, position: Position) -> Region:
        """The region of a position."""
        values = list(position)
        rooms = [values[PLACE]]
        done: list[Done] = []
        if values[END] != PLAYING or not self.safety.able:
            return Region(position, rooms, done)
        inside = set(rooms)
        safe, once, moves_at = self.safety.safe, self.safety.once, self.rules.moves_at
        over: set[int] = set()
        ahead = list(zip(moves_at(rooms[0]), repeat(rooms[0])))
        for move, room in ahead:  # grows as it is walked
            number = move.number
            if number in over:
                continue
            leads = self._leads.get(number)
            if leads is None:
                if number not in safe:
                    over.add(number)
                    continue
                values[PLACE] = room
                if not move.guard.holds(values) or not self._make(values, move):
                    continue
                if number in once:
                    over.add(number)
            else:
                plain = number in self._plain
                if plain and leads in inside:
                    continue
                before = () if plain else [values[v] for v in move.changes if v != PLACE]
                if not self._walk(values, move, room, leads):
                    continue
                gave = not plain and before != [values[v] for v in move.changes if v != PLACE]
                if leads not in inside:
                    inside.add(leads)
                    rooms.append(leads)
                    ahead.extend(zip(moves_at(leads), repeat(leads)))
                    done += [] if gave else [(move, room)]
                if not gave:
                    continue
            done.append((move, room))
            # What can be done more than once looks at what it changes, and is tried again with it.
            for variable in move.changes:
                if variable != PLACE:
                    for one in self._watching[variable]:
                        for place in one.places:
                            if place in inside and one.number not in over:
                                ahead.append((one, place))
        values[PLACE] = min(rooms)
        return Region(tuple(values), rooms, done)

    def _make(self, values: list[int], move: Move) -> bool:
        """Make a safe move that can be made; what it gives ends no run.

        Returns:
            Whether it gave anything: what can be done again and again may give nothing more.
        """
        (step, *more) = move.steps
        if not more and isinstance(step, Set):  # most are
            before, values[step.variable] = values[step.variable], step.value
            return before != step.value
        changes = move.changes
        all_before = [values[variable] for variable in changes]
        if run(move.steps, values):
            return all_before != [values[variable] for variable in changes]
        for variable, value in zip(changes, all_before, strict=True):
            values[variable] = value
        return False

    def _walk(self, values: list[int], move: Move, room: int, leads: int) -> bool:
        """Walk, where that can be walked back at once; the values keep what it gives."""
        if move.number not in self.safety.giving:
            return False
        values[PLACE] = room
        if not move.guard.holds(values):
            return False
        quiet = not self.rules.settling
        if move.number in self._plain and quiet:
            values[PLACE] = leads
            return self._way_back(values, leads, room)
        after = self.after(values, move, room)
        if after is None or after[END] != PLAYING or not self._way_back(after, leads, room):
            return False
        values[:] = after
        return True

    def _way_back(self, values: list[int], here: int, room: int) -> bool:
        for back in self._back.get((here, room), ()):
            if back.number not in self.safety.giving:
                continue
            if back.number in self._plain and not self.rules.settling:
                if back.guard.holds(values):
                    return True
                continue
            returned = self.after(values, back, here)
            if returned is not None and returned[END] == PLAYING:
                return True
        return False

    def after(self, values: list[int], move: Move, room: int) -> list[int] | None:
        """The values after a move in a room; ``None`` where it cannot be made."""
        here, values[PLACE] = values[PLACE], room
        can = move.guard.holds(values)
        tried = values.copy() if can else values
        values[PLACE] = here
        if not can or not run(move.steps, tried):
            return None
        run(self.rules.settling, tried)
        return tried

    def ways_on(self, region: Region) -> Iterator[tuple[Move, int, Position]]:
        """The moves that lead out of a region, with the room each is made in and what follows."""
        if region.over:
            return
        values = list(region.position)
        inside = set(region.rooms)
        settling = self.rules.settling
        for room in region.rooms:
            for move in self.rules.moves_at(room):
                number = move.number
                if number in self.safety.safe and self.safety.able:
                    continue
                leads = self._leads.get(number)
                about = leads is not None and leads in inside and self.safety.able
                if about and number in self._plain and not settling:
                    continue
                after = self.after(values, move, room)
                if after is None:
                    continue
                if about and after[PLACE + 1 :] == values[PLACE + 1 :]:
                    continue  # a way about the region
                yield move, room, tuple(after)
