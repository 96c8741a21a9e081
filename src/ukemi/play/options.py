"""What the player can do in a position, each with the words to ask for it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from heapq import heappop, heappush
from typing import Any

from ..level import Level
from ..rules import PLACE, Move, Position, Rules
from ..rules.words import counted, move_words, some


@dataclass(frozen=True, eq=False)
class Option:
    """Something the player can do: one move, or several walks over free ground.

    Attributes:
        moves: The moves.
        after: The position they lead to.
        asked: The words to type for it, such as ``take iron-key``.
        words: What it is, such as ``unlock pit-door with iron-key``.
    """

    moves: tuple[Move, ...]
    after: Position
    asked: str
    words: str

    @property
    def more(self) -> str:
        """What the words say beyond what is asked for: how far it is, what it spends."""
        plain = self.asked.replace("go ", "walk to ", 1)
        return (
            self.words.removeprefix(plain) if self.words.startswith(plain) else f"   ({self.words})"
        )

    @property
    def steps(self) -> int:
        """What it costs."""
        return sum(move.cost for move in self.moves)

    @property
    def what(self) -> dict[str, Any]:
        """Its last move as reports write it."""
        return self.moves[-1].what

    def __repr__(self) -> str:
        return f"<Option {self.asked}>"


class Choices:
    """Finds the options of positions.

    Args:
        level: The level.
        rules: Its rules.
    """

    def __init__(self, level: Level, rules: Rules) -> None:
        self.level = level
        self.rules = rules
        self._passages = {passage.name: passage for passage in level.passages}
        self._lying: dict[str, list[tuple[str, int]]] = {}
        for variable, number in rules.index.items():
            if variable[0] in ("lying", "put-down"):
                self._lying.setdefault(variable[1], []).append((variable[2], number))

    def options(self, position: Position) -> list[Option]:
        """Everything the player can do: what is at hand first, then where to walk.

        On a tile map the walks offered are those to where there is something, each as one.

        Args:
            position: The position.

        Returns:
            The options; no two of them are asked for by the same words.
        """
        found: list[Option] = []
        for move, after in self.rules.successors(position):
            if self._merged(move):
                continue
            found.append(Option((move,), after, self.asked(move, position, after), ""))
        found += self._map_walks(position)
        named: dict[str, list[Option]] = {}
        for option in found:
            named.setdefault(option.asked, []).append(option)
        unlike: dict[str, Option] = {}
        for option in found:
            told = self._told(option, len(named[option.asked]) > 1)
            unlike.setdefault(told.asked, told)  # a way may lead to the same in two moves
        return sorted(unlike.values(), key=lambda one: one.what["do"] == "walk")

    def _merged(self, move: Move) -> bool:
        return move.what["do"] == "walk" and self._passages[move.what["name"]].on_map

    def asked(self, move: Move, position: Position, after: Position) -> str:
        """The words to type for a move, where no other is asked for alike."""
        what = move.what
        match what["do"]:
            case "walk":
                return f"go {what['to']}"
            case "take":
                lying = self.rules.index.get(("lying", what["in"], what["item"]))
                again = lying is None or after[lying] == position[lying]
                return f"take {what['item']}" + (" again" if again else "")
            case "act":
                return f"do {what['name']}"
            case "finish":
                return "finish"
        return f"{what['do']} {what.get('name') or what['item']}"

    def _told(self, option: Option, shared: bool) -> Option:
        """An option with its words; what it spends tells it from others asked for alike."""
        what, asked = option.what, option.asked
        words = move_words(what)
        if what["do"] == "walk":
            words += f" ({option.steps} steps)" if option.steps > 1 else ""
            things = self.things_at(option) if self._merged(option.moves[-1]) else []
            things = [thing for thing in things if thing != what["to"]]
            words += f": {some(things)}" if things else ""
        if shared and what["do"] == "walk":
            asked = f"go {what['to']} by {what['name']}"
        if shared and "with" in what:
            asked += f" with {counted(what['with']) or 'nothing'}"
        if asked.endswith(" again"):
            words += " (put down)"
        return Option(option.moves, option.after, asked, words)

    # -- walking ------------------------------------------------------------------------------

    def reachable(self, position: Position) -> dict[int, Option]:
        """Where walking leads without asking anything of the player on the way.

        A walk goes on over free ground only: what changes anything but where the player is, one-way
        passages, and cells of a map with a gate, a door or an effect end it, so that nobody is
        walked through what cannot be walked back. Dijkstra's search.

        Args:
            position: The position.

        Returns:
            For each room, by number, the cheapest walk there.
        """
        free: dict[int, tuple[int, tuple[Move, ...], Position]] = {
            position[PLACE]: (0, (), position)
        }
        ends: dict[int, tuple[int, tuple[Move, ...], Position]] = {}
        done: set[int] = set()
        ahead = [(0, position[PLACE])]
        while ahead:
            cost, place = heappop(ahead)
            if place in done:
                continue
            done.add(place)
            _, moves, here = free[place]
            for move, after in self.rules.successors(here):
                if move.what["do"] != "walk":
                    continue
                reached, there = cost + move.cost, after[PLACE]
                goes_on = after[PLACE + 1 :] == position[PLACE + 1 :] and self._free(move)
                known = free if goes_on else ends
                if there not in known or reached < known[there][0]:
                    known[there] = (reached, (*moves, move), after)
                    if goes_on:
                        heappush(ahead, (reached, there))
        return {
            place: Option(moves, after, f"go {self.rules.places[place]}", "")
            for place, (_, moves, after) in {**ends, **free}.items()
            if moves
        }

    def _free(self, move: Move) -> bool:
        passage = self._passages[move.what["name"]]
        return passage.two_way and passage.part_of is None

    def _map_walks(self, position: Position) -> Iterator[Option]:
        """The walks over a tile map: of those to the same thing, the shortest."""
        if not any(self._merged(move) for move in self.rules.moves_at(position[PLACE])):
            return
        told: set[str] = set()
        for option in sorted(self.reachable(position).values(), key=lambda one: one.steps):
            if not all(self._merged(move) for move in option.moves):
                continue  # offered already, or once the first passage has been walked
            interests = self._interests(option.after)
            if set(interests) - told or (
                option.after[PLACE + 1 :] != position[PLACE + 1 :]  # it changes something
            ):
                told.update(interests)
                yield option

    def _interests(self, position: Position) -> list[str]:
        """What there is at a place, by name: what a player would walk there for."""
        place = position[PLACE]
        room = self.level.rooms[self.rules.places[place]]
        found = [] if room.cell is not None and str(room.cell) == room.name else [room.name]
        lying = self._lying.get(room.name, [])
        found += [f"{room.name}/{item}" for item, number in lying if position[number]]
        for move in self.rules.moves_at(place):
            match move.what["do"]:
                case "unlock" | "open":
                    if not position[self.rules.index["opened", move.what["name"]]]:
                        found.append(move.what["name"])
                case "act":
                    found.append(move.what["name"])
                case "walk":
                    passage = self._passages[move.what["name"]]
                    if passage.part_of is not None or not passage.on_map:
                        found.append(passage.thing)
        return list(dict.fromkeys(found))

    def things_at(self, option: Option) -> list[str]:
        """What there is where a walk over a map leads, in the words of the level."""
        return [name.partition("/")[2] or name for name in self._interests(option.after)]
