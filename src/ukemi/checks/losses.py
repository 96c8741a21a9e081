"""Which rewards of a large level can be missed, where positions cannot all be looked at."""

from __future__ import annotations

from functools import cached_property

from ..rules import END, PLACE, Position
from ..rules.reads import changed
from ..search.reduced.prospects import Prospects
from ..search.reduced.slips import Slip, find_slip
from .slices import EACH_PRUNED, Slices


class Losses:
    """Looks for the cheapest way to miss each reward.

    Args:
        slices: What matters to each question.

    Attributes:
        looked: How many positions were looked at so far.
    """

    def __init__(self, slices: Slices) -> None:
        self.slices = slices
        self.looked = 0
        self._slips: dict[int, Slip] = {}

    def slip(self, variable: int) -> Slip:
        """How a reward can be missed, by the variable that shows it has been had.

        Where wings that are alike can be counted, it is left to the positions to tell.
        """
        slip = self._slips.get(variable)
        if slip is None:
            slip = self._slips[variable] = self._look(variable)
            self.looked += slip.looked
        return slip

    def _look(self, variable: int) -> Slip:
        slices = self.slices
        if slices.limits.over:
            return Slip(None)
        rules = slices.slicer.slice([variable])
        if not slices.large or slices.counted(rules, [variable], ()) is not None:
            return Slip(None)
        before = rules.initial[variable]
        own = slices.prospects(rules)

        def can_finish(position: Position) -> bool | None:
            if position[PLACE] in self._goal_places:
                return self._goal_prospects.finishes(self._on_goal(position))
            return own.finishes(position)

        return find_slip(
            rules,
            lambda position: position[variable] != before,
            can_finish,
            slices.prospects(rules, [variable]),
            slices.most(EACH_PRUNED),
        )

    # What matters to the goal is the same for all rewards, so that what is found out of it is kept.

    def _on_goal(self, position: Position) -> Position:
        """A position in which what does not matter to the goal has the value it begins with."""
        values = self.slices.goal_rules.initial.copy()
        for variable in self._goal_tracked:
            values[variable] = position[variable]
        return tuple(values)

    @cached_property
    def _goal_prospects(self) -> Prospects:
        return self.slices.prospects(self.slices.goal_rules)

    @cached_property
    def _goal_tracked(self) -> frozenset[int]:
        rules = self.slices.goal_rules
        changes = {variable for move in rules.moves for variable in move.changes}
        return frozenset(changes | changed(rules.settling) | {PLACE, END})

    @cached_property
    def _goal_places(self) -> frozenset[int]:
        """The rooms in which what matters to the goal tells where the player is."""
        rules = self.slices.goal_rules
        walks = self.slices.slicer.ground.walks
        found = {walks[move.number] for move in rules.moves if move.number in walks}
        return frozenset(found | {rules.initial[PLACE]})
