"""List the moves that are not possible in a position, and their missing conditions."""

from __future__ import annotations

from ..level import Level
from ..level.names import in_list
from ..rules import PLACE, Move, Position, Rules
from ..rules.expressions import AllOf, AnyOf, AtLeast, Expression, Is, Negated, Within
from ..rules.steps import Require
from ..rules.words import subject_of


class Waiting:
    """Explains why moves cannot be made."""

    def __init__(self, level: Level, rules: Rules) -> None:
        self.level = level
        self.rules = rules
        self._doors = {
            passage.name: passage.thing for passage, lock in level.doors() if not lock.relocks
        }

    def here(self, position: Position, player: str | None = None) -> dict[str, str]:
        """Return the moves that the player's room offers, but not now.

        Args:
            player: Whose turn it is, where several play.

        Returns:
            For each thing its missing conditions; of several moves, those of the first one
            written.
        """
        found: dict[str, str] = {}
        possible = set()
        first = next(iter(self.level.players), None)
        for move in self.rules.moves_at(position[PLACE]):
            if move.what["do"] in ("drop", "give", "finish") or move.what.get("by") != player:
                continue  # nothing keeps one waiting to put down what one has not
            name = self._name(move)
            if self.rules.after(position, move) is not None:
                possible.add(name)
                continue
            why = self.why_not(position, move)
            if why is None or (player != first and why.startswith("needs to be at")):
                continue  # others than the first player have moves that ask where they are
            if self._unlockable(move, position):
                continue  # unlocking it has missing conditions of its own
            if name in found and why not in found[name].split("; or "):
                why = f"{found[name]}; or {why}"
            found[name] = why
        return {name: why for name, why in found.items() if name not in possible}

    def why_not(self, position: Position, move: Move) -> str | None:
        """Return the missing conditions of a move.

        Args:
            position: The position; the player stands where the move could be made.
            move: The move, which cannot be made.

        Returns:
            The words; ``None`` where there is nothing left to do or to take.
        """
        if not move.guard.holds(position):
            return self._unmet(move.guard, position)
        values = list(position)
        for step in move.steps:
            if not step.apply(values):
                assert isinstance(step, Require)  # no other step can fail
                return self._unmet(step.expression, values)
        return None

    def _unlockable(self, move: Move, position: Position) -> bool:
        """Whether a walk is kept back by a door that could be unlocked from here."""
        if move.what["do"] != "walk":
            return False
        door = self._doors.get(move.what["name"])
        return (
            door is not None
            and any(
                other.what["do"] == "unlock" and other.what["name"] == door
                for other in self.rules.moves_at(position[PLACE])
            )
            and not position[self.rules.index["opened", door]]
        )

    def _name(self, move: Move) -> str:
        what = move.what
        if what["do"] == "walk":
            known = what["name"] in self.level.things or "->" not in what["name"]
            return str(what["name"]) if known else f"way to {what['to']}"
        return subject_of(what)

    def _unmet(self, expression: Expression, values: Position | list[int]) -> str | None:
        """The parts of an expression that do not hold, in words; ``None`` if the thing has been done already."""
        parts = expression.parts if isinstance(expression, AllOf) else (expression,)
        unmet = [part for part in parts if not part.holds(values)]
        if any(self._over(part) for part in unmet):
            return None
        own = [part for part in unmet if self._state(part) is not None]
        if own:
            return self._state(own[0])
        return "needs " + " and ".join(dict.fromkeys(self._words(one, values) for one in unmet))

    def _over(self, part: Expression) -> bool:
        """Whether a guard fails because the thing has been done, opened or taken already."""
        match part:
            case Is(variable, 0):
                return self.rules.variables[variable][0] in ("opened", "done")
            case AtLeast(variable, _):
                return self.rules.variables[variable][0] in ("lying", "put-down")
        return False

    def _state(self, part: Expression) -> str | None:
        """Return the state of the thing itself, if nothing else prevents a move."""
        match part:
            case Is(variable, value):
                kind = self.rules.variables[variable][0]
                if kind == "collapsed" and value == 0:
                    return "has collapsed"
            case Within():
                return "does not fit: there is no room for it in the inventory"
        return None

    def _words(self, part: Expression, values: Position | list[int], inner: bool = False) -> str:
        words: str
        match part:
            case AtLeast(variable, least):
                name = self.rules.variables[variable][-1]
                words = name if least == 1 else f"{least} {name}"
                if values[variable] and not inner:
                    words += f" (carried: {values[variable]})"
            case Is(variable, value):
                words = self._fact(self.rules.variables[variable], value)
            case Negated(inside):
                words = f"not {self._words(inside, values, inner=True)}"
            case AllOf(parts):
                words = " and ".join(self._words(one, values, inner=True) for one in parts)
                words = f"({words})" if len(parts) > 1 else words
            case AnyOf(parts):
                words = " or ".join(self._words(one, values, inner=True) for one in parts)
                words = f"({words})" if len(parts) > 1 and inner else words
            case _:
                raise TypeError(f"not a guard: {part!r}")
        return words

    def _fact(self, variable: tuple[str, ...], value: int) -> str:
        if variable[0] == "place":
            return f"to be at {self.rules.places[value]}"
        if variable[0] == "opened" and value:
            return f"{variable[1]} open"
        if variable[0] == "done" and value:
            return f"{variable[1]} done"
        return f"{'' if value else 'not '}{variable[-1]}"


def places_of(level: Level, name: str) -> str:
    """Where something of a level is, in words.

    Args:
        name: A door, passage, chest, switch or act.

    Returns:
        ``in granary``, or ``between quay and granary``.
    """
    thing = level.things[name]
    if thing.kind in ("door", "passage"):
        ends = list(dict.fromkeys(thing.what.ends))  # type: ignore[union-attr]
        return f"between {in_list(ends)}" if len(ends) > 1 else f"at {ends[0]}"
    return f"in {thing.room}" if thing.room else "by itself"
