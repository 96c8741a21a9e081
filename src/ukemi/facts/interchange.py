"""Swaps of two things that leave the rules as they are: the same is true of both things.

A swap is an automorphism of the rules: E. A. Emerson and A. P. Sistla, "Symmetry and model checking", Formal
Methods in System Design 9 (1996).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from ..rules import END, PLACE, Move, Rules
from ..rules.branches import Branch
from ..rules.expressions import AtLeast, Expression, Is, Within, fold
from ..rules.reads import variables
from ..values import dataclass
from .relaxed import Relaxed

#: A variable or a room, by number.
Part = tuple[str, int]

#: A thing with more variables and rooms of its own is not compared.
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
        self._rules = relaxed.rules
        usable = relaxed.able and not relaxed.rules.players
        self._branches = relaxed.branches if usable else []
        self._parts = [_parts_of(room, branch) for _, room, branch in self._branches]
        self._about: dict[Part, list[int]] = {}
        for number, parts in enumerate(self._parts):
            for part in parts:
                self._about.setdefault(part, []).append(number)

    def swap(self, one: int, other: int) -> Swap | None:
        """Return the swap of two things.

        Args:
            one, other: The variables that show whether each was done.

        Returns:
            The swap; ``None`` if none was found.
        """
        alone = self._alone(one, other)
        if alone is None:
            return None
        start = self._rules.start()
        pairs = list(zip(*map(sorted, alone), strict=True))
        swapped = dict(pairs) | {b: a for a, b in pairs}
        if swapped.get(("variable", one)) != ("variable", other):
            return None
        if ("room", start[PLACE]) in swapped:
            return None
        if any(kind == "variable" and start[n] != start[m] for (kind, n), (_, m) in pairs):
            return None
        branches, others = (self._branches_about(some) for some in alone)
        moves: dict[int, int] = {}
        for a, b in zip(branches, others, strict=True):
            here, there = self._branches[a][0], self._branches[b][0]
            if moves.setdefault(here, there) != there or moves.setdefault(there, here) != here:
                return None
            if self._form(a, swapped) != self._form(b, {}):
                return None
        known = {*branches, *others}
        for number, (move, *_) in enumerate(self._branches):
            if moves.get(move, move) != move and number not in known:
                return None  # the move also has to do with something else
        return Swap(moves)

    def _alone(self, one: int, other: int) -> tuple[set[Part], set[Part]] | None:
        """Return the parts of the rules that belong to each of two things alone; ``None`` if they are unlike."""
        own, others = {("variable", one)}, {("variable", other)}
        for _ in range(MOST_OWN):
            branches, like = self._branches_about(own), self._branches_about(others)
            if not branches or len(branches) != len(like):
                return None
            some, more = (set().union(*(self._parts[n] for n in each)) for each in (branches, like))
            before, own, others = (own, others), some - more, more - some
            if len(own) != len(others) or len(own) > MOST_OWN:
                return None
            if before == (own, others):
                return before
        return None

    def _branches_about(self, parts: Iterable[Part]) -> list[int]:
        return sorted({number for part in parts for number in self._about.get(part, ())})

    def _form(self, number: int, swapped: Mapping[Part, Part]) -> object:
        """Return a branch as plain values, with some parts of the rules swapped."""
        move, room, branch = self._branches[number]

        def of(variable: int, kind: str = "variable") -> Part:
            return swapped.get((kind, variable), (kind, variable))

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
        rooms = of(room, "room"), of(branch.becomes[PLACE], "room")
        asked = every(fold(one, atom, every, some) for one in branch.conditions)
        return rooms, becomes, adds, asked, self._rules.moves[move].cost


def _parts_of(room: int, branch: Branch) -> set[Part]:
    """The variables that a branch asks about or changes, and the rooms it leads from and to."""
    changed = {*branch.becomes, *branch.adds} - {PLACE, END}
    asked = {one for condition in branch.conditions for one in variables(condition)}
    found = {("variable", one) for one in changed | asked}
    return found | {("room", room), ("room", branch.becomes[PLACE])}
