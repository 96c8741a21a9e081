"""Turning a level into variables and moves."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

from ..level import (
    ALWAYS,
    Act,
    Chest,
    Condition,
    Effects,
    Event,
    Level,
    LevelError,
    Lock,
    Passage,
    Placement,
    Room,
)
from ..level.asked import tells_players_apart
from ..level.collector import without_collector
from ..level.effects import NO_EFFECTS
from ..level.joined import Joined
from ..level.sense import sense_problems
from .effect_steps import EffectSteps
from .expressions import TRUE, AtLeast, Expression, Is, all_of, any_of
from .position import DEAD, END, FINISHED, PLACE, PLAYING
from .rules import Move, Rules
from .steps import Add, Attempt, ByValue, Require, Set, Step, UntilSettled, When
from .unlocking import Way, ways_to_unlock
from .variables import Names


@without_collector
def compile_level(level: Level, remembered: Collection[int] = (), goal: Expression = TRUE) -> Rules:
    """Turn a level into variables and moves, as the rules of play say.

    Args:
        remembered: In a campaign, the variables whose changes are remembered.
        goal: What finishing asks for beside the goal of the level.

    Raises:
        LevelError: The level cannot be played: it has no start or goal, say, or something in it
            would grow without end.

    Example:
        >>> level = Level()
        >>> level.room("quay")
        >>> level.room("mill")
        >>> level.passage("quay <-> mill")
        >>> level.set_start("quay")
        >>> level.set_goal("mill")
        >>> [move.what["do"] for move in compile_level(level).moves]
        ['walk', 'walk', 'finish']
    """
    problems = [] if level.sound else sense_problems(level)
    if problems:
        raise LevelError(problems, level.file)
    if isinstance(level, Joined):
        from .campaign_rules import CampaignCompiler  # it builds upon what is here

        return CampaignCompiler(level, remembered).rules(goal)
    return Compiler(level).rules(goal)


#: Symmetry is used for two players only: more players have too many permutations.
MOST_ALIKE = 4

#: Numbers of rooms.
Places = tuple[int, ...]


class Compiler:
    """Makes the rules of one level."""

    def __init__(self, level: Level) -> None:
        self.level = level
        self.names = Names(level)
        self.effects = EffectSteps(level, self.names)
        self.moves: list[Move] = []
        self.everywhere = tuple(self.names.places.values())
        self._at: dict[str, Places] = {room: (place,) for room, place in self.names.places.items()}
        self._going_to: dict[str, tuple[Step, ...]] = {
            room: (Set(PLACE, place),) for room, place in self.names.places.items()
        }
        self._unlocked: set[str] = set()
        self._known_ways: dict[Condition, list[Way]] = {}

    def rules(self, more: Expression = TRUE) -> Rules:
        """The rules; finishing asks for something more than the goal of the level."""
        assert self.level.goal is not None  # or compile_level would have refused the level
        goal = all_of(self.names.guard(self.level.goal), more)
        for player in self.level.players or [None]:
            self._moves_of(player)
        self.names.player = None
        if self.level.rules.finish == "choice":
            self._move({"do": "finish"}, self.everywhere, goal, (Set(END, FINISHED),), cost=0)
        self._onward()
        names = self.names
        return Rules(
            names.variables,
            names.index,
            list(names.places),
            names.initial,
            self.moves,
            self._settling(goal),
            goal,
            tuple(self.level.players),
            self._alike(),
        )

    def _alike(self) -> tuple[tuple[int, ...], ...]:
        """Return the variables of each player, if all start alike and no rule names a player."""
        level, names = self.level, self.names
        starts = [level.begins(player) for player in level.players]
        rooms = {room for room, _ in starts}
        carried = [one for _, one in starts][: 1 if level.inventory.shared else None]
        if not level.several or len(rooms) > 1 or any(one != carried[0] for one in carried):
            return ()
        if level.rules.pickup == "touch":  # the first player takes as much as all together could
            return ()
        if tells_players_apart(level) or len(level.players) > MOST_ALIKE:
            return ()
        found = []
        for player in level.players:
            own = (
                []
                if level.inventory.shared
                else [names.carried(one, player) for one in level.items]
            )
            found.append((names.place_of(player), *own))
        return tuple(found)

    def _moves_of(self, player: str | None) -> None:
        """The moves of one player: of the only one, where there is no name."""
        self.names.player = player
        place = self.names.place_of(player)
        self._going_to = {room: (Set(place, number),) for room, number in self.names.places.items()}
        self._unlocked, self._known_ways = set(), {}
        for room in self.level.rooms.values():
            here = self._at[room.name]
            inventory = self.level.inventory_at(room.name)
            self.effects.fit_into(inventory.slots)
            if self.level.rules_at(room.name).pickup == "choice":
                self._takes(room, here)
            if inventory.drop and room.used_from is None:
                self._drops(room, here)
            if room.used_from is not None:
                here = tuple(self.names.places[beside] for beside in room.used_from)
            for chest in room.chests.values():
                self._chest(chest, here)
            for act in room.all_acts():
                self._act(act, here)
        for passage in self.level.passages:
            self.effects.fit_into(self.level.inventory_at(passage.a).slots)
            self._passage(passage)
        if player is not None:
            for rooms, slots in self._where_handed_over():
                self._hand_overs(player, rooms, slots)

    def _where_handed_over(self) -> list[tuple[list[int], int | None]]:
        """The rooms in which players can give things to each other, and how much fits there."""
        inventory = self.level.inventory
        return [([*self.names.places.values()], inventory.slots)] if inventory.hand_over else []

    def _hand_overs(self, player: str, rooms: list[int], slots: int | None) -> None:
        """Add the moves by which a player gives an item to another in the same room.

        Args:
            player: The player.
            rooms: The rooms in which that may be.
            slots: How much fits there.
        """
        mine = self.names.place_of(player)
        for other in self.level.players:
            if other == player:
                continue
            theirs = self.names.place_of(other)
            together = any_of(*(all_of(Is(mine, n), Is(theirs, n)) for n in rooms))
            for name in self.level.items:
                carried = self.names.carried(name)
                self.names.player = other
                self.effects.fit_into(slots)
                gain = self.effects.gain({name: 1})
                self.names.player = player
                what = {"do": "give", "item": name, "to": other}
                guard = all_of(together, AtLeast(carried, 1))
                self._move(what, self.everywhere, guard, (Add(carried, -1), *gain))

    def _move(
        self,
        what: dict[str, Any],
        places: tuple[int, ...],
        guard: Expression,
        steps: tuple[Step, ...],
        cost: int = 1,
    ) -> None:
        player = self.names.player
        if player is not None:
            what = {**what, "by": player}
            place = self.names.place_of(player)
            if place != PLACE:  # the room of the first player distinguishes the moves
                here = any_of(*(Is(place, number) for number in places))
                guard = guard if places == self.everywhere else all_of(here, guard)
                places = self.everywhere
        self.moves.append(Move(len(self.moves), what, places, guard, steps, cost))

    def _onward(self) -> None:
        """The moves that lead on to other levels: none in a level by itself."""

    def _may(self, *conditions: Condition) -> Expression:
        """The guard that all of some conditions hold."""
        return all_of(*(self.names.guard(one) for one in conditions if one is not ALWAYS))

    # -- in a room ----------------------------------------------------------------------------

    def _takes(self, room: Room, here: tuple[int, ...]) -> None:
        for placement in room.items.values():
            lying = self.names.index["lying", room.name, placement.item]
            guard = all_of(AtLeast(lying, 1), self._may(placement.needs, placement.seen))
            what = {"do": "take", "item": placement.item, "in": room.name}
            self._move(what, here, guard, self._pick_up(lying, placement))

    def _pick_up(self, lying: int, placement: Placement) -> tuple[Step, ...]:
        units = placement.count if placement.pile else 1
        gain = self.effects.gain({placement.item: units})
        return (Add(lying, -units), *gain, *self.effects.picked_up(placement.item) * units)

    def _chest(self, chest: Chest, here: tuple[int, ...]) -> None:
        opened = self.names.index["opened", chest.name]
        lock = self.level.lock_of(chest) or Lock()
        for guard, spends in self._ways(lock):
            steps = self.effects.steps(
                [lock.effects, chest.effects], [Set(opened, 1)], spends, chest.holds
            )
            paid = _sum(spends, chest.effects)
            what = {"do": "open", "name": chest.name, "with": paid}
            cost = lock.steps if chest.steps is None else chest.steps
            self._move(what, here, all_of(Is(opened, 0), guard, self._may(chest.seen)), steps, cost)

    def _act(self, act: Act, here: tuple[int, ...]) -> None:
        done = self.names.index["done", act.name]
        taught = Effects(sets=(act.teaches,)) if act.teaches else Effects()
        steps = self.effects.steps([act.effects, taught], [Set(done, 1)])
        first = TRUE if act.repeat else Is(done, 0)
        guard = all_of(first, self._may(act.needs, act.seen))
        self._move({"do": "act", "name": act.name}, here, guard, steps, act.steps)

    def _drops(self, room: Room, here: tuple[int, ...]) -> None:
        for name, item in self.level.items.items():
            if item.vital:
                continue
            carried = self.names.carried(name)
            put_down = self.names.index["put-down", room.name, name]
            drop = {"do": "drop", "item": name, "in": room.name}
            self._move(drop, here, AtLeast(carried, 1), (Add(carried, -1), Add(put_down, 1)))
            take = {"do": "take", "item": name, "in": room.name}
            again = (Add(put_down, -1), *self.effects.gain({name: 1}))
            self._move(take, here, AtLeast(put_down, 1), again)

    # -- between rooms ------------------------------------------------------------------------

    def _passage(self, passage: Passage) -> None:
        lock = self.level.lock_of(passage)
        if lock is not None and lock.relocks:
            self._relocking(passage, lock)
            return
        guard: Expression = TRUE
        if lock is not None:
            opened = self.names.index["opened", passage.thing]
            guard = Is(opened, 1)
            if passage.part_of is None or passage.part_of not in self._unlocked:
                self._unlocked.add(passage.thing)
                self._unlocks(passage, lock, opened)
        changes_more = passage.effects is not NO_EFFECTS
        for here, to, itself in self._directions(passage):
            steps = self.effects.steps((passage.effects,), itself) if changes_more else itself
            what = {"do": "walk", "name": passage.name, "to": to}
            self._move(what, here, self._may_walk(passage, to, guard), steps, passage.steps)

    def _unlocks(self, passage: Passage, lock: Lock, opened: int) -> None:
        if lock.from_ is not None:
            places = self._at[lock.from_]
        elif passage.sides:
            places = tuple(self.names.places[side] for side in passage.sides)
        else:
            places = self._at[passage.a]
            if passage.two_way and passage.a != passage.b:
                places += self._at[passage.b]
        opening = [Set(opened, 1)]
        if lock.together:
            doors = [one.thing for one, _ in self.level.doors() if one.lock == lock.name]
            opening = [Set(self.names.index["opened", door], 1) for door in doors]
        for guard, spends in self._ways(lock):
            steps = self.effects.steps((lock.effects,), opening, spends)
            what = {"do": "unlock", "name": passage.thing, "with": spends}
            may = all_of(Is(opened, 0), guard, self._may(passage.seen))
            self._move(what, places, may, steps, lock.steps)

    def _relocking(self, passage: Passage, lock: Lock) -> None:
        opened = Set(self.names.index["opened", passage.thing], 1)
        for guard, spends in self._ways(lock):
            for here, to, itself in self._directions(passage):
                if lock.from_ is not None and self.names.places[lock.from_] not in here:
                    continue
                steps = self.effects.steps(
                    [lock.effects, passage.effects], [opened, *itself], spends
                )
                paid = _sum(spends, passage.effects)
                what = {"do": "walk", "name": passage.name, "to": to, "with": paid}
                self._move(what, here, self._may_walk(passage, to, guard), steps, passage.steps)

    def _ways(self, lock: Lock) -> list[Way]:
        """The ways to unlock a lock; worked out once for all locks that ask for the same."""
        if lock.takes is not None:
            return ways_to_unlock(self.level, self.names, lock)
        ways = self._known_ways.get(lock.needs)
        if ways is None:
            ways = self._known_ways[lock.needs] = ways_to_unlock(self.level, self.names, lock)
        return ways

    def _may_walk(self, passage: Passage, to: str, guard: Expression) -> Expression:
        if passage.once:
            guard = all_of(guard, Is(self.names.index["collapsed", passage.thing], 0))
        if passage.gate is not ALWAYS or passage.seen is not ALWAYS:
            guard = all_of(guard, self._may(passage.gate, passage.seen))
        gate = self.level.rooms[to].gate
        return guard if gate is ALWAYS else all_of(guard, self._may(gate))

    def _directions(self, passage: Passage) -> list[tuple[Places, str, tuple[Step, ...]]]:
        """Each way to walk a passage: where from, the room it leads to, and the walk itself."""
        a, b = passage.a, passage.b
        there, back = self._going_to[b], self._going_to[a]
        if passage.once:
            collapse = (Set(self.names.index["collapsed", passage.thing], 1),)
            there, back = there + collapse, back + collapse
        if passage.two_way:
            return [(self._at[a], b, there), (self._at[b], a, back)]
        return [(self._at[a], b, there)]

    # -- by itself ----------------------------------------------------------------------------

    def _settling(self, goal: Expression) -> tuple[Step, ...]:
        steps: list[Step] = []
        for player in self.level.players or [None]:
            self.names.player = player
            steps += self._touch()
        self.names.player = None
        steps += self._events()
        vital = [
            Is(carried, 0)
            for name, item in self.level.items.items()
            if item.vital
            for carried in self.names.all_carried(name)
        ]
        players = self.level.players or [None]
        fallen = [
            Is(self.names.place_of(player), self.names.places[room.name])
            for room in self.level.rooms.values() if room.deadly
            for player in players
        ]  # fmt: skip
        if vital or fallen:
            steps.append(When(any_of(*vital, *fallen), (Set(END, DEAD),)))
        if self.level.rules.finish == "touch":
            steps.append(When(all_of(Is(END, PLAYING), goal), (Set(END, FINISHED),)))
        return (When(Is(END, PLAYING), tuple(steps)),) if steps else ()

    def _events(self) -> list[Step]:
        """Return the steps of the events, in the order of the file, repeated until nothing changes."""
        happening: list[Step] = []
        for event in self.level.events.values():
            self._fit_event(event)
            happened = self.names.index["done", event.name]
            effects = self.effects.steps([event.effects], [Set(happened, 1)])
            may = all_of(Is(happened, 0), self.names.guard(event.when))
            happening.append(Attempt((Require(may), *effects)))
        return [UntilSettled(tuple(happening))] if happening else []

    def _fit_event(self, event: Event) -> None:
        """Let what an event gives fit where it happens."""
        self.effects.fit_into(self.level.inventory.slots)

    def _touch(self) -> list[Step]:
        cases: dict[int, tuple[Step, ...]] = {}
        for room in self.level.rooms.values():
            if self.level.rules_at(room.name).pickup != "touch":
                continue
            self.effects.fit_into(self.level.inventory_at(room.name).slots)
            takes: list[Step] = []
            for placement in room.items.values():
                lying = self.names.index["lying", room.name, placement.item]
                may = all_of(AtLeast(lying, 1), self._may(placement.needs, placement.seen))
                one = Attempt((Require(may), *self._pick_up(lying, placement)))
                takes.append(UntilSettled((one,)))
            if takes:
                cases[self.names.places[room.name]] = (UntilSettled(tuple(takes)),)
        return [ByValue(self.names.place_of(self.names.player), cases)] if cases else []


def _sum(spends: dict[str, int], effects: Effects) -> dict[str, int]:
    total = dict(spends)
    for item, count in effects.spends.items():
        total[item] = total.get(item, 0) + count
    return total
