"""Guards and steps on whole words: most of them compare, and change, several variables at once."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ...rules import PLACE, Move, Rules
from ...rules.expressions import AllOf, AnyOf, AtLeast, Expression, Is, Negated, Within
from ...rules.reads import variables
from ...rules.steps import Add, Flip, Require, Set, Step
from .layout import Layout, Word, Words, conjuncts

Mask = npt.NDArray[np.bool_]

#: Tells where a guard holds.
Test = Callable[[Words], Mask]

_ALL = (1 << 64) - 1


@dataclass(eq=False, slots=True)
class Change:
    """What a move makes of one word: bits cleared, a number added, bits turned over.

    Attributes:
        word: The number of the word.
        keep: The bits that stay; ``None`` for all.
        add: The number to add, modulo 2^64; ``None`` for 0.
        turn: The bits to turn over; ``None`` for none.
    """

    word: int
    keep: np.uint64 | None
    add: np.uint64 | None
    turn: np.uint64 | None

    def __call__(self, word: Word) -> Word:
        """The word after the move."""
        if self.keep is not None:
            word = word & self.keep
        if self.add is not None:
            word = word + self.add
        if self.turn is not None:
            word = word ^ self.turn
        return word


@dataclass(eq=False, slots=True)
class WordMove:
    """A move as what it asks of words and what it makes of them.

    Attributes:
        test: Tells where it can be made; ``None`` for everywhere.
        changes: What it makes of each word that it changes.
    """

    test: Test | None
    changes: list[Change]


def word_move(layout: Layout, move: Move) -> WordMove | None:
    """A move as operations on words, where that can be: where each step changes another variable.

    Args:
        layout: Where the variables stand.
        move: The move.

    Returns:
        The operations, or ``None`` where they would not be the same.
    """
    asked = conjuncts(move.guard)
    changed: dict[int, int | None] = {}
    changes: dict[int, tuple[int, int, int]] = {}
    for step in move.steps:
        if isinstance(step, Require):
            before = _before(step.expression, changed)
            if before is None:
                return None
            asked += conjuncts(before)
            continue
        if not isinstance(step, Set | Add | Flip) or step.variable in changed:
            return None
        if not _fits(layout, step, asked):
            return None
        changed[step.variable] = step.amount if isinstance(step, Add) else None
        word, shift = layout.word[step.variable], layout.shift[step.variable]
        bits = layout.mask[step.variable] << shift
        clear, add, turn = changes.get(word, (0, 0, 0))
        match step:
            case Set(_, value):
                clear, add = clear | bits, add + (value << shift)
            case Add(_, amount):
                add += amount << shift
            case Flip():
                turn |= bits
        changes[word] = (clear, add, turn)
    return WordMove(
        _all(layout, asked),
        [
            Change(
                word,
                np.uint64(~clear & _ALL) if clear else None,
                np.uint64(add & _ALL) if add else None,
                np.uint64(turn) if turn else None,
            )
            for word, (clear, add, turn) in changes.items()
        ],
    )


def undoing(rules: Rules) -> dict[int, int]:
    """For walks that take back another, made right before, the number of that one.

    Args:
        rules: The rules; nothing happens by itself.

    Returns:
        Walks that change nothing but the room, each with one the other way.
    """
    walks: dict[tuple[int, int], int] = {}
    for move in rules.moves:
        if len(move.steps) == len(move.places) == 1:
            (step,), (here,) = move.steps, move.places
            if isinstance(step, Set) and step.variable == PLACE and step.value != here:
                walks.setdefault((here, step.value), move.number)
    return {
        number: walks[there, here]
        for (here, there), number in walks.items()
        if (there, here) in walks
    }


def _fits(layout: Layout, step: Step, asked: Sequence[Expression]) -> bool:
    """Whether what a step makes of its variable always fits the bits set aside."""
    match step:
        case Set(variable, value):
            return value <= layout.mask[variable]
        case Flip(variable):
            return layout.mask[variable] == 1
        case Add(variable, amount) if amount < 0:
            return any(
                isinstance(one, AtLeast) and one.variable == variable and one.least >= -amount
                for one in asked
            )
        case Add(variable, _):
            return layout.sure[variable]
    return False


def _before(expression: Expression, added: Mapping[int, int | None]) -> Expression | None:
    """What must hold before some numbers are added, for an expression to hold after it.

    Args:
        expression: The expression.
        added: What is added to each variable that changes; ``None`` where it changes otherwise.

    Returns:
        The expression, or ``None`` where that is not told by adding alone.
    """
    if added.keys().isdisjoint(variables(expression)):
        return expression
    match expression:
        case AtLeast(variable, least):
            more = added[variable]
            return None if more is None else AtLeast(variable, least - more)
        case Within(terms, limit):
            for variable, weight in terms:
                more = added.get(variable, 0)
                if more is None:
                    return None
                limit -= more * weight
            return Within(terms, limit)
        case Negated(part):
            inner = _before(part, added)
            return None if inner is None else Negated(inner)
    return None


# -- tests ------------------------------------------------------------------------------------------


def _all(layout: Layout, parts: Sequence[Expression]) -> Test | None:
    """Where all of some expressions hold; those that ask for single values are asked word by word."""
    bits: dict[int, tuple[int, int]] = {}
    tests: list[Test] = []
    for part in dict.fromkeys(parts):
        exact = _exact(layout, part)
        if exact is None:
            tests.append(test(layout, part))
            continue
        word, mask, value = exact
        old_mask, old_value = bits.get(word, (0, 0))
        if old_mask & mask & (old_value ^ value):
            return _never
        bits[word] = (old_mask | mask, old_value | value)
    exact_test = _all_equal(bits)
    tests = ([exact_test] if exact_test else []) + tests
    return _every(tests)


def _all_equal(bits: Mapping[int, tuple[int, int]]) -> Test | None:
    """Whether some bits of each word have some value."""
    return _every([_equal(word, mask, value) for word, (mask, value) in bits.items()])


def _every(tests: Sequence[Test]) -> Test | None:
    if not tests:
        return None
    first, *others = tests
    if not others:
        return first

    def every(words: Words) -> Mask:
        found = first(words)
        for one in others:
            found = found & one(words)
        return found

    return every


def test(layout: Layout, expression: Expression) -> Test:
    """What tells where an expression holds.

    Args:
        layout: Where the variables stand.
        expression: The expression.

    Returns:
        A function of packed positions.
    """
    match expression:
        case AllOf(parts):
            return _all(layout, parts) or _always
        case AnyOf(parts):
            # By De Morgan: not all of the opposites, which are often single values.
            return _not(_all(layout, [_opposite(layout, part) for part in parts]) or _always)
        case Negated(part):
            return _not(test(layout, part))
        case Within(terms, limit):
            return _within(layout, terms, limit)
        case AtLeast(variable, least) if least <= 0:
            return _always
        case AtLeast(variable, least):
            return _least(layout, variable, least)
        case Is(variable, value) if not 0 <= value <= layout.mask[variable]:
            return _never
    exact = _exact(layout, expression)
    if exact is None:
        raise TypeError(f"not a guard: {expression!r}")
    return _equal(*exact)


def _opposite(layout: Layout, expression: Expression) -> Expression:
    match expression:
        case Is(variable, 0 | 1 as value) if layout.mask[variable] == 1:
            return Is(variable, 1 - value)
        case AtLeast(variable, 1) if layout.mask[variable] == 1:
            return Is(variable, 0)
        case Negated(part):
            return part
    return Negated(expression)


def _exact(layout: Layout, expression: Expression) -> tuple[int, int, int] | None:
    """The word, bits and value that an expression asks for, where it asks for one value."""
    match expression:
        case Is(variable, value) if 0 <= value <= layout.mask[variable]:
            pass
        case AtLeast(variable, value) if value == layout.mask[variable] == 1:
            pass
        case _:
            return None
    shift = layout.shift[variable]
    return layout.word[variable], layout.mask[variable] << shift, value << shift


def _equal(word: int, mask: int, value: int) -> Test:
    bits, wanted = np.uint64(mask), np.uint64(value)

    def equal(words: Words) -> Mask:
        found: Mask = (words[word] & bits) == wanted
        return found

    return equal


def _least(layout: Layout, variable: int, least: int) -> Test:
    word, shift = layout.word[variable], layout.shift[variable]
    bits, enough = np.uint64(layout.mask[variable] << shift), np.uint64(least << shift)
    if least > layout.mask[variable]:
        return _never

    def at_least(words: Words) -> Mask:
        found: Mask = (words[word] & bits) >= enough
        return found

    return at_least


def _within(layout: Layout, terms: Sequence[tuple[int, int]], limit: int) -> Test:
    terms = [(variable, weight) for variable, weight in terms if weight]
    if limit < 0:
        return _never
    if all(layout.mask[variable] == 1 and weight == 1 for variable, weight in terms):
        bits: dict[int, int] = {}
        for variable, _ in terms:
            word = layout.word[variable]
            bits[word] = bits.get(word, 0) | 1 << layout.shift[variable]
        if limit == 0:
            return _all_equal({word: (mask, 0) for word, mask in bits.items()}) or _always
        return _few(bits, limit)

    def within(words: Words) -> Mask:
        total = np.zeros(len(words[0]), dtype=np.int64)
        for variable, weight in terms:
            total += layout.column(words, variable).astype(np.int64) * weight
        found: Mask = total <= limit
        return found

    return within


def _few(bits: Mapping[int, int], limit: int) -> Test:
    """Whether no more than so many of some bits are set."""
    masks = [(word, np.uint64(mask)) for word, mask in bits.items()]

    def few(words: Words) -> Mask:
        total = np.zeros(len(words[0]), dtype=np.uint8)
        for word, mask in masks:
            total += np.bitwise_count(words[word] & mask)
        found: Mask = total <= limit
        return found

    return few


def _not(inner: Test) -> Test:
    return lambda words: ~inner(words)


def _always(words: Words) -> Mask:
    return np.ones(len(words[0]), dtype=bool)


def _never(words: Words) -> Mask:
    return np.zeros(len(words[0]), dtype=bool)
