"""Exploring whole frontiers at a time."""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import pairwise
from time import perf_counter

import numpy as np
import numpy.typing as npt

from ...rules import END, PLACE, PLAYING, Move, Rules
from ..limits import Limits
from .columns import holds, run
from .found import PackedExploration
from .layout import Layout, TooLargeError, Words
from .table import Numbers, Table, larger
from .words import undoing, word_move

#: The positions to look at in one go.
CHUNK = 1 << 16

#: What trying a move takes, however few positions there are, against what each position takes.
TRYING = 150


@dataclass(eq=False, repr=False)
class _Found:
    """What grows with the number of positions."""

    costs: npt.NDArray[np.int32] = field(default_factory=lambda: np.zeros(1024, np.int32))
    came: npt.NDArray[np.int32] = field(default_factory=lambda: np.full(1024, -1, np.int32))
    by: npt.NDArray[np.uint16] = field(default_factory=lambda: np.zeros(1024, np.uint16))
    explored: npt.NDArray[np.uint8] = field(default_factory=lambda: np.zeros(1024, np.uint8))

    def reserve(self, count: int) -> None:
        known = len(self.costs)
        if count <= known:
            return
        size = max(count, 2 * known)
        self.costs, self.came = larger(self.costs, size), larger(self.came, size)
        self.by, self.explored = larger(self.by, size), larger(self.explored, size)
        self.came[known:] = -1
        self.costs[known:] = self.explored[known:] = 0  # no cost is less, until it is known

    @property
    def bytes(self) -> int:
        """The memory this takes."""
        return sum(one.nbytes for one in (self.costs, self.came, self.by, self.explored))


#: Where some moves are made, by number; the moves, by index; and where they lead.
Edges = tuple[npt.NDArray[np.int32], npt.NDArray[np.uint16], npt.NDArray[np.int32]]

#: The most moves there can be, so that their indexes fit two bytes; and what no move's index is.
MOST_MOVES = NO_MOVE = (1 << 16) - 1


@dataclass(eq=False, slots=True)
class _Reached:
    """What some moves of one cost lead to, gathered before it is looked up at once."""

    words: list[Words] = field(default_factory=list)
    sources: list[Numbers] = field(default_factory=list)
    by: list[int] = field(default_factory=list)


