"""Drawing placements at random, one thing after another."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from random import Random

from ..level import Level
from ..spaces import Limits
from ..values import dataclass, field
from .lost import LossTest, Needs
from .placing import Laid, Taken, laid
from .spots import Spots


@dataclass(frozen=True)
class Unit:
    """One thing to lay: a unit of an item, or a chest.

    Attributes:
        group: The group it is of.
        spots: The spots where it may land.
        chest: Whether it is a chest.
    """

    thing: str
    group: str
    spots: tuple[str, ...] = field(repr=False)
    chest: bool = False


@dataclass(frozen=True)
class Bounds:
    """The constraints between the things of a group, and between a key and its locks.

    Attributes:
        apart: For each group, the fewest steps between two of its things.
        at_most: For each group, the most units in one place.
        spread: The fewest steps from a key to a lock that asks for it.
    """

    apart: dict[str, int]
    at_most: dict[str, int]
    spread: int | None = None


#: The number of times that a thing is moved before all are placed again; then twice as often.
PATIENCE = 2

#: Return the placement, in an order that does not depend on which thing was placed first.
Counted = frozenset[tuple[tuple[str, str], int]]


class Draws:
    """Placements of some things, drawn at random.

    Args:
        base: The level without the things.
        taken: The things that were taken out of the level.
        units: The things to lay, in the order in which they are laid: chests first.
        bounds: The constraints between them.
        limits: How far each search goes.

    Attributes:
        tried: The number of placements tried, complete or not.
    """

    def __init__(
        self, base: Level, taken: Taken, units: list[Unit], bounds: Bounds, limits: Limits
    ) -> None:
        self.base = base
        self.taken = taken
        self.units = units
        self.bounds = bounds
        self.tried = 0
        moved = frozenset(unit.thing for unit in units if unit.chest)
        self.spots = Spots(base, moved)
        items = {unit.thing for unit in units if not unit.chest}
        acts = {name for name, thing in base.things.items() if thing.kind in ("act", "switch")}
        into_acts = any(acts.intersection(unit.spots) for unit in units)
        self._outlook = LossTest(base, items, into_acts, limits)
        self._unit_of = {unit.thing: unit for unit in units}
        self._needs: dict[tuple[Counted, bool], Needs | None] = {}
        self._thorough = False
        self._again: set[Counted] = set()
        self._options: dict[Counted, Laid | None] = {}
        self._patience = 0
        self._locks: dict[str, list[str]] = {}

    # -- one after another --------------------------------------------------------------------

    def going_back(self, random: Random) -> Iterator[Laid]:
        """Yield placements, and move a thing again if it cannot be right: every placement comes up in the
        end.

        Forward checking, where the fewest spots are left first: R. M. Haralick and G. L. Elliott,
        "Increasing tree search efficiency for constraint satisfaction problems", Artificial
        Intelligence 14 (1980), 263-313. A search that takes long starts again and keeps
        what it has ruled out: C. P. Gomes, B. Selman and H. Kautz, "Boosting combinatorial search
        through randomization", AAAI-98, 431-437. The result depends on the chance alone, not on earlier
        placements.

        Yields:
            Those that are not known to be lost; each by itself may still not hold.
        """
        self._begin()
        patience = PATIENCE * (len(self.units) + 1)
        while self.options(()) is not None:
            self._patience = patience
            yield from self._from((), random)
            patience *= 2

    def _begin(self) -> None:
        """Forget what was drawn before, but for what follows from the level alone."""
        self.tried = 0
        self._options, self._thorough, self._again = {}, False, set()

    def _from(self, so_far: Laid, random: Random) -> Iterator[Laid]:
        options = self.options(so_far)
        if options is None:
            return
        if not options:
            self._patience -= 1
            yield so_far
            self._look_closer()
        drawn = list(options)
        random.shuffle(drawn)
        for option in drawn:
            yield from self._from((*so_far, option), random)
            if self._patience < 0:
                return
        self._options[_counted(so_far)] = None  # all its successors have been visited

    def _look_closer(self) -> None:
        """Rule out more from now on, which takes longer: most levels hold without that."""
        if not self._thorough:
            self._thorough = True
            self._again = {known for known, one in self._options.items() if one is not None}
            self._options = {known: one for known, one in self._options.items() if one is None}

    def options(self, so_far: Laid) -> Laid | None:
        """Return the next thing to place with its spots: every valid placement has one of these.

        Returns:
            Things with spots, none where all is laid; ``None`` where no placement that begins so
            holds.
        """
        known = _counted(so_far)
        if known not in self._options:
            self.tried += known not in self._again
            self._patience -= 1
            self._options[known] = self._look_ahead(so_far)
        return self._options[known]

    def _look_ahead(self, so_far: Laid) -> Laid | None:
        left = Counter(self.units)
        left.subtract(Counter(self._unit_of[thing] for thing, _ in so_far))
        left = +left
        if not left:
            return ()  # whether it holds is for a check to say
        chest = next((unit for unit in left if unit.chest), None)
        if chest is not None:
            spots = self._allowed(so_far, chest)
            return tuple((chest.thing, spot) for spot in spots) or None
        needs = self._needs_of(so_far, {unit.thing: count for unit, count in left.items()})
        if needs is None:
            return None
        moved = {name: where for name, where in so_far if name in self.spots.moved}
        each = []
        for unit in left:
            spots = self._allowed(so_far, unit)
            if unit.thing in needs.last and left[unit] == 1:
                spots = list(self.spots.within(spots, needs.last[unit.thing], moved))
            each.append([(unit.thing, spot) for spot in spots])
        anywhere = [option for options in each for option in options]
        some = [
            [one for one in anywhere if one[1] in inside]
            for rooms in needs.some
            for inside in [{*self.spots.within({spot for _, spot in anywhere}, rooms, moved)}]
        ]
        if not all(some) or _disjoint(some) > left.total():
            return None
        every: list[list[tuple[str, str]]] = [*each, *some]
        fewest = min(every, key=len) if every else []
        return tuple(fewest) or None

    def _needs_of(self, so_far: Laid, rest: Mapping[str, int]) -> Needs | None:
        """Return what the things that are not laid yet must bring about; ``None`` if the level is lost."""
        known = _counted(so_far), self._thorough
        if known not in self._needs:
            level = laid(self.base, self.taken, so_far)
            self._needs[known] = self._outlook.needs(level, rest, self._thorough)
        return self._needs[known]

    def _allowed(self, so_far: Laid, unit: Unit) -> list[str]:
        return [spot for spot in unit.spots if self.allowed(so_far, unit, spot)]

    def evenly(self, random: Random) -> Iterator[Laid]:
        """Placements, each that is allowed being equally likely: drawn whole, kept where not lost.

        J. von Neumann, "Various techniques used in connection with random digits", National Bureau of
        Standards Applied Mathematics Series 12 (1951), 36-38.

        Yields:
            Those that are not known to be lost, without end.
        """
        self._begin()
        self._look_closer()
        while True:
            self.tried += 1
            so_far = self.drawn_whole(random)
            yield () if so_far is None or self._needs_of(so_far, {}) is None else so_far

    def drawn_whole(self, random: Random) -> Laid | None:
        """All things laid at random; ``None`` where some are not allowed so."""
        so_far: Laid = ()
        for unit, count in Counter(self.units).items():
            for spot in _some(unit.spots, count, random):
                if not self.allowed(so_far, unit, spot):
                    return None
                so_far = (*so_far, (unit.thing, spot))
        return so_far

    # -- what is wrong ------------------------------------------------------------------------

    def allowed(self, so_far: Laid, unit: Unit, spot: str) -> bool:
        """Whether a thing would be far enough from others there, and alone where it must be."""
        if "@" in spot and any(other == spot for _, other in so_far):
            return False  # on a cell of a map there is one thing
        moved = {name: where for name, where in so_far if name in self.spots.moved}
        if unit.chest:
            moved[unit.thing] = spot
            if "@" in spot and self._shuts(moved):
                return False
        own = [where for thing, where in so_far if self._unit_of[thing].group == unit.group]
        most = self.bounds.at_most.get(unit.group)
        if most is not None and own.count(spot) >= most:
            return False
        room = self.spots.room_of(spot, moved)
        steps = self.bounds.apart.get(unit.group)
        if steps is not None:
            others = [self.spots.room_of(where, moved) for where in own]
            if not all(self.spots.apart(room, other, steps) for other in others):
                return False
        return self.bounds.spread is None or self.far_from_locks(
            unit.thing, room, self.bounds.spread
        )

    def _shuts(self, moved: dict[str, str]) -> bool:
        symbols = self.taken.symbols
        solid = [
            spot
            for name, spot in moved.items()
            if name in symbols and self.base.legend[symbols[name]].is_solid
        ]
        return self.spots.shuts(solid)

    def far_from_locks(self, thing: str, room: str, steps: int) -> bool:
        """Whether an item is at least this many steps away from each lock that needs it."""
        if thing not in self._locks:
            self._locks[thing] = self.spots.lock_rooms(thing)
        return all(self.spots.apart(room, lock, steps) for lock in self._locks[thing])


def _disjoint(some: list[list[tuple[str, str]]]) -> int:
    """Return a number of disjoint sets of options, found greedily."""
    used: set[str] = set()
    count = 0
    for options in sorted(some, key=len):
        spots = {spot for _, spot in options}
        if used.isdisjoint(spots):
            used |= spots
            count += 1
    return count


def _counted(so_far: Laid) -> Counted:
    return frozenset(Counter(so_far).items())


def _some(spots: tuple[str, ...], count: int, random: Random) -> list[str]:
    """Choose a number of spots, some perhaps more than once: every choice is equally likely."""
    chosen = sorted(random.sample(range(len(spots) + count - 1), count))
    return [spots[one - number] for number, one in enumerate(chosen)]
