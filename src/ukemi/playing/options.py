"""The options of the player in a position, each with the words for it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from ..graph import CheapestWays
from ..level import Level, Passage
from ..level.names import in_list
from ..level.room import Act, Chest, Placement
from ..rules import Move, Position, Rules
from ..rules.words import counted, move_words, some
from ..values import dataclass
from .trying import Senses


@dataclass(frozen=True, eq=False)
class Option:
    """Something the player can do: one move, or several walks over free ground.

    Attributes:
        moves: The moves.
        after: The position they lead to.
        asked: The words to type for it, such as ``take iron-key``.
        words: The words for it, such as ``unlock pit-door with iron-key``.
        takes: The items that a walk takes by touch at its end.
    """

    moves: tuple[Move, ...]
    after: Position
    asked: str
    words: str
    takes: tuple[str, ...] = ()

    @property
    def more(self) -> str:
        """Remarks besides the words: the distance, the spent items."""
        plain = self.asked.replace("go ", "walk to ", 1)
        return (
            self.words.removeprefix(plain) if self.words.startswith(plain) else f"   ({self.words})"
        )

    @property
    def steps(self) -> int:
        """The cost."""
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
        senses: What the player sees, if walks to anything else are not to be offered.
    """

    def __init__(self, level: Level, rules: Rules, senses: Senses | None = None) -> None:
        self.level = level
        self.rules = rules
        self._senses = senses
        self.player: str | None = next(iter(level.players), None)
        self._passages = {passage.name: passage for passage in level.passages}
        # The moves of each player are the same, one after another, as those of the first.
        first = next(iter(level.players), None)
        self._block = sum(move.what.get("by") == first for move in rules.moves) if first else 0
        self._lying: dict[str, list[tuple[str, int]]] = {}
        for variable, number in rules.index.items():
            if variable[0] in ("lying", "put-down"):
                self._lying.setdefault(variable[1], []).append((variable[2], number))

    def options(self, position: Position) -> list[Option]:
        """Everything the player can do: what is at hand first, then where to walk.

        On a tile map, a walk to each place with something on it is offered as one option.

        Returns:
            The options; each has words of its own.
        """
        found: list[Option] = []
        for move, after in self.rules.successors(position):
            if self._merged(move) or not self.theirs(move):
                continue
            takes = self._taken(position, after) if move.what["do"] == "walk" else ()
            found.append(Option((move,), after, self.asked(move, position, after), "", takes))
        found += self._map_walks(position)
        named: dict[str, list[Option]] = {}
        for option in found:
            named.setdefault(option.asked, []).append(option)
        unlike: dict[str, Option] = {}
        for option in found:
            shown = self._in_words(option, len(named[option.asked]) > 1)
            other = unlike.setdefault(shown.asked, shown)
            if other.after != shown.after:  # two moves that are called the same
                number = 2 + sum(one.startswith(f"{shown.asked} #") for one in unlike)
                asked = f"{shown.asked} #{number}"
                unlike[asked] = Option(shown.moves, shown.after, asked, shown.words, shown.takes)
        return sorted(unlike.values(), key=lambda one: one.what["do"] == "walk")

    def moves_at(self, place: int) -> list[Move]:
        """The moves of the player whose turn it is that could be made in a room."""
        players = list(self.level.players)
        if not players or self.player == players[0]:
            return [move for move in self.rules.moves_at(place) if self.theirs(move)]
        ahead = players.index(str(self.player)) * self._block
        return [
            self.rules.moves[move.number + ahead]
            for move in self.rules.moves_at(place)
            if move.what.get("by") == players[0]
        ]

    def theirs(self, move: Move) -> bool:
        """Whether a move is one of the player whose turn it is."""
        return move.what.get("by", self.player) == self.player

    def _merged(self, move: Move) -> bool:
        """Whether a move is a walk over a map, which is offered as part of a longer one."""
        return move.what["do"] == "walk" and self._passages[move.what["name"]].on_map

    def asked(self, move: Move, position: Position, after: Position) -> str:
        """The words to type for a move; several moves may have the same."""
        what = move.what
        match what["do"]:
            case "walk":
                return f"go {what['to']}"
            case "take":
                lying = self.rules.index.get(("lying", what["in"], what["item"]))
                # What was put down has a word of its own where such a thing lies there besides.
                again = lying is not None and 0 < after[lying] == position[lying]
                return f"take {what['item']}" + (" again" if again else "")
            case "act":
                return f"do {what['name']}"
            case "finish":
                return "finish"
            case "give":
                return f"give {what['item']} to {what['to']}"
        return f"{what['do']} {what.get('name') or what['item']}"

    def _in_words(self, option: Option, shared: bool) -> Option:
        """Return an option with its words; its spent items distinguish it from others with the same
        words.
        """
        what, asked = option.what, option.asked
        words = move_words({key: one for key, one in what.items() if key != "by"})
        if what["do"] == "walk":
            words += f" ({option.steps} steps)" if option.steps > 1 else ""
            things = self.things_ahead(option)
            words += f": {some(things)}" if things else ""
            words += f", taking {in_list(option.takes)}" if option.takes else ""
        if shared and what["do"] == "walk":
            asked = f"go {what['to']} by {what['name']}"
        if shared and what["do"] == "finish":
            asked = words  # its further way distinguishes it from others
        if shared and "with" in what:
            asked += f" with {counted(what['with']) or 'nothing'}"
        if asked.endswith(" again"):
            words += " (put down)"
        return Option(option.moves, option.after, asked, words, option.takes)

    def _taken(self, before: Position, after: Position) -> tuple[str, ...]:
        """The items that a walk takes by touch in the room that it leads to."""
        room = self.rules.places[after[self.rules.place_of(self.player)]]
        lying = self._lying.get(room, [])
        return tuple(item for item, number in lying if after[number] < before[number])

    # -- walking ------------------------------------------------------------------------------

    def reachable(self, position: Position) -> dict[int, Option]:
        """Where walking leads without asking anything of the player on the way.

        A walk continues only if it changes nothing but the player's room and can be walked back at once:
        it never takes a player past a point of no return. Dijkstra's search.

        Returns:
            For each room, by number, the cheapest walk there.
        """
        free, ends = self._walks(position)
        return ends | free

    def _walks(self, position: Position) -> tuple[dict[int, Option], dict[int, Option]]:
        """The cheapest walks that can be walked back, and those whose last passage cannot be."""
        stands = self.rules.place_of(self.player)
        walks: dict[int, list[tuple[Move, Position]]] = {}

        def walks_from(here: Position) -> list[tuple[Move, Position]]:
            place = here[stands]
            if place not in walks:
                walks[place] = self.walks_from(here)
            return walks[place]

        def goes_on(here: Position, after: Position) -> bool:
            return _only_walked(position, after, stands) and here in (
                back for _, back in walks_from(after)
            )

        def leads(here: Position) -> Iterator[tuple[Position, int, Move]]:
            for move, after in walks_from(here):
                if goes_on(here, after):
                    yield after, move.cost, move
                else:
                    reached, there = ways.costs[here] + move.cost, after[stands]
                    if there not in ends or reached < ends[there][0]:
                        ends[there] = (reached, (*ways.to(here), move), after)

        ends: dict[int, tuple[int, tuple[Move, ...], Position]] = {}
        ways = CheapestWays(position, leads)
        free = {here[stands]: (0, tuple(ways.to(here)), here) for here in ways}
        both = [
            {
                place: self._in_words(
                    Option(
                        moves,
                        after,
                        f"go {self.rules.places[place]}",
                        "",
                        self._taken(position, after),
                    ),
                    False,
                )
                for place, (_, moves, after) in known.items()
                if moves
            }
            for known in (free, ends)
        ]
        return both[0], both[1]

    def _map_walks(self, position: Position) -> Iterator[Option]:
        """The shortest walk over a tile map to each thing."""
        here = self.moves_at(position[self.rules.place_of(self.player)])
        if not any(self._merged(move) for move in here):
            return
        seen = set(self._interests(position))
        free, ends = self._walks(position)
        for option in sorted(free.values(), key=lambda one: one.steps):
            interests = self._interests(option.after)
            if self._on_map(option) and interests.keys() - seen:
                seen.update(interests)
                yield option
        for place, option in ends.items():
            if self._on_map(option) and place not in free:
                yield option

    def _on_map(self, option: Option) -> bool:
        """Whether a walk is over a map alone; other passages are offered as what they are."""
        return all(self._merged(move) for move in option.moves)

    def _interests(self, position: Position) -> dict[tuple[str, ...], str]:
        """Return the things in a place that a player may want to walk to, with their names."""
        place = position[self.rules.place_of(self.player)]
        room = self.level.rooms[self.rules.places[place]]
        found: dict[tuple[str, ...], str] = {}
        if room.cell is None or str(room.cell) != room.name:
            found["room", room.name] = room.name
        for item, number in self._lying.get(room.name, []):
            if position[number] and self._sees(position, room.items.get(item)):
                found["item", room.name, item] = item
        for move in self.moves_at(place):
            if not self._sees(position, self._part(move)):
                continue
            match move.what["do"]:
                case "unlock" | "open" as verb:
                    if not position[self.rules.index["opened", move.what["name"]]]:
                        found[verb, move.what["name"]] = move.what["name"]
                case "act":
                    found["act", move.what["name"]] = move.what["name"]
                case "walk":
                    passage = self._passages[move.what["name"]]
                    if passage.part_of is not None or not passage.on_map:
                        found["walk", passage.thing] = passage.thing
                case "finish":
                    if self.rules.after(position, move) is not None:
                        found["finish",] = "finish"
        return found

    def _part(self, move: Move) -> Act | Chest | Passage | None:
        """The part of the level that a move uses, if it can be hidden."""
        name = move.what.get("name", "")
        if move.what["do"] == "walk":
            return self._passages[name]
        part = self.level.things[name].what if name in self.level.things else None
        return part if isinstance(part, (Act, Chest, Passage)) else None

    def _sees(self, position: Position, part: Act | Chest | Passage | Placement | None) -> bool:
        return self._senses is None or part is None or self._senses.sees(position, part)

    def beginning(self, position: Position, moves: Sequence[Move]) -> Option:
        """Return the option that a run begins with; over a map, the longest walk.

        Args:
            position: The position.
            moves: The run, which can be made from there.

        Returns:
            The option.
        """
        turn, self.player = self.player, moves[0].what.get("by", self.player)
        try:
            return self._beginning(position, moves)
        finally:
            self.player = turn

    def _beginning(self, position: Position, moves: Sequence[Move]) -> Option:
        if not self._merged(moves[0]):
            options = self.options(position)
            made = [one for one in options if one.moves == (moves[0],)]
            # Options with the same words and the same result are offered once.
            after = self.rules.after(position, moves[0])
            return (made or [one for one in options if one.after == after])[0]
        stands = self.rules.place_of(self.player)
        walks, steps, here = self.reachable(position), 0, position
        found = walks[self.rules.places.index(moves[0].what["to"])]
        for move in moves:
            after = self.rules.after(here, move)
            if after is None or not self._merged(move) or not self.theirs(move):
                break
            steps, here = steps + move.cost, after
            walk = walks.get(here[stands])
            if walk is not None and (walk.after, walk.steps) == (here, steps):
                found = walk
        return found

    def walks_from(self, here: Position) -> list[tuple[Move, Position]]:
        """The walks that the player can make in a position, with what each leads to."""
        found = []
        for move in self.moves_at(here[self.rules.place_of(self.player)]):
            if move.what["do"] == "walk":
                after = self.rules.after(here, move)
                if after is not None:
                    found.append((move, after))
        return found

    def walk_of_route(
        self, position: Position, room: str, by: str | None, steps: int | None
    ) -> Option | None:
        """Return the walk that a line of a route stands for.

        Args:
            position: Where it begins.
            room: The room it leads to.
            by: The last passage of it, if the line names one.
            steps: The cost of it, if the line says so; only then may it be several moves.

        Returns:
            The walk, which changes nothing on the way before its last move; ``None`` if there is none.
        """
        stands = self.rules.place_of(self.player)
        found: list[tuple[int, tuple[Move, ...], Position]] = []

        def leads(here: Position) -> Iterator[tuple[Position, int, Move]]:
            for move, after in self.walks_from(here):
                passage = self._passages[move.what["name"]]
                if move.what["to"] == room and by in (None, passage.name, passage.part_of):
                    found.append((ways.costs[here] + move.cost, (*ways.to(here), move), after))
                if steps is not None and _only_walked(position, after, stands):
                    yield after, move.cost, move

        ways = CheapestWays(position, leads)
        for here in ways:
            if steps is not None and ways.costs[here] > steps:
                break
        exact = [one for one in found if steps in (None, one[0])] or found
        if not exact:
            return None
        _, moves, after = min(exact, key=lambda one: (one[0], len(one[1])))
        return self._in_words(Option(moves, after, f"go {room}", ""), False)

    def things_ahead(self, option: Option) -> list[str]:
        """Return the things at the end of a walk over a map that its words do not name."""
        if not self._merged(option.moves[-1]):
            return []
        known = (option.what["to"], "finish", *option.takes)
        return [thing for thing in self.things_at(option) if thing not in known]

    def things_at(self, option: Option) -> list[str]:
        """Return the things at the end of a walk over a map, in the words of the level."""
        return [*self.things(option.after), *option.takes]

    def things(self, position: Position) -> list[str]:
        """Return the things in the player's room, in the words of the level."""
        return list(dict.fromkeys(self._interests(position).values()))


def _only_walked(before: Position, after: Position, stands: int) -> bool:
    """Whether two positions differ at most in where a player stands, and the run goes on."""
    return all(a == b or n == stands for n, (a, b) in enumerate(zip(before, after, strict=True)))
