"""The level with only those variables that moves turn both ways, such as flags and doors that close again.

Whatever moves ask of other variables may hold there. So what cannot finish there cannot finish in the level: the
relaxed level, in which nothing is ever lost, does not show that a flag is off where it is needed on. Projections
are small: S. Edelkamp, "Planning with pattern databases", ECP 2001.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from ..rules import END, FINISHED, PLACE, Position, Rules
from ..rules.actions import Action, actions_of
from ..rules.branches import Branch, TooManyBranchesError, turned_both_ways
from ..rules.expressions import TRUE, AtLeast, Expression, Is, Negated, all_of, any_of, fold
from ..spaces.limits import CutShortError, Limits
from ..values import replace

#: How many nodes the diagrams of a projection may have.
NODES = 1 << 18


class Projection:
    """Proves of positions that nothing finishes from them, by the variables that moves turn both ways.

    Args:
        rules: The rules.
        limits: How long it may take to set up.
    """

    def __init__(self, rules: Rules, limits: Limits) -> None:
        from oxidd.util import DDMemoryError

        from ..spaces.symbolic.diagram_space import SymbolicSpace
        from ..spaces.symbolic.encoding import TooLargeError

        self._space = None
        try:
            actions = list(actions_of(rules, limits.check))
            both_ways = turned_both_ways(action.branch for action in actions)
            if both_ways:
                projected = [*_projected(actions, both_ways)]
                self._space = SymbolicSpace(rules, limits, NODES, actions=projected)
                self._may_finish = self._space.leading_to_finish()
        except (CutShortError, TooManyBranchesError, TooLargeError, DDMemoryError, MemoryError):
            self._space = None  # it proves nothing

    def may_finish(self, position: Position) -> bool:
        """Whether the level may be finished from a position. If not, it is proven that nothing finishes."""
        if self._space is None or position[END] == FINISHED:
            return True
        part = self._may_finish.parts.get((position[PLACE], position[END]))
        return part is not None and self._space.encoding.may_hold(part, position)


def _projected(actions: Iterable[Action], kept: set[int]) -> Iterator[Action]:
    """The actions reduced to some variables: what they ask of these, and how they change them."""

    def atom(one: Expression, positive: bool) -> Expression:
        if not isinstance(one, AtLeast | Is) or one.variable not in kept:
            return TRUE
        return one if positive else Negated(one)

    def some(parts: Iterable[Expression]) -> Expression:
        each = [*parts]
        return TRUE if TRUE in each else any_of(*each)

    for action in actions:
        branch = action.branch
        asked = (fold(one, atom, lambda parts: all_of(*parts), some) for one in branch.conditions)
        becomes = {one: value for one, value in branch.becomes.items() if one in kept}
        if action.source != action.target or becomes:
            conditions = tuple(one for one in asked if one is not TRUE)
            yield replace(action, branch=Branch(conditions, becomes))
