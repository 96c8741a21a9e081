"""Swaps of two things that leave the rules as they are: the same is true of both things.

A swap is an automorphism of the rules: E. A. Emerson and A. P. Sistla, "Symmetry and model checking", Formal
Methods in System Design 9 (1996).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from itertools import chain

from ..rules import END, PLACE, Move, Rules
from ..rules.expressions import AtLeast, Expression, Is, Within, fold
from ..rules.reads import variables
from ..values import dataclass
from .relaxed import Relaxed

#: A thing with more variables or rooms of its own is not compared.
MOST_OWN = 24


@dataclass(frozen=True, eq=False)
class Swap:
    """A swap of two things and of all that belongs to one of them alone, such as the door to it.

    Attributes:
        moves: For the number of each move about one thing, the number of the same move about the other.
    """

    moves: Mapping[int, int]

    def run(self, rules: Rules, moves: Iterable[Move]) -> list[Move]:
        """Return a run with the two things swapped."""
        return [rules.moves[self.moves.get(move.number, move.number)] for move in moves]


class _Part:
    """The variables and rooms that belong to one thing alone.

    Attributes:
        variables: Its variables.
        rooms: Its rooms.
        branches: The outcomes of moves that read or change these variables or enter these rooms, by number.
    """

    def __init__(self, variable: int) -> None:
        self.variables, self.rooms, self.branches = {variable}, set[int](), list[int]()


class Interchange:
    """Finds swaps of the things of a level for one player.

    Args:
        relaxed: The relaxed level, for the outcomes of its moves.

    Example:
        >>> from ukemi.language import loads
        >>> from ukemi.rules import compile_level
        >>> level = loads('''
        ... {start: hall, goal: hall, items: {plate: {}, cup: {}, peg: {use: spent}},
        ...  rooms: {hall: {items: peg}, loft: {items: plate}, cellar: {items: cup}},
        ...  passages: [hall <-> loft: {lock: peg}, hall <-> cellar: {lock: peg}]}
        ... ''')
        >>> rules = compile_level(level)
        >>> plate, cup = rules.index["lying", "loft", "plate"], rules.index["lying", "cellar", "cup"]
        >>> swap = Interchange(Relaxed(rules)).swap(plate, cup)
        >>> moves = [one for one in rules.moves if one.what.get("item") == "plate"]
        >>> [one.what["item"] for one in swap.run(rules, moves)]
        ['cup']
    """

    def __init__(self, relaxed: Relaxed) -> None:
        self._rules, self._branches = relaxed.rules, relaxed.branches
        self._about: dict[tuple[str, int], set[int]] = {}
        for number in range(len(self._branches) if relaxed.able and not self._rules.players else 0):
            variables, rooms = self._mentioned([number])
            for key in chain(
                (("variable", one) for one in variables), (("room", one) for one in rooms)
            ):
                self._about.setdefault(key, set()).add(number)

    def swap(self, one: int, other: int) -> Swap | None:
        """Return the swap of two things.

        Args:
            one, other: The variables that show whether each was done.

        Returns:
            The swap; ``None`` if none was found.
        """
        part, like = _Part(one), _Part(other)
        if not self._grow(part, like):
            return None
        start = self._rules.start()
        variables = _both_ways(sorted(part.variables), sorted(like.variables))
        rooms = _both_ways(sorted(part.rooms), sorted(like.rooms))
        if variables.get(one) != other or start[PLACE] in rooms:
            return None
        if any(start[a] != start[b] for a, b in variables.items()):
            return None
        moves: dict[int, int] = {}
        for a, b in zip(part.branches, like.branches, strict=True):
            here, there = self._branches[a][0], self._branches[b][0]
            if moves.setdefault(here, there) != there or moves.setdefault(there, here) != here:
                return None
            if self._form(a, variables, rooms) != self._form(b, {}, {}):
                return None
        known = {*part.branches, *like.branches}
        for number, (move, *_) in enumerate(self._branches):
            if moves.get(move, move) != move and number not in known:
                return None  # the move also has to do with something else
        return Swap(moves)

    def _grow(self, part: _Part, like: _Part) -> bool:
        """Find the variables and rooms of each thing alone; return whether both have equally many."""
        both = (part, like)
        for _ in range(MOST_OWN):
            for one in both:
                keys = (("variable", n) for n in one.variables), (("room", n) for n in one.rooms)
                one.branches = sorted({n for key in chain(*keys) for n in self._about.get(key, ())})
            if not part.branches or len(part.branches) != len(like.branches):
                return False
            before = [(one.variables, one.rooms) for one in both]
            (some, here), (others, there) = (self._mentioned(one.branches) for one in both)
            part.variables, like.variables = some - others, others - some
            part.rooms, like.rooms = here - there, there - here
            sizes = [(len(one.variables), len(one.rooms)) for one in both]
            if sizes[0] != sizes[1] or max(sizes[0]) > MOST_OWN:
                return False
            if before == [(one.variables, one.rooms) for one in both]:
                return True
        return False

    def _mentioned(self, branches: Iterable[int]) -> tuple[set[int], set[int]]:
        """The variables and the rooms that some branches ask about or change."""
        found, rooms = set[int](), set[int]()
        for number in branches:
            _, room, branch = self._branches[number]
            rooms |= {room, branch.becomes[PLACE]}
            found |= {one for asked in branch.conditions for one in variables(asked)}
            found |= {*branch.becomes, *branch.adds} - {PLACE, END}
        return found, rooms

    def _form(self, number: int, swapped: Mapping[int, int], rooms: Mapping[int, int]) -> object:
        """Return a branch as plain values, with some variables and rooms swapped."""
        move, room, branch = self._branches[number]

        def of(variable: int) -> int:
            return swapped.get(variable, variable)

        def atom(one: Expression, positive: bool) -> object:
            match one:
                case AtLeast(variable, least):
                    return "at least", of(variable), least, positive
                case Is(variable, value):
                    return "is", of(variable), value, positive
                case Within(terms, limit):
                    return "within", sorted((of(v), n) for v, n in terms), limit, positive
            raise TypeError(f"not a guard: {one!r}")

        def every(parts: Iterable[object]) -> object:
            return "all", sorted(parts, key=repr)

        def some(parts: Iterable[object]) -> object:
            return "some", sorted(parts, key=repr)

        becomes = {of(v): n for v, n in branch.becomes.items() if v != PLACE}
        adds = {of(v): n for v, n in branch.adds.items()}
        to = branch.becomes[PLACE]
        asked = every(fold(one, atom, every, some) for one in branch.conditions)
        cost = self._rules.moves[move].cost
        return rooms.get(room, room), rooms.get(to, to), becomes, adds, asked, cost


def _both_ways(some: Iterable[int], others: Iterable[int]) -> dict[int, int]:
    pairs = list(zip(some, others, strict=True))
    return dict(pairs) | {b: a for a, b in pairs}
