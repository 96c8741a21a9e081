"""A second player of the rules, written from the rules of play alone and as plainly as can be.

It shares no code with ``ukemi.rules`` and ``ukemi.spaces``: where the two disagree, one of them
has a bug. It is slow, and meant to be.
"""

from __future__ import annotations

import json
from dataclasses import dataclass, field, replace
from typing import Any

from ukemi.level import ALWAYS, And, At, Done, Has, HasAll, Level, Not, Opened, Or

Counts = tuple[tuple[Any, int], ...]


@dataclass(frozen=True)
class Spot:
    """A position, as sets and sorted counts."""

    room: str
    carried: Counts
    lying: Counts
    put_down: Counts
    flags: frozenset[str]
    opened: frozenset[str]
    done: frozenset[str]
    collapsed: frozenset[str]
    end: str = "playing"


def add(counts: Counts, key: Any, amount: int) -> Counts:
    changed = dict(counts)
    changed[key] = changed.get(key, 0) + amount
    assert changed[key] >= 0
    return tuple(sorted((one, n) for one, n in changed.items() if n))


class Impossible(Exception):
    """The move cannot be made after all."""


@dataclass
class Naive:
    """Every position of a level, and the moves between them."""

    level: Level
    limit: int = 4_000
    spots: dict[Spot, list[tuple[str, int, Spot]]] = field(default_factory=dict)
    complete: bool = True

    def __post_init__(self) -> None:
        self.start = self.begin()
        ahead = [self.start]
        while ahead:
            spot = ahead.pop()
            if spot in self.spots:
                continue
            if len(self.spots) >= self.limit:
                self.complete = False
                return
            self.spots[spot] = self.moves(spot) if spot.end == "playing" else []
            ahead += [after for _, _, after in self.spots[spot]]

    # -- the rules ----------------------------------------------------------------------------

    def begin(self) -> Spot:
        level = self.level
        lying = [
            ((room.name, one.item), one.count)
            for room in level.rooms.values()
            for one in room.items.values()
        ]
        return self.settle(
            Spot(
                level.start,
                tuple(sorted(level.inventory.start.items())),
                tuple(sorted(lying)),
                (),
                frozenset(flag for flag, on in level.flags.items() if on),
                frozenset(),
                frozenset(),
                frozenset(),
            )
        )

    def settle(self, spot: Spot) -> Spot:
        """Touch, then death, then the goal that ends the level."""
        if self.level.rules.pickup == "touch":
            while True:
                before = spot
                for one in self.level.rooms[spot.room].items.values():
                    while True:
                        try:
                            spot = self.take(spot, one.item)
                        except Impossible:
                            break
                if spot == before:
                    break
        before = None
        while before != spot:
            before = spot
            for event in self.level.events.values():
                if event.name not in spot.done and self.holds(spot, event.when):
                    happened = lambda s, name=event.name: replace(s, done=s.done | {name})  # noqa: E731
                    try:
                        spot = self.effects(spot, [event.effects], happened)
                    except Impossible:
                        pass
        for item in self.level.items.values():
            if item.vital and dict(spot.carried).get(item.name, 0) == 0:
                return replace(spot, end="dead")
        if self.level.rooms[spot.room].deadly:
            return replace(spot, end="dead")
        if self.level.rules.finish == "touch" and self.holds(spot, self.level.goal):
            return replace(spot, end="finished")
        return spot

    def holds(self, spot: Spot, condition: Any) -> bool:
        match condition:
            case Has(name, count):
                if name in self.level.items:
                    return dict(spot.carried).get(name, 0) >= count
                return name in spot.flags
            case HasAll(item):
                return dict(spot.carried).get(item, 0) >= self.total(item)
            case At(room):
                return spot.room == room
            case Opened(name):
                return name in spot.opened
            case Done(name):
                return name in spot.done
            case Not(part):
                return not self.holds(spot, part)
            case And(parts):
                return all(self.holds(spot, part) for part in parts)
            case Or(parts):
                return any(self.holds(spot, part) for part in parts)
        raise AssertionError(condition)

    def total(self, item: str) -> int:
        rooms = self.level.rooms.values()
        return (
            self.level.inventory.start.get(item, 0)
            + sum(one.count for room in rooms for one in room.items.values() if one.item == item)
            + sum(chest.holds.get(item, 0) for room in rooms for chest in room.chests.values())
        )

    def gain(self, spot: Spot, given: dict[str, int]) -> Spot:
        for name, count in given.items():
            item = self.level.items[name]
            if item.max is not None:
                free = item.max - dict(spot.carried).get(name, 0)
                if item.kind == "supply":
                    count = min(count, free)
                elif count > free:
                    raise Impossible
            spot = replace(spot, carried=add(spot.carried, name, count))
        if given and self.level.inventory.slots is not None:
            used = sum(self.level.items[name].slots * count for name, count in spot.carried)
            if used > self.level.inventory.slots:
                raise Impossible
        return spot

    def effects(self, spot: Spot, all_effects: list[Any], itself: Any = None, spends: Any = None,
                holds: Any = None) -> Spot:  # fmt: skip
        for counts in [spends or {}, *(one.spends for one in all_effects)]:
            for item, count in counts.items():
                if dict(spot.carried).get(item, 0) < count:
                    raise Impossible
                spot = replace(spot, carried=add(spot.carried, item, -count))
        for one in all_effects:
            for item, count in one.loses.items():
                count = min(count, dict(spot.carried).get(item, 0))
                spot = replace(spot, carried=add(spot.carried, item, -count))
        if itself:
            spot = itself(spot)
        gifts = [holds or {}, *(one.gives for one in all_effects)]
        for counts in gifts:
            spot = self.gain(spot, counts)
        for one in all_effects:
            spot = replace(spot, flags=spot.flags | set(one.sets))
        for one in all_effects:
            spot = replace(spot, flags=spot.flags - set(one.clears))
        for one in all_effects:
            spot = replace(spot, flags=spot.flags ^ set(one.flips))
        for one in all_effects:
            for name in one.opens:
                doors = {p.thing for p, _ in self.level.doors() if name in (p.thing, p.lock)}
                spot = replace(spot, opened=spot.opened | doors)
        for counts in gifts:
            spot = self.picked_up(spot, counts)
        return spot

    def picked_up(self, spot: Spot, counts: dict[str, int]) -> Spot:
        for item, count in counts.items():
            for _ in range(count):
                spot = self.effects(spot, [self.level.items[item].on_pickup])
        return spot

    def take(self, spot: Spot, item: str) -> Spot:
        """Take a unit that the level placed here."""
        key = (spot.room, item)
        if not dict(spot.lying).get(key):
            raise Impossible
        placed = self.level.rooms[spot.room].items[item]
        if not (self.holds(spot, placed.needs) and self.holds(spot, placed.seen)):
            raise Impossible
        units = placed.count if placed.pile else 1
        spot = replace(spot, lying=add(spot.lying, key, -units))
        return self.picked_up(self.gain(spot, {item: units}), {item: units})

    def ways(self, lock: Any) -> list[tuple[Any, dict[str, int]]]:
        """Each way to unlock: a list of what must hold, and what is spent."""
        found = []
        for way in dnf(lock.needs):
            spends: dict[str, int] = {}
            for part in way:
                if isinstance(part, (Has, HasAll)):
                    name = part.name if isinstance(part, Has) else part.item
                    count = part.count if isinstance(part, Has) else self.total(name)
                    item = self.level.items.get(name)
                    if item is not None and item.use == "spent" and count:
                        spends[name] = max(count, spends.get(name, 0))
            found.append((And(tuple(way)), spends if lock.takes is None else lock.takes))
        return found

    def moves(self, spot: Spot) -> list[tuple[str, int, Spot]]:
        level, found = self.level, []
        here = level.rooms[spot.room]

        def offer(what: dict[str, Any], cost: int, change: Any) -> None:
            try:
                found.append((json.dumps(what, sort_keys=True), cost, self.settle(change())))
            except Impossible:
                pass

        def need(holds: bool) -> None:
            if not holds:
                raise Impossible

        def walk(passage: Any, to: str, lock: Any, way: Any, spends: Any) -> Spot:
            need(passage.thing not in spot.collapsed)
            need(self.holds(spot, passage.gate) and self.holds(spot, passage.seen))
            need(self.holds(spot, level.rooms[to].gate))
            effects = [passage.effects]
            if lock is None:
                need(level.lock_of(passage) is None or passage.thing in spot.opened)
            else:
                need(self.holds(spot, way))
                effects = [lock.effects, passage.effects]

            def itself(spot: Spot) -> Spot:
                spot = replace(spot, room=to)
                if passage.once:
                    spot = replace(spot, collapsed=spot.collapsed | {passage.thing})
                if lock is not None:
                    spot = replace(spot, opened=spot.opened | {passage.thing})
                return spot

            return self.effects(spot, effects, itself, spends)

        for passage in level.passages:
            lock = level.lock_of(passage)
            for a, b in {(passage.a, passage.b), *([(passage.b, passage.a)] * passage.two_way)}:
                if a != spot.room:
                    continue
                what = {"do": "walk", "name": passage.name, "to": b}
                if lock is None or not lock.relocks:
                    offer(what, passage.steps, lambda p=passage, b=b: walk(p, b, None, None, None))
                elif lock.from_ in (None, a):
                    for way, spends in self.ways(lock):
                        paid = total_of(spends, passage.effects.spends)
                        offer({**what, "with": paid}, passage.steps,
                              lambda p=passage, b=b, k=lock, w=way, s=spends: walk(p, b, k, w, s))  # fmt: skip
        for passage, lock in level.doors():
            if not lock.relocks and passage.thing not in spot.opened:
                ends = {passage.a, passage.b} if passage.two_way else {passage.a}
                ends = set(passage.sides) or ends
                if spot.room not in ({lock.from_} if lock.from_ else ends):
                    continue
                doors = {passage.thing}
                if lock.together:
                    doors = {one.thing for one in level.passages if one.lock == lock.name}

                def unlock(lock: Any, way: Any, spends: Any, doors: Any, seen: Any) -> Spot:
                    need(self.holds(spot, way) and self.holds(spot, seen))
                    return self.effects(
                        spot, [lock.effects], lambda s: replace(s, opened=s.opened | doors), spends
                    )

                for way, spends in self.ways(lock):
                    offer({"do": "unlock", "name": passage.thing, "with": spends}, lock.steps,
                          lambda k=lock, w=way, s=spends, d=doors, n=passage.seen: unlock(k, w, s, d, n))  # fmt: skip

        if level.rules.pickup == "choice":
            for item in here.items:
                what = {"do": "take", "item": item, "in": here.name}
                offer(what, 1, lambda item=item: self.take(spot, item))
        near = [here, *(one for one in level.rooms.values() if spot.room in (one.used_from or ()))]
        for chest in [chest for room in near for chest in room.chests.values()]:
            if chest.name in spot.opened:
                continue
            lock = level.lock_of(chest)
            ways = self.ways(lock) if lock else [(And(()), {})]
            effects = [lock.effects, chest.effects] if lock else [chest.effects]

            def open_it(chest: Any, effects: Any, way: Any, spends: Any) -> Spot:
                need(self.holds(spot, way) and self.holds(spot, chest.seen))
                return self.effects(
                    spot, effects, lambda s: replace(s, opened=s.opened | {chest.name}), spends,
                    chest.holds,
                )  # fmt: skip

            for way, spends in ways:
                paid = total_of(spends, chest.effects.spends)
                took = chest.steps if chest.steps is not None else lock.steps if lock else 1
                offer({"do": "open", "name": chest.name, "with": paid}, took,
                      lambda c=chest, e=effects, w=way, s=spends: open_it(c, e, w, s))  # fmt: skip
        for act in [act for room in near for act in room.all_acts()]:

            def do(act: Any) -> Spot:
                need(act.repeat or act.name not in spot.done)
                need(self.holds(spot, act.needs) and self.holds(spot, act.seen))
                taught = [replace(act.effects, sets=(*act.effects.sets, act.teaches))]
                return self.effects(
                    spot,
                    taught if act.teaches else [act.effects],
                    lambda s: replace(s, done=s.done | {act.name}),
                )

            offer({"do": "act", "name": act.name}, act.steps, lambda act=act: do(act))
        if level.inventory.drop:
            for item, _ in spot.carried:
                if not level.items[item].vital:
                    offer({"do": "drop", "item": item, "in": here.name}, 1,
                          lambda item=item: replace(
                              spot, carried=add(spot.carried, item, -1),
                              put_down=add(spot.put_down, (spot.room, item), 1)))  # fmt: skip
            for (room, item), _ in spot.put_down:
                if room == spot.room:
                    offer({"do": "take", "item": item, "in": here.name}, 1,
                          lambda item=item: self.gain(
                              replace(spot, put_down=add(spot.put_down, (spot.room, item), -1)),
                              {item: 1}))  # fmt: skip
        if level.rules.finish == "choice" and self.holds(spot, level.goal):
            found.append((json.dumps({"do": "finish"}), 0, replace(spot, end="finished")))
        return found

    # -- the answers --------------------------------------------------------------------------

    def reached(self, start: Spot, within: Any = lambda spot: True) -> set[Spot]:
        """Every position from one on, walking only through some."""
        seen: set[Spot] = set()
        ahead = [start] if within(start) else []
        while ahead:
            spot = ahead.pop()
            if spot not in seen:
                seen.add(spot)
                ahead += [after for _, _, after in self.spots[spot] if within(after)]
        return seen

    def able(self, target: Any) -> set[Spot]:
        """Every position from which one that passes a test can be reached, by trying again."""
        able = {spot for spot in self.spots if target(spot)}
        while True:
            more = {
                spot
                for spot, moves in self.spots.items()
                if spot not in able and any(after in able for _, _, after in moves)
            }
            if not more:
                return able
            able |= more

    def costs(self) -> dict[Spot, int]:
        """The least steps to each position, by relaxing until nothing changes."""
        costs = {self.start: 0}
        changed = True
        while changed:
            changed = False
            for spot, cost in list(costs.items()):
                for _, steps, after in self.spots[spot]:
                    if cost + steps < costs.get(after, 10**9):
                        costs[after] = cost + steps
                        changed = True
        return costs

    def finished(self) -> list[Spot]:
        return [spot for spot in self.spots if spot.end == "finished"]

    def facts(self) -> dict[str, Any]:
        """For each door, chest, act, room and placed item, whether a position shows it done."""
        tests: dict[str, Any] = {}
        for name, thing in self.level.things.items():
            if thing.kind in ("door", "chest"):
                tests[name] = lambda spot, name=name: name in spot.opened
            elif thing.kind != "passage":
                tests[name] = lambda spot, name=name: name in spot.done
        for room in self.level.rooms.values():
            if not room.beside and room.used_from is None:
                tests[room.name] = lambda spot, name=room.name: spot.room == name
            for one in room.items.values():
                tests[f"{room.name}/{one.item}"] = (
                    lambda spot, key=(room.name, one.item), n=one.count: (
                        dict(spot.lying).get(key, 0) < n
                    )
                )
        return tests

    def statuses(self) -> dict[str, str]:
        able = self.able(lambda spot: spot.end == "finished")
        found = {}
        for name, done in self.facts().items():
            without = self.reached(self.start, lambda spot, done=done: not done(spot))
            some = any(done(spot) for spot in able)
            avoided = any(spot.end == "finished" for spot in without)
            ever = any(done(spot) for spot in self.spots)
            if some:
                found[name] = "optional" if avoided else "required"
            else:
                found[name] = "only-when-stuck" if ever else "never"
        return found

    def reward_names(self) -> dict[str, str]:
        kinds = {item.name for item in self.level.items.values() if item.kind == "reward"}
        found = {}
        for room in self.level.rooms.values():
            found |= {
                f"{room.name}/{one}": f"{room.name}/{one}" for one in room.items if one in kinds
            }
            for chest in room.chests.values():
                lock = self.level.lock_of(chest)
                gifts = {*chest.holds, *chest.effects.gives, *(lock.effects.gives if lock else {})}
                if gifts & kinds:
                    found[f"{room.name}/{chest.name.split(chr(47))[-1]}"] = chest.name
            for act in room.all_acts():
                if set(act.effects.gives) & kinds:
                    found[f"{room.name}/{act.name.split(chr(47))[-1]}"] = act.name
        for event in self.level.events.values():
            if set(event.effects.gives) & kinds:
                found[event.name] = event.name
        return found

    def missable(self, subject: str) -> str:
        done = self.facts()[subject]
        able = self.able(lambda spot: spot.end == "finished")
        still = self.able(lambda spot: spot.end == "finished" and done(spot))
        lost = [
            spot for spot in able if spot.end == "playing" and spot not in still and not done(spot)
        ]
        return "yes" if lost else "no"

    def order(self) -> set[tuple[str, str]]:
        """Every pair of required things that finishing runs do in this order; not reduced."""
        does = self.doing()
        able = self.able(lambda spot: spot.end == "finished")
        pairs = set()
        for later, does_later in does.items():
            if does_later("", self.start):
                continue
            for earlier, does_earlier in does.items():
                if earlier == later:
                    continue

                def neither(
                    what: str, after: Spot, one: Any = does_earlier, other: Any = does_later
                ) -> bool:
                    return not one(what, after) and not other(what, after)

                broken = any(
                    does_later(what, after) and after in able
                    for spot in self.reached_by(neither)
                    for what, _, after in self.spots[spot]
                )
                if not broken:
                    pairs.add((earlier, later))
        return pairs

    def doing(self) -> dict[str, Any]:
        """For each thing that every finishing run does, and each gate it walks, which moves do it."""
        facts = self.facts()
        does: dict[str, Any] = {
            name: lambda what, after, done=facts[name]: done(after)
            for name, status in self.statuses().items()
            if status == "required"
        }
        gates: dict[str, set[str]] = {}
        for passage in self.level.passages:
            unnamed = passage.thing in self.level.rooms
            if passage.gate != ALWAYS and passage.lock is None and not unnamed:
                gates.setdefault(passage.thing, set()).add(passage.name)
        for gate, names in gates.items():

            def walks(what: str, after: Spot, names: set[str] = names) -> bool:
                move = json.loads(what) if what else {}
                return move.get("do") == "walk" and move["name"] in names

            without = self.reached_by(lambda what, after, walks=walks: not walks(what, after))
            if self.finished() and not any(spot.end == "finished" for spot in without):
                does[gate] = walks
        return does

    def reached_by(self, allowed: Any) -> set[Spot]:
        """Every position from the start on, making only moves that are allowed."""
        seen: set[Spot] = set()
        ahead = [self.start] if allowed("", self.start) else []
        while ahead:
            spot = ahead.pop()
            if spot not in seen:
                seen.add(spot)
                ahead += [after for what, _, after in self.spots[spot] if allowed(what, after)]
        return seen

    def mistakes(self) -> dict[str, int]:
        """Each kind of move that loses the level, with the least steps to and with it."""
        able = self.able(lambda spot: spot.end == "finished")
        costs, found = self.costs(), {}
        for spot in able:
            for what, steps, after in self.spots[spot]:
                if after not in able and after.end == "playing":
                    found[what] = min(found.get(what, 10**9), costs[spot] + steps)
        return found

    def choices(self, moves: list[dict[str, Any]]) -> list[int]:
        """At each move of a route that is no walk, how much there was to do after walking at will."""
        pairs = zip(moves, self.around(moves), strict=True)
        return [things for move, (_, things) in pairs if move["do"] != "walk"]

    def around(self, moves: list[dict[str, Any]]) -> list[tuple[int, int]]:
        """Before each move of a route: the rooms that can be walked to, and what can be done there."""
        found = []
        for number in range(len(moves)):
            things, about = set(), [*self.follow(moves[:number])]
            for spot in about:  # grows as it is walked
                for what, _, after in self.spots[spot]:
                    if json.loads(what)["do"] != "walk":
                        things.add(what)
                    elif after not in about:
                        about.append(after)
            found.append((len({spot.room for spot in about}), len(things)))
        return found

    def follow(self, moves: list[dict[str, Any]]) -> set[Spot]:
        """The positions a route can end in; more than one where a move can be read two ways."""
        here = {self.start}
        for move in moves:
            wanted = json.dumps(move, sort_keys=True)
            here = {after for spot in here for what, _, after in self.spots[spot] if what == wanted}
        return here


def dnf(condition: Any) -> list[list[Any]]:
    """The alternatives of a condition, without those that contradict themselves."""

    def ways(condition: Any, yes: bool) -> list[list[Any]]:
        if isinstance(condition, Not):
            return ways(condition.part, not yes)
        if isinstance(condition, (And, Or)):
            lists = [ways(part, yes) for part in condition.parts]
            if isinstance(condition, And) != yes:
                return [way for one in lists for way in one]
            product: list[list[Any]] = [[]]
            for one in lists:
                product = [way + more for way in product for more in one]
            return product
        return [[condition if yes else Not(condition)]]

    found = ways(condition, True)
    return [way for way in found if not any(Not(part) in way for part in way)]


def total_of(*all_counts: dict[str, int]) -> dict[str, int]:
    total: dict[str, int] = {}
    for counts in all_counts:
        for item, count in counts.items():
            total[item] = total.get(item, 0) + count
    return total
