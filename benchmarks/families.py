"""Families of levels of growing size, for the benchmarks of the search."""

from __future__ import annotations

import json
from random import Random

import ukemi

NAMES = ["ada", "ben", "cy"]


def hall(n: int) -> ukemi.Level:
    """n kept keys in a hall, n doors to n side rooms with a reward each; the goal is in the last."""
    level = ukemi.Level(f"hall of {n}")
    level.room("hall")
    for i in range(n):
        level.item(f"key-{i}")
        level.item(f"ledger-{i}", kind="reward")
        level.put("hall", f"key-{i}")
        level.room(f"side-{i}", items=f"ledger-{i}")
        level.passage(f"hall <-> side-{i}", lock=f"key-{i}", name=f"door-{i}")
    level.set_start("hall")
    level.set_goal(f"side-{n - 1}")
    return level


def chain(n: int) -> ukemi.Level:
    """n rooms in a row, each with the kept key to the next."""
    rooms = {f"room-{i}": {"items": [f"key-{i + 1}"] if i < n - 1 else []} for i in range(n)}
    passages = [
        {f"room-{i - 1} <-> room-{i}": {"lock": f"key-{i}", "name": f"door-{i}"}}
        for i in range(1, n)
    ]
    plain = {
        "name": f"chain of {n}", "start": "room-0", "goal": f"room-{n - 1}",
        "items": {f"key-{i}": {} for i in range(1, n)}, "rooms": rooms, "passages": passages,
    }  # fmt: skip
    return ukemi.loads(json.dumps(plain))


def late_choice(n: int) -> ukemi.Level:
    """A chain with a key near its end that opens one of two doors: of all in it, one thing to decide."""
    level = chain(n)
    level.name = f"late choice of {n}"
    level.item("iron-key", use="spent")
    level.put(f"room-{n - 9}", "iron-key")
    level.room("store")
    level.room("mill")
    level.passage(f"room-{n - 5} <-> store", lock="iron-key", name="store-door")
    level.passage(f"room-{n - 3} <-> mill", lock="iron-key", name="mill-door")
    level.set_goal("mill")
    return level


def hub(m: int, alike: bool = True) -> ukemi.Level:
    """m doors that spend one kind of key: a third of the rooms return one, one is the goal.

    Where they are not alike, the other rooms hold a reward of their own each.
    """
    level = ukemi.Level(f"hub of {m}{'' if alike else ', not alike'}")
    level.item("iron-key", use="spent")
    level.room("hub", items={"iron-key": 3})
    for i in range(m):
        if i % 3 == 0 and i < m - 1:
            level.room(f"side-{i}", items="iron-key")
        elif alike or i == m - 1:
            level.room(f"side-{i}")
        else:
            level.item(f"ledger-{i}", kind="reward")
            level.room(f"side-{i}", items=f"ledger-{i}")
        level.passage(f"hub <-> side-{i}", lock="iron-key", name=f"door-{i}")
    level.set_start("hub")
    level.set_goal(f"side-{m - 1}")
    return level


def drops(k: int, optional: bool = True) -> ukemi.Level:
    """k one-way drops; above each a key that is needed at the bottom, and one to a reward there."""
    level = ukemi.Level(f"{k} drops")
    level.room("level-0")
    for i in range(k):
        level.item(f"key-{i}")
        level.put(f"level-{i}", f"key-{i}")
        level.item(f"spare-{i}")
        level.put(f"level-{i}", f"spare-{i}")
        level.room(f"level-{i + 1}")
        level.passage(f"level-{i} -> level-{i + 1}", name=f"drop-{i}")
    for i in range(k):
        level.room(f"cell-{i}")
        before = f"level-{k}" if i == 0 else f"cell-{i - 1}"
        level.passage(f"{before} <-> cell-{i}", lock=f"key-{i}", name=f"door-{i}")
        level.item(f"ledger-{i}", kind="reward")
        level.room(f"nook-{i}", items=f"ledger-{i}")
        level.passage(f"level-{k} <-> nook-{i}", lock=f"spare-{i}", name=f"nook-door-{i}")
    level.set_start("level-0")
    level.set_goal(f"cell-{k - 1}")
    level.expect(stuck="possible", rewards="any")
    return level


