"""How far a search may go."""

from __future__ import annotations

from collections.abc import Callable
from time import perf_counter
from typing import Any

from ..values import dataclass, field, replace

#: The most positions to explore where nothing else is asked for.
MAX_POSITIONS = 1_000_000

#: The greatest number of values of variables to store in a first search of few positions, and the fewest
#: positions to search all the same.
MOST_VALUES, LEAST = 4_000_000, 200


class CutShortError(Exception):
    """The time, the memory or the positions allowed were used up before an answer was certain."""


class Deadline:
    """The moment at which a search ends at the latest.

    Args:
        seconds: The time from now; ``None`` for no end but :meth:`stop`.
        within: Another deadline, which ends this one too and lends it its clock.
        clock: Tells the time in seconds. Tests pass one that moves on each time it is read, so that
            a search ends at the same place on every machine.
    """

    def __init__(
        self,
        seconds: float | None = None,
        within: Deadline | None = None,
        clock: Callable[[], float] = perf_counter,
    ) -> None:
        self._seconds = seconds
        self._within = within
        self._clock: Callable[[], float] = clock if within is None else within._clock
        self._stopped = False
        self.renew()

    def renew(self) -> None:
        """Start the time again."""
        self._end = None if self._seconds is None else self._clock() + self._seconds

    @property
    def left(self) -> float | None:
        """The seconds until the end; ``None`` if there is no end."""
        own = None if self._end is None else max(self._end - self._clock(), 0.0)
        outer = None if self._within is None else self._within.left
        return min((one for one in (own, outer) if one is not None), default=None)

    def stop(self) -> None:
        """End the search now."""
        self._stopped = True

    @property
    def over(self) -> bool:
        """Whether the time has come."""
        if self._stopped or (self._end is not None and self._clock() > self._end):
            return True
        return self._within is not None and self._within.over


@dataclass(frozen=True)
class Limits:
    """Bounds on a search; a search that meets one says so, and claims nothing it has not seen.

    Attributes:
        positions: The most positions to explore.
        seconds: The most time to take, in seconds; ``None`` for no bound.
        memory: The most memory to take for positions and moves, in bytes; ``None`` for no bound.
        deadline: When the time ends, where it has begun already.
        watch: Called now and then with the work done, its unit, and the work that waits.
        few: Up to how many positions are searched one by one before diagrams are tried; ``None`` for a number
            that depends on the level, 0 if it is known to have many.
        on_answer: Called with each of the first answers of a check as soon as it is proven: its name
            (``finish``, ``stuck``, ``deadly`` or ``all_rewards``) and the answer.
    """

    positions: int = MAX_POSITIONS
    seconds: float | None = None
    memory: int | None = None
    deadline: Deadline | None = field(default=None, compare=False)
    few: int | None = None
    watch: Callable[[int, str, int], None] | None = field(default=None, compare=False)
    on_answer: Callable[[str, Any], None] | None = field(default=None, compare=False)

    def begin(self) -> Limits:
        """Return the same limits; the time starts now unless it has started."""
        return self if self.deadline else replace(self, deadline=Deadline(self.seconds))

    def share(self, parts: int) -> Limits:
        """The same limits for one of several parts of a task, with an equal share of the time left."""
        left = None if self.deadline is None else self.deadline.left
        return self if left is None else self.a_part(left / parts)

    def a_part(self, seconds: float) -> Limits:
        """The same limits for one question: some seconds at most, and no more than are left."""
        return replace(self, deadline=Deadline(seconds, self.deadline))

    def at_most(self, positions: int, variables: int = 0) -> Limits:
        """These limits, with fewer positions; fewer still where each has many variables."""
        if variables:
            positions = min(positions, max(LEAST, MOST_VALUES // variables))
        return replace(self, positions=min(positions, self.positions))

    def room_for(self, each: int) -> int:
        """Return the number of positions that one search may keep, at this many bytes each.

        A quarter of the memory is for a search; the rest is for answering from what was found.
        """
        if self.memory is None:
            return self.positions
        return min(self.positions, self.memory // 4 // each)

    def progress(self, done: int, what: str, waiting: int) -> None:
        """Report how far a search is to the observer, if there is one."""
        if self.watch is not None:
            self.watch(done, what, waiting)

    def answered(self, name: str, answer: object) -> None:
        """Report one of the first answers, which is proven, to the caller that asked for them."""
        if self.on_answer is not None:
            self.on_answer(name, answer)

    def check(self) -> None:
        """Go on only as long as the time is not over.

        Raises:
            CutShortError: It is.
        """
        if self.over:
            raise CutShortError

    @property
    def over(self) -> bool:
        """Whether the time is over."""
        return self.deadline is not None and self.deadline.over


#: The default limits during a play: for each question.
PLAYED = Limits(positions=150_000, seconds=10.0)
