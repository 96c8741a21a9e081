"""The most that each variable of a level can ever be."""

from __future__ import annotations

from collections.abc import Sequence

from .actions import Action
from .expressions import AtLeast, Negated
from .rules import Rules


def most_values(rules: Rules, actions: Sequence[Action]) -> list[int | None]:
    """The most each variable can be, by what gives it.

    Given items are taken from a source that is used up (items on the floor, a door or chest that opens
    once); otherwise the guard of the giving bounds them.

    Args:
        actions: The actions of the moves.

    Returns:
        A number for each variable; ``None`` where nothing bounds it.
    """
    most: list[int | None] = list(_by_what_gives(rules, actions))
    put_down: dict[str, list[int]] = {}
    for variable, kind in enumerate(rules.variables):
        if kind[0] == "put-down":
            put_down.setdefault(kind[2], []).append(variable)
    for item, variables in put_down.items():
        units = _units(rules, actions, item)
        for one in variables:
            most[one] = units
        for one in rules.carried(item):  # the player may take all of them up again
            most[one] = _greatest(most[one], units)
    for item in {kind[1] for kind in rules.variables if kind[0] == "carried"}:
        carried = rules.carried(item)
        if len(carried) > 1:  # an item of one player may pass to another
            known = [value for one in carried if (value := most[one]) is not None]
            total = sum(known) if len(known) == len(carried) else None
            for one in carried:
                most[one] = total
    return most


def _greatest(one: int | None, other: int | None) -> int | None:
    return None if one is None or other is None else max(one, other)


def _by_what_gives(rules: Rules, actions: Sequence[Action]) -> list[int | None]:
    """The lower of two bounds: by what is used up for what is given, and by what the giving asks."""
    start = rules.start()
    at_once = list(start)
    for action in actions:
        for variable, value in action.branch.becomes.items():
            at_once[variable] = max(at_once[variable], value)
    most: list[int | None] = [*at_once]
    rates: dict[int, dict[int, int]] = {}
    asked: dict[int, int | None] = {}
    for action in actions:
        for variable, amount in action.branch.adds.items():
            if amount < 0 or rules.variables[variable][0] == "put-down":
                continue  # up to as many as the number put down
            bound = _asked_most(action, variable)
            asked[variable] = _greatest(asked.get(variable, 0), bound)
            source = used_up(rules, action)
            if source is not None:
                used, units = source
                mine = rates.setdefault(variable, {})
                mine[used] = max(mine.get(used, 0), -(-amount // units))
            elif action.move.what["do"] not in ("take", "give"):  # else it was counted before
                most[variable] = _greatest(most[variable], bound)
    for variable, bound in asked.items():
        known = most[variable]
        if known is not None:
            sources = rates.get(variable, {})
            known += sum(rate * _times(rules, used, start) for used, rate in sources.items())
        if bound is not None:
            bound = max(bound, at_once[variable])
            known = bound if known is None else min(known, bound)
        most[variable] = known
    return most


def _times(rules: Rules, used: int, start: Sequence[int]) -> int:
    """Return how often something can be used up."""
    return start[used] if rules.variables[used][0] == "lying" else 1


def _units(rules: Rules, actions: Sequence[Action], item: str) -> int | None:
    """How many of an item there can be, where some can be put down: more than are carried at once."""
    start = rules.start()
    carried = rules.carried(item)
    rates: dict[int, int] = {}
    for action in actions:
        for variable in carried:
            gain = action.branch.adds.get(variable, 0)
            if variable in action.branch.becomes:
                gain = action.branch.becomes[variable] - _asked_least(action, variable)
            source = used_up(rules, action)
            do = action.move.what["do"]
            if gain <= 0 or do == "give" or (do == "take" and source is None):
                continue  # it was there before
            if source is None:
                return None  # it is handed out again and again
            used, units = source
            rates[used] = max(rates.get(used, 0), -(-gain // units))
    found = sum(rate * _times(rules, used, start) for used, rate in rates.items())
    return found + sum(start[variable] for variable in carried)


def used_up(rules: Rules, action: Action) -> tuple[int, int] | None:
    """Something that an action uses up for ever, and the amount used."""
    for variable in sorted(action.changed):
        kind = rules.variables[variable][0]
        change = action.difference(variable) or 0
        if kind == "lying" and change < 0:
            return variable, -change
        if kind in ("opened", "done", "collapsed") and change > 0:
            return variable, change
    return None


def _asked_least(action: Action, variable: int) -> int:
    """Return the least value of a variable before an action that reads it."""
    return max(
        (
            one.least
            for one in action.asked()
            if isinstance(one, AtLeast) and one.variable == variable
        ),
        default=0,
    )


def _asked_most(action: Action, variable: int) -> int | None:
    """The most a variable can be after an action whose guard keeps it low."""
    for one in action.asked():
        match one:
            case Negated(AtLeast(found, least)) if found == variable:
                return least - 1 + action.branch.adds[variable]
    return None
