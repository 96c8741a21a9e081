"""What a packed search found, told as the plain search tells it, and asked many positions at a time."""

from __future__ import annotations

from array import array
from collections.abc import Iterable, Iterator, Sequence
from itertools import pairwise
from typing import TYPE_CHECKING, Any, overload

import numpy as np
import numpy.typing as npt

from ...rules import END, PLACE, PLAYING, Move, Position
from ..explore import Exploration
from .layout import TooLargeError, Words
from .table import Numbers

if TYPE_CHECKING:
    from .explore import PackedSearch

#: The positions to unpack in one go.
CHUNK = 1 << 16

#: The bits of one number when several numbers make up a mask.
BITS = 62


class _Positions(Sequence[Position]):
    """The positions, unpacked when they are looked at."""

    def __init__(self, search: PackedSearch) -> None:
        self.search = search

    def __len__(self) -> int:
        return self.search.table.count

    @overload
    def __getitem__(self, number: int) -> Position: ...
    @overload
    def __getitem__(self, number: slice) -> list[Position]: ...
    def __getitem__(self, number: Any) -> Any:
        if isinstance(number, slice):
            rows = [row[: len(self)][number] for row in self.search.table.rows]
            return self.search.layout.unpack(rows)
        return self[number : number + 1][0]

    def __iter__(self) -> Iterator[Position]:
        for first in range(0, len(self), CHUNK):
            yield from self[first : min(first + CHUNK, len(self))]


class _Moves(Sequence[list[tuple[Move, int]]]):
    """The moves of each position, told when they are asked for."""

    def __init__(self, search: PackedSearch) -> None:
        edges = search.edges or [
            (np.zeros(0, np.int32), np.zeros(0, np.uint16), np.zeros(0, np.int32))
        ]
        sources = np.concatenate([edge[0] for edge in edges])
        order = np.argsort(sources, kind="stable")
        self._by = np.concatenate([edge[1] for edge in edges])[order]
        self.leads = np.concatenate([edge[2] for edge in edges])[order]
        self.sources = sources[order]
        search.edges.clear()
        self.starts = np.searchsorted(self.sources, np.arange(search.table.count + 1))
        self._moves = search.rules.moves
        self._count = search.table.count

    def __len__(self) -> int:
        return self._count

    @overload
    def __getitem__(self, number: int) -> list[tuple[Move, int]]: ...
    @overload
    def __getitem__(self, number: slice) -> list[list[tuple[Move, int]]]: ...
    def __getitem__(self, number: Any) -> Any:
        if isinstance(number, slice):
            return [self[one] for one in range(*number.indices(self._count))]
        part = slice(self.starts[number], self.starts[number + 1])
        return [
            (self._moves[by], lead)
            for by, lead in zip(self._by[part].tolist(), self.leads[part].tolist(), strict=True)
        ]

    def between(
        self, marked: npt.NDArray[np.bool_], others: npt.NDArray[np.bool_]
    ) -> Iterator[tuple[int, Move, int]]:
        """The moves that lead from marked positions to others."""
        chosen = np.flatnonzero(marked[self.sources] & others[self.leads])
        parts = (self.sources[chosen], self._by[chosen], self.leads[chosen])
        for source, by, lead in zip(*(part.tolist() for part in parts), strict=True):
            yield source, self._moves[by], lead

    def __iter__(self) -> Iterator[list[tuple[Move, int]]]:
        moves = self._moves
        for first in range(0, self._count, CHUNK):
            starts = self.starts[first : first + CHUNK + 1]
            part = slice(starts[0], starts[-1])
            by, leads = self._by[part].tolist(), self.leads[part].tolist()
            for start, end in pairwise((starts - starts[0]).tolist()):
                yield [(moves[by[n]], leads[n]) for n in range(start, end)]


class _Before(Sequence[list[int]]):
    """For each position, those that a move leads from to it."""

    def __init__(self, moves: _Moves) -> None:
        order = np.argsort(moves.leads, kind="stable")
        self.sources = moves.sources[order]
        self.starts = np.searchsorted(moves.leads[order], np.arange(len(moves) + 1))

    def __len__(self) -> int:
        return len(self.starts) - 1

    @overload
    def __getitem__(self, number: int) -> list[int]: ...
    @overload
    def __getitem__(self, number: slice) -> list[list[int]]: ...
    def __getitem__(self, number: Any) -> Any:
        if isinstance(number, slice):
            return [self[one] for one in range(*number.indices(len(self)))]
        part: list[int] = self.sources[self.starts[number] : self.starts[number + 1]].tolist()
        return part


class _Ways:
    """Where the moves lead, or come from, as rows of numbers."""

    def __init__(self, starts: Numbers, ends: npt.NDArray[np.int32]) -> None:
        self.starts = starts
        self.ends = ends

    def from_all(self, numbers: Numbers) -> npt.NDArray[np.int32]:
        """Where the moves of some positions lead."""
        counts = self.starts[numbers + 1] - self.starts[numbers]
        total = int(counts.sum())
        firsts = np.repeat(self.starts[numbers] - np.cumsum(counts) + counts, counts)
        return self.ends.take(firsts + np.arange(total))

    def spread(self, targets: Iterable[int], banned: npt.NDArray[np.bool_] | None) -> bytearray:
        """Mark what can be come to from some positions, a frontier at a time."""
        marked = np.zeros(len(self.starts) - 1, dtype=bool)
        ahead = np.unique(np.fromiter(targets, dtype=np.int64))
        if banned is not None:
            ahead = ahead[~banned[ahead]]
        while len(ahead):
            marked[ahead] = True
            found = self.from_all(ahead)
            found = found[~marked[found]]
            if banned is not None:
                found = found[~banned[found]]
            ahead = np.unique(found).astype(np.int64)
        return bytearray(marked.tobytes())


