"""Why nothing finishes from a position: what one change would make finishing possible again.

Each candidate (a unit more of an item, a door open, a flag turned, a step back, a larger
inventory) is tried: the rules play on from the position with that one change. The change that makes
finishing possible names the missing thing, so a reason is found by the same rules as the answer.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import groupby

from ..facts.find_finish import finishes_by
from ..facts.one_each import too_few
from ..facts.supply_and_demand import most_asked
from ..level import ALWAYS, At, Has, Level, Lock, Passage
from ..level.conditions import Condition, Not, SomeoneAt, atoms, required_parts
from ..level.joined import Joined
from ..level.names import in_list
from ..level.sense import all_effects
from ..questions import ahead
from ..questions.context import AnyContext
from ..questions.verdict import LOOK_FURTHER
from ..rules import DEAD, END, PLACE, Move, Position, Rules
from ..rules.move_places import subject_of_move
from ..rules.words import counted, move_words, some
from ..spaces import Route
from ..values import dataclass, field, replace
from .accounts import account, used_up
from .finishing_runs import FinishingRuns

#: The greatest number of one-way passages to try in the other direction.
MOST_TURNED = 12

#: The greatest number of extra units of a vital supply to try.
MOST_SUPPLY = 6

#: The greatest number of extra units of an item to try.
MOST_EXTRA = 12


@dataclass(eq=False)
class Reason:
    """Why nothing finishes.

    Attributes:
        why: A sentence or two.
        mend: A change that would mend it.
        cause: The same for all mistakes with one cause.
    """

    why: str
    mend: str
    cause: tuple[str, ...]


@dataclass(eq=False)
class _Findings:
    """The missing things that were found."""

    why: list[str] = field(default_factory=list)
    mend: list[str] = field(default_factory=list)
    cause: list[str] = field(default_factory=list)

    def add(self, cause: str, why: str, mend: str) -> None:
        self.cause.append(cause)
        self.why.append(why)
        if mend not in self.mend:
            self.mend.append(mend)


class Reasons:
    """Finds reasons for positions of one level, within one budget."""

    def __init__(self, context: AnyContext) -> None:
        self.context = context
        self.level: Level = context.level
        self.rules: Rules = context.rules
        self.runs = FinishingRuns(context)
        self.asked = most_asked(self.level)
        vital = [item.name for item in self.level.items.values() if item.vital]
        # If the player can die, more of a vital supply may be what is missing.
        self._asked_alive = dict.fromkeys(vital, MOST_SUPPLY) | self.asked

    def explain(self, route: Route) -> Reason:
        """Return why nothing finishes from the end of a route."""
        position = route.positions[-1]
        rooms, dies = ahead.what_comes(self.context, position)
        self.runs.begin(position)
        within = set(self.level.rooms if rooms is None else rooms)
        found = _Findings()
        if not route.moves:
            self._too_few_for_all(found)
        if not found.why:
            self._full(position, found)
        if not found.why and not route.moves:
            self._collapsing(found)
        if not found.why:
            # Planning with more of a vital supply is slow: it is tried once, for the start.
            at_start = dies and not route.moves and not self.level.several
            asked = self._asked_alive if at_start else self.asked
            self._missing_items(position, route, within, asked, found)
        if not found.why:
            self._shut_doors(position, route, within, (), found)
        if not found.why:
            self._flags(position, found)
        self._collapsed(position, found)
        self._way_back(position, route, found)
        if not found.why:
            self._plate_behind_its_gate(within, found)
        never: list[str] = []
        if not found.why and not route.moves:
            never = self._never_so_there(within, found)
        if not found.why:
            self._no_way_to(position, within, found)
        if dies and not found.cause:
            found.why.append("All that is left from there is to die or to stay")
        if not found.cause and rooms is None:
            why = "The rooms that can be reached from there are undecided: the search was cut short"
            found.add("rest:", why, LOOK_FURTHER)
        elif not found.cause:
            self._what_remains(position, within, never, found)
        cause = tuple(sorted(found.cause))
        return Reason(". ".join(found.why), "; or ".join(found.mend), cause)

    def _purpose(self, position: Position, more: Sequence[int], made: list[Move]) -> str:
        """Return, in words, the purpose of the first move that is possible with more of something and
        impossible without it.

        Of several such moves, the first without which nothing would finish even with more.
        """
        values, rich = position, self.rules.settle(list(more))
        impossible = []
        for move in made:
            after = self.rules.after((rich[PLACE], *values[1:]), move)
            if after is None:
                impossible.append(move)
            elif after[END] == DEAD:
                return f"to survive `{move_words(move.what)}`"
            else:
                values = after
            richer = self.rules.after(rich, move)
            assert richer is not None
            rich = richer
        for move in impossible:
            if not self.runs.relaxed.reach(more, without=[move.number]).finishes:
                return _in_words(move)
        return _in_words(impossible[0]) if impossible else "to finish"

    def _too_few_for_all(self, found: _Findings) -> None:
        """Tell of items that more players must carry than there are units."""
        known = self.context.runs
        few = too_few(self.level, self.runs.relaxed) if known is None else known.too_few
        for players, of_them in groupby(few, key=lambda one: one.players):
            items = [f"{one.item} ({one.units} in the level)" for one in of_them]
            found.why.append(f"{in_list(players)} must each carry {in_list(items)} at some time")
        if few:
            found.cause.append("item:" + ",".join(one.item for one in few))
            items = [one.item for one in few]
            found.mend.append(f"place {in_list(items)} once for each of them")

    # -- the candidates -----------------------------------------------------------------------

    def _missing_items(
        self,
        position: Position,
        route: Route,
        within: set[str],
        asked: Mapping[str, int],
        found: _Findings,
    ) -> None:
        if self.runs.over:
            return
        spent = {item: n for item, n in asked.items() if used_up(self.rules, item, route)}
        rest = {item: n for item, n in asked.items() if item not in spent}
        missing: list[tuple[str, int, str]] = []
        for self.runs.short in (True, False):  # what helps is soon found, mostly
            missing = self._that_help(position, spent)
            if not missing:  # an item behind a shut door is missing only because the door is shut
                missing = self._that_help(position, rest)
                if missing and not route.moves:  # it lies behind a door that asks for another
                    items = [one[0] for one in missing]
                    self._shut_doors(position, route, within, items, found)
            if missing or found.why:
                break
        self.runs.short = False
        if not missing or found.why:
            return
        wants = []
        for item, extra, purpose in missing:
            more = "more " if any(position[one] for one in self.rules.carried(item)) else ""
            wants.append(f"{extra} {more}{item} {purpose}")
        accounts = [
            account(self.level, self.rules, item, route, within) for item, _, _ in missing[:3]
        ]
        why = "; ".join([f"Needs {' or '.join(wants[:3])}", *accounts])
        item, extra, _ = missing[0]
        found.add(
            "item:" + ",".join(one for one, _, _ in missing), why, self._mend_item(item, route)
        )

    def _that_help(
        self, position: Position, asked: Mapping[str, int]
    ) -> list[tuple[str, int, str]]:
        """Return the items of which more would do, how many more, and what for."""
        missing: list[tuple[str, int, str]] = []
        for item, most in asked.items():
            found_ones = [
                one
                for carried in self.rules.carried(item)
                if (one := self._extra(position, carried, most)) is not None
            ]
            if found_ones:  # of several players, the one to whom it would be of most use
                extra, values, made = min(found_ones, key=lambda one: (one[0], len(one[2])))
                missing.append((item, extra, self._purpose(position, values, made)))
        return missing

    def _extra(
        self, position: Position, carried: int, most: int
    ) -> tuple[int, list[int], list[Move]] | None:
        """Return how many more of an item would do, the values with those, and what finishes then."""

        def with_more(extra: int) -> tuple[int, list[int], list[Move]] | None:
            values = list(position)
            values[carried] += extra
            made = self.runs.run_from(values)
            return None if made is None else (extra, values, made)

        if self.rules.variables[carried][1] not in self.asked:  # vital, and asked for by nothing
            found = with_more(most)
            return None if found is None else self._fewest(position, carried, found)
        one, most = with_more(1), min(most, MOST_EXTRA)
        if one is not None or most == 1:
            return one
        enough = with_more(most)  # if the most do not help, fewer seldom do
        if enough is None:
            return None
        return next(filter(None, map(with_more, range(2, most))), enough)

    def _fewest(
        self, position: Position, carried: int, found: tuple[int, list[int], list[Move]]
    ) -> tuple[int, list[int], list[Move]]:
        """The fewest more of a vital supply with which the same run survives and finishes."""
        most, _, made = found
        for extra in range(1, most):
            values = list(position)
            values[carried] += extra
            if finishes_by(self.rules, self.rules.settle(list(values)), made):
                return extra, values, made
        return found

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
        self,
        position: Position,
        route: Route,
        within: set[str],
        others: Sequence[str],
        found: _Findings,
    ) -> None:
        """Find a shut door that would help if it were open, and that asks for none of the other items."""
        for passage, lock in self.level.doors():
            opened = self.rules.index["opened", passage.thing]
            if position[opened] or not within.intersection(passage.ends):
                continue
            if any(getattr(atom, "name", "") in others for atom in atoms(lock.needs)):
                continue
            values = list(position)
            values[opened] = 1
            if not self.runs.finishes_from(values):
                continue
            accounts = [
                account(self.level, self.rules, atom.name, route, within)
                for atom in atoms(lock.needs)
                if isinstance(atom, Has) and atom.name in self.level.items
            ]
            why = f"{passage.thing} stays shut: {_what_it_needs(lock)}"
            why += f" ({'; '.join(accounts)})" if accounts else ""
            mend = (
                f"see that what {passage.thing} needs can always be collected before it is wanted"
            )
            if lock.from_ is not None and lock.from_ not in within:
                mend = f"let {passage.thing} be unlocked from both sides"
            found.add(f"door:{passage.thing}", why, mend)
            return

    def _way_back(self, position: Position, route: Route, found: _Findings) -> None:
        if not route.moves or route.moves[-1].what["do"] != "walk":
            return
        walked = self.rules.walked(route.positions[-2], position)
        if walked is None:
            return
        before = route.positions[-2][walked]
        values = list(position)
        values[walked] = before
        if not self.runs.finishes_from(values):
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
            if self.runs.finishes_from(values):
                now, wanted = ("on", "off") if position[variable] else ("off", "on")
                why = f"{flag} is {now}, and nothing within reach turns it {wanted}"
                why += self._what_turns(flag, wanted)
                where = self.rules.places[position[PLACE]]
                mend = f"put something that turns {flag} {wanted} within reach of {where}"
                found.add(f"flag:{flag}", why, mend)
                return

    def _what_turns(self, flag: str, wanted: str) -> str:
        """Return what turns a flag as it is wanted, elsewhere; if nothing does, what turns it the other way."""
        on: list[str] = []
        off: list[str] = []
        for effects, _, source, _ in all_effects(self.level):
            name = source.strip("'")
            if flag in (*effects.sets, *effects.flips):
                on.append(name)
            if flag in (*effects.clears, *effects.flips):
                off.append(name)
        right, wrong = (on, off) if wanted == "on" else (off, on)
        other = "off" if wanted == "on" else "on"
        said = [f"{in_list(right[:3])} would"] if right else []
        if wrong and not right:
            said = [f"{in_list(wrong[:3])} only turns it {other}"]
        asking = [
            one.thing
            for one in self.level.passages
            if any(isinstance(atom, Has) and atom.name == flag for atom in atoms(one.gate))
        ]
        said += [f"{in_list(asking[:2])} {_ask(asking[:2])} for it"] if asking else []
        return f" ({'; '.join(said)})" if said else ""

    def _collapsing(self, found: _Findings) -> None:
        """Find a passage that collapses, if the level could be finished from the start without that."""
        once = [one for one in self.level.passages if one.once]
        for passage in once[:MOST_TURNED]:
            stays = self.level.copy()
            stays.passages = [
                replace(one, once=False) if one is passage else one for one in self.level.passages
            ]
            if self.runs.finishes_in(stays, None):
                name = passage.thing
                why = f"{_with_ends(self.level, name)} collapses after one walk"
                found.add(
                    f"once:{name}", why, f"let {name} stay (no `once`), or add a way round it"
                )
                return

    def _collapsed(self, position: Position, found: _Findings) -> None:
        """Find a passage that collapsed behind the player and would help if it were still there."""
        for variable, number in self.rules.index.items():
            if variable[0] == "collapsed" and position[number]:
                values = list(position)
                values[number] = 0
                if self.runs.finishes_from(values):
                    name = variable[1]
                    why = f"{_with_ends(self.level, name)} has collapsed: it can be walked once"
                    found.add(
                        f"once:{name}", why, f"let {name} stay (no `once`), or add a way round it"
                    )
                    return

    def _plate_behind_its_gate(self, within: set[str], found: _Findings) -> None:
        """Find a gate that asks for somebody in the room that it leads to, if no other way leads there."""
        into: dict[str, list[Passage]] = {}
        for passage in self.level.passages:
            for here, there in passage.walks():
                if here in within and there not in within:
                    into.setdefault(there, []).append(passage)
        for there, ways in into.items():
            for passage in ways if len(ways) == 1 else ():
                parts = required_parts(passage.gate)
                if any(isinstance(one, At | SomeoneAt) and one.room == there for one in parts):
                    name = passage.thing
                    why = f"{name} asks for somebody at {there}, and leads there itself"
                    found.add(
                        f"plate:{name}", why, f"add another way to {there}, or change the gate"
                    )
                    return

    def _never_so_there(self, within: set[str], found: _Findings) -> list[str]:
        """Find a gate at the end of what is in reach whose flag is never as it asks, and say so of all such gates.

        If the level could be finished were the flag so, that is the reason.
        """
        gates = [
            (passage.thing, here, flag, on)
            for passage in self.level.passages
            for here, there in passage.walks()
            if here in within and there not in within
            for gate in (passage.gate, self.level.rooms[there].gate)
            for flag, on in _flags_asked(self.level, gate)
        ]
        said = []
        for name, here, flag, wanted in gates[:MOST_TURNED]:
            variable, word = self.rules.index["flag", flag], ("off", "on")
            run = ahead.run_where_never(self.context, here, variable, wanted)
            if run is None:
                continue
            others = self._asking(flag, 1 - wanted, within)
            why = f"{flag} is never {word[wanted]} in {here}, where {name} asks for that"
            if others:
                why += f": {in_list(others[:3])} {_ask(others[:3])} for it {word[1 - wanted]}"
            said.append(why)
            values = list(run.positions[-1])
            values[variable] = wanted
            if self.runs.finishes_from(values):
                mend = f"put something that turns {flag} {word[wanted]} within reach of {here}"
                found.add(f"flag:{flag}", why, mend)
                break
        return said

    def _asking(self, flag: str, on: int, within: set[str]) -> list[str]:
        """The passages between some rooms whose gates ask that a flag is on, or off."""
        return [
            passage.thing
            for passage in self.level.passages
            if within.issuperset(passage.ends)
            if (flag, on) in _flags_asked(self.level, passage.gate)
        ]

    def _no_way_to(self, position: Position, within: set[str], found: _Findings) -> None:
        """Find a one-way passage that leads only out of where the player would have to go."""
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
            if not self.runs.finishes_in(turned, position):
                continue
            name, there, here = passage.thing, passage.a, passage.b
            cell = self.level.rooms[here].cell
            floor = self.level.maps.get(cell.map) if cell is not None else None
            fall = floor is not None and floor.side is not None
            what = f"the tile {there} is one-way" if passage.on_map else f"{name} is one-way"
            what = f"{here} can be reached from there, but not left that way" if fall else what
            why = f"There is no way from {here} to {there}: {what}"
            two_way = f"make {name} two-way" if not passage.on_map else "draw floor there"
            two_way = f"let the player climb out of {here}" if fall else two_way
            found.add(f"one-way:{name}", why, f"{two_way}, or add a way from {here} to {there}")
            return
        if isinstance(self.level, Joined):
            levels = [*self.level.campaign.stages]
            inside = {room.partition("/")[0] for room in within}
            onward = {way.a for way in self.level.campaign.ways}
            for stage in (one for one in levels if one in inside and one not in onward):
                later = levels[levels.index(stage) + 1 :][:1]
                why = f"No way of the campaign leads on from {stage}"
                why += f": perhaps `{stage} -> {later[0]}` is missing" if later else ""
                mend = f"add the way {stage} -> {later[0]}" if later else f"add a way from {stage}"
                found.add(f"cut-off:{stage}", why, mend)
                return
        joined = self.level.connected(within)
        asked = atoms(self.level.goal) if self.level.goal else ()
        for room in (atom.room for atom in asked if isinstance(atom, At)):
            if room not in joined:
                cell = self.level.rooms[room].cell
                where = f" ({cell})" if cell is not None and str(cell) != room else ""
                why = f"No passage leads to {room}{where}, were every door open"
                found.add(f"cut-off:{room}", why, f"add a passage to {room}")
                return

    def _full(self, position: Position, found: _Findings) -> None:
        slots = self.level.inventory_at(self.rules.places[position[PLACE]]).slots
        if slots is None:
            return
        roomy = self.level.without_slots()
        if not self.runs.finishes_in(roomy, position):
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

    def _what_remains(
        self, position: Position, within: set[str], never: list[str], found: _Findings
    ) -> None:
        shut = []
        for passage, lock in self.level.doors():
            unopened = not position[self.rules.index["opened", passage.thing]]
            if unopened and len(within.intersection(passage.ends)) == 1:
                shut.append(f"{passage.thing} ({_what_it_needs(lock)})")
        why = f"From there only {some(sorted(within))} can be reached"
        if shut:
            why += f"; still shut: {some(shut)}"
        why = ". ".join([why, *never, f"The goal asks for `{self.level.goal}`"])
        found.add("rest:" + in_list(sorted(within)), why, "open a way from there to the goal")


def _flags_asked(level: Level, gate: Condition) -> list[tuple[str, int]]:
    """The flags that a gate asks for whatever else holds, each with whether it must be on."""
    parts = ((part, 1) for part in required_parts(gate))
    asked = ((part.part, 0) if isinstance(part, Not) else (part, on) for part, on in parts)
    flags = level.all_flags()
    return [(one.name, on) for one, on in asked if isinstance(one, Has) and one.name in flags]


def _ask(names: Sequence[str]) -> str:
    return "asks" if len(names) == 1 else "ask"


def _in_words(move: Move) -> str:
    what = {key: one for key, one in move.what.items() if key not in ("by", "with")}
    who = f"for {move.what['by']} " if "by" in move.what else ""
    return f"{who}to {move_words(what)}"


def _of_one_tile(one: Passage, other: Passage) -> bool:
    """Whether two passages are one, or the ways into and out of a one-way tile of a map."""
    on_map = one.on_map and other.on_map and other.a in (one.a, one.b)
    return one.name == other.name or (on_map and not one.two_way)


def _with_ends(level: Level, name: str) -> str:
    """A passage's name, with the rooms that it joins if the name does not say so."""
    passage = next((one for one in level.passages if one.thing == name), None)
    return name if passage is None or passage.text == name else f"{name} ({passage.text})"


def _what_it_needs(lock: Lock) -> str:
    """Return the needs of a lock, and the side it opens from, in words."""
    needs = "" if lock.needs == ALWAYS else f"it needs {lock.needs}"
    side = "" if lock.from_ is None else f"it is unlocked from {lock.from_} only"
    return " and ".join(part for part in (needs, side) if part) or "it cannot be unlocked"
