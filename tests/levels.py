"""Random levels over the whole language, small enough for the naive player."""

from __future__ import annotations

import json
from random import Random
from typing import Any

from hypothesis import strategies as st

ROOMS = ["quay", "mill", "loft", "pit"]
ITEMS = ["iron", "oak", "grain"]
FLAGS = ["low", "lit"]
#: Symbols of random maps, beside floor, walls and one-way tiles.
SYMBOLS = "k*DGhc!os"


class Drawer:
    """Draws one level as plain data."""

    def __init__(self, random: Random) -> None:
        self.random = random
        self.rooms = ROOMS[: random.randint(2, 4)]
        self.items = ITEMS[: random.randint(1, 3)]
        self.doors: list[str] = []
        self.chests: list[str] = []
        self.acts: list[str] = []

    def maybe(self, share: float) -> bool:
        return self.random.random() < share

    def some(self, names: list[str], most: int = 2) -> list[str]:
        return [self.random.choice(names) for _ in range(self.random.randint(1, most))]

    def atom(self) -> str:
        roll = self.random.random()
        if roll < 0.55:
            count = 2 if self.maybe(0.2) else 1
            return (
                f"{count} {self.random.choice(self.items)}"
                if count > 1
                else self.random.choice(self.items)
            )
        if roll < 0.75:
            return self.random.choice(FLAGS)
        if roll < 0.8:
            return f"all {self.random.choice(self.items)}"
        if roll < 0.87:
            return f"at {self.random.choice(self.rooms)}"
        if roll < 0.94 and self.doors + self.chests:
            return f"opened {self.random.choice(self.doors + self.chests)}"
        if self.acts:
            return f"done {self.random.choice(self.acts)}"
        return self.random.choice(FLAGS)

    def condition(self) -> str:
        roll = self.random.random()
        if roll < 0.6:
            return self.atom()
        if roll < 0.7:
            return f"not {self.atom()}"
        word = self.random.choice(["and", "or"])
        left = f"({self.condition()})" if self.maybe(0.2) else self.atom()
        right = f"not {self.atom()}" if self.maybe(0.15) else self.atom()
        return f"{left} {word} {right}"

    def effects(self, share: float, gives: bool = True) -> dict[str, Any]:
        found: dict[str, Any] = {}
        if self.maybe(share):
            found["spends"] = self.some(self.items, 1)
        if self.maybe(share):
            found["loses"] = self.some(self.items)
        if gives and self.maybe(share):
            found["gives"] = self.some(self.items, 1)
        flags = FLAGS.copy()
        self.random.shuffle(flags)
        for effect in ("sets", "clears", "flips"):
            if flags and self.maybe(share):
                found[effect] = flags.pop()
        if self.doors and self.maybe(share):
            found["opens"] = self.random.choice(self.doors)
        return found

    def lock(self, for_chest: bool, ends: tuple[str, str] | None = None) -> Any:
        if self.maybe(0.25):
            return "shared"
        if self.maybe(0.4):
            return self.condition()
        lock: dict[str, Any] = {"needs": self.condition(), **self.effects(0.08)}
        lock.pop("spends", None)
        if self.maybe(0.2):
            lock["spends"] = "nothing" if self.maybe(0.3) else self.some(self.items, 1)
        if not for_chest and ends and self.maybe(0.2):
            lock["from"] = ends[0]
        if not for_chest and self.maybe(0.25):
            lock["relocks"] = True
        elif self.maybe(0.2):
            lock["steps"] = self.random.randint(0, 3)
        return lock

    def level(self) -> dict[str, Any]:
        maybe, choice = self.maybe, self.random.choice
        vital = maybe(0.2)
        items: dict[str, Any] = {}
        for name in self.items:
            items[name] = {
                "kind": choice(["key", "key", "tool", "reward", "supply"]),
                "use": choice(["kept", "spent"]),
            }
            if maybe(0.4):
                items[name]["max"] = self.random.randint(1, 3)
            if maybe(0.2):
                items[name]["slots"] = self.random.randint(0, 2)
        if maybe(0.15):
            effects = self.effects(0.3)
            effects["gives"] = [one for one in effects.get("gives", []) if one > self.items[0]]
            items[self.items[0]]["on-pickup"] = effects
        inventory: dict[str, Any] = {"start": [one for one in self.items if maybe(0.25)]}
        if vital:
            items[self.items[0]] |= {"kind": "supply", "vital": True, "max": 3}
            items[self.items[0]].pop("on-pickup", None)
            inventory["start"] = {self.items[0]: self.random.randint(1, 3)}
        if maybe(0.25):
            inventory["slots"] = self.random.randint(2, 4)
        if maybe(0.15):
            inventory["drop"] = True
        passages: list[Any] = []
        pairs = list(zip(self.rooms, self.rooms[1:], strict=False))
        pairs += [
            (choice(self.rooms), choice(self.rooms)) for _ in range(self.random.randint(0, 3))
        ]
        for number, (a, b) in enumerate(pairs):
            fields: dict[str, Any] = {}
            if maybe(0.5):
                fields = {"lock": self.lock(False, (a, b)), "name": f"door-{number}"}
                relocks = isinstance(fields["lock"], dict) and fields["lock"].get("relocks")
                if not relocks:
                    self.doors.append(f"door-{number}")
            if maybe(0.15):
                fields["gate"] = self.condition()
            if maybe(0.15):
                fields["once"] = True
            if maybe(0.15):
                fields["steps"] = self.random.randint(0, 3)
            fields |= {**self.effects(0.04), **self.seen()}
            passages.append({f"{a} {choice(['<->', '<->', '->'])} {b}": fields})
        rooms: dict[str, Any] = {room: {} for room in self.rooms}
        for number, room in enumerate(self.rooms):
            if maybe(0.08):
                rooms[room]["gate"] = self.condition()
            if maybe(0.6):
                rooms[room]["items"] = {
                    item: {
                        "count": self.random.randint(1, 2), "pile": maybe(0.2),
                        **({"needs": self.condition()} if maybe(0.2) else {}), **self.seen(),
                    }
                    for item in dict.fromkeys(self.some(self.items))
                }  # fmt: skip
            if maybe(0.25):
                chest: dict[str, Any] = {"holds": self.some(self.items), **self.effects(0.05)}
                chest |= self.seen()
                if maybe(0.7):
                    chest["lock"] = self.lock(True)
                if maybe(0.2):
                    chest["steps"] = self.random.randint(0, 3)
                rooms[room]["chests"] = {f"chest-{number}": chest}
                self.chests.append(f"chest-{number}")
            if maybe(0.25):
                rooms[room]["switches"] = {f"switch-{number}": self.act("once")}
            if maybe(0.25):
                rooms[room]["acts"] = {f"act-{number}": self.act("repeat")}
                self.acts.append(f"act-{number}")
        shared: dict[str, Any] = {"needs": self.condition(), **self.effects(0.05)}
        shared.pop("spends", None)
        only_doors = not any(
            chest.get("lock") == "shared"
            for room in rooms.values()
            for chest in room.get("chests", {}).values()
        )
        if only_doors and maybe(0.4):
            shared["together"] = True
        return {
            "ukemi": 1,
            "start": self.rooms[0],
            "goal": self.goal(),
            "items": items,
            "flags": {flag: maybe(0.3) for flag in FLAGS},
            "locks": {"shared": shared},
            "inventory": inventory,
            "rules": {
                "pickup": "touch" if maybe(0.25) else "choice",
                "finish": "touch" if maybe(0.25) else "choice",
            },
            "rooms": rooms,
            "passages": passages,
            **self.areas(rooms, len(passages)),
            **self.events(),
        }

    def goal(self) -> str:
        if self.maybe(0.65):
            return self.rooms[-1]
        if self.maybe(0.3):
            return " or ".join(f"at {room}" for room in self.random.sample(self.rooms, 2))
        return self.condition()

    def areas(self, rooms: dict[str, Any], passages: int) -> dict[str, Any]:
        """In a third of the levels, two areas, and some rooms with a place in pictures."""
        if passages % 3:
            return {}
        for number, room in enumerate(self.rooms[1::2]):
            rooms[room]["drawn-at"] = [2 + number % 2, 1 + number]
        return {"areas": {"shore": self.rooms[:2], "tower": self.rooms[2:3]}}

    def events(self) -> dict[str, Any]:
        """What happens by itself, in some levels."""
        named = {
            f"event-{number}": {"when": self.condition(), **self.effects(0.3)}
            for number in range(self.random.choice([0, 0, 0, 1, 2]))
        }
        return {"events": named} if named else {}

    def seen(self) -> dict[str, Any]:
        """The condition for seeing a thing, for a few of them."""
        return {"seen": self.condition()} if self.maybe(0.06) else {}

    def act(self, again: str) -> dict[str, Any]:
        act: dict[str, Any] = {**self.effects(0.25), **self.seen()}
        if self.maybe(0.4):
            act["needs"] = self.condition()
        if self.maybe(0.3):
            act[again] = True
        if self.maybe(0.2):
            act["steps"] = self.random.randint(0, 3)
        if self.maybe(0.1) and not {"sets", "clears", "flips"} & act.keys():
            act["teaches"] = self.random.choice(FLAGS)
        return act


