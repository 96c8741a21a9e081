"""Where each variable of a position stands in its machine words."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from ...rules import END, PLACE, Position, Rules
from ...rules.expressions import AtLeast, Negated
from ...rules.steps import Add, AddUpTo, Require, Set
from ..reduced.reads import each_step
from .columns import Column, Columns

Words = npt.NDArray[np.uint64]

#: The largest value a column holds.
LARGEST = 2**15 - 1


class TooLargeError(Exception):
    """Something can be had in numbers that do not fit the words."""


class Layout:
    """The bits of each variable.

    Args:
        rules: The rules.

    Attributes:
        words: How many words a position takes.

    Raises:
        TooLargeError: A variable may take values that are too large.
    """

    def __init__(self, rules: Rules) -> None:
        self.rules = rules
        self.most = [_most(rules, variable) for variable in range(len(rules.variables))]
        if max(self.most) > LARGEST:
            raise TooLargeError
        self.word: list[int] = []
        self.shift: list[int] = []
        self.mask: list[int] = []
        word = used = 0
        for most in self.most:
            bits = max(most.bit_length(), 0)
            if used + bits > 64:
                word, used = word + 1, 0
            self.word.append(word)
            self.shift.append(used)
            self.mask.append((1 << bits) - 1)
            used += bits
        self.words = word + 1

    def column(self, words: Words, variable: int) -> Column:
        """The values of a variable in packed positions, a row of words each."""
        mask = self.mask[variable]
        if not mask:
            return np.zeros(len(words), dtype=np.int16)
        shifted = words[:, self.word[variable]] >> np.uint64(self.shift[variable])
        column: Column = (shifted & np.uint64(mask)).astype(np.int16)
        return column

    def columns(self, words: Words) -> Columns:
        """The columns of packed positions."""
        return Columns(len(words), lambda variable: self.column(words, variable))

    def unpack(self, words: Words) -> list[Position]:
        """Packed positions as they are."""
        every = [self.column(words, variable).tolist() for variable in range(len(self.most))]
        return list(zip(*every, strict=True))

    def pack(self, position: Position) -> Words:
        """The words of one position."""
        words = np.zeros((1, self.words), dtype=np.uint64)
        for variable, value in enumerate(position):
            if not 0 <= value <= self.mask[variable]:
                raise TooLargeError
            words[0, self.word[variable]] |= np.uint64(value << self.shift[variable])
        return words

    def put(self, words: Words, variable: int, column: Column) -> None:
        """Add a variable's values to words in which its bits are 0.

        Raises:
            TooLargeError: A value needs more bits than were set aside.
        """
        mask = self.mask[variable]
        if len(column) and (int(column.max()) > mask or int(column.min()) < 0):
            raise TooLargeError
        if mask:
            shifted = column.astype(np.uint64) << np.uint64(self.shift[variable])
            words[:, self.word[variable]] |= shifted

    def clear(self, words: Words, variable: int) -> None:
        """Set the bits of a variable to 0."""
        taken = self.mask[variable] << self.shift[variable]
        words[:, self.word[variable]] &= np.uint64(~taken & (1 << 64) - 1)


def _most(rules: Rules, variable: int) -> int:
    """The largest value of a variable that its moves can lead to, or a little more."""
    kind, start = rules.variables[variable][0], rules.initial[variable]
    if variable == PLACE:
        return len(rules.places) - 1
    if variable == END:
        return 2
    if kind not in ("carried", "put-down"):
        return max(start, 1)
    item = rules.variables[variable][-1]
    once, again, bound = 0, False, 0
    for number, name in enumerate(rules.variables):
        if name[0] in ("carried", "lying") and name[-1] == item:
            once += rules.initial[number]
    steps = [(move, step) for move in rules.moves for step in each_step(move.steps)]
    for move, step in steps:
        match step:
            case Add(changed, amount) if amount > 0 and rules.variables[changed] == (
                "carried",
                item,
            ):
                lies = any(
                    isinstance(one, Add) and one.amount < 0
                    and rules.variables[one.variable][0] in ("lying", "put-down")
                    for one in move.steps
                )  # fmt: skip
                shown = any(
                    isinstance(one, Set) and rules.variables[one.variable][0] in ("opened", "done")
                    for one in move.steps
                )
                once += 0 if lies else amount
                again |= not lies and not shown
            case AddUpTo(changed, amount, most) if rules.variables[changed] == ("carried", item):
                bound = max(bound, most + start)
            case Require(Negated(AtLeast(changed, least))) if rules.variables[changed] == (
                "carried",
                item,
            ):
                bound = max(bound, least - 1 + 64)
    return max(bound, once, start, 1) * (2 if again else 1)
