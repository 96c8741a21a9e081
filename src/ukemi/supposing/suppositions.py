"""The suppositions that can be made of a level, each as edits of its file."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator
from typing import Any

from ..language.text.editing import REMOVED, Edit, Path
from ..language.text.level_document import LevelDocument, one_less, one_more
from ..level import LevelError, Passage, Problem
from ..level.asked import things_walked
from ..level.maps.tilemap import cell_of
from ..level.names import in_list, nearest
from ..level.room import Cell


class Suppositions(LevelDocument):
    """A level of which something is supposed.

    Args:
        document: The data of its file.
    """

    def edits(self, said: str) -> list[Edit]:
        """The edits that make a supposition true.

        Args:
            said: The supposition, such as ``open loft-door``.

        Raises:
            LevelError: It is none, or names something that the level does not have.
        """
        for pattern, edits in _FORMS.items():
            found = re.fullmatch(pattern, " ".join(said.split()))
            if found is not None:
                return list(edits(self, *found.groups()))
        forms = in_list([f"`{one}`" for one in FORMS], "or")
        raise refused(f"{said!r} cannot be supposed: write {forms}", said)

    # -- doors and locks ----------------------------------------------------------------------

    def open(self, name: str) -> Iterator[Edit]:
        """A door is open from the start, as if something had opened it."""
        self._named(name, "door", [door.thing for door, _ in self.level.doors()])
        events = self.document.get("events") or {}
        event = _new_name("opened-before", {*events, *self.level.things})
        yield Edit(("events", event), {"when": f"not opened {name}", "opens": name})

    def no_lock(self, name: str) -> Iterator[Edit]:
        """A door or chest has no lock."""
        locked = dict(self._locked())
        self._named(name, "door or chest with a lock of its own", locked)
        yield from self._without(locked[name])
        if name in {door.thing for door, _ in self.level.doors()}:
            yield from self._claimed_no_more(name)

    def no_gate(self, name: str) -> Iterator[Edit]:
        """A way asks for nothing."""
        gated = {
            passage.thing: (*self.entry_path(passage), "gate")
            for passage in self.passages
            if isinstance(self._fields(passage), dict) and "gate" in self._fields(passage)
        }
        gated |= {
            thing: ("legend", symbol, "gate")
            for thing, symbol, said in self._drawn_things()
            if "gate" in said
        }
        self._named(name, "way with a gate", gated)
        yield from self._without(gated[name])

    def shut(self, name: str) -> Iterator[Edit]:
        """A door or another way is shut for good: it is taken out, and a wall stands there on a map."""
        passages = [one for one in self.passages if one.thing == name]
        cells = {thing: symbol for thing, symbol, _ in self._drawn_things()}
        ways = [one.thing for one in things_walked(self.level)]  # an unnamed cell, too
        self._named(name, "door or way", [*(one.thing for one in self.passages), *cells, *ways])
        yield from self._claimed_no_more(name)
        if passages:
            yield from self._taken_out(passages, None)
            return
        walled = self._walled(name, cells.get(name))
        if walled is None:
            raise refused(f"{name!r} cannot be shut: it is not drawn in the level file", name)
        yield from walled

    # -- ways ---------------------------------------------------------------------------------

    def no_way(self, text: str) -> Iterator[Edit]:
        """There is no way from a room to another, or not the way of a name."""
        ends = re.fullmatch(r"(\S+) (->|<->) (\S+)", text)
        if ends is None:
            yield from self.shut(text)
            return
        a, arrow, b = ends.groups()
        for room in (a, b):
            self._room(room)
        wanted = {(a, b), (b, a)} if arrow == "<->" else {(a, b)}
        found = [one for one in self.passages if wanted & {*one.walks()}]
        if not found:
            known = [one.text for one in self.passages]
            raise refused(f"no way leads from {a} to {b}", text, nearest(text, known))
        yield from self._taken_out(found, wanted)

    def way(self, text: str) -> Iterator[Edit]:
        """There is a way from a room to another."""
        a, _, b = text.split(" ")
        for room in (a, b):
            self._room(room)
        passages = self.document.get("passages")
        if passages:
            yield Edit(("passages", len(passages)), text)
        else:
            yield Edit(("passages",), [text])

    # -- what lies and is carried -------------------------------------------------------------

    def carry(self, count: str | None, item: str) -> Iterator[Edit]:
        """The player carries more at the start; of several, each."""
        self._item(item)
        paths: list[Path] = [("inventory", "start")]
        players = self.document.get("players")
        if isinstance(players, dict):
            own = [name for name, fields in players.items() if "inventory" in (fields or {})]
            paths += [("players", name, "inventory") for name in own]
        for path in paths:
            yield from one_more(path, self.at(path), item, int(count or 1)) or ()

    def lies(self, count: str | None, item: str, place: str) -> Iterator[Edit]:
        """An item lies in a room, or is in a chest."""
        self._item(item)
        self._place(place)
        edits = self.with_more(place, item, int(count or 1))
        if edits is None:
            raise refused(
                f"{item!r} cannot be put in {place}: only one, on floor that is free", place
            )
        yield from edits

    def lies_not(self, item: str, place: str) -> Iterator[Edit]:
        """No unit of an item lies in a room, or is in a chest."""
        self._item(item)
        cell, path = self._place(place), self.holding(place)
        if path is None:
            over = self._symbols_of_nothing_but(item)
            edits = cell and self._drawn(cell.map, {(cell.column, cell.row): (over, self.floor)})
        else:
            said = self.at(path)
            edits = one_less(path, said, item)
            if isinstance(said, list):
                edits = [Edit(path, [one for one in said if one != item])] if item in said else None
            elif isinstance(said, dict) and item in said:
                edits = [Edit(path, {one: count for one, count in said.items() if one != item})]
        if not edits:
            raise refused(f"there is no {item} in {place}", item)
        yield from edits

    # -- flags, start, goal, players ----------------------------------------------------------

    def flag(self, name: str, word: str) -> Iterator[Edit]:
        """A flag is on, or off, at the start."""
        self._named(name, "flag", self.level.all_flags())
        said = self.document.get("flags")
        if isinstance(said, str | list):
            listed = [said] if isinstance(said, str) else said
            yield Edit(("flags",), {**dict.fromkeys(listed, False), name: word == "on"})
        else:
            yield Edit(("flags", name), word == "on")

    def knows(self, code: str) -> Iterator[Edit]:
        """The player knows a code that an act teaches."""
        acts = (act for room in self.level.rooms.values() for act in room.all_acts())
        self._named(code, "code that an act teaches", {act.teaches for act in acts if act.teaches})
        yield from self.flag(code, "on")

    def start(self, room: str) -> Iterator[Edit]:
        """The player starts in another room; of several, each."""
        yield from self._begun(room)
        players = self.document.get("players")
        for name, fields in players.items() if isinstance(players, dict) else ():
            if isinstance(fields, dict) and "start" in fields:
                yield Edit(("players", name, "start"), room)

    def _begun(self, room: str) -> Iterator[Edit]:
        there = cell_of(room)
        if there is None or there.map not in self.level.maps:
            self._room(room)
            there = None
        legend = self.document.get("legend") or {}
        starts = [symbol for symbol, said in legend.items() if said == "start"]
        symbols = [*starts, *([] if "@" in legend else ["@"])]
        for name, _, rows in self.drawings():
            cells: dict[tuple[int, int], tuple[list[str | None], str | None]] = {
                (column, row): ([*symbols], self.floor)
                for row, line in enumerate(rows, 1)
                for column, symbol in enumerate(line, 1)
                if symbol in symbols
            }
            if there is not None and name == there.map:
                cells[there.column, there.row] = (self._floors, symbols[0])
            drawn = self._drawn(name, cells) if cells else []
            if drawn is None:
                raise refused(f"the player cannot start in {room}: it is no free floor", room)
            yield from drawn
        if there is None:
            yield Edit(("start",), room)

    def goal(self, condition: str) -> Iterator[Edit]:
        """The level is finished by another condition."""
        yield Edit(("goal",), condition)

    def without(self, player: str) -> Iterator[Edit]:
        """One of several players does not play."""
        said = self.document.get("players")
        self._named(player, "player", list(self.level.players))
        left = [name for name in self.level.players if name != player]
        if len(left) == 1:  # who plays alone needs no name
            room, carried = self.level.begins(left[0])
            yield Edit(("players",), REMOVED)
            for field in ("hand-over", "shared"):
                if field in (self.document.get("inventory") or {}):
                    yield Edit(("inventory", field), REMOVED)
            if isinstance(said, dict) and "start" in (said[left[0]] or {}):
                yield from self._begun(room)
            if isinstance(said, dict) and "inventory" in (said[left[0]] or {}):
                yield Edit(("inventory", "start"), dict(carried))
        elif isinstance(said, dict):
            yield Edit(("players", player), REMOVED)
        else:
            yield Edit(("players",), left)

    # -- where things stand -------------------------------------------------------------------

    def _named(self, name: str, kind: str, known: Iterable[str]) -> None:
        known = [*known]
        if name not in known:
            raise refused(f"{name!r} is not the name of a {kind}", name, nearest(name, known))

    def _room(self, name: str) -> None:
        """Refuse a name that is none of a room."""
        self._named(name, "room", self.level.rooms)

    def _place(self, name: str) -> Cell | None:
        """The cell of a map that has no name of its own; ``None`` for a room or chest with a name."""
        cell = cell_of(name)
        if cell is not None and cell.map in self.level.maps:
            return cell
        chests = [one for room in self.level.rooms.values() for one in room.chests]
        self._named(name, "room or chest", [*self.level.rooms, *chests])
        return None

    def _item(self, name: str) -> None:
        if name not in self.level.items:
            near = nearest(name, self.level.items)
            raise refused(f"{name!r} is not the name of an item", name, near)

    def entry_path(self, passage: Passage) -> Path:
        """Where the fields of a passage stand in the file."""
        found = self.entry(passage)
        if found is None:
            return ()
        path, said = found
        return (*path, next(iter(said))) if isinstance(said, dict) else path

    def _fields(self, passage: Passage) -> Any:
        found = self.entry(passage)
        return next(iter(found[1].values())) if found and isinstance(found[1], dict) else None

    def _locked(self) -> Iterator[tuple[str, Path]]:
        """Each door and chest with a lock, and where the file says it."""
        for name, path, _ in self.locks():
            if path[0] not in ("locks", "legend"):
                yield name, path
        for thing, symbol, said in self._drawn_things():
            if "lock" in said:
                yield thing, ("legend", symbol, "lock")
            elif isinstance(said.get("chest"), dict) and "lock" in said["chest"]:
                yield thing, ("legend", symbol, "chest", "lock")

    def _without(self, path: Path) -> Iterator[Edit]:
        """The edits that take a field out; of a passage, with the fields if it is the only one."""
        *above, field = path
        fields = {key: value for key, value in self.at(tuple(above)).items() if key != field}
        if above[0] != "passages":
            yield Edit(path, REMOVED)
        else:
            yield Edit(tuple(above[:2]), {above[2]: fields} if fields else above[2])

    def _taken_out(
        self, passages: list[Passage], walks: set[tuple[str, str]] | None
    ) -> Iterator[Edit]:
        """The edits that take out some ways of passages; ``None`` for all. The last passage comes first."""
        found = [(self.entry(one), one) for one in passages]
        for place, passage in reversed(found):
            if place is None:
                continue
            left = [] if walks is None else [one for one in passage.walks() if one not in walks]
            if not left:
                yield Edit(place[0], REMOVED)
            else:
                text = f"{left[0][0]} -> {left[0][1]}"
                fields = self._fields(passage)
                yield Edit(place[0], {text: fields} if fields else text)

    def _claimed_no_more(self, name: str) -> Iterator[Edit]:
        """The edits that take a name out of what the level expects and accepts: there is no such thing then."""
        for field in ("expect", "accept"):
            claims = self.document.get(field)
            for claim, said in claims.items() if isinstance(claims, dict) else ():
                if said == name:
                    yield Edit((field, claim), REMOVED)
                elif isinstance(said, list) and name in said:
                    left = [one for one in said if one != name]
                    yield Edit((field, claim), left or REMOVED)
                elif claim == "order" and isinstance(said, list):
                    yield Edit((field, claim), [one for one in said if name not in one] or REMOVED)

    # -- maps ---------------------------------------------------------------------------------

    def _drawn_things(self) -> Iterator[tuple[str, str, dict[str, Any]]]:
        """Each thing that the legend describes and that stands on one cell: its symbol, and what is said."""
        drawn = "".join(self.drawn_rows())
        for symbol, said in (self.document.get("legend") or {}).items():
            if not isinstance(said, dict) or drawn.count(symbol) != 1:
                continue
            inner = [said, *(one for one in said.values() if isinstance(one, dict))]
            for name in (one["name"] for one in inner if isinstance(one.get("name"), str)):
                yield name, symbol, said

    def _symbols_of_nothing_but(self, item: str) -> list[str | None]:
        """The symbols that stand for some units of an item alone."""
        found: list[str | None] = []
        for symbol, said in (self.document.get("legend") or {}).items():
            items = next(iter(said.values())) if isinstance(said, dict) and len(said) == 1 else None
            if items and said.keys() <= {"item", "items"}:
                found += (
                    [symbol] if {item} == {*([items] if isinstance(items, str) else items)} else []
                )
        return found

    def _walled(self, name: str, symbol: str | None) -> list[Edit] | None:
        """The edit that draws a wall where a thing stands."""
        legend = self.document.get("legend") or {}
        wall = next((one for one, said in legend.items() if said == "wall"), None)
        wall = wall if "#" in legend else "#"
        cell = cell_of(name)
        if symbol is not None:
            for floor, _, rows in self.drawings():
                for row, line in enumerate(rows, 1):
                    if symbol in line:
                        at = {(line.index(symbol) + 1, row): ([symbol], wall)}
                        edits = self._drawn(floor, at)
                        return edits and [*edits, Edit(("legend", symbol), REMOVED)]
        if cell is None or cell.map not in self.level.maps:
            return None
        over = self.level.maps[cell.map].symbol(cell.column, cell.row)
        return self._drawn(cell.map, {(cell.column, cell.row): ([over], wall)})


def _new_name(name: str, known: Iterable[str]) -> str:
    known, new, number = {*known}, name, 1
    while new in known:
        number += 1
        new = f"{name}-{number}"
    return new


def refused(message: str, text: str, near: str | None = None) -> LevelError:
    """The error of a supposition that cannot be made.

    Args:
        message: Why.
        text: The text that is wrong.
        near: The nearest name that would have been right.
    """
    return LevelError([Problem("bad-value", f"suppose: {message}", None, text, near)])


#: How suppositions are written, as messages and pages list them.
FORMS = (
    "open DOOR", "shut DOOR", "no lock DOOR", "no gate WAY", "carry N ITEM", "ITEM in ROOM", "no ITEM in ROOM",
    "FLAG on", "FLAG off", "start ROOM", "no way A -> B", "way A -> B", "goal CONDITION", "knows CODE",
    "without PLAYER",
)  # fmt: skip

#: Each form as a pattern, and the method that finds its edits.
_FORMS: dict[str, Callable[..., Iterable[Edit]]] = {
    r"goal (.+)": Suppositions.goal,
    r"no way (.+)": Suppositions.no_way,
    r"way (\S+ (?:->|<->) \S+)": Suppositions.way,
    r"no lock (.+)": Suppositions.no_lock,
    r"no gate (.+)": Suppositions.no_gate,
    r"no (\S+) in (\S+)": Suppositions.lies_not,
    r"carry (?:([1-9][0-9]{0,5}) )?(\S+)": Suppositions.carry,
    r"(?:([1-9][0-9]{0,5}) )?(\S+) in (\S+)": Suppositions.lies,
    r"(\S+) (on|off)": Suppositions.flag,
    r"knows (\S+)": Suppositions.knows,
    r"start (\S+)": Suppositions.start,
    r"without (\S+)": Suppositions.without,
    r"open (.+)": Suppositions.open,
    r"shut (.+)": Suppositions.shut,
}
