"""What the moves of a level do to its positions, place by place, and what follows for the values.

Each action is one way for a move to turn out in one room; all that the symbolic space knows of the
rules comes from these.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from ...rules import END, PLACE, Move, Rules
from ...rules.branches import Branch, bounds, move_branches
from ...rules.expressions import AllOf, AtLeast, Expression, Is, Negated

#: Where the player is, and whether and how the run has ended.
Key = tuple[int, int]


class TooLargeError(ValueError):
    """The level has values that are not worth a diagram."""


@dataclass(frozen=True, eq=False)
class Action:
    """One way for a move to turn out in one room.

    Attributes:
        move: The move.
        source, target: Where it leads from, and to.
        branch: What it asks for and changes.
    """

    move: Move
    source: Key
    target: Key
    branch: Branch

    @property
    def changed(self) -> set[int]:
        """The variables it changes, but for where the player is and how the run has ended."""
        return {*self.branch.becomes, *self.branch.adds} - {PLACE, END}


def actions_of(rules: Rules) -> list[Action]:
    """Every action of a level.

    Raises:
        TooManyBranchesError: A move turns out in too many ways.
    """
    found, most = [], bounds(rules)
    for move in rules.moves:
        for place in move.places:
            for branch in move_branches(rules, move, place, most):
                target = (branch.becomes[PLACE], branch.becomes[END])
                found.append(Action(move, (place, 0), target, branch))
    return found


def difference(branch: Branch, variable: int) -> int | None:
    """By how much a branch changes a variable; ``None`` where that depends on its value."""
    if variable in branch.adds:
        return branch.adds[variable]
    if variable not in branch.becomes:
        return 0
    before = _pinned(branch.conditions, variable)
    return None if before is None else branch.becomes[variable] - before


def _pinned(conditions: Sequence[Expression], variable: int) -> int | None:
    """The value that a variable must have before, where the conditions leave just one."""
    for one in _parts(conditions):
        match one:
            case Is(found, value) if found == variable:
                return value
            case Negated(Is(found, value)) if found == variable and value in (0, 1):
                return None
    return None


def _parts(conditions: Sequence[Expression]) -> Iterator[Expression]:
    for one in conditions:
        if isinstance(one, AllOf):
            yield from _parts(one.parts)
        else:
            yield one


@dataclass(frozen=True)
class Sum:
    """A number that other variables tell: a constant, and so many times each of them."""

    constant: int
    terms: Mapping[int, int]


def implied(rules: Rules, actions: Sequence[Action]) -> dict[int, Sum]:
    """The variables that others tell, such as how many of a key are carried.

    What was taken less what was used is what is carried: a place invariant, as of a Petri net (K.
    Lautenbach, 1973). It is found where each change of a number comes with a change of something
    else that always goes along with it.

    Args:
        rules: The rules.
        actions: What the moves do.

    Returns:
        For each variable that is implied, the sum that tells it.
    """
    start = rules.start()
    found: dict[int, Sum] = {}
    touching: dict[int, list[Branch]] = {}
    for action in actions:
        for variable in action.changed:
            touching.setdefault(variable, []).append(action.branch)
    for variable, kind in enumerate(rules.variables):
        if kind[0] == "carried":
            terms = _terms(variable, rules, touching)
            if terms is not None:
                rest = start[variable] - sum(n * start[v] for v, n in terms.items())
                found[variable] = Sum(rest, terms)
    return found


def _terms(
    variable: int, rules: Rules, touching: Mapping[int, Sequence[Branch]]
) -> dict[int, int] | None:
    terms: dict[int, int] = {}
    for _ in range(3):  # a term that one action leaves open may be settled by another
        for branch in touching.get(variable, ()):
            left = difference(branch, variable)
            if left is None:
                return None
            open_ = []
            for other in {*branch.becomes, *branch.adds} - {PLACE, END, variable}:
                change = difference(branch, other)
                if rules.variables[other][0] == "carried" or not change:
                    continue
                if other in terms:
                    left -= terms[other] * change
                else:
                    open_.append((other, change))
            if left and len(open_) == 1 and left % open_[0][1] == 0:
                terms[open_[0][0]] = left // open_[0][1]
    telling = {id(one): one for other in (variable, *terms) for one in touching.get(other, ())}
    for branch in telling.values():
        left = difference(branch, variable)
        changes = [(n, difference(branch, other)) for other, n in terms.items()]
        if left is None or any(change is None for _, change in changes):
            return None
        if left != sum(n * (change or 0) for n, change in changes):
            return None
    return terms


def most_values(rules: Rules, actions: Sequence[Action]) -> list[int]:
    """The most each variable can be, by what gives it.

    What is given is taken from something that is used up (what lies, a door or chest that opens
    once), or else never goes beyond a bound that the giving asks for.

    Raises:
        TooLargeError: Nothing bounds one.
    """
    start = rules.start()
    most = list(start)
    rates: dict[int, dict[int, int]] = {}
    for action in actions:
        for variable, value in action.branch.becomes.items():
            most[variable] = max(most[variable], value)
    for action in actions:
        for variable, amount in action.branch.adds.items():
            kind = rules.variables[variable]
            if amount < 0 or kind[0] == "put-down":
                continue  # of what is put down, as many as there are
            source = _used_up(rules, action)
            if source is not None:
                used, units = source
                each = -(-amount // units)
                mine = rates.setdefault(variable, {})
                mine[used] = max(mine.get(used, 0), each)
            elif action.move.what["do"] not in ("take", "give"):  # else it was counted before
                bound = _asked_most(action, variable)
                if bound is None:
                    raise TooLargeError(f"nothing bounds {kind[-1]}")
                most[variable] = max(most[variable], bound)
    for variable, sources in rates.items():
        for used, rate in sources.items():
            most[variable] += rate * (start[used] if rules.variables[used][0] == "lying" else 1)
    for variable, kind in enumerate(rules.variables):
        if kind[0] == "put-down":
            most[variable] = _units(rules, actions, kind[2])
            for one in rules.carried(kind[2]):  # all of them may be taken up again
                most[one] = max(most[one], most[variable])
    for item in {kind[1] for kind in rules.variables if kind[0] == "carried"}:
        carried = rules.carried(item)
        if len(carried) > 1:  # what one player had, another may come to have
            total = sum(most[one] for one in carried)
            for one in carried:
                most[one] = total
    return most


def _units(rules: Rules, actions: Sequence[Action], item: str) -> int:
    """How many of an item there can be, where some can be put down: more than can be carried at once.

    Raises:
        TooLargeError: It is handed out again and again.
    """
    start = rules.start()
    carried = rules.carried(item)
    rates: dict[int, int] = {}
    for action in actions:
        for variable in carried:
            gain = action.branch.adds.get(variable, 0)
            if variable in action.branch.becomes:
                gain = action.branch.becomes[variable] - _asked_least(action, variable)
            source = _used_up(rules, action)
            do = action.move.what["do"]
            if gain <= 0 or do == "give" or (do == "take" and source is None):
                continue  # it was there before
            if source is None:
                raise TooLargeError(f"nothing bounds how many {item} are put down")
            used, units = source
            rates[used] = max(rates.get(used, 0), -(-gain // units))
    lying = {used for used in rates if rules.variables[used][0] == "lying"}
    found = sum(rate * (start[used] if used in lying else 1) for used, rate in rates.items())
    return found + sum(start[variable] for variable in carried)


def _asked_least(action: Action, variable: int) -> int:
    """The least a variable is before an action that asks for some of it."""
    asked = [
        one.least for one in _parts(action.branch.conditions)
        if isinstance(one, AtLeast) and one.variable == variable
    ]  # fmt: skip
    return max(asked, default=0)


def _used_up(rules: Rules, action: Action) -> tuple[int, int] | None:
    """Something that an action uses up and that never comes back, and how much of it."""
    for variable in sorted(action.changed):
        kind = rules.variables[variable][0]
        change = difference(action.branch, variable) or 0
        if kind == "lying" and change < 0:
            return variable, -change
        if kind in ("opened", "done", "collapsed") and change > 0:
            return variable, change
    return None


def _asked_most(action: Action, variable: int) -> int | None:
    """The most a variable can be after an action that asks that it is not more."""
    for one in _parts(action.branch.conditions):
        match one:
            case Negated(AtLeast(found, least)) if found == variable:
                return least - 1 + action.branch.adds[variable]
    return None
