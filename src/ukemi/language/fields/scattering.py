"""Read the groups of things to place again at random."""

from __future__ import annotations

from ...level.scatter_groups import Scatter, stretch_of
from .fields import Field, Fields
from .nodes import TEXT, Node
from .notes import Notes, bad
from .room_fields import Named
from .types import OneOf, Reference, Schema, Several, WholeType


class _Once:
    """Read one name or a list of names, without duplicates."""

    def __init__(self, one: Reference | Into) -> None:
        self._several = Several(one)

    def read(self, notes: Notes, node: Node) -> tuple[str, ...]:
        names: tuple[str, ...] = self._several.read(notes, node)
        nodes = node.value if node.id == "sequence" else [node]
        for number, (name, one) in enumerate(zip(names, nodes, strict=True)):
            if name in names[:number]:
                raise bad("duplicate-name", f"{name!r} is listed twice", one)
        return names

    def schema(self) -> Schema:
        return self._several.schema()


class Into:
    """A room, a chest, an act, or the floor of a map."""

    _place = Reference("into")
    _map = Reference("map")

    def read(self, notes: Notes, node: Node) -> str:
        text = node.value if node.id == "scalar" and node.tag == TEXT else ""
        stretch = stretch_of(text)
        if stretch is not None:
            notes.references.append(("map", stretch.map, node))
            return " ".join(text.split())
        if text.startswith("floor of"):
            message = (
                f"{text!r} is not a part of a map: write `floor of ground`, or "
                '"floor of ground from 2,3 to 40,3", in quotes if it is inside brackets'
            )
            raise bad("bad-value", message, node)
        return self._place.read(notes, node)

    def schema(self) -> Schema:
        return self._place.schema()


SCATTER = Fields(
    "a group of `scatter`",
    Field("items", _Once(Reference("item")), "The items to place again."),
    Field("chests", _Once(Reference("chest")), "Chests that are moved, with what they hold."),
    Field("into", _Once(Into()), "Rooms, chests, acts and floors of maps. Default: all."),
    Field("apart", WholeType(1), "The fewest steps between two of them."),
    Field("at-most", WholeType(1), "The most of them in one room. Default: any number."),
    Field("colors", OneOf(("kept", "shuffled")), "Whether its items exchange colours at random."),
)


class Scatters(Named):
    """Return the groups, by name; a thing is in at most one."""

    def __init__(self) -> None:
        super().__init__("a group of `scatter`", SCATTER, Scatter)

    def read(self, notes: Notes, node: Node) -> dict[str, Scatter]:
        groups: dict[str, Scatter] = super().read(notes, node)
        taken: dict[str, str] = {}
        for name, group in groups.items():
            for one in (*group.items, *group.chests):
                if one in taken:
                    message = f"{one!r} is scattered twice: by {taken[one]!r} and by {name!r}"
                    raise bad("duplicate-name", message, _key(node, name))
                taken[one] = name
        return groups

    def one(self, notes: Notes, name: str, value: Node, key: Node) -> Scatter:
        group: Scatter = super().one(notes, name, value, key)
        if not group.items and not group.chests:
            message = f"the group {name!r} has neither `items` nor `chests` to place"
            raise bad("bad-value", message, key)
        return group


def _key(node: Node, name: str) -> Node:
    keys: list[Node] = [key for key, _ in node.value if key.value == name]
    return keys[0]
