"""A level under check: its rules, the positions reached, and what follows from them at once."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from operator import itemgetter
from typing import TYPE_CHECKING, Any

from ..level import Level
from ..rules import DEAD, FINISHED, PLACE, PLAYING, Move, Position, Rules, compile_level
from ..search import Exploration, Limits, Route, explore, reaching, replay
from .answers import Answer, settled
from .subjects import Subject, rewards, subjects

if TYPE_CHECKING:  # what only large levels need is loaded for those alone
    from ..search.reduced.counting import Counting
    from ..search.reduced.prospects import Prospects
    from .wrong import Wrong

#: So many positions for each thing and room are looked at in the time it takes to ask about one.
FEW_FOR_EACH = 500


class Case:
    """What every check looks at; each part is worked out once, when first asked for.

    Args:
        level: The level.
        limits: How far the search may go.
        rules: The level as variables and moves, or what of it matters to a question; ``None`` to
            compile it.
        original: The level as variables and moves, where ``rules`` are not all of it.
        prospects: Tells positions from which nothing finishes; what follows them is left out.
        found: The positions, where they have been searched already.
        counting: What counted wings that are alike, where ``rules`` are its rules.

    Attributes:
        rules: The level as variables and moves.
        found: The positions that were reached.
        complete: Whether those are all, but for what follows where nothing finishes any more.
        sees_all: Whether they are all without exception.
    """

    def __init__(
        self,
        level: Level,
        limits: Limits | None = None,
        rules: Rules | None = None,
        original: Rules | None = None,
        prospects: Prospects | None = None,
        found: Exploration | None = None,
        counting: Counting | None = None,
    ) -> None:
        self.level = level
        self.limits = limits or Limits()
        self.prospects = prospects
        self.counting = counting
        self.rules: Rules = compile_level(level) if rules is None else rules
        self.original: Rules = original or self.rules
        lost = prospects.lost if prospects else None
        self.found: Exploration = found or explore(self.rules, self.limits, lost=lost)
        self.complete: bool = self.found.complete
        #: Choices that lose the level, where regions tell some, and whether those are all.
        self.wrong: list[Wrong] = []
        self.all_wrong = False
        #: What finds reasons for its positions; kept here since finding them has a budget.
        self.reasons: object = None
        self.sees_all: bool = self.complete and lost is None

    def share(self, other: Case) -> None:
        """Take over from another case of the same level what is the same for both."""
        self.subjects, self.bits, self.rewards = other.subjects, other.bits, other.rewards

    def positions_with(self, test: Callable[[Position], bool]) -> list[int]:
        """The numbers of the positions that pass a test, cheapest first."""
        numbers = [n for n, position in enumerate(self.found.positions) if test(position)]
        return sorted(numbers, key=self.found.costs.__getitem__)

    @cached_property
    def finished(self) -> list[int]:
        """The finished positions, cheapest first."""
        return self._ended(FINISHED)

    @cached_property
    def dead(self) -> list[int]:
        """The positions in which the player is dead, cheapest first."""
        return self._ended(DEAD)

    def _ended(self, end: int) -> list[int]:
        numbers = [number for number, one in enumerate(self.found.ends) if one == end]
        return sorted(numbers, key=self.found.costs.__getitem__)

    @cached_property
    def unexplored(self) -> list[int]:
        """Positions that were reached but not looked into; none in a complete search."""
        return [n for n, explored in enumerate(self.found.explored) if not explored]

    @cached_property
    def can_finish(self) -> bytearray:
        """Positions from which a finishing run was found."""
        if self.prospects is None or self.complete:
            return reaching(self.found, self.finished)
        positions, finishes = self.found.positions, self.prospects.finishes
        beyond = [number for number in self.unexplored if finishes(positions[number])]
        return reaching(self.found, [*self.finished, *beyond])

    @cached_property
    def may_finish(self) -> bytearray:
        """Positions from which finishing was found, or cannot be ruled out."""
        if self.complete:
            return self.can_finish
        return reaching(self.found, [*self.finished, *self.unexplored])

    def is_stuck(self, number: int) -> bool:
        """Whether a position is proven to be neither finished nor dead nor able to finish."""
        return self.found.ends[number] == PLAYING and not self.may_finish[number]

    @cached_property
    def finish(self) -> Answer:
        """Whether the level can be finished."""
        return settled(bool(self.finished), self.complete)

    @cached_property
    def stuck(self) -> Answer:
        """Whether anyone can get stuck: possible, never or unknown."""
        found = any(self.is_stuck(number) for number in range(len(self.found.positions)))
        if found:
            return Answer.POSSIBLE
        return Answer.NEVER if self.complete else Answer.UNKNOWN

    @property
    def knows_mistakes(self) -> bool:
        """Whether every kind of mistake is known."""
        return self.complete or self.all_wrong or self.stuck == Answer.NEVER

    @cached_property
    def subjects(self) -> list[Subject]:
        """The doors, chests, acts and placed items of the level."""
        return subjects(self.level, self.rules)

    @cached_property
    def bits(self) -> dict[str, int]:
        """For each subject, its bit in :attr:`did`."""
        return {subject.name: 1 << number for number, subject in enumerate(self.subjects)}

    @cached_property
    def done_from(self) -> list[tuple[int, int]]:
        """For each subject, its variable and the value that it has until it is done."""
        return [(one.variable, one.before) for one in self.subjects]

    @cached_property
    def did(self) -> list[int]:
        """For each position, the subjects that were done on every way to it, as bits.

        Where wings are counted, in one of the positions that each stands for.
        """
        variables = [subject.variable for subject in self.subjects]
        if not variables:
            return [0] * len(self.found.positions)
        if self.found.at_once:
            return self.found.changed(self.done_from)
        pick: Callable[[Position], Any] = itemgetter(*variables)
        known: dict[Any, int] = {}
        masks = []
        counting = self.counting
        for position in self.found.positions:
            values = pick(counting.some_values(position) if counting else position)
            mask = known.get(values)
            if mask is None:
                mask = known[values] = sum(
                    1 << number
                    for number, subject in enumerate(self.subjects)
                    if position[subject.variable] != subject.before
                )
            masks.append(mask)
        return masks

    @cached_property
    def rewards(self) -> dict[str, str]:
        """For each reward by name, the subject that hands it over."""
        return rewards(self.level)

    @cached_property
    def entered(self) -> list[int]:
        """For each position, the rooms that every run found to it has entered, as bits.

        The meet over all paths of a forward data-flow analysis: G. A. Kildall, "A unified
        approach to global program optimization", POPL 1973.
        """
        places, moves = self.found.places, list(self.found.moves)
        entered = [-1] * len(places)
        entered[0] = 1 << places[0]
        ahead = [0]
        waiting = bytearray(len(places))
        for number in ahead:  # grows as it is walked: first come, first served
            waiting[number] = 0
            so_far = entered[number]
            for _, after in moves[number]:
                now = (entered[after] & so_far) | (1 << places[after])
                if now != entered[after]:
                    entered[after] = now
                    if not waiting[after]:
                        waiting[after] = 1
                        ahead.append(after)
        return entered

    @property
    def in_one_walk(self) -> bool:
        """Whether what comes before what is told best by one walk over all positions.

        It is told for everything at once then. Many positions are asked about one thing after
        another, a frontier at a time, unless they are few for so many things.
        """
        asked = len(self.subjects) + len(self.rules.places)
        return not self.found.at_once or len(self.found.positions) < FEW_FOR_EACH * asked

    def tells(self, variable: int) -> bool:
        """Whether positions tell a variable's own value: not where it is one of a counted wing."""
        return self.counting is None or self.counting.tells(variable)

    def tells_room(self, place: int) -> bool:
        """Whether positions tell whether the player is in a room."""
        return self.counting is None or self.counting.tells_room(place)

    def values(self, number: int) -> Position:
        """The values of a position; where wings are counted, of one of those it stands for."""
        position = self.found.positions[number]
        return self.counting.some_values(position) if self.counting else position

    @cached_property
    def always_entered(self) -> int:
        """The rooms that every finishing run found has entered, as bits."""
        if not self.in_one_walk:
            entered = 0
            for place in set(self.found.places):
                without = self.found.reached_without(self.found.having(PLACE, place))
                if not any(without[number] for number in self.finished):
                    entered |= 1 << place
            return entered
        entered = -1
        for number in self.finished:
            entered &= self.entered[number]
        return entered

    def route_to(self, number: int) -> Route:
        """The cheapest route found to a position, replayed by the rules.

        Raises:
            ReplayError: The rules do not allow it: a bug.
        """
        return self.replay(self.found.route_to(number))

    def replay(self, moves: list[Move]) -> Route:
        """The route that moves make, replayed by the rules of the level.

        Raises:
            ReplayError: The rules do not allow it: a bug.
        """
        told = self.counting.unfold(moves) if self.counting else [move.number for move in moves]
        return self._replay(told)

    def replay_all(self, moves: list[Move]) -> list[Route]:
        """The same for each of the wings that are alike in which the last move can be made."""
        told = self.counting.unfold_all(moves) if self.counting else [[m.number for m in moves]]
        return [self._replay(numbers) for numbers in told]

    def _replay(self, numbers: list[int]) -> Route:
        return replay(self.original, [self._originals[number] for number in numbers])

    @cached_property
    def _originals(self) -> dict[int, Move]:
        return {move.number: move for move in self.original.moves}