class PackedSearch:
    """A search under way.

    Args:
        rules: The rules.
        keep_moves: Whether to keep which move leads where, ten bytes for each.

    Raises:
        TooLargeError: A variable may take values that are too large, or there are too many moves.
    """

    def __init__(self, rules: Rules, keep_moves: bool = True) -> None:
        if len(rules.moves) > MOST_MOVES:
            raise TooLargeError
        self.rules = rules
        self.layout = Layout(rules)
        self.table = Table(self.layout.words)
        self.found = _Found()
        self.keep_moves = keep_moves
        self.edges: list[Edges] = []
        self._index = {move.number: index for index, move in enumerate(rules.moves)}
        self._by_words = {move.number: word_move(self.layout, move) for move in rules.moves}
        self._undoes = {} if rules.settling else undoing(rules)
        self._ahead: dict[int, list[Numbers]] = {}
        self._work = 0

    @property
    def bytes(self) -> int:
        """The memory it takes."""
        edges = sum(sum(part.nbytes for part in edge) for edge in self.edges)
        return self.table.bytes + self.found.bytes + edges

    def go(self, limits: Limits, most_work: int | None = None) -> None:
        """Search until everything is explored, or a limit is met.

        Args:
            limits: How far to go.
            most_work: The most moves to find before it gives up, where trying a move at all counts
                as :data:`TRYING`; ``None`` for any number.
        """
        limits = limits.begin()
        self._reach(self.layout.pack(self.rules.start()), None, None, 0)
        self.found.by[0] = NO_MOVE
        while self._ahead:
            cost = min(self._ahead)
            # None is in a list twice: it is entered only when its cost has become lower.
            waiting = np.concatenate(self._ahead.pop(cost))
            waiting = waiting[
                (self.found.explored.take(waiting) == 0) & (self.found.costs.take(waiting) == cost)
            ]
            for first in range(0, len(waiting), CHUNK):
                chunk = waiting[first : first + CHUNK]
                left = limits.positions - self.table.count
                if left <= 0 or limits.over:
                    return
                if most_work is not None and self._work > most_work:
                    return
                if limits.memory is not None and self.bytes + 64 * len(chunk) > limits.memory // 4:
                    return  # the rest is for answering from what was found
                self._expand(chunk, cost)
                if limits.watch is not None:
                    waiting_now = sum(len(part) for parts in self._ahead.values() for part in parts)
                    limits.watch(self.table.count, waiting_now)

    def _expand(self, numbers: Numbers, cost: int) -> None:
        self.found.explored[numbers] = 1
        words = [row.take(numbers) for row in self.table.rows]
        playing = np.flatnonzero(self.layout.column(words, END) == PLAYING)
        if not len(playing):
            return
        places = self.layout.column(words, PLACE).take(playing)
        by_place = np.argsort(places, kind="stable")
        order, places = playing.take(by_place), places.take(by_place)
        words = [word.take(order) for word in words]
        numbers = numbers.take(order)
        starts = [0, *(np.flatnonzero(np.diff(places)) + 1).tolist(), len(places)]
        reached: dict[int, _Reached] = {}
        for start, end in pairwise(starts):
            here = numbers[start:end]
            inside = [word[start:end] for word in words]
            by = self.found.by.take(here)
            for move in self.rules.moves_at(int(places[start])):
                ahead = reached.setdefault(cost + move.cost, _Reached())
                self._make(move, here, inside, by, ahead)
        for then, gathered in reached.items():
            if gathered.words:
                self._reach_all(gathered, then)

    def _make(
        self,
        move: Move,
        numbers: Numbers,
        words: Words,
        by: npt.NDArray[np.uint16],
        reached: _Reached,
    ) -> None:
        """Make a move wherever it can be made.

        Args:
            move: The move.
            numbers: The positions, by number.
            words: Their words.
            by: The move that each was come to by, by index.
            reached: Takes up where the move leads.
        """
        self._work += TRYING * len(words)
        quick = self._by_words[move.number]
        if quick is None:
            self._make_by_columns(move, numbers, words, reached)
            return
        can = None if quick.test is None else quick.test(words)
        undone = self._undoes.get(move.number)
        if undone is not None:
            # Where the move only takes back the one before, it is known where it leads.
            back = by == self._index[undone]
            if can is not None:
                back &= can
            self._go_back(move, numbers[back])
            can = ~back if can is None else can & ~back
        if can is not None:
            chosen = np.flatnonzero(can)
            if not len(chosen):
                return
            if len(chosen) < len(numbers):
                words = [word.take(chosen) for word in words]
                numbers = numbers.take(chosen)
        after = list(words)
        for change in quick.changes:
            after[change.word] = change(after[change.word])
        reached.words.append(after)
        reached.sources.append(numbers)
        reached.by.append(self._index[move.number])

    def _go_back(self, move: Move, numbers: Numbers) -> None:
        self._work += len(numbers)
        if self.keep_moves and len(numbers):
            by = np.full(len(numbers), self._index[move.number], dtype=np.uint16)
            self.edges.append((numbers.astype(np.int32), by, self.found.came.take(numbers)))

    def _make_by_columns(
        self, move: Move, numbers: Numbers, words: Words, reached: _Reached
    ) -> None:
        columns = self.layout.columns(words)
        active = holds(move.guard, columns)
        chosen = np.flatnonzero(np.broadcast_to(active, len(numbers)))
        if not len(chosen):
            return
        after = [word.take(chosen) for word in words]
        numbers = numbers.take(chosen)
        columns = self.layout.columns(after)
        done = run(move.steps, columns, None)
        if done is not None and not done.any():
            return
        if done is not None and not done.all():
            made = np.flatnonzero(done)
            after = [word.take(made) for word in after]
            numbers = numbers.take(made)
            columns = columns.chosen(made)
        reached.words.append(self.layout.written(after, columns))
        reached.sources.append(numbers)
        reached.by.append(self._index[move.number])

    def _reach_all(self, gathered: _Reached, cost: int) -> None:
        words = [np.concatenate(parts) for parts in zip(*gathered.words, strict=True)]
        if self.rules.settling:
            columns = self.layout.columns(words)
            run(self.rules.settling, columns, None)
            words = self.layout.written(words, columns)
        sources = np.concatenate(gathered.sources)
        by = np.repeat(
            np.array(gathered.by, dtype=np.uint16), [len(part) for part in gathered.sources]
        )
        self._reach(words, sources, by, cost)

    def _reach(
        self,
        words: Words,
        sources: Numbers | None,
        by: npt.NDArray[np.uint16] | None,
        cost: int,
    ) -> None:
        self._work += len(words[0])
        numbers, new = self.table.add(words)
        found = self.found
        found.reserve(self.table.count)
        if any(waiting > cost for waiting in self._ahead):  # else none has become cheaper
            new |= (found.costs.take(numbers) > cost) & (found.explored.take(numbers) == 0)
        better = np.flatnonzero(new)
        reached = numbers.take(better)
        found.costs[reached] = cost
        if sources is not None and by is not None:
            found.came[reached] = sources.take(better)
            found.by[reached] = by.take(better)
            if self.keep_moves:
                self.edges.append((sources.astype(np.int32), by, numbers.astype(np.int32)))
        if len(reached):
            self._ahead.setdefault(cost, []).append(reached)


def explore_packed(
    rules: Rules, limits: Limits | None = None, most_work: int | None = None
) -> PackedExploration:
    """Explore every position that can be reached, many at a time.

    The same search as :func:`ukemi.search.explore`, by cost, but a whole frontier of positions of
    one cost at a time, each packed into machine words.

    Args:
        rules: The variables and moves.
        limits: How far to go.
        most_work: The most moves to find before it gives up, where trying a move at all counts
                as :data:`TRYING`; ``None`` for any number.

    Returns:
        What was found; the costs are those of the plain search.

    Raises:
        TooLargeError: A variable may take values that are too large.

    Example:
        >>> from ukemi.files import loads
        >>> from ukemi.rules import compile_level
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [quay -> mill]}")
        >>> found = explore_packed(compile_level(level))
        >>> list(found.positions), list(found.costs), found.complete
        ([(0, 0), (1, 0), (1, 1)], [0, 1, 1], True)
    """
    began = perf_counter()
    search = PackedSearch(rules)
    search.go(limits or Limits(), most_work)
    return PackedExploration(search, perf_counter() - began)
