"""What findings are told from, and the list of all that tell them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from importlib import import_module
from pkgutil import iter_modules
from typing import Generic, TypeVar

from ..level import Level
from ..spaces import Route
from .questions import Questions
from .result import Answers, Finding
from .reward_answers import Missed

Given = TypeVar("Given")


@dataclass(frozen=True, eq=False)
class Checked:
    """What was asked of a level, and what came of it.

    Attributes:
        questions: Answers whatever else there is to ask.
        answers: The answers a report gives.
        missed: For each reward that can be missed, how.
        routes: The finishing runs that were found.
    """

    questions: Questions
    answers: Answers
    missed: Missed
    routes: dict[str, Route]

    @property
    def level(self) -> Level:
        """The level."""
        return self.questions.level


@dataclass(eq=False)
class Registry(Generic[Given]):
    """All that tells findings from one thing, each in a file of a folder, whatever it finds at fault."""

    package: str
    _all: list[Callable[[Given], Iterable[Finding]]] = field(default_factory=list)

    def __call__(
        self, tell: Callable[[Given], Iterable[Finding]]
    ) -> Callable[[Given], Iterable[Finding]]:
        """Add what tells findings to the list; a decorator."""
        self._all.append(tell)
        return tell

    def all(self, given: Given) -> Iterator[Finding]:
        """Tell every finding, by the names of the files that tell them."""
        package = import_module(f"{__package__}.{self.package}")
        for module in sorted(one.name for one in iter_modules(package.__path__)):
            import_module(f"{package.__name__}.{module}")
        for tell in sorted(self._all, key=lambda one: one.__module__):
            yield from tell(given)


#: What a level tells before any search, and what is told of a checked one.
layout: Registry[Level] = Registry("layout")
finding: Registry[Checked] = Registry("findings")
