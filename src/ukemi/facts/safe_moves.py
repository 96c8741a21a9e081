"""Which moves can only help: they take nothing away, and no move is ever impossible for what they give."""

from __future__ import annotations

from collections.abc import Iterable

from ..rules import END, PLACE, Move, Rules
from ..rules.expressions import AtLeast, Expression, Is, Within, conjuncts
from ..rules.reads import changed, each_step, leaves, looked_at, variables
from ..rules.steps import Add, ByValue, Require, Set, Step
from ..spaces.limits import Limits

#: The gains of a move: variables, with the increase of each, or that it is set.
Gains = frozenset[tuple[int, int]]


class SafeMoves:
    """Finds the moves that are safe to make at once.

    A move is safe if everything that was possible before it remains possible after it: it only adds to
    variables whose increase never hurts, and the moves that it disables would have given no more than it
    gives. The positions before and after it then agree on every question of the kind "is a position
    reachable in which ...", if the question asks for more, not less: the position after it simulates the
    one before it (R. Milner, "An algebraic definition of simulation between programs", IJCAI 1971).

    Args:
        limits: How long it may take.

    Raises:
        CutShortError: The time was over first.

    Attributes:
        able: Whether anything can be said at all: not where walking takes things, as under
            ``pickup: touch``, or lets something happen.
        safe: The numbers of the safe moves.
        giving: The numbers of the walks that, but for where the player is, only give.
        bad: The variables whose increase may hurt.
        once: The numbers of the moves that ask that a flag is off, and change it; the safe ones among them
            can be made once.
        closers: For each variable, the moves that can be made only as long as it is not set.
    """

    def __init__(self, rules: Rules, limits: Limits | None = None) -> None:
        self.rules = rules
        self._limits = limits or Limits()
        self.able = not any(map(_depends_on_the_room, each_step(rules.settling)))
        self.closers: dict[int, list[Move]] = {}
        self.bad: set[int] = set()
        self.once: set[int] = set()
        self._gains: dict[int, Gains] = {}
        self.safe: set[int] = set()
        self.giving: set[int] = set()
        if not self.able:
            return
        self._look()
        for move in rules.moves:
            self._limits.check()
            if self._only_gives(move):
                (self.giving if PLACE in move.changes else self.safe).add(move.number)

    def _look(self) -> None:
        for move in self.rules.moves:
            self._limits.check()
            for part in conjuncts(move.guard):
                if isinstance(part, AtLeast):
                    continue  # having more never hurts it
                if not isinstance(part, Is) or part.variable <= END or part.value not in (0, 1):
                    self._look_at(part)
                elif part.value == 0:
                    if PLACE in move.changes:
                        self.bad.add(part.variable)
                        continue
                    self.closers.setdefault(part.variable, []).append(move)
                    if part.variable in move.changes:
                        self.once.add(move.number)
            self._look_at_steps(move.steps)
        # Coming to hold what lets something happen by itself, such as the end, is not all gain.
        self.bad |= looked_at(self.rules.settling) | changed(self.rules.settling)
        self._look_at(self.rules.goal)

    def _look_at_steps(self, steps: Iterable[Step]) -> None:
        for step in steps:
            if isinstance(step, Set):
                if step.value != 1 and step.variable > END:
                    self.bad.add(step.variable)
            elif isinstance(step, Require):
                self._look_at(step.expression)
            elif not isinstance(step, Add):
                self.bad |= changed([step]) | looked_at([step])
                for one in each_step([step]):
                    if isinstance(one, Require):
                        self._look_at(one.expression)

    def _look_at(self, expression: Expression) -> None:
        for leaf, positive in leaves(expression):
            match leaf:
                case AtLeast() if positive:
                    pass
                case Is(variable, value) if (value == 1) == positive and value in (0, 1):
                    # that a flag is on, or not off
                    if variable <= END and variable != PLACE:
                        self.bad.add(variable)
                case Within(terms, _):
                    self.bad.update(variable for variable, weight in terms if weight)
                case _:
                    self.bad.update(variables(leaf))

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
                case Add(variable, _) if variable not in self.bad:
                    pass  # a loss of what can only help
                case Require():
                    pass
                case _:  # it may be wanted for what it takes away
                    gains.update(dict.fromkeys(changed([step]), 1_000_000 + move.number))
        return frozenset(gains.items())

    def _only_gives(self, move: Move) -> bool:
        for step in move.steps:
            if isinstance(step, Set):
                variable = step.variable
                if variable == PLACE:
                    continue
                if step.value != 1 or variable == END or variable in self.bad:
                    return False
                if not self._closes_nothing(move, variable):
                    return False
            elif isinstance(step, Add):
                variable = step.variable
                if step.amount <= 0:
                    if self.rules.variables[variable][0] != "lying":
                        return False
                elif variable in self.bad or variable in self.closers:
                    return False
            elif not isinstance(step, Require):
                return False
        return True

    def gives_all(self, move: Move, other: Move) -> bool:
        """Whether a move gives all that another gives."""
        return self._gain(other) <= self._gain(move)

    def _closes_nothing(self, move: Move, variable: int) -> bool:
        """Whether the moves that become impossible once a variable is set would give nothing that this move
        does not give.
        """
        closers = [one for one in self.closers.get(variable, ()) if one is not move]
        return all(self.gives_all(move, other) for other in closers)

    def _gain(self, move: Move) -> Gains:
        gain = self._gains.get(move.number)
        if gain is None:
            gain = self._gains[move.number] = self._gains_of(move)
        return gain


def _depends_on_the_room(step: Step) -> bool:
    """Whether something that happens by itself, other than the end, depends on where the player is."""
    by_event = isinstance(step, Require) and PLACE in variables(step.expression)
    return by_event or isinstance(step, ByValue)