class _Came:
    """For each position but the first, the one it was reached from and the move."""

    def __init__(self, search: PackedSearch) -> None:
        self._came, self._by = search.found.came, search.found.by
        self._moves = search.rules.moves

    def __getitem__(self, number: int) -> tuple[int, Move] | None:
        source = int(self._came[number])
        return None if source < 0 else (source, self._moves[int(self._by[number])])


class _Numbers:
    """The numbers of positions."""

    def __init__(self, search: PackedSearch) -> None:
        self._search = search

    def get(self, position: Position) -> int | None:
        """The number of a position, if it was reached."""
        try:
            packed = self._search.layout.pack(position)
        except TooLargeError:  # what has no room in the words was not reached
            return None
        number = int(self._search.table.find(packed)[0])
        return None if number < 0 else number

    def __getitem__(self, position: Position) -> int:
        number = self.get(position)
        if number is None:
            raise KeyError(position)
        return number


class PackedExploration(Exploration):
    """What a packed search found, told as the plain search tells it."""

    at_once = True

    def __init__(self, search: PackedSearch, seconds: float) -> None:
        count = search.table.count
        moves = _Moves(search)
        explored = search.found.explored[:count].copy()
        rows = [row[:count] for row in search.table.rows]
        ended = search.layout.column(rows, END) != PLAYING
        explored[ended] = 1
        super().__init__(
            search.rules,
            _Positions(search),  # type: ignore[arg-type]
            array("i", search.found.costs[:count].tobytes()),  # type: ignore[arg-type]
            _Came(search),  # type: ignore[arg-type]
            moves,  # type: ignore[arg-type]
            bytearray(explored.tobytes()),
            _Numbers(search),  # type: ignore[arg-type]
            seconds,
        )
        # What is looked at position by position, in any order, is told at once.
        before = _Before(moves)
        self.before = before  # type: ignore[assignment]
        self._back = _Ways(before.starts, before.sources)
        self._on = _Ways(moves.starts, moves.leads)
        self._search = search
        self._changes: tuple[Sequence[tuple[int, int]], npt.NDArray[np.uint8]] | None = None
        self.places = search.layout.column(rows, PLACE).tolist()
        self.ends = search.layout.column(rows, END).astype(np.uint8).tobytes()

    def reaching(self, targets: Iterable[int]) -> bytearray:  # noqa: D102
        return self._back.spread(targets, None)

    def reached_without(self, banned: bytearray) -> bytearray:  # noqa: D102
        return self._on.spread([0], _mask(banned))

    def following(self, marked: bytearray) -> bytearray:  # noqa: D102
        after = np.zeros(len(marked), dtype=bool)
        after[self._on.from_all(np.flatnonzero(_mask(marked)))] = True
        return bytearray(after.tobytes())

    def between(  # noqa: D102
        self, marked: bytearray, others: bytearray
    ) -> Iterator[tuple[int, Move, int]]:
        moves = self.moves
        assert isinstance(moves, _Moves)
        yield from moves.between(_mask(marked), _mask(others))

    @property
    def _rows(self) -> Words:
        return [row[: len(self.positions)] for row in self._search.table.rows]

    def having(self, variable: int, value: int) -> bytearray:  # noqa: D102
        found = self._search.layout.column(self._rows, variable) == value
        return bytearray(found.tobytes())

    def changed_in(  # noqa: D102
        self, marked: bytearray, before: Sequence[tuple[int, int]]
    ) -> int:
        if self._changes is None or self._changes[0] is not before:
            self._changes = (before, self._changed_bits(before))
        chosen = self._changes[1][np.flatnonzero(_mask(marked))]
        return int.from_bytes(np.bitwise_or.reduce(chosen, axis=0).tobytes(), "little")

    def _changed_bits(self, before: Sequence[tuple[int, int]]) -> npt.NDArray[np.uint8]:
        """A row of bits for each position: which variables have another value than before."""
        rows, layout = self._rows, self._search.layout
        bits = np.zeros((len(self.positions), -(-len(before) // 8)), dtype=np.uint8)
        for number, (variable, value) in enumerate(before):
            other = (layout.column(rows, variable) != value).view(np.uint8)
            bits[:, number // 8] |= other << np.uint8(number % 8)
        return bits

    def places_in(self, marked: bytearray) -> set[int]:  # noqa: D102
        here = self._search.layout.column(self._rows, PLACE)[_mask(marked)]
        return set(np.unique(here).tolist())

    def changed(self, before: Sequence[tuple[int, int]]) -> list[int]:  # noqa: D102
        rows = self._rows
        masks = [0] * len(self.positions)
        for first in range(0, len(before), BITS):
            part = np.zeros(len(masks), dtype=np.int64)
            for bit, (variable, value) in enumerate(before[first : first + BITS]):
                other = self._search.layout.column(rows, variable) != value
                part |= other.astype(np.int64) << bit
            if first:
                parts = zip(masks, part.tolist(), strict=True)
                masks = [mask | more << first for mask, more in parts]
            else:
                masks = part.tolist()
        return masks


def _mask(marked: bytearray) -> npt.NDArray[np.bool_]:
    mask: npt.NDArray[np.bool_] = np.frombuffer(bytes(marked), dtype=np.uint8) != 0
    return mask
