"""Report one cause as one finding: a finding that only follows from another is listed under it.

If no run reaches a part of the level, one finding names the door that keeps it shut or the missing
passage. The rooms, doors and items in that part are listed under ``also``. If nothing finishes,
that comes first, and everything that is never done for this reason follows it. Before it comes a room that no passage
leads to, if a way there would be enough.

A level with one finding, and one with two (a second part is cut off, by another door)::

    {start: quay, goal: quay, items: {key: {}}, rooms: {quay: {}, mill: {items: key}, loft: {}},
     passages: [quay <-> mill: {lock: key, name: mill-door}, mill <-> loft]}
    the same with `items: {oar: {}}`, a room `race: {items: oar}` and `quay <-> race: {lock: oar}`
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence, Set
from dataclasses import replace
from functools import cached_property

from ..facts.relaxed import Relaxed
from ..findings.finding import SEVERITIES, Finding
from ..findings.of_layout.copied_key import Copy, copies
from ..level import At, Has, Level, Passage
from ..level.conditions import Condition, atoms
from ..level.joined import Joined
from ..level.names import in_list
from ..level.sources import sources
from ..rules import compile_level
from ..spaces import Limits

#: To how many rooms that no passage leads to a way is tried.
MOST_WAYS = 8

#: The codes of findings that may follow from another finding.
FOLLOWING = ("unconnected", "never-opens", "never-done", "never-taken", "never-entered")


def causes_first(
    level: Level, findings: Sequence[Finding], unreached: Set[str], limits: Limits
) -> list[Finding]:
    """Put what follows from a finding under it.

    Args:
        findings: What was found.
        unreached: The rooms that no run enters.
        limits: How long it may take.

    Returns:
        The findings that are causes, or that have none here, each with what follows from it.
    """
    following = [one for one in findings if one.code in FOLLOWING]
    parts = _Parts(level, unreached)
    groups: dict[str, list[Finding]] = {}
    for one in following:
        groups.setdefault(parts.of(one), []).append(one)
    unfinished = next((one for one in findings if one.code == "cannot-finish"), None)
    tried, enough = 0, set[str]()  # the rooms to which a way would be enough to finish
    follows: dict[int, list[Finding]] = {}
    under: set[int] = set()
    causes: dict[int, str] = {}
    for group in groups.values():
        cause = parts.cause_of(group)
        if unfinished is not None and (cause.code != "unconnected" or parts.has_goal(group)):
            cause = unfinished
        elif tried < MOST_WAYS and _is_wrong(unfinished) and not isinstance(level, Joined):
            tried += 1
            if _finishes_with_way_to(level, cause.subject, limits):
                enough.add(cause.subject)
        rest = [one for one in group if one is not cause]
        follows.setdefault(id(cause), []).extend(rest)
        under |= {id(one) for one in rest}
        why = causes.get(id(cause), cause.why)
        only_out = parts.only_out(group[0], why)
        if only_out:
            causes[id(cause)] = f"{why}; {only_out}" if why else only_out
    for one in findings:  # a way that lets the player in without an item is why the player is stuck
        if one.code == "left-behind" and one.mistake is not None:
            rest = [
                other
                for other in findings
                if other.code == "can-get-stuck" and other.mistake == one.mistake
            ]
            follows.setdefault(id(one), []).extend(rest)
            under |= {id(other) for other in rest}
    for copy in copies(level):
        cause = next(
            one for one in findings if (one.code, one.subject) == ("copied-key", copy.lock)
        )
        rest = [one for one in findings if id(one) not in under and _follows_copy(one, copy)]
        for one in rest:
            follows.setdefault(id(cause), []).extend([one, *follows.get(id(one), ())])
        under |= {id(one) for one in rest}
    causing = [one for one in findings if id(one) not in under]
    return [
        _with_following(
            replace(
                one,
                why=causes.get(id(one), one.why),
                severity="error"
                if one.code == "unconnected" and one.subject in enough
                else one.severity,
            ),
            follows.get(id(one), []),
        )
        for one in causing
    ]


def _is_wrong(unfinished: Finding | None) -> bool:
    """Whether nothing finishes, and that was not expected."""
    return unfinished is not None and unfinished.severity == "error"


def _finishes_with_way_to(level: Level, room: str, limits: Limits) -> bool:
    """Whether the relaxed level could be finished if a passage led from the start to a room."""
    changed = level.copy()
    start = level.start_rooms()[0]
    changed.passages = [*level.passages, Passage(f"a way to {room}", start, room)]
    rules = compile_level(changed)
    relaxed = Relaxed(rules, limits)
    return relaxed.able and relaxed.reach(rules.initial).finishes


def _follows_copy(finding: Finding, copy: Copy) -> bool:
    """Whether a finding follows from a lock that asks for the key of another."""
    if finding.code in ("unused-item", "spare-keys"):
        return finding.subject == copy.item
    if finding.code == "cannot-finish":
        return finding.why.startswith(f"Needs 1 {copy.key} ")
    spent_on = finding.mistake or {}
    if finding.code == "can-get-stuck" and copy.key in spent_on.get("with", {}):
        return spent_on["name"] in (copy.lock, *copy.others)
    return False


def _with_following(cause: Finding, following: Sequence[Finding]) -> Finding:
    """A finding with those that follow from it, and as grave as the gravest."""
    gravest = min((cause, *following), key=lambda one: SEVERITIES.index(one.severity))
    return replace(cause, severity=gravest.severity, follows=(*cause.follows, *following))


class _Parts:
    """The parts of a level that no run reaches; parts that wait for each other count as one."""

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
        """The unreached room that holds a needed thing, if no reached room holds one."""
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

    def only_out(self, finding: Finding, said: str) -> str:
        """Return, in words, the one-way passages and tiles that lead only out of the part that a finding is about.

        Nothing if a sentence names one of them already.
        """
        out = self._out_of.get(self.of(finding), [])
        names = list(dict.fromkeys(one.a if one.on_map else one.thing for one in out))
        rooms = {one.a for one in out if not one.on_map}
        if not names or any(name in said for name in names):
            return ""
        whence = min(rooms) if len(rooms) == 1 else "the part where no run gets"
        return f"{in_list(names)} {'leads' if len(names) == 1 else 'lead'} only out of {whence}"

    @cached_property
    def _out_of(self) -> dict[str, list[Passage]]:
        """For each part, the passages that lead out of it and have no way back."""
        walks = {walk for one in self.level.passages for walk in one.walks()}
        found: dict[str, list[Passage]] = {}
        for one in self.level.passages:
            leaves = one.a in self.unreached and one.b not in self.unreached
            if leaves and (one.b, one.a) not in walks:
                found.setdefault(self._root(one.a), []).append(one)
        return found

    def has_goal(self, group: Sequence[Finding]) -> bool:
        """Whether findings are about a part in which the goal lies."""
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
