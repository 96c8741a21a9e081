"""Find variables that are functions of others, so that they need no bits of their own.

The carried count is the number taken less the number used: a place invariant, as of a Petri net (K.
Lautenbach, "Exakte Bedingungen der Lebendigkeit für eine Klasse von Petri-Netzen", GMD Bonn, 1973).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ...rules import Rules
from ...rules.actions import Action
from ...values import dataclass


@dataclass(frozen=True)
class Sum:
    """A number that is a function of other variables: a constant and a weighted sum."""

    constant: int
    terms: Mapping[int, int]


def implied(rules: Rules, actions: Sequence[Action]) -> dict[int, Sum]:
    """Return the variables that are functions of others, such as the count of a carried key, each with
    its sum.

    They are found where each change of a number comes with a change of something else that always
    goes along with it.
    """
    start = rules.start()
    found: dict[int, Sum] = {}
    touching: dict[int, list[Action]] = {}
    for action in actions:
        for variable in action.changed:
            touching.setdefault(variable, []).append(action)
    for variable, kind in enumerate(rules.variables):
        if kind[0] == "carried" and variable in touching:
            terms = _terms(variable, rules, touching)
            if terms is not None:
                rest = start[variable] - sum(n * start[v] for v, n in terms.items())
                found[variable] = Sum(rest, terms)
    return found


def _terms(
    variable: int, rules: Rules, touching: Mapping[int, Sequence[Action]]
) -> dict[int, int] | None:
    terms: dict[int, int] = {}
    for _ in range(3):  # a term that one action leaves open may be settled by another
        for action in touching.get(variable, ()):
            left = action.difference(variable)
            if left is None:
                return None
            open_ = []
            for other in action.changed - {variable}:
                change = action.difference(other)
                if rules.variables[other][0] == "carried" or not change:
                    continue
                if other in terms:
                    left -= terms[other] * change
                else:
                    open_.append((other, change))
            if left and len(open_) == 1 and left % open_[0][1] == 0:
                terms[open_[0][0]] = left // open_[0][1]
    telling = {id(one): one for other in (variable, *terms) for one in touching.get(other, ())}
    for action in telling.values():
        left = action.difference(variable)
        changes = [(n, action.difference(other)) for other, n in terms.items()]
        if left is None or any(change is None for _, change in changes):
            return None
        if left != sum(n * (change or 0) for n, change in changes):
            return None
    return terms
