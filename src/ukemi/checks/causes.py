"""One cause, one finding: what only follows from something else is told with it.

A part of the level that no run comes to is told once, by the door that keeps it shut or the way that is
missing; the rooms, doors and items in it are told under ``also``. Where nothing finishes, that is told
first, and all that is therefore never done with it.

A level with one finding, and one with two (a second part is cut off, by another door)::

    {start: quay, goal: quay, items: {key: {}}, rooms: {quay: {}, mill: {items: key}, loft: {}},
     passages: [quay <-> mill: {lock: key, name: mill-door}, mill <-> loft]}
    the same with `items: {oar: {}}`, a room `race: {items: oar}` and `quay <-> race: {lock: oar}`
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence, Set
from dataclasses import replace
from functools import cached_property

from ..level import At, Has, Level
from ..level.conditions import Condition, atoms
from ..level.sources import sources
from .result import Finding

#: What may only follow from something else.
FOLLOWING = ("unconnected", "never-opens", "never-done", "never-taken", "never-entered")


def causes_first(level: Level, findings: Sequence[Finding], unreached: Set[str]) -> list[Finding]:
    """Put what follows from a finding under it.

    Args:
        level: The level.
        findings: What was found.
        unreached: The rooms that no run enters.

    Returns:
        The findings that are causes, or that have none here, each with what follows from it.
    """
    following = [one for one in findings if one.code in FOLLOWING]
    parts = _Parts(level, unreached)
    groups: dict[str, list[Finding]] = {}
    for one in following:
        groups.setdefault(parts.of(one), []).append(one)
    unfinished = next((one for one in findings if one.code == "cannot-finish"), None)
    follows: dict[int, list[Finding]] = {}
    under: set[int] = set()
    for group in groups.values():
        cause = parts.cause_of(group)
        if unfinished is not None and (cause.code != "unconnected" or parts.has_goal(group)):
            cause = unfinished
        rest = [one for one in group if one is not cause]
        follows.setdefault(id(cause), []).extend(rest)
        under |= {id(one) for one in rest}
    for one in findings:  # who is let into a level without something is stuck by that way
        if one.code == "left-behind" and one.mistake is not None:
            rest = [
                other
                for other in findings
                if other.code == "can-get-stuck" and other.mistake == one.mistake
            ]
            follows.setdefault(id(one), []).extend(rest)
            under |= {id(other) for other in rest}
    return [
        replace(one, follows=tuple(follows[id(one)])) if follows.get(id(one)) else one
        for one in findings
        if id(one) not in under
    ]


class _Parts:
    """The parts of a level that no run comes to; those that wait for each other are one."""

    def __init__(self, level: Level, unreached: Set[str]) -> None:
        self.level = level
        self.unreached = unreached
        self._of: dict[str, str] = {room: room for room in unreached}
        for passage in level.passages:
            inside = [room for room in (passage.a, passage.b) if room in unreached]
            self._join(inside)
        for passage, lock in level.doors():
            behind = [room for room in (*passage.ends, passage.a, passage.b) if room in unreached]
            self._join([*behind, *self._where_needed(lock.needs)])

    def _join(self, rooms: Iterable[str]) -> None:
        found = [self._root(room) for room in rooms]
        for other in found[1:]:
            self._of[self._root(other)] = self._root(found[0])

    def _root(self, room: str) -> str:
        while self._of[room] != room:
            room = self._of[room]
        return room

    def _where_needed(self, needs: Condition) -> list[str]:
        """Where what is needed lies, if it lies in no room that a run comes to."""
        found: list[str] = []
        for atom in atoms(needs):
            item = atom.name if isinstance(atom, Has) else getattr(atom, "item", "")
            if item in self.level.items:
                rooms = self._lies_in.get(item, [])
                if rooms and set(rooms) <= self.unreached:
                    found += rooms
        return found

    @cached_property
    def _lies_in(self) -> dict[str, list[str]]:
        """For each item, the rooms it lies in, chests there included."""
        found: dict[str, list[str]] = {}
        for one in sources(self.level):
            for item in one.gives if one.kind in ("item", "chest") else ():
                found.setdefault(item, []).append(one.room)
        return found

    def of(self, finding: Finding) -> str:
        """The part that a finding is about; its own name where it is about none."""
        rooms = [room for room in self._rooms(finding) if room in self.unreached]
        return self._root(rooms[0]) if rooms else f"{finding.code} {finding.subject}"

    def _rooms(self, finding: Finding) -> list[str]:
        name = finding.subject
        if finding.code in ("unconnected", "never-entered"):
            return [name]
        if finding.code == "never-taken":
            return [name.rpartition("/")[0]]
        thing = self.level.things.get(name)
        if thing is None:
            return []
        rooms = [thing.room]
        for passage, lock in self.level.doors():
            if passage.thing == name:
                rooms += [*passage.ends, passage.a, passage.b, *self._where_needed(lock.needs)]
        return rooms

    def has_goal(self, group: Sequence[Finding]) -> bool:
        """Whether findings are about a part where the level would have to be finished."""
        goal = self.level.goal
        if goal is None:
            return False
        wanted = [atom.room for atom in atoms(goal) if isinstance(atom, At)]
        wanted += self._where_needed(goal)
        parts = {self._root(room) for room in wanted if room in self.unreached}
        return any(self.of(one) in parts for one in group)

    def cause_of(self, group: Sequence[Finding]) -> Finding:
        """The finding of a part that is to be changed: a way that is missing, or a door to it."""

        def weight(finding: Finding) -> tuple[int, tuple[int, int]]:
            if finding.code == "unconnected":
                rank = 0
            elif finding.code == "never-opens":
                outside = any(room not in self.unreached for room in self._rooms(finding))
                rank = 1 if outside else 3
            else:
                rank = 2 if finding.code == "never-entered" else 4
            return rank, (finding.place or (0, 0))[:2]

        return min(group, key=weight)
