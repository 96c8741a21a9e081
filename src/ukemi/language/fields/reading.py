"""A level from the raw values of a file."""

from __future__ import annotations

from collections.abc import Callable

from ...level.level import Level
from ...level.problems import LevelError, Problem
from ...level.sense import sense_problems
from .nodes import Node, place_of
from .notes import BadValue, Notes
from .resolve import goal_of, named_cells, resolve
from .whole import read_fields


def read_level(
    node: Node,
    file: str | None = None,
    name: str = "level",
    read_csv: Callable[[str], list[tuple[str, ...]]] | None = None,
    notes: Notes | None = None,
) -> Level:
    """Read a level from raw values, checking everything that can be checked without playing.

    Args:
        node: The whole file as a mapping.
        file: The file's name, for messages.
        name: The level's name, where the file gives none.
        read_csv: Reads a CSV file that the level names.
        notes: Takes down every name that is used, for whoever wants to know.

    Raises:
        LevelError: With all that is wrong, in the order of the file.
    """
    notes = notes or Notes()
    notes.read_csv = read_csv
    level = Level(name)
    try:
        values = read_fields(notes, node)
    except BadValue as error:
        raise LevelError([error.problem], file) from None
    values.pop("ukemi", None)
    goal = values.pop("goal", None)
    level.expected = values.pop("expect", level.expected)
    level.accepted = values.pop("accept", level.accepted)
    for attribute, value in values.items():
        setattr(level, attribute, value)
    keys = [key for key, _ in node.value if key.id == "scalar"]
    level.places = {key.value: place for key in keys if (place := place_of(key))}
    if not notes.map_unread:
        notes.problems += level.adopt(notes.flags, named_cells(notes, goal[0] if goal else None))
    if notes.map_unread or (level.cut is not None and level.cut.problems):
        # A map that cannot be read has no cells: each name of a cell would count as unknown.
        raise LevelError(sorted(notes.problems, key=_in_file_order), file)
    if goal is not None:
        try:
            level.goal = goal_of(level, goal[0], goal[1], notes)
        except BadValue as error:
            notes.problems.append(error.problem)
    resolve(level, notes)
    problems = notes.problems
    codes = {problem.code for problem in problems}
    if level.goal is not None and codes <= {"contradicting-effects", "duplicate-name"}:
        problems = [*problems, *sense_problems(level)]  # all other messages would be wrong
    if problems:
        raise LevelError(sorted(problems, key=_in_file_order), file)
    level.sound = True
    return level


def _in_file_order(problem: Problem) -> tuple[int, int]:
    return (problem.place or (0, 0))[:2]
