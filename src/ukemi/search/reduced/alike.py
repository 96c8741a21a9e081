"""Finding the wings of a level that are alike, so that it does not matter which of them is which.

A wing is a set of rooms and variables that no move outside it touches: a side room with its door
and what lies in it, a chest among many. Two wings are alike where exchanging them leaves the rules
as they are; whatever holds of one then holds of the other.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterable
from dataclasses import dataclass

from ...rules import PLACE, Move, Rules
from ...rules.expressions import AllOf, AnyOf, AtLeast, Expression, Is, Negated, Within
from ...rules.reads import changed, each_step, looked_at, rooms_named, variables
from ...rules.steps import (
    Add,
    AddUpTo,
    Attempt,
    Flip,
    Require,
    Set,
    Step,
    TakeUpTo,
    UntilSettled,
    When,
)
from .partial import with_known


@dataclass(eq=False, slots=True)
class Deed:
    """A move made in one of the rooms it can be made in.

    Attributes:
        move: The move.
        place: The room.
        shape: What it asks and does, with numbers for the variables and rooms it touches.
        touched: Those, as nodes: a variable by its number, a room by its number after them.
    """

    move: Move
    place: int
    shape: Hashable
    touched: tuple[int, ...]


@dataclass(eq=False, slots=True)
class Wing:
    """A wing: what it has in the same order as those it is like.

    Attributes:
        variables: Its variables.
        rooms: Its rooms.
        deeds: What can be done in it, or changes it.
    """

    variables: tuple[int, ...]
    rooms: tuple[int, ...]
    deeds: tuple[Deed, ...]


def find_alike(
    rules: Rules, variables_kept: Iterable[int] = (), rooms_kept: Iterable[int] = ()
) -> list[list[Wing]]:
    """The wings of a level that are alike, two and more of each kind.

    Variables, rooms and moves are told apart by what touches them until nothing new comes of it
    (colour refinement: A. Cardon and M. Crochemore, "Partitioning a graph in O(|A| log2 |V|)",
    Theoretical Computer Science 19 (1982)). What then still looks like something else falls apart
    into wings. Wings count as alike only where writing down all their moves, with places in the
    wing for what belongs to it, gives the same: exchanging them is then an automorphism.

    Args:
        rules: The rules.
        variables_kept: Variables that are asked about by themselves.
        rooms_kept: Rooms that are asked about by themselves.

    Returns:
        The groups of wings that are alike.
    """
    first_room = len(rules.variables)
    deeds = [
        _deed(move, place, first_room)
        for move in rules.moves
        for place in move.places
        if with_known(move.guard, {PLACE: place}) is not False
    ]
    single = {rules.initial[PLACE] + first_room, *variables_kept}
    single.update(room + first_room for room in (*rooms_kept, *_rooms_named(rules)))
    single.update(variables(rules.goal))
    single |= changed(rules.settling) | looked_at(rules.settling)
    colors = _refined(rules, deeds, single)
    count: dict[int, int] = {}
    for color in colors:
        count[color] = count.get(color, 0) + 1
    local = [count[color] > 1 for color in colors]
    groups: dict[Hashable, list[Wing]] = {}
    for nodes, own in _pieces(deeds, local):
        wing, key = _written(rules, nodes, own, colors)
        groups.setdefault(key, []).append(wing)
    for wings in groups.values():
        wings.sort(key=lambda wing: min(deed.move.number for deed in wing.deeds))
    return [wings for wings in groups.values() if len(wings) > 1]


def _rooms_named(rules: Rules) -> set[int]:
    """The rooms that the goal names, and what happens by itself."""
    expressions = [rules.goal]
    found: set[int] = set()
    for step in each_step(rules.settling):
        if isinstance(step, When | Require):
            expressions.append(step.expression)
        elif getattr(step, "variable", None) == PLACE:
            found.update(getattr(step, "cases", ()))
    for expression in expressions:
        found.update(rooms_named(expression))
    return found


# -- writing a move down so that it can be compared -------------------------------------------------


class _Writer:
    """Writes down what a move asks and does, with numbers for what it touches."""

    def __init__(self, first_room: int) -> None:
        self.first_room = first_room
        self.numbers: dict[int, int] = {}

    def node(self, node: int) -> int:
        return self.numbers.setdefault(node, len(self.numbers))

    def room(self, room: int) -> int:
        return self.node(room + self.first_room)

    def expression(self, expression: Expression) -> Hashable:
        match expression:
            case AllOf(parts) | AnyOf(parts):
                return (type(expression).__name__, *map(self.expression, parts))
            case Negated(part):
                return ("not", self.expression(part))
            case Is(variable, value) if variable == PLACE:
                return ("at", self.room(value))
            case Is(variable, value):
                return ("is", self.node(variable), value)
            case AtLeast(variable, least):
                return ("least", self.node(variable), least)
            case Within(terms, limit):
                return ("within", limit, *((self.node(one), weight) for one, weight in terms))
        raise TypeError(f"not a guard: {expression!r}")

    def step(self, step: Step) -> Hashable:
        match step:
            case Require(expression):
                return ("require", self.expression(expression))
            case Set(variable, value) if variable == PLACE:
                return ("go", self.room(value))
            case Set(variable, value):
                return ("set", self.node(variable), value)
            case Add(variable, amount):
                return ("add", self.node(variable), amount)
            case AddUpTo(variable, amount, most):
                return ("up to", self.node(variable), amount, most)
            case TakeUpTo(variable, amount):
                return ("take", self.node(variable), amount)
            case Flip(variable):
                return ("flip", self.node(variable))
            case When(expression, inner):
                return ("when", self.expression(expression), *map(self.step, inner))
            case Attempt(inner) | UntilSettled(inner):
                return (type(step).__name__, *map(self.step, inner))
        # Steps that differ by value are not compared, so that what they touch is unlike all else.
        return ("other", id(step), *map(self.node, sorted(changed([step]) | looked_at([step]))))


def _deed(move: Move, place: int, first_room: int) -> Deed:
    writer = _Writer(first_room)
    writer.room(place)
    kind = move.what["do"]
    shape = (kind, move.cost, writer.expression(move.guard), *map(writer.step, move.steps))
    return Deed(move, place, shape, tuple(writer.numbers))


# -- telling apart what is not alike ----------------------------------------------------------------


def _refined(rules: Rules, deeds: list[Deed], single: set[int]) -> list[int]:
    """A color for each variable and room: alike only where nothing tells them apart."""
    first_room = len(rules.variables)
    names: dict[Hashable, int] = {}
    starts: list[Hashable] = [("variable", value) for value in rules.initial]
    starts += ["room"] * len(rules.places)
    colors = [
        names.setdefault(("single", node) if node in single or node < 2 else start, len(names))
        for node, start in enumerate(starts)
    ]
    assert len(colors) == first_room + len(rules.places)
    shapes = [names.setdefault(deed.shape, len(names)) for deed in deeds]
    touching: list[list[tuple[int, int]]] = [[] for _ in colors]
    for number, deed in enumerate(deeds):
        for index, node in enumerate(deed.touched):
            touching[node].append((number, index))
    members: dict[int, int] = {}
    for color in colors:
        members[color] = members.get(color, 0) + 1
    next_color = len(names)
    dirty = set(range(len(colors)))
    while dirty:
        split: dict[int, dict[Hashable, list[int]]] = {}
        for node in dirty:
            if members[colors[node]] > 1:  # what is single already cannot be told apart further
                looks = sorted(
                    (index, shapes[number], *(colors[one] for one in deeds[number].touched))
                    for number, index in touching[node]
                )
                split.setdefault(colors[node], {}).setdefault(tuple(looks), []).append(node)
        dirty = set()
        for color, groups in split.items():
            # Those not looked at anew look as they did. The largest part keeps its color, so that
            # nothing around it need be looked at.
            rest = members[color] - sum(map(len, groups.values()))
            parts = sorted(groups.values(), key=len)
            if not rest or len(parts[-1]) > rest:
                parts.pop()
                if rest:
                    parts.append(_others(colors, color, groups))
            for part in parts:
                members[color] -= len(part)
                members[next_color] = len(part)
                for node in part:
                    colors[node] = next_color
                    dirty.update(
                        one for number, _ in touching[node] for one in deeds[number].touched
                    )
                next_color += 1
    return colors


def _others(colors: list[int], color: int, groups: dict[Hashable, list[int]]) -> list[int]:
    """What has a color and is in none of some groups."""
    looked_at = {node for part in groups.values() for node in part}
    return [node for node, one in enumerate(colors) if one == color and node not in looked_at]


def _pieces(deeds: list[Deed], local: list[bool]) -> list[tuple[list[int], list[Deed]]]:
    """What is not single, in pieces that no move holds together, each with its deeds."""
    above = list(range(len(local)))

    def top(node: int) -> int:
        while above[node] != node:
            above[node] = above[above[node]]
            node = above[node]
        return node

    for deed in deeds:
        own = [node for node in deed.touched if local[node]]
        for node in own[1:]:
            above[top(node)] = top(own[0])
    pieces: dict[int, tuple[list[int], list[Deed]]] = {}
    for deed in deeds:
        own = [node for node in deed.touched if local[node]]
        if own:
            pieces.setdefault(top(own[0]), ([], []))[1].append(deed)
    for node, is_local in enumerate(local):
        if is_local and top(node) in pieces:
            pieces[top(node)][0].append(node)
    return list(pieces.values())


def _written(
    rules: Rules, nodes: list[int], deeds: list[Deed], colors: list[int]
) -> tuple[Wing, Hashable]:
    """A wing, with all there is to it written down; the same for those that are alike."""
    first_room = len(rules.variables)
    ordered = sorted(nodes, key=lambda node: (colors[node], node))
    places = {node: number for number, node in enumerate(ordered)}

    def written(deed: Deed) -> tuple[Hashable, ...]:
        touched = ((0, places[n]) if n in places else (1, n) for n in deed.touched)
        return (deed.shape, *touched)

    lines = sorted(((repr(written(deed)), deed.move.number, deed) for deed in deeds),
                   key=lambda line: line[:2])  # fmt: skip
    starts = tuple(
        ("room", 0) if node >= first_room else ("variable", rules.initial[node]) for node in ordered
    )
    wing = Wing(
        tuple(node for node in ordered if node < first_room),
        tuple(node - first_room for node in ordered if node >= first_room),
        tuple(deed for _, _, deed in lines),
    )
    return wing, (starts, *(line for line, _, _ in lines))
