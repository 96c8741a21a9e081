"""Every way that the moves of a level turn out, room by room.

Everything that must know the effects of moves without playing them (diagrams, planners, nets) reads
these.
"""

from __future__ import annotations

from collections.abc import Iterator

from ..values import dataclass
from .branches import Branch, Tick, bounds, move_branches, never_ends
from .expressions import AllOf, Expression, Is, conjuncts
from .position import END, PLACE, PLAYING
from .rules import Move, Rules

#: Where the player is, and whether and how the run has ended.
Key = tuple[int, int]


@dataclass(frozen=True, eq=False)
class Action:
    """One way for a move to turn out in one room.

    Attributes:
        source, target: Where it leads from, and to.
        branch: Its conditions and changes.
    """

    move: Move
    source: Key
    target: Key
    branch: Branch

    @property
    def changed(self) -> set[int]:
        """The variables it changes, but for where the player is and how the run has ended."""
        return {*self.branch.becomes, *self.branch.adds} - {PLACE, END}

    def asked(self) -> tuple[Expression, ...]:
        """The conditions before it, one by one."""
        return conjuncts(AllOf(tuple(self.branch.conditions)))

    def difference(self, variable: int) -> int | None:
        """By how much it changes a variable; ``None`` where that depends on its value."""
        if variable in self.branch.adds:
            return self.branch.adds[variable]
        if variable not in self.branch.becomes:
            return 0
        for one in self.asked():
            if isinstance(one, Is) and one.variable == variable:
                return self.branch.becomes[variable] - one.value
        return None


def actions_of(rules: Rules, tick: Tick = never_ends) -> Iterator[Action]:
    """Every action of a level, each worked out as it is asked for.

    Raises:
        TooManyBranchesError: A move turns out in too many ways.

    Example:
        >>> from ukemi.language import loads
        >>> from ukemi.rules import compile_level
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [quay <-> mill]}")
        >>> [(one.move.what["do"], one.source, one.target) for one in actions_of(compile_level(level))]
        [('walk', (0, 0), (1, 0)), ('walk', (1, 0), (0, 0)), ('finish', (1, 0), (1, 1))]
    """
    most = bounds(rules)
    for move in rules.moves:
        for place in move.places:
            for branch in move_branches(rules, move, place, most, tick):
                target = (branch.becomes[PLACE], branch.becomes[END])
                yield Action(move, (place, PLAYING), target, branch)
