"""Run every finding on a level, and list the results."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from functools import cached_property
from importlib import import_module
from pkgutil import iter_modules
from typing import Generic, TypeVar

from ..level import Level
from ..questions.answers import Answers
from ..questions.context import AnyContext
from ..questions.missable import Missed
from ..reasons.missed import why_missed
from ..reasons.reason import Reason, Reasons
from ..spaces import Route
from ..values import dataclass, field
from .finding import Finding

Given = TypeVar("Given")


@dataclass(frozen=True, eq=False)
class Answered:
    """A level whose questions were asked.

    Attributes:
        context: The level with its evidence, for further questions.
        answers: The answers that a report gives.
        missed: For each reward that can be missed, how.
        routes: The finishing runs that were found.
        says_why: Whether to search for reasons.
    """

    context: AnyContext
    answers: Answers
    missed: Missed
    routes: dict[str, Route]
    says_why: bool = True

    @property
    def level(self) -> Level:
        """The level."""
        return self.context.level

    @cached_property
    def _reasons(self) -> Reasons:
        """Finds why nothing finishes, within one budget for all findings."""
        return Reasons(self.context)

    def explain(self, route: Route) -> Reason:
        """Return why nothing finishes from the end of a route.

        Args:
            route: How the position is reached.

        Returns:
            The reason; one without words, of its own for each position, if none is to be searched for.
        """
        if self.says_why:
            return self._reasons.explain(route)
        return Reason("", "", (repr(route.positions[-1]),))

    def why_missed(self, route: Route) -> str:
        """Return why the last move of a route misses a reward, if that is known."""
        return why_missed(self.level, self._reasons.runs.relaxed, route) if self.says_why else ""


@dataclass(eq=False)
class Registry(Generic[Given]):
    """The functions that make findings from one thing; each file of a folder adds its own."""

    package: str
    _all: list[Callable[[Given], Iterable[Finding]]] = field(default_factory=list)

    def __call__(
        self, find: Callable[[Given], Iterable[Finding]]
    ) -> Callable[[Given], Iterable[Finding]]:
        """Add a function to the list; a decorator."""
        self._all.append(find)
        return find

    def all(self, given: Given) -> Iterator[Finding]:
        """Yield every finding, in the order of the names of the files."""
        package = import_module(f"{__package__}.{self.package}")
        for module in sorted(one.name for one in iter_modules(package.__path__)):
            import_module(f"{package.__name__}.{module}")
        for find in sorted(self._all, key=lambda one: one.__module__):
            yield from find(given)


#: The findings about the layout, which need no search, and the findings about the answers.
layout: Registry[Level] = Registry("of_layout")
finding: Registry[Answered] = Registry("of_answers")
