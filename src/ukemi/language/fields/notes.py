"""Notes from reading a level, to be checked once all names are known."""

from __future__ import annotations

from collections.abc import Callable, Container, Iterable

from ...level.conditions import Condition
from ...level.names import nearest
from ...level.problems import MOST_LISTED, Problem
from ...level.room import Cell
from ...values import dataclass, field
from .nodes import Node, place_of


class BadValue(Exception):
    """Carries a problem out of the value that has it."""

    def __init__(self, problem: Problem) -> None:
        self.problem = problem


def bad(code: str, message: str, node: Node, near: str | None = None, offset: int = 0) -> BadValue:
    """A problem at a node, ready to be raised."""
    text = node.value if node.id == "scalar" else ""
    return BadValue(Problem(code, message, place_of(node, offset), text, near))


@dataclass(slots=True)
class Notes:
    """Problems found so far, and the names and conditions still to be checked.

    Attributes:
        problems: The problems, in the order of the file.
        references: Each name used, with the namespace it must be found in.
        conditions: Each condition read.
        lock_words: The ids of the nodes of those that could be the name of a lock instead.
        flags: Each flag that something turns, with the first node that does.
        locks: The names of the locks described so far.
        read_csv: Reads a CSV file named in the level; ``None`` where there is no file to be beside.
        cells: Cells of tile maps that are named somewhere.
        map_unread: Whether some map could not be read.
    """

    problems: list[Problem] = field(default_factory=list)
    references: list[tuple[str, str, Node]] = field(default_factory=list)
    conditions: list[tuple[Condition, Node]] = field(default_factory=list)
    lock_words: set[int] = field(default_factory=set)
    flags: dict[str, Node] = field(default_factory=dict)
    locks: Container[str] = ()
    read_csv: Callable[[str], list[tuple[str, ...]]] | None = None
    cells: set[Cell] = field(default_factory=set)
    map_unread: bool = False

    def nearest(self, name: str, known: Iterable[str]) -> str | None:
        """Return the known name nearest to a mistyped one; none if there are too many problems to list."""
        return nearest(name, known) if len(self.problems) < MOST_LISTED else None

    def add(self, code: str, message: str, node: Node, near: str | None = None) -> None:
        """Note a problem at a node."""
        self.problems.append(bad(code, message, node, near).problem)
