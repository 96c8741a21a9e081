"""A level as a planning problem, for general planners: PDDL 2.1.

M. Fox and D. Long, "PDDL2.1: an extension to PDDL for expressing temporal planning domains", Journal of
Artificial Intelligence Research 20 (2003), 61-124. Counts are numeric fluents, and what is never more than one is
a predicate; each move costs its steps. A cheapest plan is a shortest finishing run.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from ..level import Level
from ..rules import DEAD, END, FINISHED, PLACE, PLAYING
from ..rules.actions import Action
from ..rules.expressions import AtLeast, Expression, Is, Within, fold
from ..rules.most import most_values
from ..rules.reads import leaves
from ..rules.words import move_words
from .sayable import sayable


def pddl(level: Level) -> tuple[str, str]:
    """A level as a domain and a problem.

    Returns:
        The texts of the domain and of the problem.

    Raises:
        CannotBeSaidError: Something in the level has no words there; the message names it.

    Example:
        >>> from ukemi.language import loads
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [quay -> mill]}")
        >>> print(pddl(level)[1].splitlines()[-3].strip())
        (:goal (finished))
    """
    return _ProblemWriter(level).texts()


class _ProblemWriter:
    """Writes one level."""

    def __init__(self, level: Level) -> None:
        self.title = _comment(level.name)
        self.rules, self.actions = sayable(level, "PDDL")
        self.counted = set(self._counted())
        self._taken: set[str] = {"at", "playing", "finished", "dead", "room", "total-cost"}
        self.rooms = [self._name(f"room {name}") for name in self.rules.places]
        self.names = {
            number: self._name(" ".join(map(str, variable)))
            for number, variable in enumerate(self.rules.variables)
            if number not in (PLACE, END)
        }

    def _counted(self) -> Iterator[int]:
        """The variables that may exceed one, and all variables that are summed up."""
        for variable, most in enumerate(most_values(self.rules, self.actions)):
            if most is None or most > 1:
                yield variable
        for action in self.actions:
            for one in action.asked():
                yield from _summed(one)

    def _name(self, words: str) -> str:
        """A name of PDDL, where letters are plain and their case does not count."""
        name = re.sub(r"[^a-z0-9-]+", "-", words.lower()).strip("-") or "x"
        name = name if name[0].isalpha() else f"n-{name}"
        number = 1
        while name in self._taken:
            number += 1
            name = f"{re.sub('-x[0-9]+$', '', name)}-x{number}"
        self._taken.add(name)
        return name

    def texts(self) -> tuple[str, str]:
        """The domain and the problem."""
        predicates = ["(at ?room - room)", "(playing)", "(finished)", "(dead)"]
        predicates += [
            f"({name})" for number, name in self.names.items() if number not in self.counted
        ]
        functions = [f"({name})" for number, name in self.names.items() if number in self.counted]
        domain = [
            f"; {self.title}: the rules, made by ukemi convert",
            "(define (domain level)",
            "  (:requirements :typing :negative-preconditions :disjunctive-preconditions "
            + (":numeric-fluents " if functions else "") + ":action-costs)",
            "  (:types room)",
            f"  (:constants {' '.join(self.rooms)} - room)",
            f"  (:predicates {' '.join(predicates)})",
            f"  (:functions {' '.join(['(total-cost) - number', *(f'{one} - number' for one in functions)])})",
            *self._actions(),
            ")",
            "",
        ]  # fmt: skip
        start = self.rules.start()
        begin = [f"(at {self.rooms[start[PLACE]]})", f"({_ENDS[start[END]]})", "(= (total-cost) 0)"]
        for number, name in self.names.items():
            if number in self.counted:
                begin.append(f"(= ({name}) {start[number]})")
            elif start[number]:
                begin.append(f"({name})")
        problem = [
            f"; {self.title}: where it begins, made by ukemi convert",
            "(define (problem run)",
            "  (:domain level)",
            f"  (:init {' '.join(begin)})",
            "  (:goal (finished))",
            "  (:metric minimize (total-cost))",
            ")",
            "",
        ]
        return "\n".join(domain), "\n".join(problem)

    def _actions(self) -> Iterator[str]:
        for action in self.actions:
            here, asked = action.source[0], action.branch.conditions
            words, room = move_words(action.move.what), self.rules.places[here]
            holds = [f"(at {self.rooms[here]})", "(playing)", *map(self._holds, asked)]
            changes = [*self._changes(action), f"(increase (total-cost) {action.move.cost})"]
            yield f"  ; {_comment(words)}, in {_comment(room)}"
            yield f"  (:action {self._name(f'{words} {room}')}"
            yield "   :parameters ()"
            yield f"   :precondition (and {' '.join(holds)})"
            yield f"   :effect (and {' '.join(changes)}))"

    def _holds(self, expression: Expression) -> str:
        return fold(
            expression,
            lambda one, positive: self._atom(one) if positive else f"(not {self._atom(one)})",
            lambda parts: f"(and {' '.join(parts)})",
            lambda parts: f"(or {' '.join(parts)})",
        )

    def _atom(self, expression: Expression) -> str:
        match expression:
            case AtLeast(variable=variable, least=least):
                if variable in self.counted:
                    return f"(>= ({self.names[variable]}) {least})"
                return f"({self.names[variable]})" if least == 1 else "(or)"
            case Is(variable=variable, value=value) if variable == PLACE:
                return f"(at {self.rooms[value]})"
            case Is(variable=variable, value=value) if variable == END:
                return f"({_ENDS[value]})"
            case Is(variable=variable, value=value):
                if variable in self.counted:
                    return f"(= ({self.names[variable]}) {value})"
                said = f"({self.names[variable]})"
                return {0: f"(not {said})", 1: said}.get(value, "(or)")
            case Within(terms=terms, limit=limit):
                summed = "0"
                for variable, weight in terms:
                    summed = f"(+ {summed} (* {weight} ({self.names[variable]})))"
                return f"(<= {summed} {limit})"
        raise TypeError(f"no way to write {expression!r}")

    def _changes(self, action: Action) -> Iterator[str]:
        (here, _), (there, end), branch = action.source, action.target, action.branch
        if there != here:
            yield f"(not (at {self.rooms[here]}))"
            yield f"(at {self.rooms[there]})"
        if end != PLAYING:
            yield "(not (playing))"
            yield f"({_ENDS[end]})"
        for variable, value in branch.becomes.items():
            if variable not in (PLACE, END):
                said = f"({self.names[variable]})"
                if variable in self.counted:
                    yield f"(assign {said} {value})"
                else:
                    yield said if value else f"(not {said})"
        for variable, amount in branch.adds.items():
            said = f"({self.names[variable]})"
            if variable in self.counted:
                yield f"({'increase' if amount > 0 else 'decrease'} {said} {abs(amount)})"
            else:
                yield said if amount > 0 else f"(not {said})"


_ENDS = {PLAYING: "playing", FINISHED: "finished", DEAD: "dead"}


def _summed(expression: Expression) -> Iterator[int]:
    """The variables that are summed up in something that holds."""
    for one, _ in leaves(expression):
        if isinstance(one, Within):
            yield from (variable for variable, _ in one.terms)


def _comment(text: str) -> str:
    return " ".join(text.split())