class MapDrawer(Drawer):
    """Draws small levels on one or two floors, with or without rooms beside them."""

    def map_level(self) -> dict[str, Any]:
        random = self.random
        plain = self.level()
        plain["rooms"] = {"yard": {"items": {item: 1 for item in self.items if self.maybe(0.3)}}}
        plain["goal"] = random.choice(["far", "far", "at far and iron", "iron", "yard"])
        plain.pop("start")
        if plain.pop("areas", None):
            plain["areas"] = {"shore": "yard"}
        width, height = random.randint(3, 5), random.randint(2, 4)
        cells = [random.choice("....##^<") for _ in range(width * height)]
        spots = random.sample(range(width * height), min(width * height, random.randint(3, 7)))
        cells[spots[0]], cells[spots[1]] = "@", "z"
        for spot in spots[2:]:
            cells[spot] = random.choice(SYMBOLS)
        self.rooms = ["far", "yard"]
        self.doors, self.chests, self.acts = ["door"] * (cells.count("D") == 1), [], []
        plain["passages"] = [{f"far {random.choice(['<->', '->'])} yard": {}}]
        plain["flags"] = {flag: self.maybe(0.3) for flag in ("low", "lit")}
        shared = {"needs": self.condition()}
        plain["locks"] = {"shared": shared}
        lock = self.lock(False)
        for one in (lock, plain["items"][self.items[0]].get("on-pickup", {})):
            if isinstance(one, dict):
                one.pop("opens", None)
        plain["legend"] = {
            "k": {"item": {self.items[0]: {"count": 1}}},
            "*": {"items": self.some(self.items)},
            "D": {"lock": lock, "name": "door", **({"gate": self.condition()} if self.maybe(0.2) else {})},
            "G": {"gate": self.condition(), "steps": random.randint(0, 3), **self.seen()},
            "h": {"name": "hazard", "loses": self.some(self.items), **({"once": True} if self.maybe(0.4) else {})},
            "c": {"chest": {"name": "bin", "holds": self.some(self.items), "lock": self.condition()}},
            "!": {"switch": {"name": "lever", **self.act("once")}},
            "o": {"act": {"name": "heap", **self.act("repeat")}, "solid": False},
            "z": {"room": "far"},
            "s": {"one-way": random.choice(["up", "down", "left", "right"])},
        }  # fmt: skip
        for legend, kind in (("!", "switch"), ("o", "act")):
            plain["legend"][legend][kind].pop("opens", None)
        rows = ["".join(cells[n * width : (n + 1) * width]) for n in range(height)]
        plain["maps"] = {"ground": rows}
        used = {symbol for row in rows for symbol in row}
        plain["legend"] = {symbol: one for symbol, one in plain["legend"].items() if symbol in used}
        return plain


