"""Prove early that a level is lost, wherever the remaining things are laid.

A relaxation, as in J. Pearl, *Heuristics* (Addison-Wesley, 1984), section 4.1: the things not yet laid are
at hand, wherever the player is. Everything that is impossible then stays impossible for every placement
of them.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping

from ..facts.find_finish import finishes_by
from ..graph import strong_parts
from ..level import HasAll, Level
from ..level.asked import all_conditions, items_in
from ..level.conditions import atoms, signed_atoms
from ..level.sense import all_effects
from ..rules import END, FINISHED, PLACE, PLAYING, Move, Position, Rules, compile_level
from ..spaces import Exploration, Limits, explore
from ..values import dataclass, field, replace

#: The number of positions to search for a run, and for a stuck position.
FOR_A_RUN, FOR_STUCK = 20_000, 3_000


@dataclass
class Needs:
    """Rooms that must hold things that are not placed yet.

    Attributes:
        some: Sets of rooms: in each set, some room must hold a thing.
        last: For each item, the rooms: one must hold its last unit, even if all other units are at hand.
    """

    some: set[frozenset[str]] = field(default_factory=set)
    last: dict[str, set[str]] = field(default_factory=dict)


class LossTest:
    """Proves early that a level is lost, wherever the remaining things are laid.

    Args:
        level: The level, without the things that are scattered.
        items: The items that are scattered.
        into_acts: Whether acts may give them.
        limits: How far to search.
    """

    def __init__(self, level: Level, items: set[str], into_acts: bool, limits: Limits) -> None:
        self._limits = limits
        expected = level.expected
        meant = {one.code for one in level.accepted} & {
            "cannot-finish",
            "can-get-stuck",
            "expectation-failed",
        }
        self._finish = expected.finish == "possible" and _more_never_hurts(level, items, into_acts)
        # An accepted finding does not break a promise.
        self._finish = self._finish and not meant
        self._stuck = self._finish and expected.stuck == "never"
        #: Leaving a thing lying never helps to finish: there are fewer positions without that.
        self._quick = _more_never_hurts(level, set(level.items), into_acts)

    def needs(self, level: Level, rest: Mapping[str, int], thorough: bool) -> Needs | None:
        """Return the rooms that must hold things that are not placed yet.

        From a position that is stuck without a thing, a room with the thing must be reachable. If any
        position is stuck, so are its successors, so it is enough to examine the last positions.

        Args:
            level: The level with some things laid in it.
            rest: How many of each item are not laid yet.
            thorough: Whether to search positions in which a player leaves things lying, even if more things in hand
                never close a way.

        Returns:
            The rooms; ``None`` if the level is lost however the rest is placed.
        """
        needed = Needs()
        if not self._finish:
            return needed
        start = Counter(level.inventory.start)
        start.update(rest)
        at_hand = level.copy()
        at_hand.inventory = replace(level.inventory, start=dict(start))
        ways = [at_hand]
        if self._quick and level.rules.pickup == "choice":
            picking_up = at_hand.copy()
            picking_up.rules = replace(level.rules, pickup="touch")
            ways = [picking_up, at_hand] if thorough else [picking_up]
        for one in ways:
            if not self._look(compile_level(one), rest, needed):
                return None
        return needed

    def _look(self, rules: Rules, rest: Mapping[str, int], needed: Needs) -> bool:
        """Narrow the rooms down by what follows from the last positions; return whether any are left."""
        carried = {item: rules.carried(item)[0] for item in rest}
        begin = list(rules.initial)
        for item, variable in carried.items():
            begin[variable] -= rest[item]
        last = {rules.settle(begin): frozenset[str]()}
        if self._stuck:
            last |= _last(explore(rules, self._limits.at_most(FOR_STUCK), *last))
        for position, rooms in last.items():
            if rooms:
                needed.some.add(rooms)
            values = list(position)
            for item, variable in carried.items():
                values[variable] += rest[item]
            # It is a position with more in hand, and no event reads that (see below).
            found = _run(rules, tuple(values), self._limits)
            if isinstance(found, set):
                return False
            for item, variable in carried.items():
                less = values.copy()
                less[variable] -= 1
                without = tuple(less)
                if found is None or finishes_by(rules, without, found):
                    continue
                shut_in = _run(rules, without, self._limits)
                if isinstance(shut_in, set):
                    reached = {rules.places[place] for place in shut_in}
                    needed.last[item] = needed.last.get(item, reached) & reached
                    if not needed.last[item]:
                        return False
        return True


def _more_never_hurts(level: Level, items: set[str], into_acts: bool) -> bool:
    """Whether carrying more of some items never closes a way. Only then can a placement be reported as lost."""
    if level.inventory.slots is not None or level.several:
        return False
    if level.rules.finish == "touch" and level.goal and items & items_in(level.goal):
        return False  # with more items, a run may end before it goes wrong
    for name in items:
        item = level.items[name]
        if item.max is not None or item.vital or item.on_pickup:
            return False
    if any(items & effects.loses.keys() for effects, *_ in all_effects(level)):
        return False
    if any(items & items_in(event.when) for event in level.events.values()):
        return False
    for asked in all_conditions(level):
        unwanted = (one for one, wanted in signed_atoms(asked.condition) if not wanted)
        if any(items & items_in(one) for one in unwanted):
            return False
        counted = {one.item for one in atoms(asked.condition) if isinstance(one, HasAll)}
        if into_acts and items & counted:  # items that acts give are not counted, items in hand are
            return False
    return True


def _run(rules: Rules, start: Position, limits: Limits) -> list[Move] | set[int] | None:
    """A finishing run; where there is none, the rooms that are reached; ``None`` if undecided."""
    came: dict[Position, tuple[Position, Move] | None] = {start: None}
    ahead = [start]
    while ahead:
        position = ahead.pop()
        if position[END] == FINISHED:
            moves = []
            step = came[position]
            while step is not None:
                moves.append(step[1])
                step = came[step[0]]
            return moves[::-1]
        if len(came) > FOR_A_RUN or limits.over:
            return None
        for move, after in rules.successors(position):
            if after not in came:
                came[after] = (position, move)
                ahead.append(after)
    return {position[PLACE] for position in came}


def _last(found: Exploration) -> dict[Position, frozenset[str]]:
    """One position of each set of positions that is never left again, with the rooms of that set."""
    part = strong_parts(found.following)
    left = {
        part[a] for a, after in enumerate(found.following) if any(part[b] != part[a] for b in after)
    }
    left |= {one for one, explored in zip(part, found.explored, strict=True) if not explored}
    members: dict[int, list[Position]] = {}
    for number, one in enumerate(part):
        if one not in left:
            members.setdefault(one, []).append(found.positions[number])
    places = found.rules.places
    return {
        some[0]: frozenset(places[position[PLACE]] for position in some)
        for some in members.values()
        if some[0][END] == PLAYING
    }
