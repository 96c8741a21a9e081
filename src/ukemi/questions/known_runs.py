"""Runs that were found, with when each does a thing first: often they show that a run can do without some things."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Collection, Iterable, Mapping

from ..rules import Position
from .subjects import Subject

#: The most runs to keep: the latest ones.
MOST = 100


class KnownRuns:
    """Runs of one level.

    Args:
        subjects: The things that runs can do, by name.
    """

    def __init__(self, subjects: Mapping[str, Subject]) -> None:
        self._subjects = subjects
        self._runs: deque[tuple[list[Position], dict[str, int]]] = deque(maxlen=MOST)

    def add(self, positions: Iterable[Position]) -> Collection[str]:
        """Keep a run, given by its positions; return the things that it does."""
        run = list(positions)
        first: dict[str, int] = {}
        for name, one in self._subjects.items():
            for number, position in enumerate(run):
                if position[one.variable] != one.before:
                    first[name] = number
                    break
        self._runs.append((run, first))
        return first.keys()

    def one_reaches(self, wanted: Callable[[Position], bool], without: Collection[str]) -> bool:
        """Whether a run reaches a wanted position before it does any of some things."""
        for run, first in self._runs:
            end = min((first[name] for name in without if name in first), default=len(run))
            if any(map(wanted, run[:end])):
                return True
        return False