class AlikeDrawer(Drawer):
    """Draws levels with side rooms and chests that are alike but for their names."""

    def wing(self, plain: dict[str, Any]) -> dict[str, Any]:
        """A side room, its passages and what it has of its own; # stands for its number."""
        common, outside = self.items, self.rooms
        self.items = [*common, "own-#"] if self.maybe(0.3) else common
        room: dict[str, Any] = {}
        if self.maybe(0.7):
            room["items"] = dict.fromkeys(self.some(self.items), 1)
        if self.maybe(0.3):
            room["chests"] = {"bin-#": {"holds": self.some(self.items), "lock": self.lock(True)}}
        if self.maybe(0.3):
            room["acts"] = {"knock-#": self.act("repeat")}
        ways = []
        for number in range(2 if self.maybe(0.3) else 1):
            door: dict[str, Any] = {"name": f"way-{number}-#"}
            if self.maybe(0.7):
                door["lock"] = self.lock(False, (outside[0], "side-#"))
            if self.maybe(0.2):
                door["once"] = True
            if self.maybe(0.2):
                door["gate"] = self.condition()
            ways.append(
                {f"{self.random.choice(outside)} {'<->' if self.maybe(0.8) else '->'} side-#": door}
            )
        hall = {"pot-#": {"holds": self.some(self.items), "lock": self.lock(True)}}
        self.items = common
        return {"room": room, "ways": ways, "pots": hall if self.maybe(0.3) else {}}

    def make_odd(self, own: dict[str, Any], name: str) -> None:
        """Make a wing a little different from the others."""
        (way,) = own["ways"][0].values()
        changes: list[tuple[dict[str, Any], dict[str, Any]]] = [
            (way, {"steps": 2}),
            (way, {"gate": self.condition()}),
            (own["room"], {"items": dict.fromkeys(own["room"].get("items", {}), 2)}),
            (own["room"], {"acts": {f"nod-{name}": self.act("repeat")}}),
        ]
        changed, change = self.random.choice(changes)
        changed.update(change)

    def level(self) -> dict[str, Any]:
        plain = super().level()
        wing = json.dumps(self.wing(plain))
        kind = {"kind": "reward"} if self.maybe(0.5) else {"kind": "key", "use": "spent"}
        odd = self.random.randrange(9)  # mostly none of them
        for number in range(self.random.randint(2, 3)):
            own = json.loads(wing.replace("#", str(number)))
            if f"own-{number}" in json.dumps(own):
                plain["items"][f"own-{number}"] = dict(kind)
            if number == odd:
                self.make_odd(own, f"side-{number}")
            plain["rooms"][f"side-{number}"] = own["room"]
            plain["passages"] += own["ways"]
            if own["pots"]:
                plain["rooms"][self.rooms[0]].setdefault("chests", {}).update(own["pots"])
        return plain


