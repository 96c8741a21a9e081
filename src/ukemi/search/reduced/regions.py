"""Positions that differ only by what is free to do, as one: regions.

From a position, the player may walk wherever a walk can be walked back at once, and make every safe
move there (:mod:`ukemi.search.reduced.safe`). All of that is done, until nothing is left to do: what
remains is a region, the rooms that lie open and all that is to be had in them. Only moves that are
neither safe nor such walks lead from one region to another, so that a search over regions grows with
the real choices of a level.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

from ...rules import END, FINISHED, PLACE, PLAYING, Move, Position, Rules
from ...rules.steps import run
from ..limits import Limits
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
        limits: How long it may take, for all that is asked.

    Raises:
        CutShortError: The time was over first.
    """

    def __init__(self, rules: Rules, limits: Limits | None = None) -> None:
        self.rules = rules
        self._limits = limits or Limits()
        self.safety = Safety(rules, limits)
        walks = [(move, to) for move in rules.moves if (to := move.leads_to) is not None]
        self._leads = {move.number: to for move, to in walks}
        self._plain = {move.number for move, _ in walks if move.is_plain_walk}
        self._back: dict[tuple[int, int], list[Move]] = {}
        self._watching: list[list[Move]] = [[] for _ in rules.variables]
        for move in rules.moves:
            for variable in move.reads:
                self._watching[variable].append(move)
        for move, to in walks:
            for place in move.places:
                self._back.setdefault((place, to), []).append(move)

    def region(self, position: Position) -> Region:
        """The region of a position."""
        values = list(position)
        rooms = dict.fromkeys([values[PLACE]])  # in the order they are come to
        done: list[Done] = []
        if values[END] != PLAYING or not self.safety.able:
            return Region(position, [*rooms], done)
        safe, giving, once = self.safety.safe, self.safety.giving, self.safety.once
        over: set[int] = set()
        ahead = [(move, position[PLACE]) for move in self.rules.moves_at(position[PLACE])]
        for move, room in ahead:  # grows as it is walked
            self._limits.check()
            number = move.number
            leads = self._leads.get(number)
            if number in over or (leads in rooms and number in self._plain):
                continue
            if number not in safe and number not in giving:
                over.add(number)
                continue
            after = self.after(values, move, room)
            if after is None or (leads is not None and not self._returns(after, leads, room)):
                continue
            if number in once:
                over.add(number)
            news = [one for one in move.changes if one != PLACE and values[one] != after[one]]
            values = after
            if leads is not None and leads not in rooms:
                rooms[leads] = None
                ahead += [(one, leads) for one in self.rules.moves_at(leads)]
            elif not news:
                continue
            done.append((move, room))
            # What can be done more than once looks at what it changes, and is tried again with it.
            for variable in news:
                for one in self._watching[variable]:
                    ahead += [(one, place) for place in one.places if place in rooms]
        values[PLACE] = min(rooms)
        return Region(tuple(values), [*rooms], done)

    def _returns(self, values: list[int], here: int, room: int) -> bool:
        """Whether a run goes on in a room and can be walked back from there at once."""
        return values[END] == PLAYING and any(
            back.number in self.safety.giving
            and (returned := self.after(values, back, here)) is not None
            and returned[END] == PLAYING
            for back in self._back.get((here, room), ())
        )

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


@dataclass(eq=False)
class Explored:
    """The regions that were come to.

    Attributes:
        regions: The regions; the first is where the search began.
        came: For each but the first, the region it was come to from, with the move and its room.
        complete: Whether those are all.
    """

    regions: list[Region] = field(default_factory=list)
    came: list[tuple[int, Move, int] | None] = field(default_factory=list)
    complete: bool = False

    @property
    def finished(self) -> list[int]:
        """The numbers of the finished regions."""
        return [n for n, one in enumerate(self.regions) if one.position[END] == FINISHED]

    def done(self, number: int) -> list[Done]:
        """All that is done on the way to a region, but for walks about a region."""
        done = list(self.regions[number].done)
        while (came := self.came[number]) is not None:
            number, move, room = came
            done = [*self.regions[number].done, (move, room), *done]
        return done


def explore_regions(
    regions: Regions,
    start: Position,
    most: int,
    limits: Limits | None = None,
    enough: Callable[[Position], bool] | None = None,
) -> Explored:
    """Explore regions, depth first.

    Args:
        regions: Finds them.
        start: A position in the first.
        most: The most regions to come to.
        limits: Says when the time is over.
        enough: Tells the position of a region at which to stop.
    """
    found = Explored()
    numbers: dict[Position, int] = {}

    def reach(position: Position, came: tuple[int, Move, int] | None) -> int:
        region = regions.region(position)
        number = numbers.get(region.position)
        if number is None:
            number = numbers[region.position] = len(found.regions)
            found.regions.append(region)
            found.came.append(came)
            ahead.append(number)
        return number

    ahead: list[int] = []
    reach(start, None)
    while ahead:
        number = ahead.pop()
        if len(found.regions) > most or (limits is not None and limits.over):
            return found
        for move, room, after in regions.ways_on(found.regions[number]):
            reached = reach(after, (number, move, room))
            if enough is not None and enough(found.regions[reached].position):
                return found
    found.complete = True
    return found
