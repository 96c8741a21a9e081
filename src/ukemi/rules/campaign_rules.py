"""The rules of a campaign: those of its levels, and the ways from each to the next."""

from __future__ import annotations

from collections.abc import Collection
from functools import cached_property
from typing import Any

from ..level import Event
from ..level.campaign import Onward
from ..level.joined import Joined
from .compile import Compiler
from .expressions import TRUE, Expression, Is, Negated, all_of
from .position import PLACE
from .reads import changed
from .steps import Set, Step, When


class CampaignCompiler(Compiler):
    """Makes the rules of a campaign.

    If a level does not keep its state, leaving it resets its variables, so positions do not multiply from
    level to level.

    Args:
        level: The levels of the campaign as one.
        remembered: Variables to remember changes of: each gets a variable ``("changed", NUMBER)`` that
            says whether it ever changed.
    """

    level: Joined

    def __init__(self, level: Joined, remembered: Collection[int] = ()) -> None:
        super().__init__(level)
        for stage in level.campaign.stages.values():
            if stage.keeps and any(stage.level.starts()):
                first = stage is level.campaign.start
                self.names.add("entered", stage.name, begins=int(first))
        self.remembered = remembered
        for number in remembered:
            self.names.add("changed", str(number))

    def _settling(self, goal: Expression) -> tuple[Step, ...]:
        return self._remembering(super()._settling(goal))

    def _remembering(self, steps: tuple[Step, ...]) -> tuple[Step, ...]:
        """Steps that also note which of the variables to be remembered they change."""
        for number in sorted({*self.remembered} & {*changed(steps)}):
            once = Set(self.names.index["changed", str(number)], 1)
            steps += (When(Negated(Is(number, self.names.initial[number])), (once,)),)
        return steps

    @cached_property
    def _over(self) -> dict[int, Expression]:
        """For each room of a level that ends at its goal by itself, return the guard that it has not ended yet;
        a level that ends the campaign is left out.
        """
        found: dict[int, Expression] = {}
        moves, self.names.player = self.names.player, None  # a goal is about all players
        for name, goal in self.level.goals.items():
            if self._ends_by_itself(name) and name != self.level.campaign.goal:
                goes_on = Negated(self.names.guard(goal))
                found |= {self.names.places[room]: goes_on for room in self.level.rooms_of[name]}
        self.names.player = moves
        return found

    def _ends_by_itself(self, stage: str) -> bool:
        return self.level.campaign.stages[stage].level.rules.finish == "touch"

    def _move(
        self,
        what: dict[str, Any],
        places: tuple[int, ...],
        guard: Expression,
        steps: tuple[Step, ...],
        cost: int = 1,
    ) -> None:
        if what["do"] != "finish" and places:
            guard = all_of(guard, self._over.get(places[0], TRUE))
        super()._move(what, places, guard, self._remembering(steps), cost)

    def _alike(self) -> tuple[tuple[int, ...], ...]:
        """None: the levels of a campaign tell players apart by where they start."""
        return ()

    def _where_handed_over(self) -> list[tuple[list[int], int | None]]:
        return [
            ([self.names.places[room] for room in self.level.rooms_of[name]], inventory.slots)
            for name, stage in self.level.campaign.stages.items()
            if (inventory := stage.level.inventory).hand_over
        ]

    def _fit_event(self, event: Event) -> None:
        stage = self.level.stage_of(event.name)
        self.effects.fit_into(self.level.inventory_at(self.level.rooms_of[stage][0]).slots)

    def _onward(self) -> None:
        for number, way in enumerate(self.level.campaign.ways):
            rooms = self.level.rooms_of[way.a]
            guard = all_of(
                self.names.guard(self.level.goals[way.a]), self.names.guard(self.level.when(number))
            )
            what = {"do": "finish", "level": way.a, "to": way.b}
            places = tuple(self.names.places[room] for room in rooms)
            self._move(what, places, guard, tuple(self._carried_over(way)), cost=0)

    def _carried_over(self, way: Onward) -> list[Step]:
        """Return the steps on the way from one level to the next."""
        campaign, index = self.level.campaign, self.names.index
        here, there = campaign.stages[way.a], campaign.stages[way.b]
        steps: list[Step] = [
            Set(carried, 0)
            for item in self.level.items
            if not there.brings_along(item)
            for carried in self.names.all_carried(item)
        ]
        if not here.keeps:
            steps += [
                Set(number, self.names.initial[number])
                for variable, number in index.items()
                if len(variable) > 1 and variable[1].startswith(f"{way.a}/")
            ]
        slots = self.level.inventory_at(self.level.rooms_of[way.b][0]).slots
        given: list[Step] = []
        fits: list[Step] = []
        for player in self.level.players or [None]:
            room, own = there.level.begins(player)
            place = PLACE if player is None else self.names.place_of(player)
            steps.append(Set(place, self.names.places[f"{way.b}/{room}"]))
            self.names.player = player
            fits += self.effects.fit_into(slots)
            given += self.effects.gain(own) if own else []
        self.names.player = None
        if ("entered", way.b) in index:  # a level that keeps gives what one starts with once
            entered = index["entered", way.b]
            given = [When(Is(entered, 0), (*given, Set(entered, 1)))]
        steps += [*given, *fits]
        return [
            *steps,
            *(Set(index["flag", campaign.flag_in(way.b, flag)], 1) for flag in way.sets),
        ]