class ChoiceDrawer:
    """Draws levels in which all there is to decide is what a spent key is spent on."""

    def __init__(self, random: Random) -> None:
        self.random = random

    def some(self) -> list[str]:
        kinds = ["iron", "oak", "brass", "grain"]
        return [self.random.choice(kinds) for _ in range(self.random.randint(1, 3))]

    def lock(self) -> str:
        return self.random.choice(
            ["iron", "iron", "oak", "brass", "iron or brass", "2 iron", "iron and oak"]
        )

    def level(self) -> dict[str, Any]:
        chance, choice = self.random.random, self.random.choice
        names = ["quay", "mill", "pit", "loft", "yard", "store", "race"]
        names = names[: self.random.randint(3, 7)]
        rooms: dict[str, Any] = {name: {} for name in names}
        for name, room in rooms.items():
            if chance() < 0.7:
                room["items"] = {one: {"count": self.random.randint(1, 2)} for one in self.some()}
            if chance() < 0.35:
                lock = {"lock": self.lock()} if chance() < 0.7 else {}
                room["chests"] = {f"bin-{name}": {"holds": self.some(), **lock}}
        passages: list[dict[str, Any]] = []
        for number, name in enumerate(names[1:], 1):
            door = {"lock": self.lock(), "name": f"door-{number}"} if chance() < 0.7 else {}
            passages.append({f"{choice(names[:number])} <-> {name}": door})
        if chance() < 0.4:
            a, b = self.random.sample(names, 2)
            door = {"lock": "iron", "name": "door-x"} if chance() < 0.6 else {}
            passages.append({f"{a} {choice(['<->', '<->', '->'])} {b}": door})
        return {
            "start": "quay", "goal": choice([names[-1], f"{names[-1]} and grain", "3 iron"]),
            "items": {"iron": {"use": "spent"}, "oak": {}, "grain": {"kind": "reward"},
                      "brass": {"use": choice(["spent", "kept"])}},
            "rooms": rooms, "passages": passages,
            "rules": {"finish": choice(["choice", "touch"])},
        }  # fmt: skip


