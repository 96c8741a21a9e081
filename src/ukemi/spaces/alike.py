"""Players that start alike and that no rule distinguishes: each can reach the same.

A symmetry reduction: E. A. Emerson and A. P. Sistla, "Symmetry and model checking", Formal Methods in
System Design 9 (1996). Of positions that differ only by a permutation of the players, one is searched; a
run over these is shown with the names that the players have then.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import permutations

from ..rules import Move, Position, Rules


class Alike:
    """Treats players that the rules do not distinguish as one kind: one position represents all its
    permutations.
    """

    def __init__(self, rules: Rules) -> None:
        self.rules = rules
        self._by_what = {_key(move.what): move for move in rules.moves if move.what["do"] == "give"}
        self._block = sum(move.what.get("by") == rules.players[0] for move in rules.moves)

    def standing_for(self, position: Position) -> Position:
        """Return the position that represents all its permutations."""
        alike = self.rules.alike
        values = list(position)
        for variables, found in zip(
            alike, sorted(tuple(position[v] for v in one) for one in alike), strict=True
        ):
            for variable, value in zip(variables, found, strict=True):
                values[variable] = value
        return tuple(values)

    def orders(self) -> Iterator[dict[str, str]]:
        """Every way to give the players each other's names."""
        players = self.rules.players
        for order in permutations(players):
            yield dict(zip(players, order, strict=True))

    def renamed(self, move: Move, names: dict[str, str]) -> Move:
        """Return the same move made by another player; the names say who replaces whom."""
        by = move.what.get("by")
        if by is None:
            return move
        if move.what["do"] == "give":
            return self._by_what[_key({**move.what, "by": names[by], "to": names[move.what["to"]]})]
        players = self.rules.players
        other: int = move.number + (players.index(names[by]) - players.index(by)) * self._block
        found: Move = self.rules.moves[other]
        return found

    def in_own_names(self, moves: Sequence[Move]) -> list[Move]:
        """A run over representative positions, in which each player keeps the name it begins with."""
        here = shown = self.rules.start()
        names = next(self.orders())  # who, in the run, is called what in the position that is shown
        found = []
        for move in moves:
            own = self.renamed(move, names)
            found.append(own)
            after, seen = self.rules.after(here, own), self.rules.after(shown, move)
            assert after is not None and seen is not None
            here, shown = after, self.standing_for(seen)
            names = next(one for one in self.orders() if self._called(here, one) == shown)
        return found

    def _called(self, position: Position, names: dict[str, str]) -> Position:
        """Return a position with the players' names exchanged."""
        values = list(position)
        players, alike = self.rules.players, self.rules.alike
        for shown, own in names.items():
            for to, variable in zip(
                alike[players.index(shown)], alike[players.index(own)], strict=True
            ):
                values[to] = position[variable]
        return tuple(values)


def _key(what: dict[str, object]) -> tuple[object, ...]:
    return what["do"], what["item"], what["by"], what["to"]
