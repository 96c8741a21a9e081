"""A level as variables and moves: all that a search has to know."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from functools import cached_property
from typing import Any

from ..values import dataclass, field
from .expressions import Expression
from .position import END, PLACE, PLAYING, Position
from .reads import changed, looked_at, variables
from .steps import Set, Step, run


@dataclass(eq=False, repr=False, slots=True)
class Move:
    """Something the player may do.

    Attributes:
        number: Its index in :attr:`Rules.moves`.
        what: The move as reports write it, such as ``{"do": "walk", ...}``.
        places: The values of :data:`PLACE` at which it can be made.
        guard: The condition for it.
        steps: What it changes; a step may still find that it cannot be made.
        cost: Its length in steps.
    """

    number: int
    what: dict[str, Any]
    places: tuple[int, ...]
    guard: Expression
    steps: tuple[Step, ...]
    cost: int
    _changes: tuple[int, ...] | None = field(default=None, init=False)
    _reads: tuple[int, ...] | None = field(default=None, init=False)

    @property
    def changes(self) -> tuple[int, ...]:
        """The variables that its steps may change, each once; worked out when first asked for."""
        if self._changes is None:
            self._changes = tuple(changed(self.steps))
        return self._changes

    @property
    def leads_to(self) -> int | None:
        """The value of :data:`PLACE` that it leads to, if it is a walk."""
        for step in self.steps:
            if isinstance(step, Set) and step.variable == PLACE:
                return step.value
        return None

    @property
    def is_plain_walk(self) -> bool:
        """Whether it changes nothing but where the player is, and asks for nothing but its guard."""
        return len(self.steps) == 1 and self.leads_to is not None

    @property
    def reads(self) -> tuple[int, ...]:
        """The variables that decide whether it can be made and what it does, each once."""
        if self._reads is None:
            found, more = variables(self.guard), looked_at(self.steps)
            self._reads = tuple({*found, *more} if more or len(found) > 1 else found)
        return self._reads


@dataclass(eq=False, repr=False)
class Rules:
    """Variables and moves.

    Attributes:
        variables: The meaning of each variable, such as ``("carried", "iron-key")``.
        index: The number of each variable.
        places: The names of the values of :data:`PLACE`.
        initial: The values before the level has settled.
        moves: Every move.
        settling: The events, after each move and at the start.
        goal: When the level can be finished.
        players: The players, where several play.
        alike: If no rule distinguishes the players: for each player, the variables of its own.
    """

    variables: list[tuple[str, ...]]
    index: dict[tuple[str, ...], int]
    places: list[str]
    initial: list[int]
    moves: list[Move]
    settling: tuple[Step, ...]
    goal: Expression
    players: tuple[str, ...] = ()
    alike: tuple[tuple[int, ...], ...] = ()
    _moves_at: list[list[Move]] = field(default_factory=list)

    def __post_init__(self) -> None:
        self._moves_at = [[] for _ in self.places]
        for move in self.moves:
            for place in move.places:
                self._moves_at[place].append(move)

    @cached_property
    def changes_by_itself(self) -> tuple[int, ...]:
        """The variables that may change without a move that changes them."""
        return tuple(changed(self.settling))

    @cached_property
    def standing(self) -> tuple[int, ...]:
        """The variables of the players' rooms; :data:`PLACE` is the first player's."""
        return tuple(number for number, one in enumerate(self.variables) if one[0] == "place")

    def place_of(self, player: str | None) -> int:
        """The variable of a player's room."""
        return self.index.get(("place", str(player)), PLACE)

    def rooms_of(self, position: Sequence[int]) -> set[str]:
        """The rooms in which there is a player."""
        return {self.places[position[variable]] for variable in self.standing}

    def walked(self, before: Sequence[int], after: Sequence[int]) -> int | None:
        """The variable of the room of a player who walked between two positions, if one did."""
        return next((one for one in self.standing if before[one] != after[one]), None)

    def carried(self, item: str) -> list[int]:
        """The variables of the players' counts of an item, the first player's first."""
        return self._carried.get(item, [])

    @cached_property
    def _carried(self) -> dict[str, list[int]]:
        found: dict[str, list[int]] = {}
        for variable, number in self.index.items():
            if variable[0] == "carried":
                found.setdefault(variable[1], []).append(number)
        return found

    def carriers(self, players: Iterable[str], shared: bool) -> dict[str, int]:
        """The variable of each item that is carried; of several players, as ``ada: lantern``."""
        first = "" if shared else next(iter(players), "")
        found = {}
        for variable, number in self.index.items():
            if variable[0] == "carried":
                player = variable[2] if len(variable) > 2 else first
                found[f"{player}: {variable[1]}" if player else variable[1]] = number
        return found

    def moves_at(self, place: int) -> list[Move]:
        """The moves that could be made at a value of :data:`PLACE`, whatever else they ask."""
        return self._moves_at[place]

    def start(self) -> Position:
        """The position in which a run begins."""
        return self.settle(self.initial)

    def settle(self, values: list[int]) -> Position:
        """The position these values lead to by themselves: touch, death, the goal.

        Args:
            values: The values; they are left as they are.

        Returns:
            The settled position.
        """
        settled = values.copy()
        run(self.settling, settled)
        return tuple(settled)

    def after(self, position: Position, move: Move) -> Position | None:
        """The position after a move.

        Returns:
            The next position, or ``None`` where the move cannot be made.
        """
        if position[END] != PLAYING or position[PLACE] not in move.places:
            return None
        return self._made(position, move)

    def _made(self, position: Position, move: Move) -> Position | None:
        """The position after a move of the room; ``None`` if its guard or its steps do not allow it."""
        if not move.guard.holds(position):
            return None
        values = list(position)
        if not run(move.steps, values):
            return None
        if self.settling:
            run(self.settling, values)
        return tuple(values)

    def successors(self, position: Position) -> Iterator[tuple[Move, Position]]:
        """Every move that can be made in a position, with the position after it."""
        if position[END] == PLAYING:
            for move in self._moves_at[position[PLACE]]:
                after = self._made(position, move)
                if after is not None:
                    yield move, after