def switches(n: int) -> ukemi.Level:
    """n independent switches on a loop of gates: 2^n settings, each with a choice that is real."""
    level = ukemi.Level(f"{n} switches")
    for i in range(n):
        level.room(f"room-{i}")
        level.switch(f"room-{i}", f"switch-{i}", flips=f"lamp-{i}")
    for i in range(n):
        gate = f"lamp-{i} or not lamp-{(i + 1) % n} or lamp-{(i + 2) % n}"
        level.passage(f"room-{i} <-> room-{(i + 1) % n}", name=f"gate-{i}")
        level.passages[-1].gate = ukemi.level.parse_condition(gate)
    level.room("loft")
    level.passage(f"room-{n - 1} <-> loft", name="loft-gate")
    every = " and ".join(f"lamp-{i}" for i in range(n))
    level.passages[-1].gate = ukemi.level.parse_condition(every)
    level.set_start("room-0")
    level.set_goal("loft")
    return level


def hands(slots: int, items: int = 8, rooms: int = 10) -> ukemi.Level:
    """A few slots, with dropping: items to carry through a ring of rooms, doors that need them."""
    level = ukemi.Level(f"{slots} slots")
    level.set_inventory(slots=slots, drop=True)
    for i in range(rooms):
        level.room(f"room-{i}")
    for i in range(items):
        level.item(f"tool-{i}")
        level.put(f"room-{i % 4}", f"tool-{i}")
    for i in range(rooms - 1):
        if i % 2:
            level.passage(f"room-{i} <-> room-{i + 1}", lock=f"tool-{i % items}", name=f"door-{i}")
        else:
            level.passage(f"room-{i} <-> room-{i + 1}")
    level.set_start("room-0")
    level.set_goal(f"room-{rooms - 1}")
    return level


def tower(side: int = 300, doors: int = 40, seed: int = 1) -> ukemi.Level:
    """A tile map of walled strips, each door with a kept key that lies before it."""
    random = Random(seed)
    rows = [["." for _ in range(side)] for _ in range(side)]
    for n in range(side):
        rows[0][n] = rows[-1][n] = rows[n][0] = rows[n][-1] = "#"
    strip = (side - 2) // (doors + 1)
    legend = {}
    for n in range(doors):
        column = (n + 1) * strip
        for row in range(1, side - 1):
            rows[row][column] = "#"
        rows[random.randrange(1, side - 1)][column] = chr(0x100 + n)
        place = random.randrange(max(0, n - 3), n + 1)
        rows[random.randrange(2, side - 2)][place * strip + random.randrange(1, strip)] = chr(
            0x200 + n
        )
        legend[chr(0x100 + n)] = {"lock": f"key-{n}", "name": f"door-{n}"}
        legend[chr(0x200 + n)] = {"item": f"key-{n}"}
    rows[1][1], rows[-2][-2] = "@", "Z"
    level = ukemi.Level(f"tile map {side}x{side}, {doors} doors")
    for n in range(doors):
        level.item(f"key-{n}")
    for symbol, fields in legend.items():
        level.tile(symbol, **fields)
    level.tile("Z", room="far")
    level.map("ground", "\n".join("".join(row) for row in rows))
    level.set_goal("far")
    return level


