"""Why nothing finishes from a position: what one change would make finishing possible again.

Each candidate (a unit more of an item, a door open, a flag turned, a step back, a larger
inventory) is tried: the rules play on from the position with that one change. What then finishes
is what was missing, so that a reason is found by the same rules as the answer.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from ..facts.find_finish import find_finish
from ..facts.guided import Guide, find_run
from ..facts.relaxed import Reach, Relaxed
from ..level import ALWAYS, At, Has, Level, Lock, Passage
from ..level.conditions import atoms
from ..level.names import in_list
from ..rules import PLACE, Move, Position, Rules, compile_level
from ..rules.words import counted, move_words, some
from ..spaces import CutShortError, Limits, Route
from .accounts import account, used_up
from .answers import LOOK_FURTHER
from .places import subject_of_move
from .supply_and_demand import most_asked

#: Positions to plan from for each candidate, and for all the reasons of one check.
BUDGET, TOTAL_BUDGET = 80, 10_000

#: Positions to look at for a candidate that changes the rules, before any plan.
NEARBY = 1_000

#: One-way passages to try the other way, at the most.
MOST_TURNED = 12

#: Extra units of an item to try, at the most.
MOST_EXTRA = 12


@dataclass(eq=False)
class Reason:
    """Why nothing finishes.

    Attributes:
        why: A sentence or two.
        mend: What would mend it.
        cause: The same for all mistakes with one cause.
    """

    why: str
    mend: str
    cause: tuple[str, ...]


@dataclass(eq=False)
class _Findings:
    """What was found to be missing."""

    why: list[str] = field(default_factory=list)
    mend: list[str] = field(default_factory=list)
    cause: list[str] = field(default_factory=list)

    def add(self, cause: str, why: str, mend: str) -> None:
        self.cause.append(cause)
        self.why.append(why)
        if mend not in self.mend:
            self.mend.append(mend)


def never_hopeless(position: Position) -> bool:
    """What tells positions from which nothing finishes, where none are known."""
    return False


class Reasons:
    """Finds reasons for positions of one level, within a budget for all of them.

    Args:
        hopeless: Tells positions from which it is known that nothing finishes.
    """

    def __init__(
        self,
        level: Level,
        rules: Rules,
        limits: Limits,
        hopeless: Callable[[Position], bool] = never_hopeless,
    ) -> None:
        self.level = level
        self.rules = rules
        self.limits = limits
        self.left = TOTAL_BUDGET
        self.asked = most_asked(level)
        self._hopeless = hopeless
        self._relaxed = Relaxed(rules, limits)
        self._reach: Reach | None = None

    def explain(
        self, position: Position, route: Route, rooms: Iterable[str] | None, dies: bool
    ) -> Reason:
        """Why nothing finishes from a position.

        Args:
            position: The position; it is stuck.
            route: A route to it.
            rooms: The rooms that can be come to from it; ``None`` where that is not settled.
            dies: Whether the player can die there.

        Returns:
            The reason.
        """
        self._reach = self._relaxed.reach(position)
        within = set(self.level.rooms if rooms is None else rooms)
        found = _Findings()
        self._full(position, found)
        if not found.why:
            self._missing_items(position, route, within, found)
        if not found.why:
            self._shut_doors(position, route, within, found)
        if not found.why:
            self._flags(position, found)
        self._way_back(position, route, found)
        if not found.why:
            self._no_way_to(position, within, found)
        if dies:
            found.why.append("All that is left from there is to die or to stay")
        if not found.cause and rooms is None:
            why = "What can be reached from there is not settled: the search was cut short"
            found.add("rest:", why, LOOK_FURTHER)
        elif not found.cause:
            self._what_remains(position, within, found)
        cause = tuple(sorted(found.cause))
        return Reason(". ".join(found.why), "; or ".join(found.mend), cause)

    # -- trying one change --------------------------------------------------------------------

    def _finishes(self, values: Sequence[int]) -> list[Move] | None:
        """What finishes from given values; None if nothing was found."""
        if self.left <= 0 or self.limits.over or self._changes_nothing(values):
            return None
        return self._run_from(self._guide, values, self._hopeless)

    def _run_from(
        self, guide: Guide | None, values: Sequence[int], hopeless: Callable[[Position], bool]
    ) -> list[Move] | None:
        if guide is None:
            return None
        self.left -= BUDGET // 10  # a small search costs little, but not nothing
        try:
            return find_run(guide, guide.rules.settle(list(values)), BUDGET, hopeless)
        except CutShortError:
            self.left -= BUDGET
            return None

    @cached_property
    def _guide(self) -> Guide | None:
        return self._guide_of(self._relaxed)

    def _guide_of(self, relaxed: Relaxed) -> Guide | None:
        try:
            return Guide(relaxed)
        except CutShortError:
            return None

    def _can_finish_in(self, level: Level, position: Position) -> bool:
        """Whether a run was found that finishes from a position in a changed level."""
        if self.left <= 0 or self.limits.over:
            return False
        # By other rules, what was hopeless may not be. A plan costs more than many positions here.
        rules = compile_level(level)
        self.left -= BUDGET // 10
        try:
            return find_finish(rules, position, NEARBY, limits=self.limits) is not None
        except CutShortError:
            guide = self._guide_of(Relaxed(rules, self.limits))
            return self._run_from(guide, position, never_hopeless) is not None

    def _changes_nothing(self, values: Sequence[int]) -> bool:
        """Whether it is plain that nothing finishes from given values either."""
        assert self._reach is not None
        return not self._relaxed.with_more(self._reach, values).finishes

    def _purpose(self, position: Position, more: Sequence[int], made: list[Move]) -> str:
        """What the first move is for that a position with more allows and another does not, in words.

        Of several such moves, the first without which nothing would finish even with more.
        """
        values, rich = position, self.rules.settle(list(more))
        impossible = []
        for move in made:
            after = self.rules.after((rich[PLACE], *values[1:]), move)
            if after is None:
                impossible.append(move)
            else:
                values = after
            richer = self.rules.after(rich, move)
            assert richer is not None
            rich = richer
        for move in impossible:
            if not self._relaxed.reach(more, without=[move.number]).finishes:
                return _in_words(move)
        return _in_words(impossible[0]) if impossible else "to finish"

    # -- the candidates -----------------------------------------------------------------------

    def _missing_items(
        self, position: Position, route: Route, within: set[str], found: _Findings
    ) -> None:
        missing: list[tuple[str, int, str]] = []
        for item, most in self.asked.items():
            found_ones = [
                one
                for carried in self.rules.carried(item)
                if (one := self._extra(position, carried, most)) is not None
            ]
            if found_ones:  # of several players, the one to whom it would be of most use
                extra, values, made = min(found_ones, key=lambda one: (one[0], len(one[2])))
                missing.append((item, extra, self._purpose(position, values, made)))
        if not missing:
            return
        gone = [one for one in missing if used_up(self.rules, one[0], route)]
        missing = gone or missing  # what lies beyond a shut door is missing only because of it
        wants = []
        for item, extra, purpose in missing:
            more = "more " if any(position[one] for one in self.rules.carried(item)) else ""
            wants.append(f"{extra} {more}{item} {purpose}")
        accounts = [
            account(self.level, self.rules, item, route, within) for item, _, _ in missing[:3]
        ]
        why = f"Missing to finish: {' or '.join(wants[:3])} ({'; '.join(accounts)})"
        item, extra, _ = missing[0]
        found.add(
            "item:" + ",".join(one for one, _, _ in missing), why, self._mend_item(item, route)
        )

    def _extra(
        self, position: Position, carried: int, most: int
    ) -> tuple[int, list[int], list[Move]] | None:
        """How many more of an item would do, the values with those, and what finishes then."""

        def with_more(extra: int) -> tuple[int, list[int], list[Move]] | None:
            values = list(position)
            values[carried] += extra
            made = self._finishes(values)
            return None if made is None else (extra, values, made)

        one, most = with_more(1), min(most, MOST_EXTRA)
        if one is not None or most == 1:
            return one
        enough = with_more(most)  # if the most do not help, fewer seldom do
        if enough is None:
            return None
        return next(filter(None, map(with_more, range(2, most))), enough)

    def _mend_item(self, item: str, route: Route) -> str:
        spent_on = [
            subject_of_move(self.level, move.what)
            for move in route.moves
            if item in move.what.get("with", {})
        ]
        if spent_on:
            return (
                f"place another {item} that can be reached, or let {spent_on[-1]} ask for "
                "something else"
            )
        last = route.moves[-1].what if route.moves else {}
        if last.get("do") == "walk":
            name = subject_of_move(self.level, last)
            return f"let {name} ask for it (`gate: {item}`), or place another {item} beyond {name}"
        return f"place another {item} that can be reached"

    def _shut_doors(
        self, position: Position, route: Route, within: set[str], found: _Findings
    ) -> None:
        for passage, lock in self.level.doors():
            opened = self.rules.index["opened", passage.thing]
            if position[opened] or not within.intersection(passage.ends):
                continue
            values = list(position)
            values[opened] = 1
            if self._finishes(values) is None:
                continue
            accounts = [
                account(self.level, self.rules, atom.name, route, within)
                for atom in atoms(lock.needs)
                if isinstance(atom, Has) and atom.name in self.level.items
            ]
            why = f"{passage.thing} stays shut: {_what_it_needs(lock)}"
            why += f" ({'; '.join(accounts)})" if accounts else ""
            mend = f"see that what {passage.thing} needs can always be had before it is wanted"
            found.add(f"door:{passage.thing}", why, mend)
            return

    def _way_back(self, position: Position, route: Route, found: _Findings) -> None:
        if not route.moves or route.moves[-1].what["do"] != "walk":
            return
        walked = next(
            (one for one in self.rules.standing if position[one] != route.positions[-2][one]), PLACE
        )
        before = route.positions[-2][walked]
        values = list(position)
        values[walked] = before
        if before == position[walked] or self._finishes(values) is None:
            return
        there, back = self.rules.places[position[walked]], self.rules.places[before]
        name = subject_of_move(self.level, route.moves[-1].what)
        two_way = f"make {name} two-way" if name != there else f"let {name} be left the way it came"
        mend = f"{two_way}, or add a way back from {there}"
        found.add(f"back:{name}", f"There is no way back from {there} to {back}", mend)

    def _flags(self, position: Position, found: _Findings) -> None:
        for flag in sorted(self.level.all_flags()):
            variable = self.rules.index["flag", flag]
            values = list(position)
            values[variable] = 1 - values[variable]
            if self._finishes(values) is not None:
                now, wanted = ("on", "off") if position[variable] else ("off", "on")
                why = f"{flag} is {now}, and nothing within reach turns it {wanted}"
                where = self.rules.places[position[PLACE]]
                mend = f"put something that turns {flag} {wanted} within reach of {where}"
                found.add(f"flag:{flag}", why, mend)
                return

    def _no_way_to(self, position: Position, within: set[str], found: _Findings) -> None:
        """A one-way passage that leads only out of where the player would have to go."""
        tried = 0
        for passage in self.level.passages:
            if passage.two_way or passage.b not in within or passage.a in within:
                continue
            tried += 1
            if tried > MOST_TURNED:
                break
            turned = self.level.copy()
            turned.passages = [
                replace(one, two_way=True) if _of_one_tile(one, passage) else one
                for one in self.level.passages
            ]
            if not self._can_finish_in(turned, position):
                continue
            name, there, here = passage.thing, passage.a, passage.b
            what = f"the tile {there} is one-way" if passage.on_map else f"{name} is one-way"
            why = f"There is no way from {here} to {there}: {what}"
            two_way = f"make {name} two-way" if not passage.on_map else "draw floor there"
            found.add(f"one-way:{name}", why, f"{two_way}, or add a way from {here} to {there}")
            return
        joined = self.level.connected(within)
        asked = atoms(self.level.goal) if self.level.goal else ()
        for room in (atom.room for atom in asked if isinstance(atom, At)):
            if room not in joined:
                why = f"No passage leads to {room}, were every door open"
                found.add(f"cut-off:{room}", why, f"add a passage to {room}")
                return

    def _full(self, position: Position, found: _Findings) -> None:
        slots = self.level.inventory_at(self.rules.places[position[PLACE]]).slots
        if slots is None:
            return
        roomy = self.level.without_slots()
        if not self._can_finish_in(roomy, position):
            return
        carried = {
            item: sum(position[one] for one in self.rules.carried(item))
            for item in self.level.items
            if any(position[one] for one in self.rules.carried(item))
        }
        space = "1 slot" if slots == 1 else f"{slots} slots"
        full = (
            f"Not enough fits in the inventory: {space}, carrying {counted(carried) or 'nothing'}"
        )
        found.add("full", full, "allow more slots, or let things be put down (`drop: true`)")

    def _what_remains(self, position: Position, within: set[str], found: _Findings) -> None:
        shut = []
        for passage, lock in self.level.doors():
            unopened = not position[self.rules.index["opened", passage.thing]]
            if unopened and within.intersection(passage.ends):
                shut.append(f"{passage.thing} ({_what_it_needs(lock)})")
        why = f"From there only {some(sorted(within))} can be reached"
        if shut:
            why += f"; still shut: {some(shut)}"
        why += f". The goal asks for `{self.level.goal}`"
        found.add("rest:" + in_list(sorted(within)), why, "open a way from there to the goal")


def _in_words(move: Move) -> str:
    what = {key: one for key, one in move.what.items() if key not in ("by", "with")}
    who = f"for {move.what['by']} " if "by" in move.what else ""
    return f"{who}to {move_words(what)}"


def _of_one_tile(one: Passage, other: Passage) -> bool:
    """Whether two passages are one, or the ways into and out of a one-way tile of a map."""
    on_map = one.on_map and other.on_map and other.a in (one.a, one.b)
    return one.name == other.name or (on_map and not one.two_way)


def _what_it_needs(lock: Lock) -> str:
    """What a lock asks for, and from where, in words."""
    needs = "" if lock.needs == ALWAYS else f"it needs {lock.needs}"
    side = "" if lock.from_ is None else f"it is unlocked from {lock.from_} only"
    return " and ".join(part for part in (needs, side) if part) or "nobody unlocks it"
