"""Wishes for scattered levels, besides the levels' own claims."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache

from ..checks import Report
from ..values import dataclass


@dataclass(frozen=True)
class Wishes:
    """Bounds on measures.

    Attributes:
        shortest: The most and the fewest steps of the shortest finishing run; ``None`` for no bound.
        order_at_least: So many things, at least, must be done one after another.
        spread: So many steps, at least, from each key to each lock that asks for it.
    """

    shortest: tuple[int | None, int | None] | None = None
    order_at_least: int | None = None
    spread: int | None = None

    @property
    def any(self) -> bool:
        """Whether anything is wished."""
        return self != Wishes()

    def decided_by(self, report: Report) -> bool:
        """Whether a check decides if a level is as wished: the order may be undecided."""
        return self.order_at_least is None or order_length(report) is not None

    def unmet(self, report: Report) -> Iterator[str]:
        """Yield, in words, each wish that a level fails though it keeps its promises."""
        finish = report.answers.measures.finish
        if self.shortest is not None and finish is not None:
            most, least = self.shortest
            if (most is not None and finish.steps > most) or (
                least is not None and finish.steps < least
            ):
                yield "shortest"
        if self.order_at_least is not None and not self.met(report):
            yield "order-at-least"

    def met(self, report: Report) -> bool:
        """Whether a checked level is as wished, if the check decides that."""
        if self.order_at_least is None:
            return True
        length = order_length(report)
        return length is not None and length >= self.order_at_least


def order_length(report: Report) -> int | None:
    """Count the things that every finishing run does one after another; ``None`` where that is unknown.

    The longest path in the order, rooms not counted.

    Example:
        >>> from ukemi.checks import check_level
        >>> from ukemi.language import loads
        >>> order_length(check_level(loads("{start: quay, goal: mill, items: {oak: {}}, rooms: "
        ...     "{quay: {items: oak}, mill: {}}, passages: [quay <-> mill: {lock: oak}]}")))
        2
    """
    answers = report.answers
    if answers.order is None:
        return None
    after: dict[str, list[str]] = {}
    for first, then in answers.order:
        after.setdefault(first, []).append(then)
    things = {*answers.doors, *answers.chests, *answers.acts, *answers.items, *answers.events}

    @cache
    def longest(name: str) -> int:
        return (name in things) + max(map(longest, after.get(name, ())), default=0)

    every = {*after, *(name for names in after.values() for name in names)}
    alone = any(str(one) == "required" for kind in (answers.doors, answers.chests, answers.acts, answers.items) for one in kind.values())  # fmt: skip
    return max(map(longest, every), default=int(alone))