def designed(n: int, seed: int, players: int = 1) -> ukemi.Level:
    """n rooms as designers build them: added one at a time to a recent one, half of the new ways shut.

    What opens a way lies in a room that was there before: a key of its own, the small spent key of
    the wing, a tool that a gate asks for, a switch, or a key in a chest that takes a small key. Some
    loops and one-way shortcuts; a reward in every third room, some in chests.
    """
    random = Random(1_000 * n + seed)
    items: dict[str, dict[str, str]] = {}
    rooms: dict[str, dict[str, dict[str, object]]] = {"room-0": {}}
    passages: list[object] = []

    def put(item: str, room: int, **fields: str) -> None:
        items.setdefault(item, dict(fields))
        lying = rooms[f"room-{room}"].setdefault("items", {})
        lying[item] = int(str(lying.get(item, 0))) + 1

    def small(room: int) -> str:
        return f"small-{room // 12}"

    for i in range(1, n):
        rooms[f"room-{i}"] = {}
        base = max(0, i - 1 - int(random.expovariate(0.5)))
        way, fields = f"room-{base} <-> room-{i}", {"name": f"way-{i}"}
        if random.random() < 0.5:
            before = random.randint(max(0, i - 8), i - 1)
            kind = random.choice(["key", "small", "small", "tool", "switch", "chest"])
            if kind == "key":
                put(f"key-{i}", before, kind="key")
                fields["lock"] = f"key-{i}"
            elif kind == "small":
                put(small(i), before, kind="key", use="spent")
                fields["lock"] = small(i)
            elif kind == "tool":
                put(f"tool-{i}", before, kind="tool")
                fields["gate"] = f"tool-{i}"
            elif kind == "switch":
                flag = f"flag-{i // 6}"
                rooms[f"room-{before}"].setdefault("switches", {})[f"switch-{i}"] = {"flips": flag}
                fields["gate"] = flag if random.random() < 0.6 else f"not {flag}"
            else:
                items[f"key-{i}"] = {"kind": "key"}
                put(small(i), random.randint(max(0, i - 8), i - 1), kind="key", use="spent")
                chest: dict[str, object] = {"holds": [f"key-{i}"], "lock": small(i)}
                rooms[f"room-{before}"].setdefault("chests", {})[f"chest-{i}"] = chest
                fields["lock"] = f"key-{i}"
        passages.append({way: fields})
        if random.random() < 0.15 and i > 2:
            other = random.randrange(max(0, i - 10), i)
            one_way = random.random() < 0.5
            passages.append(f"room-{i} {'->' if one_way else '<->'} room-{other}")
        if i % 3 == 0:
            reward = f"ledger-{i}"
            if random.random() < 0.3:
                items[reward] = {"kind": "reward"}
                put(small(i), random.randint(max(0, i - 8), i - 1), kind="key", use="spent")
                held: dict[str, object] = {"holds": [reward], "lock": small(i)}
                rooms[f"room-{i}"].setdefault("chests", {})[f"bin-{i}"] = held
            else:
                put(reward, i, kind="reward")
    plain = {
        "name": f"{n} rooms, seed {seed}", "start": "room-0", "goal": f"room-{n - 1}",
        "items": items, "rooms": rooms, "passages": passages,
    }  # fmt: skip
    if players > 1:
        plain |= {"name": f"{plain['name']}, {players} players", "players": NAMES[:players]}
    return ukemi.loads(json.dumps(plain))


def ring(n: int) -> ukemi.Level:
    """n switches on a ring of rooms; the gate at its end asks for a pattern of them."""
    rooms = {f"room-{i}": {"switches": {f"switch-{i}": {"flips": f"lamp-{i}"}}} for i in range(n)}
    passages: list[object] = [f"room-{i} <-> room-{(i + 1) % n}" for i in range(n)]
    pattern = " and ".join(f"{'' if i % 3 else 'not '}lamp-{i}" for i in range(n))
    passages.append({f"room-{n - 1} <-> loft": {"gate": pattern, "name": "loft-gate"}})
    plain = {
        "name": f"ring of {n}", "start": "room-0", "goal": "loft",
        "rooms": {**rooms, "loft": {}}, "passages": passages,
    }  # fmt: skip
    return ukemi.loads(json.dumps(plain))


def year(n: int, rewards: bool = True) -> ukemi.Level:
    """A campaign of n small levels in a row: two small doors, one small key, a switch, a side room."""
    campaign = ukemi.Campaign("Year")
    for number in range(n):
        level = ukemi.Level(f"Level {number}")
        level.item("lantern", kind="tool")
        level.item("small", use="spent", max=2)
        level.item(f"ledger-{number}", kind="reward" if rewards else "tool")
        level.room("hall", items=["small", "lantern"] if not number else ["small"])
        level.room("store", items=f"ledger-{number}")
        for room in ("loft", "yard"):
            level.room(room)
        level.switch("hall", "sluice", flips="low-water")
        level.passage("hall <-> store", lock="small", name="store-door")
        level.passage("hall <-> loft", lock="small", name="loft-door")
        level.passage("hall <-> yard", gate="low-water")
        level.passage("yard <-> loft", gate="lantern")
        level.set_start("hall")
        level.set_goal("loft")
        campaign.level(f"level-{number}", level, brings="lantern")
    return campaign.joined()


def fork(n: int) -> ukemi.Level:
    """A campaign of four levels of n rooms, as designers build them: the second or the third leads to the last."""
    campaign = ukemi.Campaign("Fork")
    for name, seed in (("landing", 3), ("mill", 8), ("weir", 21), ("tower", 30)):
        campaign.level(name, designed(n, seed))
    for way in ("landing -> mill", "landing -> weir", "mill -> tower", "weir -> tower"):
        campaign.way(way)
    return campaign.joined()
