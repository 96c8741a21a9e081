"""The effects of a level as steps, in the order in which they apply."""

from __future__ import annotations

from collections.abc import Sequence

from ..level import Effects, Level
from ..level.effects import NO_EFFECTS
from .expressions import AtLeast, Negated, Within
from .steps import Add, AddUpTo, Flip, Require, Set, Step, TakeUpTo
from .variables import Names


class EffectSteps:
    """Turns effects into steps."""

    def __init__(self, level: Level, names: Names) -> None:
        self.level = level
        self.names = names
        self._taking: dict[tuple[str | None, str, int], list[Step]] = {}
        self._doors_of: dict[str, list[str]] = {}
        for passage in level.passages:
            if isinstance(passage.lock, str):
                doors = self._doors_of.setdefault(passage.lock, [])
                if passage.thing not in doors:
                    doors.append(passage.thing)
        self._slots: int | None = None
        self._fitting: dict[tuple[str | None, int], list[Step]] = {}
        self.fit_into(level.inventory.slots)

    def fit_into(self, slots: int | None) -> list[Step]:
        """Limit the gains from now on to a number of slots; return the test for it."""
        self._slots = slots
        return self._fits

    @property
    def _fits(self) -> list[Step]:
        """The test that what a player carries fits; one for all that asks the same."""
        if self._slots is None:
            return []
        one = (self.names.player, self._slots)
        if one not in self._fitting:
            terms = tuple(
                (self._carried(name), item.slots)
                for name, item in self.level.items.items()
                if item.slots
            )
            self._fitting[one] = [Require(Within(terms, self._slots))]
        return self._fitting[one]

    def steps(
        self,
        effects: Sequence[Effects],
        itself: Sequence[Step] = (),
        spends: dict[str, int] | None = None,
        gives: dict[str, int] | None = None,
    ) -> tuple[Step, ...]:
        """The steps of something that happens.

        Args:
            effects: The effects; each kind is applied for all effects before the next kind.
            itself: The steps of the move itself.
            spends: Further items to spend.
            gives: Further items to give.

        Returns:
            The steps in order: spent items, lost items, the move itself, given items, flags set,
                cleared and flipped, doors opened, and the effects of picking up the given items.
        """
        done: list[Step] = []
        effects = [one for one in effects if one is not NO_EFFECTS]
        if not effects and not gives:  # as for most moves
            return (*self._spend(spends), *itself) if spends else tuple(itself)
        for counts in (spends or {}, *(one.spends for one in effects)):
            done += self._spend(counts)
        for one in effects:
            done += [TakeUpTo(self._carried(item), n) for item, n in one.loses.items()]
        done += itself
        all_given = [counts for counts in (gives, *(one.gives for one in effects)) if counts]
        for counts in all_given:
            done += self.gain(counts)
        for one in effects:
            done += [Set(self.names.index["flag", flag], 1) for flag in one.sets]
        for one in effects:
            done += [Set(self.names.index["flag", flag], 0) for flag in one.clears]
        for one in effects:
            done += [Flip(self.names.index["flag", flag]) for flag in one.flips]
        for one in effects:
            for name in one.opens:
                doors = [name] if name in self.level.things else self._doors_of[name]
                done += [Set(self.names.index["opened", door], 1) for door in doors]
        for counts in all_given:
            for item, count in counts.items():
                done += self.picked_up(item) * count
        return tuple(done)

    def gain(self, counts: dict[str, int]) -> list[Step]:
        """The steps of getting items; they cannot be made where the items do not fit."""
        steps: list[Step] = []
        for name, count in counts.items():
            item = self.level.items[name]
            carried = self._carried(name)
            if item.kind == "supply" and item.max is not None:
                steps.append(AddUpTo(carried, count, item.max))
            else:
                steps.append(Add(carried, count))
                if item.max is not None:
                    steps.append(Require(Negated(AtLeast(carried, item.max + 1))))
        return steps + self._fits

    def picked_up(self, item: str) -> list[Step]:
        """The steps that follow when one unit of an item comes from the level."""
        on_pickup = self.level.items[item].on_pickup
        return list(self.steps([on_pickup])) if on_pickup else []

    def _spend(self, counts: dict[str, int]) -> list[Step]:
        steps: list[Step] = []
        for item, count in counts.items():
            one = (self.names.player, item, count)
            taking = self._taking.get(one)
            if taking is None:
                carried = self._carried(item)
                taking = self._taking[one] = [
                    Require(AtLeast(carried, count)),
                    Add(carried, -count),
                ]
            steps += taking
        return steps

    def _carried(self, item: str) -> int:
        return self.names.carried(item)
