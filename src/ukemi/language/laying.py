"""Read the values that Python code gives to a level as a level file would give them, and check every name."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Any

from ..level import Act, Chest, Condition, Event, Level, LevelError, Lock, Passage, Room
from .fields.nodes import Node, plain_node
from .fields.notes import BadValue, Notes, bad
from .fields.passages import Passages
from .fields.resolve import goal_of, named_cells, resolve
from .fields.room_fields import ROOM, LockType
from .fields.types import name_of
from .fields.whole import LEVEL, Goal


class GivenReader:
    """Reads what the methods of a level are given. Each raises a LevelError with all that is wrong."""

    def value(self, level: Level, field: str, value: Any) -> Any:
        """The value of a field of the level, such as ``flags``, or of its rooms, such as ``rooms/items``."""
        notes = Notes(locks=level.locks)
        return _checked(level, notes, lambda: _type_of(field).read(notes, plain_node(value)))

    def part(
        self, level: Level, into: dict[str, Any], field: str, name: str, fields: Mapping[str, Any]
    ) -> None:
        """Add a part to those of a field.

        Args:
            into: The parts that there are already.
            field: The field that they stand in.
            name: The name of the new part.
            fields: Its fields.
        """
        notes, key, named = Notes(locks=level.locks), plain_node(name), _type_of(field)

        def read() -> Any:
            name_of(key, named.what)
            if name in into:
                raise bad("duplicate-name", f"there is {named.what} {name!r} already", key)
            part = named.one(notes, name, plain_node(fields), key)
            for thing in _things(part):
                _refuse_known(level, thing, key)
            return part

        into[name] = _checked(level, notes, read, adding=(into, name))

    def passage(self, level: Level, text: str, fields: Mapping[str, Any]) -> Passage:
        """A passage from its text and its fields."""
        notes, node = Notes(locks=level.locks), plain_node({text: fields})
        taken: dict[str, int] = {}
        for one in level.passages:
            if not one.named:
                taken[one.text] = taken.get(one.text, 0) + 1

        def read() -> Passage:
            passage = Passages().one(notes, node, taken)
            _refuse_known(level, passage.name, node)
            return passage

        passage: Passage = _checked(level, notes, read)
        return passage

    def lock(self, level: Level, by: Any) -> str | Lock:
        """A lock by name, or from a condition or the fields of one."""
        notes, node = Notes(locks=level.locks), plain_node(by)
        lock: str | Lock = _checked(level, notes, lambda: LockType().read(notes, node))
        return lock

    def goal(self, level: Level, goal: str | Condition) -> Condition:
        """A goal, in which a bare name may be that of a room."""
        notes, node = Notes(), plain_node(goal)
        found: Condition = _checked(
            level, notes, lambda: goal_of(level, *Goal().read(notes, node), notes)
        )
        return found

    def room(self, level: Level, name: str) -> Room:
        """The room of a name."""
        notes = Notes(references=[("room", name, plain_node(name))])
        resolve(level, notes)
        if notes.problems:
            raise LevelError(notes.problems)
        return level.rooms[name]


def _type_of(field: str) -> Any:
    """The type of a field of the level, or of a field of its rooms."""
    _, of_room, name = field.rpartition("/")
    return (ROOM if of_room else LEVEL).by_name[name].type


def _things(part: Any) -> Iterator[str]:
    """The names of doors, chests, acts and events that come with a part."""
    if isinstance(part, (Chest, Act, Event)):
        yield part.name
    elif isinstance(part, Room):
        yield from (*part.chests, *part.switches, *part.acts)


def _refuse_known(level: Level, name: str, node: Node) -> None:
    if name in level.things:
        kind = level.things[name].kind
        raise bad("duplicate-name", f"there is a {kind} {name!r} already", node)


def _checked(
    level: Level,
    notes: Notes,
    read: Callable[[], Any],
    adding: tuple[dict[str, Any], str] | None = None,
) -> Any:
    """Read something and check the names in it.

    Raises:
        LevelError: With all that is wrong; the level is as it was.
    """
    result = None
    before = set(level.turned)
    try:
        result = read()
    except BadValue as error:
        notes.problems.append(error.problem)
    level.take_up(notes.flags, named_cells(notes, None))
    added = adding if not notes.problems else None
    if added:
        added[0][added[1]] = result  # so that it can name itself
    resolve(level, notes)
    if notes.problems:
        level.turned = before
        if added:
            del added[0][added[1]]
        raise LevelError(notes.problems)
    return result