class FreeDrawer:
    """Draws levels in which nearly nothing is lost: most keys are kept, and most asked is to have more."""

    def __init__(self, random: Random) -> None:
        self.random = random
        self.asked = ["iron", "oak", "low", "lit"]

    def condition(self) -> str:
        choice = self.random.choice
        one, other, last = choice(self.asked), choice(self.asked), choice(self.asked)
        return choice(
            [one, one, f"{one} or {other}", f"{one} and {other}", f"({one} or {other}) and {last}"]
        )

    def level(self) -> dict[str, Any]:
        chance, choice = self.random.random, self.random.choice
        names = ["quay", "mill", "pit", "loft", "yard", "store"][: self.random.randint(3, 6)]
        rooms: dict[str, Any] = {name: {} for name in names}
        passages: list[dict[str, Any]] = []
        for number, name in enumerate([*names[1:], *(names[1:] if chance() < 0.4 else [])], 1):
            kind = choice(["lock", "gate", "open", "open"])
            way = {kind: self.condition(), "name": f"way-{number}"} if kind != "open" else {}
            steps = {"steps": self.random.randint(0, 3)} if chance() < 0.2 else {}
            gives = {"gives": "oak"} if chance() < 0.04 else {}
            gives = {"sets": choice(["low", "lit"])} if chance() < 0.08 else gives
            others = [one for one in names[:number] if one != name] or [names[0]]
            passages.append({f"{choice(others)} <-> {name}": {**way, **steps, **gives}})
            if kind == "lock":
                self.asked.append(f"opened way-{number}")
        if chance() < 0.3:
            passages.append({f"{choice(names)} -> {choice(names)}": {}})
        for name, room in rooms.items():
            if chance() < 0.85:
                some = self.random.sample(["iron", "oak", "grain"], 2)
                room["items"] = some[: self.random.randint(1, 2)]
            if chance() < 0.4:
                locked = {"lock": self.condition()} if chance() < 0.7 else {}
                chest = {"holds": choice(["iron", "oak", "grain"]), **locked}
                room["chests"] = {f"bin-{name}": chest}
                self.asked.append(f"opened bin-{name}")
            if chance() < 0.4:
                needs = {"needs": self.condition()} if chance() < 0.5 else {}
                slow = {"steps": self.random.randint(0, 3)} if chance() < 0.3 else {}
                room["acts"] = {f"act-{name}": {"sets": choice(["low", "lit"]), **needs, **slow}}
                self.asked.append(f"done act-{name}")
        events = {}
        if chance() < 0.12:
            effect = choice(
                [{"sets": "lit"}, {"clears": "lit"}, {"gives": "oak"}, {"spends": "oak"}]
            )
            events["flood"] = {"when": choice([f"at {choice(names)}", self.condition()]), **effect}
        doors = [one.split()[1] for one in self.asked if one.startswith("opened ")]
        start: list[str] = []
        if doors and chance() < 0.2:  # before the first move
            events["gift"] = {"when": "lamp", "opens": choice(doors)}
            start = ["lamp"]
        ways = [fields for passage in passages for fields in passage.values()]
        again = any("gives" in one for one in (*ways, *events.values()))
        oak = {"max": self.random.randint(1, 3)} if again else {}
        plain = {
            "start": "quay", "goal": self.goal(names),
            "items": {"iron": {"use": choice(["kept", "kept", "spent"])}, "oak": oak, "grain": {"kind": "reward"}, "lamp": {}}, "flags": ["low", "lit"],
            "rooms": rooms, "passages": passages, "events": events,
            "rules": {"finish": choice(["choice", "touch"])}, "inventory": {"start": start},
        }  # fmt: skip
        things = [*names, "oak", "grain", *(one.split()[1] for one in self.asked if " " in one)]
        claim = choice(["required", "optional"])
        plain["expect"] = {claim: self.random.sample(things, 2)} if chance() < 0.4 else {}
        for _ in range(choice([0, 0, 0, 1, 1, 2])):
            self.add_something_else(plain)
        return plain

    def goal(self, names: list[str]) -> str:
        """A goal in one room, in one of several rooms, or anywhere."""
        choice, end, other = self.random.choice, names[-1], self.random.choice(names)
        return choice(
            [end, f"at {end} and grain", self.condition(), f"at {end} or at {other}",
             f"grain and (at {end} or at {other})", f"at {end} or {self.condition()}"]
        )  # fmt: skip

    def add_something_else(self, plain: dict[str, Any]) -> None:
        """Something by which it may be that not all is free any more."""
        choice = self.random.choice
        effect = choice(
            [{"sets": "lit"}, {"clears": "lit"}, {"flips": "low"}, {"gives": "oak"},
             {"loses": "oak"}, {"spends": "oak"}, {"opens": "way-1"}]
        )  # fmt: skip
        lock = choice(
            [{"relocks": True}, {"from": "quay"}, {"spends": "iron"}, {"steps": 2}, effect]
        )
        way = choice([{"once": True}, {"gate": f"not {self.condition()}"}, {"lock": None}, effect])
        room = choice([*plain["rooms"].values()])
        kinds = [one for one in ("items", "chests", "acts") if one in room]
        match choice(["item", "inventory", "rules", "lock", "way", "turn", *kinds]):
            case "item":
                more = [{"on-pickup": effect}, {"use": "spent"}, {"slots": 2}, {"slots": 0}]
                plain["items"][choice(["iron", "oak"])] |= choice(more)
            case "inventory":
                more = [{"slots": 2}, {"slots": 3}, {"drop": True}, {"start": ["iron"]}]
                plain["inventory"] |= choice(more)
            case "rules":
                plain["rules"]["pickup"] = "touch"
            case "lock":
                for passage in plain["passages"]:
                    for fields in passage.values():
                        if isinstance(fields.get("lock"), str):
                            fields["lock"] = {"needs": fields["lock"], **lock}
                            return
            case "way":
                (fields,) = choice(plain["passages"]).values()
                fields |= {"lock": self.condition(), "name": "way-x"} if "lock" in way else way
            case "turn":
                number = self.random.randrange(len(plain["passages"]))
                ((ends, fields),) = plain["passages"][number].items()
                plain["passages"][number] = {ends.replace("<->", "->"): fields}
            case "items":
                more = [{"count": 2}, {"count": 2, "pile": True}, {"needs": self.condition()}]
                room["items"] = {next(iter(room["items"])): choice(more)}
            case "chests" | "acts" as kind:
                (thing,) = room[kind].values()
                thing |= choice([effect, {"steps": 2}, effect])


def free_levels() -> st.SearchStrategy[dict[str, Any]]:
    """Levels in which nearly nothing is lost."""
    return st.randoms(use_true_random=False).map(lambda random: FreeDrawer(random).level())


def choice_levels() -> st.SearchStrategy[dict[str, Any]]:
    """Levels in which all there is to decide is what a spent key is spent on."""
    return st.randoms(use_true_random=False).map(lambda random: ChoiceDrawer(random).level())


def plain_levels() -> st.SearchStrategy[dict[str, Any]]:
    """Levels as plain data; a few of them cannot be read."""
    return st.randoms(use_true_random=False).map(lambda random: Drawer(random).level())


def alike_levels() -> st.SearchStrategy[dict[str, Any]]:
    """Levels with wings that are alike; a few of them cannot be read."""
    return st.randoms(use_true_random=False).map(lambda random: AlikeDrawer(random).level())


def map_levels() -> st.SearchStrategy[dict[str, Any]]:
    """Small levels on tile maps; a few of them cannot be read."""
    return st.randoms(use_true_random=False).map(lambda random: MapDrawer(random).map_level())


#: Levels of every kind.
ANY = st.one_of(plain_levels(), map_levels(), alike_levels(), choice_levels(), free_levels())
