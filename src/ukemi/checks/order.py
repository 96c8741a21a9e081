"""What must come before what in every finishing run."""

from __future__ import annotations

from collections.abc import Mapping
from operator import and_

from ..rules import PLACE
from .answers import Answer
from .case import Case

Pairs = tuple[tuple[str, str], ...]


def required_order(
    case: Case, statuses: Mapping[str, Answer], rooms: Mapping[str, Answer]
) -> Pairs | None:
    """The order in which finishing runs must do what they are required to do.

    Two things are ordered when in every finishing run the first has been done, by an earlier
    move, when the second is done for the first time.

    Args:
        case: The level under check.
        statuses: The statuses of doors, chests, acts and placed items.
        rooms: The statuses of rooms.

    Returns:
        Pairs of names, the earlier first, without those that follow from others; ``None`` where
        the search was cut short.
    """
    if not case.complete:
        return None
    shift = len(case.subjects)  # rooms take the bits after those of the subjects
    bits = {name: case.bits[name] for name, status in statuses.items() if status == Answer.REQUIRED}
    for place, room in enumerate(case.rules.places):
        if rooms.get(room) == Answer.REQUIRED:
            bits[_room_key(room)] = 1 << shift + place
    find = _earlier if case.in_one_walk else _earlier_at_once
    earlier = find(case, shift, sum(bits.values()))
    return ordered({name: earlier.get(bit, 0) for name, bit in bits.items()}, bits)


def ordered(before: Mapping[str, int], bits: Mapping[str, int]) -> Pairs:
    """The pairs of names of an order, reduced; rooms lose the mark that tells them from things.

    Args:
        before: For each name, what comes before it, as bits; others than those named are left out.
        bits: The bit of each name.

    Returns:
        The pairs, the earlier first.
    """
    named = 0
    for bit in bits.values():
        named |= bit
    mine = {name: before[name] & named & ~bit for name, bit in bits.items()}
    return tuple((a.removesuffix("\0"), b.removesuffix("\0")) for a, b in reduced(mine, bits))


def reduced(before: Mapping[str, int], bits: Mapping[str, int]) -> Pairs:
    """The pairs of an order from which all others follow.

    The transitive reduction: A. V. Aho, M. R. Garey and J. D. Ullman, "The transitive reduction of
    a directed graph", SIAM Journal on Computing 1 (1972).

    Args:
        before: For each name, all that come before it, as bits.
        bits: The bit of each name.

    Returns:
        The pairs, the earlier first.

    Example:
        >>> reduced({"a": 0, "b": 1, "c": 3}, {"a": 1, "b": 2, "c": 4})
        (('a', 'b'), ('b', 'c'))
    """
    # In this order whatever comes before has a lower rank, so that the highest one left is direct.
    ranked = sorted(before, key=lambda one: before[one].bit_count())
    written = {name: n for n, name in enumerate(bits)}
    pairs = []
    direct: dict[str, list[str]] = {}
    for rank, name in enumerate(ranked):
        left = before[name]
        found = []
        for earlier in reversed(ranked[:rank]) if left else ():
            if left & bits[earlier]:
                found.append(earlier)
                left &= ~(before[earlier] | bits[earlier])
                if not left:
                    break
        direct[name] = found
    for name in before:
        pairs += [(one, name) for one in sorted(direct[name], key=written.__getitem__)]
    return tuple(pairs)


def _room_key(room: str) -> str:
    """A key no thing has: a room may share its name with a thing."""
    return room + "\0"


def _earlier(case: Case, shift: int, wanted: int) -> dict[int, int]:
    """For each bit wanted, what was done whenever it came to be done on the way to finishing.

    A room may be entered again, which is not the first time; but whatever had to be done before the
    first time has then been done too, so that looking at every time gives the same.
    """
    places, did, entered = case.found.places, case.did, case.entered
    # What is done, or where the player is, from the start on has nothing before it.
    earlier = dict.fromkeys(_each_bit((did[0] | entered[0] << shift) & wanted), 0)
    for number, moves in enumerate(case.found.moves):
        so_far = did[number] | entered[number] << shift
        for _, after in moves:
            if not case.can_finish[after]:
                continue
            new = did[after] & ~did[number]
            place = places[after]
            if place != places[number]:
                new |= 1 << shift + place
            for bit in _each_bit(new & wanted):
                earlier[bit] = earlier.get(bit, so_far) & so_far
    return earlier


def _earlier_at_once(case: Case, shift: int, wanted: int) -> dict[int, int]:
    """The same, told for each bit from all positions that are reached without it.

    Something comes before all but what is done in a position right after one of those.
    """
    found, done = case.found, case.done_from
    earlier = dict.fromkeys(_each_bit(wanted), 0)
    for bit in _each_bit(wanted):
        number = bit.bit_length() - 1
        if number < shift:  # what is done stays done
            reached = found.having(*done[number])
        else:
            reached = found.reached_without(found.having(PLACE, number - shift))
        after = found.following(reached)
        after[0] = 1
        after = bytearray(map(and_, after, case.can_finish))
        without = found.changed_in(after, done)
        for place in found.places_in(after):
            without |= 1 << shift + place
        for other in _each_bit(wanted & ~without & ~bit):
            earlier[other] |= bit
    return earlier


def _each_bit(mask: int) -> list[int]:
    bits = []
    while mask:
        bit = mask & -mask
        bits.append(bit)
        mask ^= bit
    return bits
