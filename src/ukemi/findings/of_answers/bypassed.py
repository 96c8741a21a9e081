"""``bypassed``: a door with a key that no finishing run needs, since there is a way round."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from itertools import permutations

from ...level import ALWAYS, Has, HasAll, Level, Passage
from ...level.conditions import atoms
from ...level.names import in_list
from ...questions import way_round
from ...questions.context import AnyContext
from ...questions.smallest import irreducible
from ...questions.verdict import Answer
from ...spaces import CutShortError
from ..finding import Finding
from ..registry import Answered, finding

#: The most gaps in walls to name.
MOST_GAPS = 3


@finding
def bypassed(answered: Answered) -> Iterator[Finding]:
    """Report each door with a key, if both of its sides can be reached without opening it and without anything
    in its place.
    """
    level, context = answered.level, answered.context
    for passage, lock in level.doors():
        has_key = any(
            isinstance(atom, HasAll) or (isinstance(atom, Has) and atom.name in level.items)
            for atom in atoms(lock.needs)
        )
        if not has_key or answered.answers.doors.get(passage.thing) not in (
            Answer.OPTIONAL,
            Answer.NEVER,
        ):
            continue
        if len(set(passage.ends)) < 2:
            continue
        try:
            needs = way_round.needed(context, passage.ends, passage)
            if needs is None:
                continue
            instead: bool | None = _needed_instead(context, passage, needs)
        except CutShortError:
            instead = None
        # If so, the lock is one of two ways, as `either-or` tells where finishing takes one.
        if instead or (way := way_round.ask(context, passage)) is None:
            continue
        room, route = way
        name = passage.thing
        walked = [str(move.what["name"]) for move in route.moves if move.what["do"] == "walk"]
        by = f" (by {walked[-1]})" if walked and walked[-1] != room else ""
        if level.maps and (gaps := _gaps(level, passage, room)):
            by = f" (by the {'gap' if len(gaps) == 1 else 'gaps'} at {in_list(gaps)})"
        message = f"No finishing run needs {name}: {room} is reached{by} without opening it."
        why = "There is a shortcut round it"
        mend = f"close the shortcut, or take the lock off {name}"
        if instead is None:
            why += "; whether it asks for anything else is undecided: the search was cut short"
        yield Finding("bypassed", "warning", name, message, why, mend, passage.place, route)


def _gaps(level: Level, door: Passage, far: str) -> list[str]:
    """The gaps in the walls of a map by which a walk leads round a door, through no door or gate; none if they are many."""
    from ...level.maps.paths import Paths  # loaded for maps only

    paths = Paths(level)
    shut = [one.b for one in level.passages if one.part_of and (one.lock or one.gate != ALWAYS)]
    found = (paths.gaps(near, far, shut) for near in door.ends if near != far)
    return next((gaps for gaps in found if 0 < len(gaps) <= MOST_GAPS), [])


def _needed_instead(context: AnyContext, door: Passage, needed: Sequence[frozenset[str]]) -> bool:
    """Return whether the way round a door needs something that is not needed if the door has no lock.

    Args:
        needed: What every run does before it enters each end of the door.

    Raises:
        CutShortError: The time was over first.
    """
    sides = list(permutations(dict.fromkeys(door.ends), 2))
    if not door.two_way and door.part_of is None:
        sides = [(door.a, door.b)]
    needs = dict(zip(door.ends, needed, strict=True))
    return any(_needs_beyond(context, door, needs, near, far) for near, far in sides)


def _needs_beyond(
    context: AnyContext, door: Passage, needs: Mapping[str, frozenset[str]], near: str, far: str
) -> bool:
    """Return whether the far side needs something that the near side does not.

    Args:
        needs: What every run does before it enters each side.
    """
    subjects = [one for one in context.subjects if one.kind != "event" and one.name != door.thing]
    subjects.sort(key=lambda one: one.kind == "item")  # doors, chests and acts say more
    near_needs = needs[near]
    if not needs[far] <= near_needs:
        return True
    others = [one.name for one in subjects if one.name not in near_needs]

    def comes_to(room: str, done: Collection[str]) -> bool:
        undone = [name for name in others if name not in done]
        return way_round.comes_without(context, room, [door.thing, *undone])

    needed = irreducible(others, lambda done: comes_to(near, done))
    return not comes_to(far, needed)
