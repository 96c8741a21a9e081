"""Regions: the positions between which the player can walk to and fro.

A search for a run treats such positions as one. It makes a move that can only help at once.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator, Mapping

from ..graph import CheapestWays
from ..rules import END, PLACE, Move, Position, Rules
from ..spaces.limits import Limits
from ..values import dataclass

#: A move, that move with the walks before it, and the position after it.
Way = tuple[Move, list[Move], Position]


@dataclass(eq=False, slots=True)
class Region:
    """The positions that mere walks lead to and back from.

    Attributes:
        positions: The position in each room, the nearest room first.
        ways: How the player gets to each.
        drops: Walks that leave the region, each with the positions before and after the walk.
    """

    positions: dict[int, Position]
    ways: CheapestWays[Position, Move]
    drops: list[tuple[Move, Position, Position]]

    @property
    def key(self) -> Position:
        """One of its positions; it does not depend on where the search for the region began."""
        return self.positions[min(self.positions)]


class Regions:
    """Finds regions, the walks inside a region, and the moves that leave it.

    Args:
        rules: The rules.
        limits: How long it may take.
        safe: The numbers of the moves that can only help.
        allowed: Whether the player may enter a position.
        around: A room that is never entered.
    """

    def __init__(
        self,
        rules: Rules,
        limits: Limits,
        safe: Collection[int] = (),
        allowed: Callable[[Position], bool] = lambda position: True,
        around: int | None = None,
    ) -> None:
        self._rules = rules
        self._limits = limits
        self._safe = safe
        self._allowed = allowed
        self._walks: list[list[tuple[Move, int]]] = []
        self._others: list[list[Move]] = []
        for place in range(len(rules.places)):
            moves = rules.moves_at(place)
            walks = ((move, move.leads_to) for move in moves if move.is_plain_walk)
            self._walks.append([(one, to) for one, to in walks if to is not None and to != around])
            self._others.append([move for move in moves if not move.is_plain_walk])

    def helped(self, position: Position) -> tuple[list[Move], Position, Region]:
        """Make all moves of a region that can only help, the nearest first, and those that these make possible.

        Returns:
            The moves, the position after them, and its region.

        Raises:
            CutShortError: The time was over first.
        """
        made: list[Move] = []
        while True:
            ways = CheapestWays(position, self._there_and_back)
            positions: dict[int, Position] = {}
            for here in ways:
                self._limits.check()
                positions[here[PLACE]] = here
                moves, after = self._help(here)
                if moves:
                    made += [*ways.to(here), *moves]
                    position = after
                    break
            else:
                return made, position, Region(positions, ways, [*self._drops(positions)])

    def _help(self, here: Position) -> tuple[list[Move], Position]:
        """Make the moves of one room that can only help; return them, and the position after them."""
        moves = []
        for move in self._others[here[PLACE]]:
            if move.number in self._safe:
                after = self._rules.after(here, move)
                if after is not None and after != here:
                    here = after
                    moves.append(move)
        return moves, here

    def _drops(
        self, positions: Mapping[int, Position]
    ) -> Iterator[tuple[Move, Position, Position]]:
        for here in positions.values():
            for move, to in self._walks[here[PLACE]]:
                if to not in positions:
                    after = self._rules.after(here, move)
                    if after is not None and self._allowed(after):
                        yield move, here, after

    def _there_and_back(self, here: Position) -> Iterator[tuple[Position, int, Move]]:
        """The mere walks from a position that can be walked back, and where they lead."""
        after = self._rules.after
        for move, to in self._walks[here[PLACE]]:
            there = after(here, move)
            if there is not None and there[END:] == here[END:]:
                back = (one for one, place in self._walks[to] if place == here[PLACE])
                if any(after(there, one) == here for one in back):
                    yield there, move.cost, move

    def first_of(self, region: Region, moves: Iterable[Move]) -> Way | None:
        """The first of some moves that can be made in a region; walks that leave the region come last."""
        drops = {move.number: (before, after) for move, before, after in region.drops}
        first: Way | None = None
        for move in moves:
            if not move.is_plain_walk:
                for place in move.places:
                    before = region.positions.get(place)
                    after = None if before is None else self._rules.after(before, move)
                    if before is not None and after is not None and self._allowed(after):
                        return move, [*region.ways.to(before), move], after
            elif first is None and move.number in drops:
                before, after = drops[move.number]
                first = move, [*region.ways.to(before), move], after
        return first

    def out_of(self, region: Region) -> Iterator[Way]:
        """Every move that can be made in a region, but for walks within it."""
        for here in region.positions.values():
            for move in self._others[here[PLACE]]:
                after = self._rules.after(here, move)
                if after is not None and self._allowed(after):
                    yield move, [*region.ways.to(here), move], after
        for move, before, after in region.drops:
            yield move, [*region.ways.to(before), move], after

    def walks(self, start: Position, run: Iterable[Move]) -> Iterator[tuple[Move, bool]]:
        """Yield the moves of a run, each with whether it is a walk within a region."""
        here = start
        for move in run:
            after = self._rules.after(here, move)
            assert after is not None
            yield move, any(after == there for there, *_ in self._there_and_back(here))
            here = after

    def made(self, start: Position, moves: Iterable[Move]) -> tuple[list[Move], Position]:
        """Make those of some moves that can be made, with the cheapest walks between them.

        Returns:
            The run, and the position after it.
        """
        here, run = start, list[Move]()
        for move in moves:
            ways = CheapestWays(here, self._there_and_back)
            found = ((at, self._rules.after(at, move)) for at in ways)
            at, after = next((one for one in found if one[1] is not None), (here, None))
            if after is not None:
                run += [*ways.to(at), move]
                here = after
        return run, here
