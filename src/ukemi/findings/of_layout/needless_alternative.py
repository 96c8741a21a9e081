"""``needless-alternative``: a part of a condition that can never matter."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from itertools import product

from ...facts.supply_and_demand import most_had
from ...level import Has, HasAll, Level
from ...level.asked import Asked, all_conditions
from ...level.conditions import And, At, Atom, Condition, Not, Or, atoms
from ..finding import Finding
from ..registry import layout

#: The greatest number of combinations of facts to try; a condition with more is not examined.
MOST_COMBINATIONS = 4096

_Facts = Mapping[Atom, bool]


@layout
def needless_alternative(level: Level) -> Iterator[Finding]:
    """Report each part of a condition without which it would hold in the very same positions.

    Every combination of facts that can be is tried: how many of an item are carried, up to what
    the level has; where the player is; which flags are on.
    """
    had: dict[str, int | None] | None = None
    for asked in all_conditions(level):
        branches = isinstance(asked.condition, (And, Or)) and asked.condition.parts
        if branches and not _spends_by_branch(level, asked):
            had = most_had(level) if had is None else had
            combinations = _combinations(level, asked.condition, had)
            if combinations is not None:
                yield from _needless(asked, combinations)


def _needless(asked: Asked, combinations: list[_Facts]) -> Iterator[Finding]:
    whole = [_holds(asked.condition, facts) for facts in combinations]
    for part, without in _leaving_one_out(asked.condition):
        if [_holds(without, facts) for facts in combinations] == whole:
            message = f"In `{asked.condition}`, the part `{part}` can never matter."
            mend = f"write `{without}`" if without not in (And(()), Or(())) else "take it out"
            yield Finding(
                "needless-alternative", "note", asked.subject, message, "", mend, asked.place
            )
            return


def _spends_by_branch(level: Level, asked: Asked) -> bool:
    """Whether parts of the condition say what a lock takes, so that each matters."""
    return any(
        isinstance(atom, (Has, HasAll))
        and (item := level.items.get(atom.name if isinstance(atom, Has) else atom.item))
        and item.use == "spent"
        for atom in atoms(asked.condition)
    )


def _leaving_one_out(condition: Condition) -> Iterator[tuple[Condition, Condition]]:
    """Each part of a condition, with the condition that is left without it."""
    match condition:
        case And(parts) | Or(parts):
            for number, part in enumerate(parts):
                rest = parts[:number] + parts[number + 1 :]
                yield part, rest[0] if len(rest) == 1 else type(condition)(rest)
            for number, part in enumerate(parts):
                for inner, without in _leaving_one_out(part):
                    changed = (*parts[:number], without, *parts[number + 1 :])
                    yield inner, type(condition)(changed)
        case Not(part):
            for inner, without in _leaving_one_out(part):
                yield inner, Not(without)


def _combinations(
    level: Level, condition: Condition, had: Mapping[str, int | None]
) -> list[_Facts] | None:
    """Every combination of facts the atoms of a condition can have; ``None`` for too many."""
    used = dict.fromkeys(atoms(condition))
    choices: list[list[dict[Atom, bool]]] = []
    counts: dict[str, list[int]] = {}
    rooms = [atom for atom in used if isinstance(atom, At)]
    for atom in used:
        if isinstance(atom, Has) and atom.name in level.items:
            counts.setdefault(atom.name, []).append(atom.count)
        elif not isinstance(atom, At):
            choices.append([{atom: False}, {atom: True}])
    for item, thresholds in counts.items():
        most = had[item]
        carried = [0, *(n for n in sorted(set(thresholds)) if most is None or n <= most)]
        choices.append([{Has(item, n): number >= n for n in thresholds} for number in carried])
    if rooms:
        choices.append([{room: room == here for room in rooms} for here in [None, *rooms]])
    number = 1
    for choice in choices:
        number *= len(choice)
    if number > MOST_COMBINATIONS:
        return None
    return [
        {atom: on for part in combination for atom, on in part.items()}
        for combination in product(*choices)
    ]


def _holds(condition: Condition, facts: _Facts) -> bool:
    match condition:
        case And(parts):
            return all(_holds(part, facts) for part in parts)
        case Or(parts):
            return any(_holds(part, facts) for part in parts)
        case Not(part):
            return not _holds(part, facts)
    return facts[condition]  # type: ignore[index]
