"""Conditions: what must hold for a door to unlock, a gate to let through, a goal to be met.

A condition is a small tree of the classes here. ``str()`` writes it in the words of the level
file, and :func:`ukemi.level.parse_condition` reads that text to an equal tree.
"""

from __future__ import annotations

from collections.abc import Iterator
from math import prod

from ..values import dataclass


class Condition:
    """The base of all conditions."""

    __slots__ = ()
    #: How tightly the condition's text binds: 0 ``or``, 1 ``and``, 2 ``not`` and the atoms.
    binds = 2

    def _within(self, binds: int) -> str:
        return str(self) if self.binds > binds else f"({self})"


@dataclass(frozen=True, slots=True)
class Has(Condition):
    """At least ``count`` of the item are carried; for a flag (``count`` 1): it is on."""

    name: str
    count: int = 1

    def __str__(self) -> str:
        return self.name if self.count == 1 else f"{self.count} {self.name}"


@dataclass(frozen=True, slots=True)
class HasAll(Condition):
    """As many of the item are carried as the level places and starts with."""

    item: str

    def __str__(self) -> str:
        return f"all {self.item}"


@dataclass(frozen=True, slots=True)
class At(Condition):
    """The player is in the room."""

    room: str

    def __str__(self) -> str:
        return f"at {self.room}"


@dataclass(frozen=True, slots=True)
class SomeoneAt(Condition):
    """One player at least is in the room."""

    room: str

    def __str__(self) -> str:
        return f"someone at {self.room}"


@dataclass(frozen=True, slots=True)
class EveryoneAt(Condition):
    """Every player is in the room."""

    room: str

    def __str__(self) -> str:
        return f"everyone at {self.room}"


@dataclass(frozen=True, slots=True)
class PlayerAt(Condition):
    """One of several players is in the room."""

    player: str
    room: str

    def __str__(self) -> str:
        return f"{self.player} at {self.room}"


@dataclass(frozen=True, slots=True)
class Carries(Condition):
    """One of several players carries at least this many of the item."""

    player: str
    item: str
    count: int = 1

    def __str__(self) -> str:
        return f"{self.player} carries {Has(self.item, self.count)}"


@dataclass(frozen=True, slots=True)
class By(Condition):
    """The player who moves is this one."""

    player: str

    def __str__(self) -> str:
        return f"by {self.player}"


@dataclass(frozen=True, slots=True)
class Inside(Condition):
    """The player is in one of some rooms: those of a level of a campaign."""

    level: str
    rooms: tuple[str, ...]

    def __str__(self) -> str:
        return f"in {self.level}"


@dataclass(frozen=True, slots=True)
class Opened(Condition):
    """The door or chest has been opened."""

    name: str

    def __str__(self) -> str:
        return f"opened {self.name}"


@dataclass(frozen=True, slots=True)
class Done(Condition):
    """The act or switch has been used at least once."""

    name: str

    def __str__(self) -> str:
        return f"done {self.name}"


@dataclass(frozen=True, slots=True)
class Not(Condition):
    """The part does not hold."""

    part: Condition

    def __str__(self) -> str:
        return f"not {self.part._within(1)}"


@dataclass(frozen=True, slots=True)
class And(Condition):
    """All parts hold; with no parts, always."""

    parts: tuple[Condition, ...]
    binds = 1

    def __str__(self) -> str:
        return " and ".join(part._within(1) for part in self.parts) or "always"


@dataclass(frozen=True, slots=True)
class Or(Condition):
    """At least one part holds."""

    parts: tuple[Condition, ...]
    binds = 0

    def __str__(self) -> str:
        return " or ".join(part._within(0) for part in self.parts)


#: The condition of whatever asks for nothing.
ALWAYS = And(())

Atom = Has | HasAll | At | SomeoneAt | EveryoneAt | PlayerAt | Carries | By | Inside | Opened | Done


def atoms(condition: Condition) -> Iterator[Atom]:
    """Every atom of a condition, from left to right.

    Example:
        >>> from ukemi.level import parse_condition
        >>> [str(atom) for atom in atoms(parse_condition("not 2 grain and (at quay or lamp)"))]
        ['2 grain', 'at quay', 'lamp']
    """
    return (atom for atom, _ in signed_atoms(condition))


def signed_atoms(condition: Condition, positive: bool = True) -> Iterator[tuple[Atom, bool]]:
    """Every atom of a condition, and whether the condition wants it to hold, or not to hold.

    Example:
        >>> from ukemi.level import parse_condition
        >>> [(str(atom), wanted) for atom, wanted in signed_atoms(parse_condition("lamp and not oar"))]
        [('lamp', True), ('oar', False)]
    """
    match condition:
        case And(parts) | Or(parts):
            for part in parts:
                yield from signed_atoms(part, positive)
        case Not(part):
            yield from signed_atoms(part, not positive)
        case Condition():
            yield condition, positive  # type: ignore[misc]


def required_parts(condition: Condition) -> Iterator[Condition]:
    """The parts of a condition that must all hold, from left to right.

    Example:
        >>> from ukemi.level import parse_condition
        >>> [str(part) for part in required_parts(parse_condition("lamp and (oar or peg) and not low"))]
        ['lamp', 'oar or peg', 'not low']
    """
    if isinstance(condition, And):
        for part in condition.parts:
            yield from required_parts(part)
    else:
        yield condition


def alternatives(condition: Condition) -> list[tuple[Condition, ...]]:
    """The disjunctive normal form: each alternative is a tuple of atoms and negated atoms.

    Alternatives that say the same are listed once, and one that contradicts itself is left out.

    Returns:
        The alternatives in the order they are written; ``[()]`` for a condition that always
        holds, ``[]`` for one that never can.

    Example:
        >>> from ukemi.level import parse_condition
        >>> ways = alternatives(parse_condition("lamp and (2 iron-key or not at quay)"))
        >>> [" + ".join(map(str, way)) for way in ways]
        ['lamp + 2 iron-key', 'lamp + not at quay']
    """
    ways = dict.fromkeys(tuple(dict.fromkeys(way)) for way in _ways(condition, positive=True))
    return [way for way in ways if not any(Not(part) in way for part in way)]


def count_alternatives(condition: Condition, *, positive: bool = True) -> int:
    """Count the alternatives that :func:`alternatives` would multiply out, before any is left out.

    Example:
        >>> from ukemi.level import parse_condition
        >>> count_alternatives(parse_condition("(a or b) and (c or d) and not (e and f)"))
        8
    """
    match condition:
        case Not(part):
            return count_alternatives(part, positive=not positive)
        case And(parts) | Or(parts):
            counts = [count_alternatives(part, positive=positive) for part in parts]
            return prod(counts) if isinstance(condition, And) == positive else sum(counts)
    return 1


def _ways(condition: Condition, *, positive: bool) -> list[tuple[Condition, ...]]:
    match condition:
        case Not(part):
            return _ways(part, positive=not positive)
        case And(parts) | Or(parts) if isinstance(condition, And) == positive:
            product: list[tuple[Condition, ...]] = [()]
            for part in parts:
                ways = _ways(part, positive=positive)
                product = [way + more for way in product for more in ways]
            return product
        case And(parts) | Or(parts):
            return [way for part in parts for way in _ways(part, positive=positive)]
    return [(condition if positive else Not(condition),)]
