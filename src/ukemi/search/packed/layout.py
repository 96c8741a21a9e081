"""Where each variable of a position stands in its machine words."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from ...rules import END, PLACE, Move, Position, Rules
from ...rules.expressions import AllOf, AtLeast, Expression, Is, Negated
from ...rules.reads import each_step
from ...rules.steps import Add, AddUpTo, Flip, Require, Set, Step
from .columns import Column, Columns

Word = npt.NDArray[np.uint64]

#: Packed positions: the first word of each, the second word of each, and so on.
Words = list[Word]

#: The largest value a column holds.
LARGEST = 2**15 - 1

_ALL = (1 << 64) - 1


class TooLargeError(Exception):
    """Something can be had in numbers that do not fit the words."""


class Layout:
    """The bits of each variable.

    Args:
        rules: The rules.

    Attributes:
        words: How many words a position takes.
        word: For each variable, its word.
        shift: For each variable, its lowest bit.
        mask: For each variable, its bits, shifted down.
        sure: For each variable, whether no run leads to a value that does not fit its bits.

    Raises:
        TooLargeError: A variable may take values that are too large.
    """

    def __init__(self, rules: Rules) -> None:
        self.rules = rules
        bounds = _Bounds(rules)
        found = [bounds.of(variable) for variable in range(len(rules.variables))]
        self.sure = [sure for _, sure in found]
        if max(most for most, _ in found) > LARGEST:
            raise TooLargeError
        self.word: list[int] = []
        self.shift: list[int] = []
        self.mask: list[int] = []
        word = used = 0
        for most, _ in found:
            bits = max(most.bit_length(), 0)
            if used + bits > 64:
                word, used = word + 1, 0
            self.word.append(word)
            self.shift.append(used)
            self.mask.append((1 << bits) - 1)
            used += bits
        self.words = word + 1

    def column(self, words: Words, variable: int) -> Column:
        """The values of a variable in packed positions."""
        mask = self.mask[variable]
        word = words[self.word[variable]]
        if not mask:
            return np.zeros(len(word), dtype=np.int16)
        shifted = word >> np.uint64(self.shift[variable])
        column: Column = (shifted & np.uint64(mask)).astype(np.int16)
        return column

    def columns(self, words: Words) -> Columns:
        """The columns of packed positions."""
        return Columns(len(words[0]), lambda variable: self.column(words, variable))

    def unpack(self, words: Words) -> list[Position]:
        """Packed positions as they are."""
        every = [self.column(words, variable).tolist() for variable in range(len(self.mask))]
        return list(zip(*every, strict=True))

    def pack(self, position: Position) -> Words:
        """The words of one position."""
        words = [0] * self.words
        for variable, value in enumerate(position):
            if not 0 <= value <= self.mask[variable]:
                raise TooLargeError
            words[self.word[variable]] |= value << self.shift[variable]
        return [np.array([word], dtype=np.uint64) for word in words]

    def written(self, words: Words, columns: Columns) -> Words:
        """The words in which the columns that were changed have their new values.

        Raises:
            TooLargeError: A value needs more bits than were set aside.
        """
        after = list(words)
        for variable in columns.changed:
            column, mask = columns[variable], self.mask[variable]
            if len(column) and (int(column.max()) > mask or int(column.min()) < 0):
                raise TooLargeError
            number, shift = self.word[variable], self.shift[variable]
            cleared = after[number] & np.uint64(~(mask << shift) & _ALL)
            after[number] = cleared | (column.astype(np.uint64) << np.uint64(shift))
        return after


class _Bounds:
    """The largest value of each variable."""

    def __init__(self, rules: Rules) -> None:
        self.rules = rules
        steps = [step for move in rules.moves for step in each_step(move.steps)]
        steps += each_step(rules.settling)
        self._set = [0] * len(rules.variables)
        for step in steps:
            if isinstance(step, Set):
                self._set[step.variable] = max(self._set[step.variable], step.value)
        #: What, once it is on, is never off again.
        lowered = {step.variable for step in steps if isinstance(step, Set) and not step.value}
        self._lasts = {n for n, name in enumerate(rules.variables) if name[0] in ("opened", "done")}
        self._lasts -= lowered | {step.variable for step in steps if isinstance(step, Flip)}
        self._items: dict[str, tuple[int, bool]] = {}
        self._asked: dict[int, list[tuple[Move, Step]]] = {}
        for move in rules.moves:
            for step in each_step(move.steps):
                match step:
                    case Add(variable, _) | AddUpTo(variable, _, _):
                        self._asked.setdefault(variable, []).append((move, step))
                    case Require(Negated(AtLeast(variable, _))):
                        self._asked.setdefault(variable, []).append((move, step))
        self._placed: dict[str, int] = {}
        for number, name in enumerate(rules.variables):
            if name[0] in ("carried", "lying"):
                placed = self._placed.get(name[-1], 0)
                self._placed[name[-1]] = placed + rules.initial[number]

    def of(self, variable: int) -> tuple[int, bool]:
        """The largest value its moves can lead to, or a little more, and whether that is sure."""
        rules = self.rules
        kind, start = rules.variables[variable][0], rules.initial[variable]
        if variable == PLACE:
            return len(rules.places) - 1, True
        if variable == END:
            return 2, True
        if kind in ("carried", "put-down"):
            item = rules.variables[variable][-1]
            if item not in self._items:
                self._items[item] = self._units(item)
            most, sure = self._items[item]
            return max(most, start, 1), sure
        if kind == "alike":
            group = [
                rules.initial[number]
                for number, name in enumerate(rules.variables)
                if name[:2] == rules.variables[variable][:2]
            ]
            return max(sum(group), self._set[variable], 1), True
        return max(start, self._set[variable], 1), True

    def _units(self, item: str) -> tuple[int, bool]:
        """How many units of an item there can be."""
        rules = self.rules
        once, bound, sure, again = self._placed.get(item, 0), 0, True, False
        carried = rules.index["carried", item]
        for move, step in self._asked.get(carried, ()):
            match step:
                case Add(_, amount) if amount > 0:
                    if not _moves_units(rules, move.steps, item, amount):
                        once += amount
                        sure &= self._made_once(move)
                        again |= not any(
                            isinstance(one, Set)
                            and rules.variables[one.variable][0] in ("opened", "done")
                            for one in move.steps
                        )
                case AddUpTo(_, _, most):
                    bound = max(bound, most + rules.initial[carried])
                    sure = False
                case Require(Negated(AtLeast(_, least))):
                    bound = max(bound, least - 1 + 64)
        by_itself = each_step(rules.settling)
        sure &= not any(
            isinstance(one, Add) and one.amount > 0 and one.variable == carried for one in by_itself
        )
        return max(bound, once) * (2 if again else 1), sure

    def _made_once(self, move: Move) -> bool:
        """Whether a move sets something that stays set, and asks that it is not."""
        asks = {
            part.variable
            for part in conjuncts(move.guard)
            if isinstance(part, Is) and not part.value
        }
        sets = {step.variable for step in move.steps if isinstance(step, Set) and step.value}
        return bool(asks & sets & self._lasts)


def _moves_units(rules: Rules, steps: Sequence[object], item: str, amount: int) -> bool:
    """Whether what is taken up lay there before."""
    return any(
        isinstance(one, Add)
        and one.amount == -amount
        and rules.variables[one.variable][0] in ("lying", "put-down")
        and rules.variables[one.variable][-1] == item
        for one in steps
    )


def conjuncts(expression: Expression) -> list[Expression]:
    """The expressions all of which must hold."""
    if isinstance(expression, AllOf):
        return [one for part in expression.parts for one in conjuncts(part)]
    return [expression]
