"""Scattering: place things again at random, and prove that each placement keeps the level's promises."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from functools import cached_property
from itertools import count
from random import Random

from ..checks import Report, check_level
from ..level import Level, LevelError, Problem, Shortest
from ..level.displayed import Displayed
from ..level.names import nearest
from ..level.scatter_groups import Scatter
from ..questions.evidence import gather
from ..spaces import Limits
from ..values import dataclass, field, replace
from .drawing import Bounds, Draws, Unit
from .key_colors import colored, shuffled_colors
from .placing import Laid, laid, lying_in, taken_out
from .spots import Spots
from .wishes import Wishes, order_length

#: How many placements are tried for one that is kept, where nothing else is said.
TRIES = 10_000

#: Fewer positions are searched one by one. For one level alone, more are sooner searched than diagrams loaded.
FEW = 1_000


@dataclass(frozen=True, eq=False)
class Scattered:
    """A level with a new placement.

    Attributes:
        number: Which one it is, from 1.
        level: The level.
        report: The check of it: it has no error, and every needed answer is proven.
        where: Each thing with the place in which it lies, as ``("iron-key", "quay")``.
        tried: The number of placements tried for it, complete or not.
        spread: The steps from a scattered key to the nearest lock that asks for it, the least of all.
    """

    number: int
    level: Level
    report: Report
    where: Laid
    tried: int
    spread: int | None

    @property
    def order_length(self) -> int | None:
        """The greatest number of things that every finishing run does one after another."""
        return order_length(self.report)


@dataclass(eq=False)
class NearMisses:
    """Placements that hold, but are not as wished.

    Attributes:
        count: The number of them.
        failed: For each wish, how many of them fail it.
        steps: The fewest and the most steps of their shortest finishing runs.
        order: The most things that every finishing run of one of them does one after another.
    """

    count: int = 0
    failed: Counter[str] = field(default_factory=Counter)
    steps: tuple[int, int] | None = None
    order: int | None = None

    def add(self, wishes: Wishes, report: Report) -> None:
        """Count a placement."""
        self.count += 1
        self.failed.update(wishes.unmet(report))
        finish = report.answers.measures.finish
        if finish is not None:
            low, high = self.steps or (finish.steps, finish.steps)
            self.steps = min(low, finish.steps), max(high, finish.steps)
        length = order_length(report)
        if length is not None:
            self.order = max(self.order or 0, length)


@dataclass(frozen=True, eq=False)
class Draw:
    """The result for one number.

    Attributes:
        found: The level; ``None`` where none was found.
        tried: The number of placements tried.
        none_left: Whether it is proven that there is no other.
        without_wishes: How many held, but for the wishes.
        near_misses: Those, in numbers.
    """

    found: Scattered | None
    tried: int
    none_left: bool = False
    without_wishes: int = 0
    near_misses: NearMisses | None = None


class Scatterer:
    """Draws placements of the things that a level scatters.

    Args:
        level: The level; its ``scatter`` says which things to place again.
        groups: The groups to scatter; none for all.
        seed: Where chance begins: the same seed gives the same levels.
        wishes: Further conditions.
        even: Whether each placement that holds is equally likely; that takes longer.
        tries: The greatest number of placements to try for each level.
        limits: How far each search goes.

    Raises:
        LevelError: Nothing is to be scattered, a thing lies nowhere, or there is no place for it.
    """

    def __init__(
        self,
        level: Level,
        groups: Sequence[str] = (),
        seed: int = 0,
        wishes: Wishes | None = None,
        even: bool = False,
        tries: int = TRIES,
        limits: Limits | None = None,
    ) -> None:
        self.level = level
        self.groups = groups
        self.seed = seed
        self.wishes = wishes or Wishes()
        self.even = even
        self.tries = tries
        self.limits = replace((limits or Limits()).begin(), few=FEW)

    @cached_property
    def _checked_within(self) -> Limits:
        """The limits of each check. If the level as it stands has many positions, so has almost every other."""
        few = gather(self.level, self.limits, at_once=True).all_seen
        return self.limits if few else replace(self.limits, few=0)

    @cached_property
    def draws(self) -> Draws:
        """The source of placements."""
        level, groups = self.level, self._groups()
        items = [item for group in groups for item in group.items]
        chests = [chest for group in groups for chest in group.chests]
        base, taken = taken_out(level, items, chests)
        if not self.wishes.shortest:
            expected = base.expected
        else:
            expected = replace(base.expected, shortest=Shortest(*self.wishes.shortest))
        base.expected = replace(expected, places={})
        spots = Spots(base, frozenset(chests))
        units = []
        for group in groups:
            for chest in group.chests:
                drawn = chest in taken.symbols
                where = spots.of_group(group, chests=True, drawn=drawn)
                units.append(Unit(chest, group.name, tuple(where), chest=True))
        for group in groups:
            where = spots.of_group(group, chests=False) if group.items else []
            for item in group.items:
                if not taken.counts[item]:
                    raise _refused(
                        level, f"{item!r} lies nowhere, so that there is nothing to scatter", item
                    )
                units += [Unit(item, group.name, tuple(where))] * taken.counts[item]
        for unit in units:
            if not unit.spots:
                raise _refused(level, f"there is no place for {unit.thing!r} in `into`", unit.thing)
        bounds = Bounds(
            {group.name: group.apart for group in groups if group.apart is not None},
            {group.name: group.at_most for group in groups if group.at_most is not None},
            self.wishes.spread,
        )
        self._refuse_claims(set(items))
        self._refuse_crowding(units, bounds)
        return Draws(base, taken, units, bounds, self.limits)

    def _groups(self) -> list[Scatter]:
        known = self.level.scattered
        if not known:
            message = "the level has nothing to scatter; add a group under `scatter`"
            raise _refused(self.level, message, "scatter")
        for name in self.groups:
            if name not in known:
                message = f"{name!r} is not the name of a group of `scatter`"
                raise _refused(self.level, message, name, nearest(name, known))
        return [known[name] for name in self.groups or known]

    def _refuse_claims(self, items: set[str]) -> None:
        """Claims about where a thing lies cannot hold when it lies elsewhere."""
        for claim in (*self.level.expected.required, *self.level.expected.optional):
            room, slash, item = str(claim.says).rpartition("/")
            if slash and item in items and room in self.level.rooms:
                message = (
                    f"`expect` names {claim.says}, and {item!r} is scattered: name the item alone"
                )
                raise LevelError(
                    [Problem("bad-value", message, claim.place, str(claim.says))], self.level.file
                )

    def _refuse_crowding(self, units: list[Unit], bounds: Bounds) -> None:
        """More things than there is room for."""
        for group in dict.fromkeys(unit.group for unit in units):
            own = [unit for unit in units if unit.group == group and not unit.chest]
            spots = own[0].spots if own else ()
            most = bounds.at_most.get(group, len(own))
            room_for = sum(1 if "@" in spot else most for spot in spots)
            if len(own) > room_for:
                message = (
                    f"the group {group!r} has {len(own)} things to place, and room for {room_for}"
                )
                place = self.level.scattered[group].place
                raise LevelError([Problem("bad-value", message, place, group)], self.level.file)

    # -- drawing ------------------------------------------------------------------------------

    def draw(self, number: int, without: Iterable[Laid] = ()) -> Draw:
        """Draw one level.

        Args:
            number: Which one: each has a chance of its own, so that they can be drawn in any order.
            without: Placements that are not wanted again.

        Returns:
            The result.
        """
        draws = self.draws
        random = Random(f"{self.seed}/{number}")
        seen = {_counted(one) for one in without}
        settled, misses = True, NearMisses()
        for placed in draws.evenly(random) if self.even else draws.going_back(random):
            if placed and _counted(placed) not in seen:
                report = self.check(placed)
                code = report.exit_code()
                wished = code == 0 and self.wishes.met(report)
                if wished:
                    return Draw(self._scattered(number, report, placed), draws.tried)
                if code == 0 or self._fails_wish(report):
                    misses.add(self.wishes, report)
                settled &= code != 3 and self.wishes.decided_by(report)
            self.limits.progress(draws.tried, "placements", 0)
            if draws.tried >= self.tries or self.limits.over:
                return Draw(None, draws.tried, False, misses.count, misses)
        done = settled and not self.limits.over
        return Draw(None, draws.tried, done, misses.count, misses)

    def best_spread(self, tries: int = 200) -> int | None:
        """Return the greatest spread of some placements that ignore the wish for one; ``None`` if there are none."""
        wishes = replace(self.wishes, spread=None)
        free = Scatterer(self.level, self.groups, self.seed, wishes, limits=self.limits)
        random, best = Random(f"{self.seed}/spread"), None
        for placed in free.draws.going_back(random):
            far = free.spread_of(placed) if placed else None
            best = far if best is None or (far is not None and far > best) else best
            if free.draws.tried >= tries or self.limits.over:
                break
        return best

    def spread_of(self, placed: Laid) -> int | None:
        """Return the steps from a scattered key to the nearest lock that asks for it, the least of all."""
        spots = self.draws.spots
        moved = {thing: where for thing, where in placed if thing in spots.moved}
        far = [
            spots.steps_to_lock(thing, spots.room_of(where, moved))
            for thing, where in placed
            if thing not in moved
        ]
        return min((steps for steps in far if steps is not None), default=None)

    def check(self, placed: Laid) -> Report:
        """Check the level with its things laid so."""
        level = laid(self.draws.base, self.draws.taken, placed)
        return check_level(level, self._checked_within)

    def _fails_wish(self, report: Report) -> bool:
        """Whether nothing is wrong but the length that was wished for."""
        errors = [one for one in report.findings if one.severity == "error"]
        return self.wishes.shortest is not None and all(one.subject == "shortest" for one in errors)

    def _scattered(self, number: int, report: Report, placed: Laid) -> Scattered:
        expected = replace(report.level.expected, shortest=self.level.expected.shortest)
        report.level.expected = replace(expected, places=self.level.expected.places)
        random = Random(f"{self.seed}/{number}/colors")
        if colors := shuffled_colors(self.level, self._groups(), random):
            colored(report.level, colors)
        spread = self.spread_of(placed)
        order = list(self._order)
        where = tuple(sorted(placed, key=lambda one: (order.index(one[0]), one[1])))
        return Scattered(number, report.level, report, where, self.draws.tried, spread)

    @property
    def _shuffles(self) -> bool:
        return any(group.colors == "shuffled" for group in self._groups())

    @cached_property
    def _order(self) -> dict[str, None]:
        return dict.fromkeys(unit.thing for unit in self.draws.units)

    def read_back(self, number: int, level: Level) -> Scattered | str:
        """A level that an earlier call wrote, checked again.

        Args:
            number: Which one it was.
            level: The level of the file.

        Returns:
            The level; why it is not one of these, where it is none.
        """
        things = list(self._order)
        items = [one for one in things if one not in self.draws.spots.moved]
        placed = lying_in(level, items, self.draws.spots.moved)
        again = laid(self.draws.base, self.draws.taken, placed)
        again.expected, again.name = level.expected, level.name  # one may be called after its file
        if self._shuffles:
            colored(again, {name: one.color for name, one in level.items.items() if one.color})
        if self.level.scattered != level.scattered or again != level:
            return "it is not of this level"
        level.expected = self.draws.base.expected
        report = check_level(level, self._checked_within)
        if report.exit_code() == 3:
            return "whether it holds is undecided"
        if report.exit_code() or not self.wishes.met(report):
            return "it does not keep what is expected and wished"
        return self._scattered(number, report, placed)


class Scattering(Displayed):
    """The levels that come of scattering, one after another: each is drawn as it is asked for.

    Attributes:
        found: Those drawn so far.
        kept: How many there were.
        tried: The number of placements tried, including those for levels not found.
        none_left: Whether it is proven that there are no more than those.
        without_wishes: How many held, but for what was wished.
        near_misses: Those, in numbers.
    """

    def __init__(self, scatterer: Scatterer, most: int) -> None:
        self._scatterer = scatterer
        self._most = most
        self.found: list[Scattered] = []
        self.kept = self.tried = self.without_wishes = 0
        self.none_left = False
        self.near_misses: NearMisses | None = None

    def __iter__(self) -> Iterator[Scattered]:
        yield from self.of(self._scatterer.draw(number) for number in count(1))

    def __repr__(self) -> str:
        more = "no more" if self.none_left else f"{self._most} asked for"
        return f"<Scattering of {self._scatterer.level.name!r}: {self.kept} levels found, {more}>"

    def of(self, draws: Iterable[Draw]) -> Iterator[Scattered]:
        """The levels of some draws, in order; one that was there already is drawn again.

        Args:
            draws: The result for each number, from 1.
        """
        seen: list[Laid] = []
        known: set[frozenset[object]] = set()
        for draw in draws:
            if draw.found is not None and _counted(draw.found.where) in known:
                draw = self._scatterer.draw(draw.found.number, seen)
            self.tried += draw.tried
            if draw.found is None:
                self.none_left = draw.none_left
                self.without_wishes = draw.without_wishes
                self.near_misses = draw.near_misses
                return
            self.kept += 1
            seen.append(draw.found.where)
            known.add(_counted(draw.found.where))
            self.found.append(draw.found)
            yield draw.found
            if self.kept == self._most:
                return


def _counted(placed: Laid) -> frozenset[object]:
    return frozenset(Counter(placed).items())


def _refused(level: Level, message: str, text: str, near: str | None = None) -> LevelError:
    place = level.places.get("scatter")
    return LevelError([Problem("bad-value", message, place, text, near)], level.file)
