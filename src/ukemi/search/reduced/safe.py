"""Which moves can only help: what they give is never held against the player, and they cost nothing."""

from __future__ import annotations

from collections.abc import Iterable

from ...rules import END, PLACE, Move, Rules
from ...rules.expressions import AllOf, AtLeast, Expression, Is, Within
from ...rules.steps import Add, ByValue, Require, Set, Step, When
from .reads import changed, each_step, leaves, looked_at, variables

#: What a move gives: variables, with how many more there are of each, or that it is set.
Gains = frozenset[tuple[int, int]]


class Safety:
    """Tells the moves that are safe to make at once.

    A move is safe when whatever could be done without it can still be done after it: it only adds
    to variables of which more never hurts, and whatever it makes impossible would have given no
    more than it gives. The positions before and after it then agree on every question of the kind
    "can it still come to pass that", as long as what is to come to pass asks for more, not less:
    the position after it simulates the one before it (R. Milner, "An algebraic definition of
    simulation between programs", IJCAI 1971).

    Args:
        rules: The rules.

    Attributes:
        able: Whether anything can be said at all: under ``pickup: touch`` walking takes things.
        safe: The numbers of the safe moves.
        giving: The numbers of the walks that, but for where the player is, only give.
    """

    def __init__(self, rules: Rules) -> None:
        self.rules = rules
        self.able = not any(isinstance(step, ByValue) for step in each_step(rules.settling))
        self._closers: dict[int, list[int]] = {}
        self._walks = {move.number for move in rules.moves if PLACE in changed(move.steps)}
        self._bad: set[int] = set()
        self._look()
        self._gains: dict[int, Gains] = {}
        self._moves = {move.number: move for move in rules.moves}
        self.safe: set[int] = set()
        self.giving: set[int] = set()
        if not self.able:
            return
        for move in rules.moves:
            if self._only_gives(move):
                walks = move.number in self._walks
                (self.giving if walks else self.safe).add(move.number)

    def _look(self) -> None:
        for move in self.rules.moves:
            parts = move.guard.parts if isinstance(move.guard, AllOf) else (move.guard,)
            for part in parts:
                once = isinstance(part, Is) and part.value == 0 and part.variable > END
                if isinstance(part, Is) and once and move.number not in self._walks:
                    self._closers.setdefault(part.variable, []).append(move.number)
                else:
                    self._look_at(part)
            self._look_at_steps(move.steps)
        # Where the goal ends the run by itself, coming to hold what it asks for is not all gain.
        for step in each_step(self.rules.settling):
            if isinstance(step, When):
                self._bad.update(variables(step.expression))
        self._look_at(self.rules.goal)

    def _look_at_steps(self, steps: Iterable[Step]) -> None:
        for step in each_step(steps):
            match step:
                case Require(expression):
                    self._look_at(expression)
                case Set(variable, value) if value != 1 and variable > END:
                    self._bad.add(variable)
                case Set() | Add():
                    pass
                case _:
                    self._bad |= changed([step]) | looked_at([step])

    def _look_at(self, expression: Expression) -> None:
        for leaf, positive in leaves(expression):
            match leaf:
                case AtLeast() if positive:
                    pass
                case Is(variable, value) if (value == 1) == positive and value in (0, 1):
                    # that a flag is on, or not off
                    if variable <= END and variable != PLACE:
                        self._bad.add(variable)
                case Within(terms, _):
                    self._bad.update(variable for variable, weight in terms if weight)
                case _:
                    self._bad.update(variables(leaf))

    def _gains_of(self, move: Move) -> Gains:
        gains: dict[int, int] = {}
        for step in each_step(move.steps):
            match step:
                case Set(variable, value) if variable > END and value:
                    gains[variable] = 1
                case Add(variable, amount) if amount > 0:
                    gains[variable] = gains.get(variable, 0) + amount
                case Set(variable, _) if variable == PLACE:
                    pass
                case Add(variable, _) if variable not in self._bad:
                    pass  # a loss of what can only help
                case Require():
                    pass
                case _:  # it may be wanted for what it takes away
                    gains.update(dict.fromkeys(changed([step]), 1_000_000 + move.number))
        return frozenset(gains.items())

    def _only_gives(self, move: Move) -> bool:
        for step in move.steps:
            match step:
                case Set(variable, _) if variable == PLACE:
                    pass
                case Set(variable, 1) if variable > END:
                    if variable in self._bad or not self._closes_nothing(move, variable):
                        return False
                case Add(variable, amount) if amount > 0:
                    if variable in self._bad or variable in self._closers:
                        return False
                case Add(variable, amount):
                    if self.rules.variables[variable][0] != "lying":
                        return False
                case Require():
                    pass
                case _:
                    return False
        return True

    def _closes_nothing(self, move: Move, variable: int) -> bool:
        """Whether all that setting a variable makes impossible would have given no more."""
        closers = [one for one in self._closers.get(variable, ()) if one != move.number]
        return all(self._gain(other) <= self._gain(move.number) for other in closers)

    def _gain(self, number: int) -> Gains:
        if number not in self._gains:
            self._gains[number] = self._gains_of(self._moves[number])
        return self._gains[number]
